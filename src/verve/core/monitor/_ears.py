"""How loud it is at somebody's ears, and how long an ear should have that: ranges with their reasons."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from verve.core.gear import AcousticFigures
from verve.core.monitor import _words as words
from verve.core.monitor._hearing import HeadphoneDrive, allowed_hours
from verve.core.monitor._ledger import sources_of
from verve.core.session import Cue, Limit, Setup, Worn
from verve.core.words import fill

HEADPHONE_DB: Final = 6.0
"""Figures are of a coupler at 1 kHz, on a head they differ by so much either way; typical."""
KNOB_DB: Final = 10.0
"""The same where nobody knows how far up the knob is."""
UNKNOWN_DBU: Final = -10.0
"""What a headphone output gives on the mean at a usual position of its knob; typical."""
LIMITS: Final[dict[Limit, tuple[float, float]]] = {
    "leisure": (80.0, 40.0 / 7.0),
    "work": (85.0, 8.0),
}
"""Level in dBA, hours a day. Leisure: 80 dBA for 40 h a week (ITU-T H.870); work: 85 dBA for 8 h (NIOSH 98-126)."""
_EAR_FROM_MOUTH_M: Final = 0.17
"""From what a singer or a wind player sounds with to their own ear; typical."""
_AT_ARM_M: Final = 0.5
_IN_MINUTES_H: Final = 2.0
_HELD_BACK_DB: Final[dict[Worn, float]] = {"closed_headphones": 12.0, "in_ears": 20.0}
_OPEN_DB: Final = 2.0
"""What headphones hold back of one's own sound; typical, more in the treble and hardly any bass."""


def hours_text(hours: float) -> str:
    """Hours, or minutes where it is less than two hours."""
    if hours < _IN_MINUTES_H:
        return fill(words.MINUTES, minutes=60.0 * hours)
    return fill(words.HOURS, hours=hours)


@dataclass(frozen=True, slots=True, kw_only=True)
class Headphones:
    """A pair by its data sheet."""

    impedance_ohm: float
    sensitivity_db_per_mw: float


@dataclass(frozen=True, slots=True, kw_only=True)
class AtEar:
    """A mean level at the ear, dBA, between two, and hours at it: the longest for the softer one."""

    low_dba: float
    high_dba: float
    shortest_hours: float
    longest_hours: float

    @property
    def middle_dba(self) -> float:
        """In the middle of it."""
        return (self.low_dba + self.high_dba) / 2.0


def drive_of(cue: Cue, headphones: Headphones) -> HeadphoneDrive:
    """What the output does to the headphones.

    raises: InputError for impedances or drives that cannot be
    """
    return HeadphoneDrive(
        impedance_ohm=headphones.impedance_ohm,
        sensitivity_db_per_mw=headphones.sensitivity_db_per_mw,
        drive_dbu=UNKNOWN_DBU if cue.drive_dbu is None else cue.drive_dbu,
        output_impedance_ohm=cue.output_impedance_ohm or 0.0,
        pairs=cue.pairs,
    )


def at_ear(cue: Cue, headphones: Headphones, limit: Limit, own_dba: float | None = None) -> AtEar:
    """How loud it is, with what is uncertain about it, and for how many hours that is within the limit.

    `own_dba` is what is left of one's own playing under the headphones; it counts as well.

    source: equal energy, T = Tc · 2^((Lc − L)/3)
    """
    level = drive_of(cue, headphones).spl_db
    if own_dba is not None:
        level = 10.0 * math.log10(10.0 ** (level / 10.0) + 10.0 ** (own_dba / 10.0))
    off_db = HEADPHONE_DB if cue.drive_dbu is not None else KNOB_DB
    criterion_dba, hours = LIMITS[limit]

    def bearable(dba: float) -> float:
        return min(
            24.0, allowed_hours(level_dba=dba, criterion_dba=criterion_dba, criterion_hours=hours)
        )

    return AtEar(
        low_dba=level - off_db,
        high_dba=level + off_db,
        shortest_hours=bearable(level + off_db),
        longest_hours=bearable(level - off_db),
    )


def own_level_dba(setup: Setup, who: str) -> float | None:
    """How loud somebody is for themselves without headphones, at typical playing; None for what sounds by wire.

    From a mouth to its own ear, or from an instrument at arm's length; peaks less crest, bands taken as they are.
    """
    found = []
    for source in sources_of(setup, who):
        figures = source.figures
        if not isinstance(figures, AcousticFigures):
            continue
        near_m = _EAR_FROM_MOUTH_M if figures.player == "voice" else _AT_ARM_M
        level = figures.peak_spl.typical_db - figures.crest_db
        fall = figures.heard_from_m(figures.reference_distance_m) / figures.heard_from_m(near_m)
        found.append(level + 20.0 * math.log10(fall))
    return max(found, default=None)


def under_headphones_dba(setup: Setup, cue: Cue) -> float | None:
    """What is left of one's own playing at the ear; None for what sounds by wire."""
    own = own_level_dba(setup, cue.who)
    if own is None or cue.has_one_ear_free:
        return own
    return own - _HELD_BACK_DB.get(cue.worn, _OPEN_DB)


def over_own_db(setup: Setup, cue: Cue, headphones: Headphones) -> float | None:
    """How far the headphones are above one's own sound at the ear; None where that goes by wire."""
    own = under_headphones_dba(setup, cue)
    return None if own is None else drive_of(cue, headphones).spl_db - own
