"""An effect between an instrument and what it is plugged into."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from verve.core.kind import (
    NOTHING_SET,
    Control,
    DeviceFigures,
    Level,
    NotNegative,
    Passage,
    PhantomNeed,
    Plug,
    Positive,
    Settings,
    control_value,
    driven_control,
    gain_control,
)
from verve.core.words import Fact, ohm_text, range_text

if TYPE_CHECKING:
    from verve.core.stages import Stage


class PedalFigures(DeviceFigures):
    """An effect between instrument and DI box or amplifier; `gain` is how far its knob raises the level.

    With `may_be_driven` it is made to distort: its peaks never leave it louder than its ceiling.
    `phantom`: what its output does with phantom power; one that says nothing must not get it (typical).
    """

    kind: Literal["pedal"] = "pedal"
    input_impedance_ohm: Positive
    input_capacitance_f: NotNegative = 0.0
    output_impedance_ohm: Positive
    gain_min_db: float
    gain_max_db: float
    ein_dbu: float | None = None
    max_output_dbu: float | None = None
    phantom: PhantomNeed = "never"
    may_be_driven: bool = False

    title = "Pedal"
    job = "effect"
    group = "pedal"
    is_between = True
    search_words = ("effect", "stomp box", "overdrive", "fuzz")

    def output_plug(self) -> Plug | None:
        return "jack_6"

    def output_level(self) -> Level:
        return "instrument"

    def has_balanced_outputs(self) -> bool:
        return False

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        now = settings.get(port, NOTHING_SET)
        meant = [driven_control(owner, port, now)] if self.may_be_driven else []
        if self.gain_min_db == self.gain_max_db:
            return meant
        return [
            gain_control(
                owner, port, "Gain", "Raises the signal before the next box",
                low_db=self.gain_min_db, high_db=self.gain_max_db,
                now_db=now.gain_db,
            ),
            *meant,
        ]  # fmt: skip

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Amplifier

        stage = Amplifier(
            input_impedance_ohm=self.input_impedance_ohm,
            input_capacitance_f=self.input_capacitance_f,
            gain_db=control_value(passage.controls, "gain_db", self.gain_min_db),
            output_impedance_ohm=self.output_impedance_ohm,
            ein_dbu=self.ein_dbu,
            max_output_dbu=self.max_output_dbu,
        )
        return [("box", stage)]

    def can_be_driven(self) -> bool:
        return self.may_be_driven

    def is_driven(self, passage: Passage) -> bool:
        return self.may_be_driven

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def says(self, passage: Passage) -> str:
        drive = range_text(self.gain_min_db, self.gain_max_db, "dB")
        return f"pedal, input {ohm_text(self.input_impedance_ohm)}, {drive}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return (
            self.fact(
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(self.input_impedance_ohm),
                "what it loads the instrument with",
            ),
            *self.ein_facts("ein_dbu", self.ein_dbu, 150.0),
            *self.limit_facts("max_output_dbu", "Maximum output level", self.max_output_dbu),
        )
