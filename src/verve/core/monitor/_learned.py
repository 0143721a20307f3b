"""What is known of this computer's round trip: typical, from one figure, fitted through several."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from verve.core.session import LearnedTrip

TYPICAL_FIXED_MS: Final = 5.0
"""Converters and driver of a usual interface, both ways; typical, 2 to 10."""
TYPICAL_RANGE_MS: Final = (2.0, 10.0)
_TWO = 2.0
_NOT_TWO = 0.25
"""A fitted number of buffers so far from two is another one: some drivers keep three."""
Known = Literal["typical", "reported", "measured"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """A round trip as t = buffers · frames / rate + fixed.

    `trips` is how many figures it rests on, `worst_ms` how far the furthest of them is from it. `is_counted` says
    that the number of buffers was fitted too, and is not two.
    """

    known: Known
    fixed_ms: float
    buffers: float = _TWO
    trips: int = 0
    worst_ms: float = 0.0
    is_counted: bool = False
    is_other_rate: bool = False

    def round_trip_ms(self, buffer_frames: int, sample_rate_hz: float) -> float:
        """At a buffer size and rate."""
        return 1000.0 * self.buffers * buffer_frames / sample_rate_hz + self.fixed_ms


def learned(trips: Sequence[LearnedTrip], sample_rate_hz: float) -> Learned:
    """What the figures there are say about a rate; those of loop-backs go before those that a recorder reports.

    source: least squares; with fewer than three sizes the fixed part alone, for two buffers
    """
    here = [one for one in trips if one.sample_rate_hz == sample_rate_hz]
    used = here or list(trips)
    measured = [one for one in used if one.is_measured]
    used = measured or used
    if not used:
        return Learned(known="typical", fixed_ms=TYPICAL_FIXED_MS)
    in_ms = np.array([1000.0 * one.buffer_frames / one.sample_rate_hz for one in used])
    total = np.array([one.round_trip_ms for one in used])
    buffers, is_counted = _TWO, False
    if len(set(in_ms.tolist())) >= 3:
        slope = float(np.polyfit(in_ms, total, 1)[0])
        if abs(slope - _TWO) >= _NOT_TWO and slope > 0.0:
            buffers, is_counted = slope, True
    fixed = float(np.mean(total - buffers * in_ms))
    return Learned(
        known="measured" if measured else "reported",
        fixed_ms=fixed,
        buffers=buffers,
        trips=len(used),
        worst_ms=float(np.abs(total - buffers * in_ms - fixed).max()),
        is_counted=is_counted,
        is_other_rate=not here,
    )
