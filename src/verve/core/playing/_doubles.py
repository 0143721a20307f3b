"""A double held against its first: the places that are most worth hearing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from verve.core.playing._intonation import HeldNote
from verve.core.playing._timing import against_notes
from verve.core.units import FloatArray

Tolerance = Literal["tight", "natural", "loose"]
TOLERANCES_MS: Final[Mapping[Tolerance, float]] = {"tight": 15.0, "natural": 30.0, "loose": 50.0}
"""How far a double may be beside its first before one hears two of them (a choice: 15 to 50 ms)."""
_CENTS_TO_MS = 1.0
"""So many milliseconds count as a cent: 30 of each are about as much worth hearing."""
_APART_S = 3.0
MOST_PLACES = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class WorthHearing:
    """A place in the song where a double differs from its first: how, and by how much."""

    at_s: float
    late_ms: float | None
    off_cents: float | None


def worth_hearing(
    first_s: FloatArray,
    double_s: FloatArray,
    first_notes: Sequence[HeldNote],
    double_notes: Sequence[HeldNote],
    tolerance: Tolerance = "natural",
) -> tuple[WorthHearing, ...]:
    """The three places where a double is farthest from its first, in the order of the song; fewer where all the rest
    is within the tolerance. No score: what one does not hear needs none.

    shape: first_s (n,), double_s (m,): when notes begin, in seconds of the song
    """
    limit_ms = TOLERANCES_MS[tolerance]
    late = 1000.0 * against_notes(double_s, first_s)
    found: list[tuple[float, WorthHearing]] = [
        (abs(ms), WorthHearing(at_s=float(at), late_ms=float(ms), off_cents=None))
        for at, ms in zip(double_s, late, strict=True)
        if np.isfinite(ms) and abs(ms) > limit_ms
    ]
    for one in double_notes:
        beside = _sounding_with(one, first_notes)
        if beside is None or beside.note[:-1] != one.note[:-1]:
            continue
        cents = one.cents - beside.cents
        if abs(cents) * _CENTS_TO_MS > limit_ms:
            weight = abs(cents) * _CENTS_TO_MS
            found.append((weight, WorthHearing(at_s=one.start_s, late_ms=None, off_cents=cents)))
    chosen: list[WorthHearing] = []
    for _, place in sorted(found, key=lambda pair: -pair[0]):
        if all(abs(place.at_s - other.at_s) >= _APART_S for other in chosen):
            chosen.append(place)
        if len(chosen) == MOST_PLACES:
            break
    return tuple(sorted(chosen, key=lambda place: place.at_s))


def _sounding_with(note: HeldNote, others: Sequence[HeldNote]) -> HeldNote | None:
    """The note of the other that sounds at the same time the longest."""
    best, longest = None, 0.0
    for one in others:
        both = min(one.start_s + one.seconds, note.start_s + note.seconds) - max(
            one.start_s, note.start_s
        )
        if both > longest:
            best, longest = one, both
    return best
