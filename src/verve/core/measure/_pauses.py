"""What is left when nobody plays: stretches whose level stays alike, well below the performance."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from verve.core.measure._windows import WINDOWS_PER_S
from verve.core.units import FloatArray

if TYPE_CHECKING:
    from numpy.typing import NDArray

_ALIKE_DB = 3.0
_SHORTEST = int(0.3 * WINDOWS_PER_S) - 1
"""Windows that a pause of 0.3 s holds whole."""
_UNDER_LOUDEST_DB = 10.0
_LOUDEST_WINDOWS = 3
"""Windows within 0.1 s."""
_ABOVE_QUIETEST_DB = 10.0
"""A pause so much louder than the quietest one is something that still sounds."""
_MOVES_DB = 0.8
"""A stretch that falls or rises steadily by more is a sound that dies away or swells."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pause:
    """Windows [first, stop) of the recording, and the median of their A-weighted levels."""

    first: int
    stop: int
    level_db: float


def find_pauses(a_weighted: FloatArray) -> list[Pause]:
    """The pauses among A-weighted powers of windows, in the order of time.

    A pause is at least 0.3 s long, stays within 3 dB of its median and lies 10 dB under the loudest 0.1 s; or it is
    the whole recording, where that is alike throughout.
    """
    with np.errstate(divide="ignore"):
        levels = 10.0 * np.log10(a_weighted)
    sounding = levels[np.isfinite(levels)]
    if len(levels) < _SHORTEST or not len(sounding):
        return []
    if _is_alike(levels):
        return [Pause(first=0, stop=len(levels), level_db=float(np.median(levels)))]
    smooth = np.convolve(a_weighted, np.full(_LOUDEST_WINDOWS, 1.0 / _LOUDEST_WINDOWS), "valid")
    highest = 10.0 * math.log10(float(smooth.max()))
    is_low = np.isfinite(levels) & (levels <= highest - _UNDER_LOUDEST_DB)
    found = [
        pause
        for first, stop in _runs(is_low)
        for pause in _steady(levels, first, stop)
        if pause.level_db <= highest - _UNDER_LOUDEST_DB
    ]
    if not found:
        return []
    quietest = min(pause.level_db for pause in found)
    return [pause for pause in found if pause.level_db <= quietest + _ABOVE_QUIETEST_DB]


def _is_alike(levels: FloatArray) -> bool:
    median = float(np.median(levels))
    return math.isfinite(median) and bool((np.abs(levels - median) <= _ALIKE_DB).all())


def _runs(mask: NDArray[np.bool_]) -> Iterator[tuple[int, int]]:
    """First and stop of every run of true values."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    yield from zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)


def _steady(levels: FloatArray, first: int, stop: int) -> Iterator[Pause]:
    """Stretches within [first, stop) that stay alike: what is not is cut out, and what is left looked at again."""
    waiting = [(first, stop)]
    while waiting:
        first, stop = waiting.pop()
        if stop - first < _SHORTEST:
            continue
        part = levels[first:stop]
        # One of the levels themselves: between two that are far apart nothing would be near it.
        median = float(np.sort(part)[len(part) // 2])
        inside = np.abs(part - median) <= _ALIKE_DB
        if inside.all():
            if not _moves(part):
                yield Pause(first=first, stop=stop, level_db=median)
            elif len(part) >= 2 * _SHORTEST:
                # One half may still sound, and the other not.
                half = first + len(part) // 2
                waiting += [(first, half), (half, stop)]
            continue
        waiting.extend((first + a, first + b) for mask in (inside, ~inside) for a, b in _runs(mask))


def _moves(part: FloatArray) -> bool:
    """Whether a stretch dies away or swells all the time, and does not merely scatter as noise does."""
    at = np.arange(len(part)) - (len(part) - 1) / 2.0
    slope = float(at @ part) / float(at @ at)
    explained = slope * slope * float(at @ at)
    spread = float(np.sum((part - part.mean()) ** 2))
    return abs(slope) * len(part) > _MOVES_DB and explained > 0.6 * spread


def mean_db(powers: FloatArray, pauses: list[Pause]) -> float | None:
    """Level of the power mean over the pauses, a full-scale sine being 0 dB; None without any."""
    if not pauses:
        return None
    inside = np.concatenate([powers[pause.first : pause.stop] for pause in pauses])
    mean = float(inside.mean())
    return 10.0 * math.log10(2.0 * mean) if mean > 0.0 else None
