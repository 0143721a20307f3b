"""Setting a line that is alone and has one gain to be set: the best position in closed form.

With more of its gain no ceiling gets further away, the peak rises and the noise falls against it. So in the
order of aims the best is the highest position that leaves as much room and goes as little above the aim as
the lowest one does; everything that comes later in the order is then best there too.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.gain._grid import (
    EQUAL_NOISE_DB,
    EQUAL_PEAK_DB,
    FINE_DB,
    Base,
    ceilings,
    shared_from,
)
from verve.core.gain._positions import GainKnob
from verve.core.gain._targets import MARGIN_DB


@dataclass(frozen=True, slots=True, kw_only=True)
class Single:
    """The best position of one base: where every knob stands, and what it gives."""

    places: Mapping[str, float]
    peak_dbfs: float
    noise_dbfs_a: float
    score: tuple[float, ...]


def free_knobs(base: Base) -> list[GainKnob]:
    """Gains that have more than one position."""
    return [knob for knob in base.turns if knob.positions.size > 1]


def best_of(base: Base, target_dbfs: float, share_db: float) -> Single:
    """The best of a base with at most one gain to be set; see the module for why.

    raises: ValueError for more than one
    """
    free = free_knobs(base)
    if len(free) > 1:
        raise ValueError(f"{base.state.line.id}: has {len(free)} gains to be set, not one")
    places = {knob.key: float(knob.positions[0]) for knob in base.turns}
    if free:
        places[free[0].key] = _highest(base, free[0], places, target_dbfs, share_db)
    return _given(base, places, target_dbfs, share_db)


def _room_db(base: Base, places: Mapping[str, float], share_db: float) -> float:
    """Least room at any ceiling with the gains so."""
    meets = shared_from(base.state)
    least = math.inf
    for index, before_gain, now in ceilings(base.state):
        moved = sum(
            places[knob.key] - knob.now
            for knob in base.turns
            if (knob.at < index if before_gain else knob.at <= index)
        )
        least = min(least, now - (share_db if index >= meets else 0.0) - moved)
    return least


def _missing(headroom_db: float) -> float:
    if math.isinf(headroom_db):
        return 0.0
    return max(0.0, float(math.ceil((MARGIN_DB - headroom_db - 1e-9) / EQUAL_PEAK_DB)))


def _above(peak_dbfs: float, target_dbfs: float) -> float:
    return max(0.0, float(round((peak_dbfs - target_dbfs) / FINE_DB)))


def _peak(base: Base, places: Mapping[str, float]) -> float:
    assert base.state.levels is not None
    assert base.state.levels.peak_dbfs is not None
    return base.state.levels.peak_dbfs + sum(places[k.key] - k.now for k in base.turns)


def _highest(
    base: Base, knob: GainKnob, places: Mapping[str, float], target_dbfs: float, share_db: float
) -> float:
    """The highest position with no less room and no more above the aim than at the lowest one."""

    def worst(value: float) -> tuple[float, float]:
        there = {**places, knob.key: value}
        return _missing(_room_db(base, there, share_db)), _above(_peak(base, there), target_dbfs)

    positions = knob.positions
    lowest = worst(float(positions[0]))
    first, last = 0, positions.size - 1
    # Both only grow with the position: halving finds the last that has them as they are at the lowest.
    while first < last:
        middle = (first + last + 1) // 2
        if worst(float(positions[middle])) == lowest:
            first = middle
        else:
            last = middle - 1
    return float(positions[first])


def _given(base: Base, places: Mapping[str, float], target_dbfs: float, share_db: float) -> Single:
    """What settings give, scored as all positions together are."""
    state = base.state
    assert state.levels is not None
    assert state.reading is not None
    peak = _peak(base, places)
    noise = _noise(base, places)
    knobs = {knob.key: knob for knob in base.turns}
    moves = [abs(places[k.key] - k.now) for k in base.turns]
    score = (
        _missing(_room_db(base, places, share_db)),
        _above(peak, target_dbfs),
        max(0.0, float(math.floor((target_dbfs - peak - 1e-6) / EQUAL_PEAK_DB))),
        sum(abs(places[k]) for k, knob in knobs.items() if knob.is_fader),
        float(math.floor((noise - peak) / EQUAL_NOISE_DB + 1e-6)),
        float(sum(bool(pad) for pad in base.pads.values())),
        max(0.0, float(round((target_dbfs - peak) / FINE_DB))),
        float(sum(by > 1e-9 for by in moves)),
        float(round(sum(moves) / FINE_DB)),
    )
    return Single(places=places, peak_dbfs=peak, noise_dbfs_a=noise, score=score)


def _noise(base: Base, places: Mapping[str, float]) -> float:
    """A-weighted noise at the recorder: what arises behind some gains is moved by the rest of them."""
    state = base.state
    assert state.levels is not None
    assert state.reading is not None
    powers = state.reading.powers.end_noise_a_v2
    whole, now = sum(powers), state.levels.noise_dbfs_a
    if now is None or not whole:
        return -200.0
    after = powers[-1]
    for index, power in enumerate(powers[:-1]):
        behind = sum(places[k.key] - k.now for k in base.turns if k.at >= index)
        after += power * 10.0 ** (behind / 10.0)
    return now + 10.0 * math.log10(after / whole)
