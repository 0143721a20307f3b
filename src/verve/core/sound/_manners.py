"""How simulated players sound: sung, plucked, bowed, blown, struck, hammered, keys, bass, synth."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from verve.core.kind import SourceFigures

_LOW_BAND, _STRONG_DB = 2, -4.0
"""A plucked instrument whose octave of 63 Hz or below is as strong as this is a bass."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Manner:
    """How one kind of player sounds: steps around its register, note lengths, attack, decay, sway.

    `has_blasts` tells of the bursts of air that come with p and b.
    """

    steps: tuple[float, ...]
    note_s: float
    gap_s: float
    attack_s: float
    decay_per_s: float
    sway_cents: float
    breath: float
    voices: int = 1
    has_blasts: bool = False


_SUNG = Manner(
    steps=(0.89, 1.0, 1.12, 1.34, 1.19, 1.06), note_s=0.55, gap_s=0.12, attack_s=0.06,
    decay_per_s=0.0, sway_cents=35.0, breath=0.02, has_blasts=True,
)  # fmt: skip
_PLUCKED = Manner(
    steps=(0.75, 1.12, 0.84, 1.26, 1.0, 1.34, 0.94), note_s=0.42, gap_s=0.02, attack_s=0.003,
    decay_per_s=5.0, sway_cents=0.0, breath=0.01,
)  # fmt: skip
_BOWED = Manner(
    steps=(0.84, 0.94, 1.26, 1.12, 1.0, 1.34), note_s=0.75, gap_s=0.05, attack_s=0.09,
    decay_per_s=0.0, sway_cents=18.0, breath=0.04,
)  # fmt: skip
_STRUCK = Manner(
    steps=(0.89, 1.12, 0.89, 1.34), note_s=0.3, gap_s=0.05, attack_s=0.001, decay_per_s=16.0,
    sway_cents=0.0, breath=0.5,
)  # fmt: skip
_KEYS = Manner(
    steps=(0.89, 1.0, 1.12, 0.84, 0.75), note_s=0.9, gap_s=0.04, attack_s=0.03, decay_per_s=0.4,
    sway_cents=4.0, breath=0.0, voices=3,
)  # fmt: skip
MANNERS: Final[Mapping[str, Manner]] = {
    "voice": _SUNG,
    "plucked": _PLUCKED,
    "bowed": _BOWED,
    "struck": _STRUCK,
    "keys": _KEYS,
    "blown": Manner(
        steps=(1.0, 1.12, 1.26, 1.12, 0.94, 0.84), note_s=0.7, gap_s=0.1, attack_s=0.035,
        decay_per_s=0.0, sway_cents=12.0, breath=0.08,
    ),
    "hammered": Manner(
        steps=(0.75, 1.0, 1.26, 1.12, 0.84), note_s=0.9, gap_s=0.03, attack_s=0.002,
        decay_per_s=2.2, sway_cents=0.0, breath=0.02, voices=3,
    ),
    "bass": Manner(
        steps=(0.75, 0.84, 1.0, 1.12, 0.94), note_s=0.42, gap_s=0.04, attack_s=0.006,
        decay_per_s=3.0, sway_cents=0.0, breath=0.005,
    ),
    "synth": Manner(
        steps=(1.0, 1.0, 1.19, 0.89, 1.34), note_s=0.9, gap_s=0.02, attack_s=0.005,
        decay_per_s=0.0, sway_cents=7.0, breath=0.0, voices=3,
    ),
}  # fmt: skip
_OF_ENTRY: Final[Mapping[str, str]] = {
    **dict.fromkeys(
        (
            "flute", "recorder_flute", "clarinet", "oboe", "bassoon", "saxophone_alto", "saxophone_tenor", "trumpet",
            "trombone", "french_horn", "tuba", "harmonica", "melodica",
        ),
        "blown",
    ),
    **dict.fromkeys(
        ("grand_piano", "upright_piano", "hammered_dulcimer", "celesta", "vibraphone", "stage_piano"), "hammered"
    ),
    **dict.fromkeys(("synth_output", "modular_hot", "electric_organ"), "synth"),
}  # fmt: skip


def manner_of(figures: SourceFigures) -> str:
    """The name of the manner in which a source is played: that of its entry, else that of its kind of player."""
    if figures.entry in _OF_ENTRY:
        return _OF_ENTRY[figures.entry]
    bands_db = figures.octave_bands_db
    if figures.player == "plucked" and max(bands_db[:_LOW_BAND]) >= _STRONG_DB:
        return "bass"
    return figures.player
