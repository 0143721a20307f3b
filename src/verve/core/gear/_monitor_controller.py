"""A monitor controller: one volume between the interface's outputs and the loudspeakers, and headphones."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field as Limited

from verve.core.kind import (
    NOTHING_SET,
    Control,
    DeviceFigures,
    Level,
    Passage,
    PhantomNeed,
    Plug,
    Positive,
    Settings,
    fader_control,
)
from verve.core.words import Fact, level_text, ohm_text, plural

if TYPE_CHECKING:
    from verve.core.stages import Stage

SIDES = ("left", "right")
_VOLUME = "volume"
_TOP_DB = 0.0
"""Its volume lowers only: full up the level comes out as it came in."""


class MonitorControllerFigures(DeviceFigures):
    """A stereo volume with `speaker_pairs` outputs; passive ones lower only and have no noise of their own.

    `max_output_dbu` is None for a passive one, which passes on whatever it gets.
    """

    kind: Literal["monitor_controller"] = "monitor_controller"
    input_impedance_ohm: Positive = 10_000.0
    output_impedance_ohm: Positive = 150.0
    ein_dbu: float | None = None
    max_input_dbu: float | None = None
    max_output_dbu: float | None = None
    speaker_pairs: Annotated[int, Limited(ge=1, le=4)] = 1
    headphone_outputs: Annotated[int, Limited(ge=0, le=8)] = 1
    phantom: PhantomNeed = "never"

    title = "Monitor controller"
    job = "listening"
    group = "monitor_controller"
    is_furniture = True
    mains_rank = 30
    search_words = ("monitor volume", "speaker switch", "headphone amplifier")

    def input_ports(self) -> tuple[str, ...]:
        return tuple(f"in.{side}" for side in SIDES)

    def output_ports(self) -> tuple[str, ...]:
        pairs = range(1, self.speaker_pairs + 1)
        return tuple(f"speakers_{pair}.{side}" for pair in pairs for side in SIDES)

    def outputs_reached(self, in_port: str, settings: Settings) -> tuple[str, ...]:
        side = in_port.removeprefix("in.")
        return tuple(port for port in self.output_ports() if port.endswith(f".{side}"))

    def port_name(self, port: str) -> str:
        return f"{port.partition('.')[2]} input"

    def output_plug(self) -> Plug | None:
        return "jack_6"

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return ("line",)

    def output_level(self) -> Level:
        return "line"

    def lines_kept_apart(self) -> int:
        return len(SIDES)

    def headphone_sockets(self) -> int:
        return self.headphone_outputs

    def all_controls(self, owner: str, settings: Settings) -> list[Control]:
        return list(self.shared_controls(owner, "speakers_1.left", settings))

    def shared_controls(
        self, owner: str, out_port: str | None, settings: Settings
    ) -> tuple[Control, ...]:
        now = settings.get(_VOLUME, NOTHING_SET).fader_db
        return (fader_control(owner, _VOLUME, "Volume", now, _TOP_DB),)

    def channels_passed(self, in_port: str, out_port: str | None) -> tuple[str, ...]:
        return (in_port, _VOLUME)

    def channels_set(self) -> tuple[str, ...]:
        return (_VOLUME,)

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Amplifier

        volume_db = passage.settings.get(_VOLUME, NOTHING_SET).fader_db or 0.0
        stage = Amplifier(
            input_impedance_ohm=self.input_impedance_ohm,
            gain_db=volume_db,
            output_impedance_ohm=self.output_impedance_ohm,
            ein_dbu=self.ein_dbu,
            max_input_dbu=self.max_input_dbu,
            max_output_dbu=self.max_output_dbu,
        )
        return [("volume", stage)]

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def says(self, passage: Passage) -> str:
        pairs = plural(self.speaker_pairs, "pair", "pairs")
        return f"volume for {pairs} of loudspeakers, input {ohm_text(self.input_impedance_ohm)}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return (
            self.fact(
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(self.input_impedance_ohm),
                "what it loads the interface’s output with",
            ),
            *self.ein_facts("ein_dbu", self.ein_dbu, 150.0),
            *self.limit_facts("max_input_dbu", "Maximum input level", self.max_input_dbu),
        )

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        volume_db = passage.settings.get(_VOLUME, NOTHING_SET).fader_db or 0.0
        return (f"volume {level_text(volume_db, 'dB', 0)}",)
