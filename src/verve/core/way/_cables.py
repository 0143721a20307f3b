"""Picking cables from the kit: the shortest that reaches and fits, for all connections at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.session import CableFigures, KitItem, Plug

SOURCE_M, STAGE_M, SHORT_M = 2.0, 4.0, 0.2
"""How far it usually is from an instrument to its box, from there to the recorder, and between two boxes
that hang together (typical)."""
_NO_FIT = 1e6
_SHORT_PER_M = 100.0
"""A metre too short is worse than any excess: it is taken only where nothing else is left."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """A connection that needs a cable: its two plugs, and how long it should be."""

    id: str
    name: str
    start: Plug
    end: Plug
    least_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Picked:
    """The cable of a run; `item` is None for one that is not in the kit."""

    run: Run
    item: KitItem | None
    cable: CableFigures


def _plain(run: Run) -> CableFigures:
    """What stands for a cable that is missing: typical, as long as it should be."""
    balanced = run.start == "xlr"
    return CableFigures(
        length_m=max(run.least_m, 0.5),
        capacitance_f_per_m=1e-10 if balanced else 1.1e-10,
        resistance_ohm_per_m=0.08,
        balanced=balanced,
        plugs=(run.start, run.end),
        origin="assumed",
    )


def fits(cable: CableFigures, run: Run) -> bool:
    """Whether a cable's plugs are those of a run, either way round; without stated plugs by kind."""
    if cable.plugs is None:
        return cable.balanced == (run.start == "xlr")
    return cable.plugs in {(run.start, run.end), (run.end, run.start)}


def pick(runs: Sequence[Run], kit: Sequence[KitItem]) -> tuple[Picked, ...]:
    """One cable for every run: none used twice, the least excess and the least missing in all.

    source: scipy.optimize.linear_sum_assignment (Jonker-Volgenant), exact
    """
    units = [item for item in kit if item.cable is not None for _ in range(item.quantity)]
    if not runs:
        return ()
    chosen: dict[int, KitItem] = {}
    if units:
        from scipy.optimize import linear_sum_assignment

        cost = np.array([[_cost(unit, run) for unit in units] for run in runs])
        at_run, at_unit = linear_sum_assignment(cost)
        chosen = {
            int(i): units[int(j)]
            for i, j in zip(at_run, at_unit, strict=True)
            if cost[i, j] < _NO_FIT
        }
    found = []
    for number, run in enumerate(runs):
        item = chosen.get(number)
        cable = _plain(run) if item is None or item.cable is None else item.cable
        found.append(Picked(run=run, item=item, cable=cable))
    return tuple(found)


def _cost(unit: KitItem, run: Run) -> float:
    assert unit.cable is not None
    if not fits(unit.cable, run):
        return _NO_FIT
    excess = unit.cable.length_m - run.least_m
    return excess if excess >= 0.0 else -_SHORT_PER_M * excess
