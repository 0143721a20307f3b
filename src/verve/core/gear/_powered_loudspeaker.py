"""A powered loudspeaker: an amplifier and its loudspeaker in one box; the signal ends in the air."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from verve.core.kind import (
    NOTHING_SET,
    Control,
    DeviceFigures,
    Level,
    Passage,
    PhantomDraw,
    Plug,
    Positive,
    Settings,
    control_value,
    gain_control,
)
from verve.core.words import Fact, level_text, ohm_text

if TYPE_CHECKING:
    from verve.core.stages import Stage


class PoweredLoudspeakerFigures(DeviceFigures):
    """A powered loudspeaker. At `full_level_dbu` and its knob at 0 dB it gives `max_spl_db` at a metre."""

    kind: Literal["powered_loudspeaker"] = "powered_loudspeaker"
    input_impedance_ohm: Positive = 20_000.0
    gain_min_db: float = -60.0
    gain_max_db: float = 6.0
    ein_dbu: float | None = None
    full_level_dbu: float
    max_spl_db: float

    title = "Powered loudspeaker"
    job = "listening"
    group = "powered_loudspeaker"
    is_furniture = True
    mains_rank = 40
    search_words = ("monitor", "speaker", "studio monitor", "active speaker")

    def output_ports(self) -> tuple[str, ...]:
        return ()

    def output_plug(self) -> Plug | None:
        return None

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return ("line",)

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        return [
            gain_control(
                owner, port, "Level", "How loud it is in the room; turn it up last, from nothing",
                low_db=self.gain_min_db, high_db=self.gain_max_db,
                now_db=settings.get(port, NOTHING_SET).gain_db,
            )
        ]  # fmt: skip

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Amplifier

        gain_db = control_value(passage.controls, "gain_db", self.gain_min_db)
        stage = Amplifier(
            input_impedance_ohm=self.input_impedance_ohm,
            gain_db=gain_db,
            ein_dbu=self.ein_dbu,
            max_output_dbu=self.full_level_dbu,
        )
        return [("loudspeaker", stage)]

    def at_phantom(self, passage: Passage) -> PhantomDraw | None:
        return None

    def says(self, passage: Passage) -> str:
        return f"up to {self.max_spl_db:g} dB SPL at a metre, from {level_text(self.full_level_dbu, 'dBu', 0)}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return (
            self.fact(
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(self.input_impedance_ohm),
                "what it loads the output before it with",
            ),
            self.fact(
                "max_spl_db",
                "Maximum SPL",
                f"{self.max_spl_db:g} dB SPL",
                "a metre away; above 85 dB for hours harms hearing",
            ),
            *self.limit_facts("full_level_dbu", "Full level", self.full_level_dbu),
        )
