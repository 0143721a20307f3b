"""A magnetic pickup in an instrument."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import NAME, ohms_field
from verve.core.kind import (
    Air,
    ChannelSettings,
    Field,
    NotNegative,
    PlayingRange,
    Positive,
    Reader,
    SheetForm,
    SourceFigures,
    Understood,
)

if TYPE_CHECKING:
    from verve.core.stages import Stage

_SPREAD_DB = {"softest": 30.0, "typical": 14.0}
"""How far soft and usual playing of a plucked string stay below the hardest (typical)."""


def playing_below(hardest_db: float) -> PlayingRange:
    """A usual range below the hardest playing."""
    return PlayingRange(
        softest_db=hardest_db - _SPREAD_DB["softest"],
        typical_db=hardest_db - _SPREAD_DB["typical"],
        hardest_db=hardest_db,
    )


class PickupFigures(SourceFigures):
    """A magnetic pickup in an instrument: peak EMF as dB re 1 V, and its circuit; `is_hollow`: its body sounds."""

    kind: Literal["pickup"] = "pickup"
    peak_emf_dbv: PlayingRange
    dc_resistance_ohm: NotNegative
    inductance_h: NotNegative
    capacitance_f: NotNegative = 0.0
    tone_pot_ohm: Positive | None = None
    tone_capacitor_f: Positive | None = None
    volume_pot_ohm: Positive | None = None
    is_hollow: bool = False

    title = "Coil pickup"
    found_as = "with a pickup"
    needs_high_impedance = True
    takes = ("plug", "amplifier", "plug_and_amplifier")

    def has_volume_knob(self) -> bool:
        return self.volume_pot_ohm is not None

    def hears_fields(self) -> bool:
        return True

    def hears_loudspeakers(self) -> bool:
        return self.is_hollow

    def has_tone_knob(self) -> bool:
        return self.tone_pot_ohm is not None and self.tone_capacitor_f is not None

    def stage(self, settings: ChannelSettings, air: Air | None) -> Stage:
        from verve.core.stages import Pickup

        volume, tone = settings.volume_position, settings.tone_position
        return Pickup(
            peak_emf_v=10.0 ** (self.peak_emf_dbv.hardest_db / 20.0),
            dc_resistance_ohm=self.dc_resistance_ohm,
            inductance_h=self.inductance_h,
            capacitance_f=self.capacitance_f,
            tone_pot_ohm=self.tone_pot_ohm,
            tone_capacitor_f=self.tone_capacitor_f,
            tone_position=1.0 if tone is None else tone,
            volume_pot_ohm=self.volume_pot_ohm,
            volume_position=1.0 if volume is None else volume,
        )


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    ohms_field("resistance", "DC resistance", "8.2 kΩ", is_needed=True),
    Field(key="inductance", label="Inductance", example="4.4 H", says="of the coil"),
    Field(key="capacitance", label="Own capacitance", example="120 pF", says="of the winding"),
    Field(
        key="hardest",
        label="Highest peak",
        example="500 mV peak",
        says="open circuit; measured, or stated as its output",
    ),
    ohms_field("volume_pot", "Volume control", "500 kΩ"),
    ohms_field("tone_pot", "Tone control", "500 kΩ"),
    Field(
        key="tone_capacitor", label="Tone capacitor", example="22 nF", says="of the tone control"
    ),
)


def _volts_dbv(label: str, text: str) -> Understood:
    """A peak voltage as dB re 1 V of its amplitude: "500 mV peak", "1 V pp", "350 mV RMS" are one."""
    import math

    from verve.core.quantities import level_dbu, plain
    from verve.core.units import dbu_to_dbv

    found = level_dbu(label, text)
    sine_dbv = dbu_to_dbv(found.value)
    if found.assumed:
        # Bare volts of a pickup are what a meter of peaks shows.
        return Understood(value=sine_dbv, said=f"{plain(sine_dbv)} dBV peak", assumed="peak volts")
    peak = sine_dbv + 10.0 * math.log10(2.0)
    return Understood(value=peak, said=f"{plain(peak)} dBV peak", how=found.how)


def _make(reader: Reader) -> PickupFigures | None:
    """A magnetic pickup in its instrument; its spectrum is typical of a plucked string."""
    from verve.core.quantities import farads, henries, ohms

    resistance = reader.read("resistance", ohms, "dc_resistance_ohm", above=0.0)
    inductance = reader.read(
        "inductance", henries, "inductance_h", otherwise=3.0, because="3 H, typical"
    )
    capacitance = reader.read(
        "capacitance", farads, "capacitance_f", otherwise=1.2e-10, because="120 pF, typical"
    )
    hardest = reader.read(
        "hardest", _volts_dbv, "peak_emf_dbv", otherwise=-6.0, because="500 mV peak, typical"
    )
    volume = reader.read("volume_pot", ohms, "volume_pot_ohm", because="none", above=0.0)
    tone = reader.read("tone_pot", ohms, "tone_pot_ohm", because="none", above=0.0)
    capacitor = reader.read("tone_capacitor", farads, "tone_capacitor_f", because="none", above=0.0)
    if resistance is None or inductance is None or hardest is None:
        return None
    return PickupFigures(
        player="plucked",
        octave_bands_db=(-45.0, -9.0, 0.0, 0.0, -3.0, -8.0, -14.0, -20.0, -30.0, -42.0),
        crest_db=15.0,
        peak_emf_dbv=playing_below(hardest),
        dc_resistance_ohm=resistance,
        inductance_h=inductance,
        capacitance_f=capacitance or 0.0,
        tone_pot_ohm=tone,
        tone_capacitor_f=capacitor,
        volume_pot_ohm=volume,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _doubts(reader: Reader, figures: PickupFigures) -> None:
    from verve.core.quantities import check_impedance

    check_impedance(reader, "resistance", figures.dc_resistance_ohm, 100.0, 3e4, "a coil’s")
    if figures.inductance_h > 15.0:
        reader.doubt("inductance", "coils have 1 to 10 H; is it in mH?")


PickupFigures.sheet = SheetForm(
    kind="pickup", title="Coil pickup", fields=_FIELDS, make=_make, doubts=_doubts
)
