"""An electronic output: keys, a drum machine, a player, an amplifier's loudspeaker socket."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import LEVEL_SAYS, NAME, OUTPUT_PHANTOM, ohms_field
from verve.core.gear._pickup import playing_below
from verve.core.kind import (
    OUT,
    Air,
    ChannelSettings,
    Control,
    Field,
    PhantomNeed,
    PlayingRange,
    Positive,
    Reader,
    SheetForm,
    SourceFigures,
)

if TYPE_CHECKING:
    from verve.core.stages import Stage

_QUIETEST_VOLUME = 1e-3
"""An electronic output's volume at zero still leaks about so much of its level."""
_LOUDEST_OUTPUT_DBU = 30.0
"""More than ±34 V of supply would give: no audio device has it."""


class LineOutputFigures(SourceFigures):
    """An electronic output: peak levels in dBu.

    An amplifier that `drives_loudspeaker` may be one with valves, which must not run without its load. What
    runs on a battery is not earthed: it closes no loop that hums. `is_hollow` where it is that of a pickup in a
    body that sounds.
    """

    kind: Literal["line_output"] = "line_output"
    peak_dbu: PlayingRange
    output_impedance_ohm: Positive
    noise_dbu: float | None = None
    has_volume: bool = True
    drives_loudspeaker: bool = False
    has_valves: bool = False
    phantom: PhantomNeed = "never"
    is_earthed: bool = True
    is_hollow: bool = False

    title = "Electronic output"
    unit = "dBu"
    level_figure = "peak_dbu"
    direct_modes = ("line", "instrument")
    takes = ("plug", "stereo")

    def has_volume_knob(self) -> bool:
        return self.has_volume

    def at_phantom(self) -> PhantomNeed | None:
        return self.phantom

    def hears_loudspeakers(self) -> bool:
        return self.is_hollow

    def is_on_mains(self) -> bool:
        return self.is_earthed

    def is_amplifier_output(self) -> bool:
        return self.drives_loudspeaker

    def is_valve_output(self) -> bool:
        return self.drives_loudspeaker and self.has_valves

    def all_controls(self, owner: str, settings: ChannelSettings) -> list[Control]:
        found = super().all_controls(owner, settings)
        if self.drives_loudspeaker:
            found.append(
                Control(
                    owner=owner,
                    channel=OUT,
                    name="load",
                    label="Loudspeaker connected",
                    kind="switch",
                    value=settings.load is not False,
                    effect="A valve amplifier can be destroyed within seconds without its load",
                )
            )
        return found

    def stage(self, settings: ChannelSettings, air: Air | None) -> Stage:
        import math

        from verve.core.stages import LineSource

        volume = 1.0 if settings.volume_position is None else settings.volume_position
        lowered_db = 20.0 * math.log10(max(volume, _QUIETEST_VOLUME))
        return LineSource(
            peak_dbu=self.peak_dbu.hardest_db + lowered_db,
            output_impedance_ohm=self.output_impedance_ohm,
            noise_dbu=self.noise_dbu,
        )


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    Field(
        key="hardest",
        label="Maximum output level",
        example="+4 dBu",
        says=f"its highest peaks, volume full up; {LEVEL_SAYS}",
        is_needed=True,
    ),
    ohms_field("output_impedance", "Output impedance", "600 Ω"),
    Field(key="noise", label="Noise", example="−86 dBu", says="at its output, volume full up"),
    OUTPUT_PHANTOM,
    Field(
        key="drives",
        label="Drives a loudspeaker",
        choices=(("no", "no"), ("yes", "yes"), ("valves", "yes, an amplifier with valves")),
        says="loudspeaker level destroys inputs; valves must not run without their load",
    ),
)


def _make(reader: Reader) -> LineOutputFigures | None:
    """An electronic output; its spectrum is typical of keys."""
    from verve.core.quantities import level_dbu, ohms, output_phantom

    hardest = reader.read("hardest", level_dbu, "peak_dbu")
    leaves = reader.read(
        "output_impedance",
        ohms,
        "output_impedance_ohm",
        otherwise=600.0,
        because="600 Ω, typical",
        above=0.0,
    )
    found = reader.read(
        "noise", level_dbu, "noise_dbu", otherwise=-85.0, because="−85 dBu, typical"
    )
    phantom, drives = output_phantom(reader), reader.choice("drives")
    if hardest is None or leaves is None:
        return None
    return LineOutputFigures(
        player="keys",
        octave_bands_db=(-25.0, -7.0, 0.0, 0.0, 0.0, -3.0, -8.0, -14.0, -20.0, -28.0),
        crest_db=13.0,
        peak_dbu=playing_below(hardest),
        output_impedance_ohm=leaves,
        noise_dbu=found,
        drives_loudspeaker=drives in {"yes", "valves"},
        has_valves=drives == "valves",
        phantom=phantom,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _doubts(reader: Reader, figures: LineOutputFigures) -> None:
    if figures.peak_dbu.hardest_db > _LOUDEST_OUTPUT_DBU and not figures.drives_loudspeaker:
        reader.doubt("hardest", "more than any line output gives")


LineOutputFigures.sheet = SheetForm(
    kind="line_output", title="Electronic output", fields=_FIELDS, make=_make, doubts=_doubts
)
