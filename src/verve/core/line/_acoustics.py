"""Sound before it is a voltage: what distance, direction and a microphone's own colour do to it.

These act on a source's octave bands and level; the ladder behind knows nothing of them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Final, Literal

from verve.core.acoustics import diffuse_db, near_response_db
from verve.core.units import db_to_ratio, power_to_db

Pattern = Literal["omni", "wide_cardioid", "cardioid", "supercardioid", "figure_eight"]

PRESSURE_SHARE: Final[Mapping[Pattern, float]] = {
    "omni": 1.0,
    "wide_cardioid": 0.7,
    "cardioid": 0.5,
    "supercardioid": 0.37,
    "figure_eight": 0.0,
}
"""A of a first-order pattern A + (1 − A)·cos θ; textbook values."""

OCTAVE_CENTRES_HZ: Final = tuple(1000.0 * 2.0 ** (index - 5) for index in range(10))


def effective_distance_m(distance_m: float, extent_m: float) -> float:
    """Distance that counts for the level of a source of some size.

    A point falls by 6 dB for each doubling right up to it; close to something as large as the
    distance the level hardly rises any more.

    range: never below `extent_m`
    source: derivation, mean square of a ring of points seen from its axis, r² + a²
    """
    return math.hypot(distance_m, extent_m)


def pattern_response_db(
    pattern: Pattern, *, hz: float, distance_m: float, angle_deg: float = 0.0
) -> float | None:
    """Response of a first-order microphone to a point, against a far one in front; None for none."""
    share = PRESSURE_SHARE[pattern]
    return near_response_db(share, hz=hz, distance_m=distance_m, angle_deg=angle_deg)


def diffuse_response_db(pattern: Pattern) -> float:
    """What a microphone picks up of a room's noise from all around, against an omni: −4.8 dB for a cardioid."""
    return diffuse_db(PRESSURE_SHARE[pattern])


def sum_bands_db(*responses_db: Sequence[float]) -> tuple[float, ...]:
    """Responses one behind the other, by octave."""
    if len(responses_db) == 1:
        return tuple(responses_db[0])
    return tuple(math.fsum(values) for values in zip(*responses_db, strict=True))


def broadband_change_db(octave_bands_db: Sequence[float], response_db: Sequence[float]) -> float:
    """How a response by octave changes the level of a source with such bands.

    source: derivation, powers of the bands added before and after
    """
    before = math.fsum(db_to_ratio(level) ** 2 for level in octave_bands_db)
    after = math.fsum(
        db_to_ratio(level + change) ** 2
        for level, change in zip(octave_bands_db, response_db, strict=True)
    )
    return power_to_db(after / before) or 0.0
