"""From the fields of a data sheet to figures: what a signal comes from."""

from __future__ import annotations

import math

from verve.core.datasheet._makers import output_phantom
from verve.core.datasheet._quantities import Understood, farads, henries, level_dbu, ohms, plain
from verve.core.datasheet._reader import Reader
from verve.core.session import LineOutputFigures, PickupFigures, PlayingRange
from verve.core.units import dbu_to_dbv

_SPREAD_DB = {"softest": 30.0, "typical": 14.0}
"""How far soft and usual playing of a plucked string stay below the hardest (typical)."""


def _volts_dbv(label: str, text: str) -> Understood:
    """A peak voltage as dB re 1 V of its amplitude: "500 mV peak", "1 V pp", "350 mV RMS" are one."""
    found = level_dbu(label, text)
    sine_dbv = dbu_to_dbv(found.value)
    if found.assumed:
        # Bare volts of a pickup are what a meter of peaks shows.
        return Understood(value=sine_dbv, said=f"{plain(sine_dbv)} dBV peak", assumed="peak volts")
    peak = sine_dbv + 10.0 * math.log10(2.0)
    return Understood(value=peak, said=f"{plain(peak)} dBV peak", how=found.how)


def pickup(reader: Reader) -> PickupFigures | None:
    """A magnetic pickup in its instrument; its spectrum is typical of a plucked string."""
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
        peak_emf_dbv=_playing(hardest),
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


def _playing(hardest_db: float) -> PlayingRange:
    return PlayingRange(
        softest_db=hardest_db - _SPREAD_DB["softest"],
        typical_db=hardest_db - _SPREAD_DB["typical"],
        hardest_db=hardest_db,
    )


def line_output(reader: Reader) -> LineOutputFigures | None:
    """An electronic output; its spectrum is typical of keys."""
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
        peak_dbu=_playing(hardest),
        output_impedance_ohm=leaves,
        noise_dbu=found,
        drives_loudspeaker=drives in {"yes", "valves"},
        has_valves=drives == "valves",
        phantom=phantom,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )
