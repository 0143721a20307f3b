"""Choosing one way for every signal: exact, by a mixed-integer program of a standard solver.

Every signal takes one of its ways; boxes and sockets are used as often as there are; all end in one
recorder; a phantom switch is on for all sockets it feeds or for none. Among all that is allowed, what
leaves the fewest flaws is best, then what stands furthest above the noise, then what has fewest boxes.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from verve.core.catalogue import catalogue
from verve.core.connections._possible import Rated
from verve.core.connections._signals import Signal
from verve.core.connections._stock import Box, InputGroup, Stock

BOX_DB = 1e-3
"""What a box more counts against quality: it decides only between ways that are equally good."""
MODE_DB = 1e-4
"""What a mode more of a socket counts: between equals the plainer socket is taken."""
_LIMIT_S = 5.0
DEAREST_DB = 40.0
_TWICE_AS_DEAR_DB = 3.0
_CHEAP = 10.0
_FRAGILE_DB = 3.0
"""A ribbon is torn by a breath or by phantom power on a faulty cable: not what is proposed at first (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """Signals with their rated ways, and what there is to make them of.

    `taken` is how many of each box and of each kind of socket are in use already; `recorder` is the one
    that what is in use ends in, None if nothing is. `may_add` names boxes of which more could be got.
    """

    signals: tuple[Signal, ...]
    connections: Mapping[str, tuple[Rated, ...]]
    stock: Stock
    taken: Mapping[str, int] = field(default_factory=dict)
    taken_ma: Mapping[str, float] = field(default_factory=dict)
    recorder: str | None = None
    may_add: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """The chosen way of every signal, by signal; `added` is what had to be got for it, by box.

    `gap_db` is how far at most the sum of qualities may be from the best there is; 0 when proven.
    """

    chosen: Mapping[str, Rated]
    added: Mapping[str, int]
    gap_db: float = 0.0


def flaw_weight(problem: Problem) -> float:
    """More than all qualities together can differ: one flaw less is always better."""
    return 10.0 + sum(
        max((r.quality_db for r in connections), default=0.0)
        - min((r.quality_db for r in connections), default=0.0)
        for connections in problem.connections.values()
    )


def cost_of(rated: Rated, weight: float) -> float:
    """What the best answer has least of, in dB; `weight` is the problem's `flaw_weight`."""
    return weight * rated.flaws + quality_cost(rated)


def quality_cost(rated: Rated) -> float:
    """What counts between ways with as many flaws, in dB: noise, then boxes, then what else the input could do."""
    # A socket that can do little else comes first: the others are kept for what needs them.
    boxes = BOX_DB * len(rated.connection.boxes) + MODE_DB * len(rated.connection.inputs.modes)
    return boxes - rated.quality_db


class _Rows:
    """Rows of a linear program, gathered one by one."""

    def __init__(self, count: int) -> None:
        self.count = count
        self.values: list[dict[int, float]] = []
        self.low: list[float] = []
        self.high: list[float] = []

    def add(self, row: Mapping[int, float], low: float, high: float) -> None:
        """low ≤ row · x ≤ high"""
        self.values.append(dict(row))
        self.low.append(low)
        self.high.append(high)


def _columns(problem: Problem) -> list[Rated]:
    return [rated for signal in problem.signals for rated in problem.connections[signal.id]]


def _limit(box: Box, problem: Problem) -> int:
    return box.count - problem.taken.get(box.id, 0)


def _inputs_left(inputs: InputGroup, problem: Problem) -> int:
    return len(inputs.names) - problem.taken.get(inputs.id, 0)


def solve(problem: Problem, limit_s: float = _LIMIT_S) -> Answer | None:
    """The best answer, or None where there is none at all.

    With `may_add`, the fewest things that have to be got come before everything else. Every recorder is
    tried by itself: with one fixed the program is close to an assignment, and quick.

    source: scipy.optimize.milp (HiGHS), branch and bound to a gap of 0
    """
    if any(not problem.connections[signal.id] for signal in problem.signals):
        return None
    if not problem.signals:
        return Answer(chosen={}, added={})
    best: tuple[float, Answer] | None = None
    for recorder in problem.stock.recorders:
        is_there = recorder.count > 0 or recorder.id in problem.may_add
        if not is_there or problem.recorder not in {None, recorder.id}:
            continue
        found = _solve_into(problem, recorder, limit_s)
        if found is not None and (best is None or found[0] < best[0] - 1e-9):
            best = found
    return None if best is None else best[1]


def thing_cost(problem: Problem) -> float:
    """What one more thing that has to be got costs: more than anything that can be gained by it."""
    count = 1 + len(problem.signals)
    return 1.0 + 2.0 * flaw_weight(problem) * count + DEAREST_DB * count


def proposal_db(box: Box) -> float:
    """What getting a thing counts against how much better it is: its usual price, and whether it is fragile.

    Something twice as dear has to be 3 dB better. What has no usual price counts as one of a hundred.

    range: 0 to `DEAREST_DB`
    """
    device = box.figures
    entry = catalogue().devices.get(device.entry or "")
    low, high = (100.0, 100.0) if entry is None or entry.price is None else entry.price
    found = _TWICE_AS_DEAR_DB * math.log2(max(1.0, math.sqrt(low * high) / _CHEAP))
    if device.is_fragile():
        found += _FRAGILE_DB
    return min(found, DEAREST_DB)


def _solve_into(problem: Problem, recorder: Box, limit_s: float) -> tuple[float, Answer] | None:
    """The best answer that ends in one recorder, and its cost."""
    # Imported here: the solver is loaded when somebody first looks for a way.
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    columns = [r for r in _columns(problem) if r.connection.recorder.id == recorder.id]
    if {r.connection.signal.id for r in columns} != {signal.id for signal in problem.signals}:
        return None
    switches = sorted({s.id for s in problem.stock.inputs if s.switch})
    extras = [key for key in problem.may_add if key != recorder.id]
    n = len(columns)
    switch_at = {key: n + i for i, key in enumerate(switches)}
    extra_at = {key: n + len(switches) + i for i, key in enumerate(extras)}
    rows = _Rows(n + len(switches) + len(extras))
    _rows(problem, recorder, columns, rows, switch_at, extra_at)
    cost = np.zeros(rows.count)
    weight = flaw_weight(problem)
    cost[:n] = [cost_of(rated, weight) for rated in columns]
    boxes = {box.id: box for box in problem.stock.all()}
    for key, at in extra_at.items():
        cost[at] = thing_cost(problem) + proposal_db(boxes[key])
    upper = np.ones(rows.count)
    upper[list(extra_at.values())] = len(problem.signals)
    data = [(value, i, j) for i, row in enumerate(rows.values) for j, value in row.items() if value]
    values, at_row, at_column = (np.array(part) for part in zip(*data, strict=True))
    matrix = coo_array((values, (at_row, at_column)), shape=(len(rows.values), rows.count))
    result = milp(
        cost,
        constraints=LinearConstraint(matrix.tocsr(), rows.low, rows.high),
        bounds=Bounds(0.0, upper),
        integrality=np.ones(rows.count),
        options={"mip_rel_gap": 0.0, "time_limit": limit_s},
    )
    if result.x is None:
        return None
    chosen = {
        rated.connection.signal.id: rated
        for rated, value in zip(columns, result.x[:n], strict=True)
        if value > 0.5
    }
    added = {key: round(float(result.x[at])) for key, at in extra_at.items() if result.x[at] > 0.5}
    total = float(result.fun)
    if recorder.count < 1:
        added[recorder.id] = 1
        total += thing_cost(problem) + proposal_db(recorder)
    gap = max(0.0, float(result.fun) - float(result.mip_dual_bound or result.fun))
    return total, Answer(chosen=chosen, added=added, gap_db=0.0 if gap < 1e-4 else gap)


def _rows(
    problem: Problem,
    recorder: Box,
    columns: Sequence[Rated],
    rows: _Rows,
    switch_at: Mapping[str, int],
    extra_at: Mapping[str, int],
) -> None:
    by_signal: dict[str, dict[int, float]] = {signal.id: {} for signal in problem.signals}
    by_box: dict[str, dict[int, float]] = {}
    by_inputs: dict[str, dict[int, float]] = {}
    drawn: dict[int, float] = {}
    for at, rated in enumerate(columns):
        connection = rated.connection
        by_signal[connection.signal.id][at] = 1.0
        for box in connection.boxes:
            by_box.setdefault(box.id, {})[at] = 1.0
        by_inputs.setdefault(connection.inputs.id, {})[at] = 1.0
        if connection.current_ma:
            drawn[at] = connection.current_ma
        if connection.inputs.id in switch_at:
            switch = switch_at[connection.inputs.id]
            if connection.power == "needs":
                rows.add({at: 1.0, switch: -1.0}, -np.inf, 0.0)
            elif connection.power == "never":
                rows.add({at: 1.0, switch: 1.0}, -np.inf, 1.0)
    for row in by_signal.values():
        rows.add(row, 1.0, 1.0)
    sides = {box.id: float(box.figures.lines_kept_apart()) for box in problem.stock.all()}
    for box in problem.stock.all():
        if box.id in by_box:
            row = dict(by_box[box.id])
            if box.id in extra_at:
                row[extra_at[box.id]] = -sides.get(box.id, 1.0)
            rows.add(row, -np.inf, float(_limit(box, problem)))
    for inputs in problem.stock.inputs:
        if inputs.id in by_inputs:
            rows.add(by_inputs[inputs.id], -np.inf, float(_inputs_left(inputs, problem)))
    budget = _budget_ma(recorder)
    if budget is not None and drawn:
        rows.add(drawn, -np.inf, budget - problem.taken_ma.get(recorder.id, 0.0))
    _twin_rows(problem, columns, rows)


def _budget_ma(box: Box) -> float | None:
    return box.figures.phantom_supply_ma()


def kind_of(rated: Rated) -> tuple[object, ...]:
    """What both sides of a pair must have in common: boxes, mode, and sockets that are alike."""
    connection = rated.connection
    alike = connection.inputs.modes[connection.mode]
    return (
        tuple(box.id for box in connection.boxes),
        connection.mode,
        connection.recorder.id,
        repr(alike),
    )


def _twin_rows(problem: Problem, columns: Sequence[Rated], rows: _Rows) -> None:
    done: set[str] = set()
    for signal in problem.signals:
        partner = signal.partner
        if partner is None or partner not in problem.connections or signal.id in done:
            continue
        done |= {signal.id, partner}
        by_kind: dict[tuple[object, ...], dict[int, float]] = {}
        for at, rated in enumerate(columns):
            if rated.connection.signal.id in {signal.id, partner}:
                sign = 1.0 if rated.connection.signal.id == signal.id else -1.0
                by_kind.setdefault(kind_of(rated), {})[at] = sign
        for row in by_kind.values():
            rows.add(row, 0.0, 0.0)
