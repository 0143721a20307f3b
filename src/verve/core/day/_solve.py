"""All layers of a day at once: the ways and pieces that need the fewest cables plugged anew between them.

Every layer keeps the fewest flaws it can have by itself, and no signal comes more than `WORTH_DB` nearer to its noise
than it would be with the layer alone: for so much somebody gets up and plugs.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from verve.core.connections import Answer, Box, Problem, Rated, kind_of, quality_cost, solve
from verve.core.connections import flaw_weight as _span
from verve.core.day._plugs import Fixed, Option, Plug, instruments_of, options_of

WORTH_DB = 3.0
"""So much nearer to its noise a signal may come to save plugging; more than that is worth getting up (a choice)."""
_LIMIT_S = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class DayProblem:
    """Layers in their order: each a problem to be solved, or fixed as it is.

    `roots` says which part a part is a double of: it is the same instrument.
    """

    layers: tuple[Problem | Fixed, ...]
    roots: Mapping[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class DayAnswer:
    """By layer and signal the option that is taken; `replugs` is how many cables are plugged anew after the first
    layer. `gap` is how many fewer there might be at most; 0 when proven."""

    chosen: tuple[Mapping[str, Option], ...]
    replugs: int
    gap: int = 0


@dataclass(slots=True)
class _Model:
    """Rows and columns of the program, gathered one by one."""

    cost: list[float] = field(default_factory=list)
    rows: list[dict[int, float]] = field(default_factory=list)
    low: list[float] = field(default_factory=list)
    high: list[float] = field(default_factory=list)

    def column(self, cost: float = 0.0) -> int:
        self.cost.append(cost)
        return len(self.cost) - 1

    def row(self, values: Mapping[int, float], low: float, high: float) -> None:
        """low ≤ values · x ≤ high"""
        self.rows.append(dict(values))
        self.low.append(low)
        self.high.append(high)


def admissible(problem: Problem, recorder: Box) -> tuple[dict[str, tuple[Rated, ...]], int] | None:
    """The ways into a recorder that the day may choose from, by signal, and how many flaws a layer may have.

    None where the layer does not go into it at all.
    """
    answer = solve(_into(problem, recorder))
    if answer is None:
        return None
    found = {}
    for signal in problem.signals:
        best = answer.chosen[signal.id]
        found[signal.id] = tuple(
            rated
            for rated in problem.connections[signal.id]
            if rated.connection.recorder.id == recorder.id
            and rated.quality_db >= best.quality_db - WORTH_DB
        )
    return found, sum(rated.flaws for rated in answer.chosen.values())


def _into(problem: Problem, recorder: Box) -> Problem:
    """The same problem with one recorder."""
    connections = {
        key: tuple(r for r in ways if r.connection.recorder.id == recorder.id)
        for key, ways in problem.connections.items()
    }
    return Problem(
        signals=problem.signals,
        connections=connections,
        stock=problem.stock,
        taken=problem.taken,
        taken_ma=problem.taken_ma,
        recorder=recorder.id,
    )


def layer_options(day: DayProblem, recorder: Box) -> list[dict[str, list[Option]]] | None:
    """By layer and signal every option there is; None where a layer does not go into the recorder."""
    problems = [layer for layer in day.layers if isinstance(layer, Problem)]
    held = [plug for layer in day.layers if isinstance(layer, Fixed) for plug in layer.plugs]
    most = {
        box.id: min(
            -(-box.count // max(1, box.figures.lines_kept_apart())),
            _most(problems, box.id) + len({p[0] for p in held if p[0].startswith(f"{box.id}#")}),
        )
        for problem in problems
        for box in problem.stock.all()
    }
    width = sum(len(problem.signals) for problem in problems)
    used = {plug[1].partition(":")[2] for plug in held}
    found = []
    for layer in day.layers:
        own: dict[str, list[Option]] = {}
        if isinstance(layer, Problem):
            ways = admissible(layer, recorder)
            if ways is None:
                return None
            # Inputs that are alike need not be told apart beyond the number of signals of the day.
            ports = {
                group.id: [n for i, n in enumerate(group.names) if i < width or n in used]
                for group in layer.stock.inputs
            }
            names = instruments_of(layer, day.roots)
            for signal in layer.signals:
                own[signal.id] = [
                    option
                    for rated in ways[0][signal.id]
                    for option in options_of(rated, most, ports, names[signal.id])
                ]
        found.append(own)
    return found


def _most(problems: Sequence[Problem], box_id: str) -> int:
    """So many pieces of a box could ever be used: more than that need not be told apart."""
    users = {
        signal.id
        for problem in problems
        for signal in problem.signals
        for rated in problem.connections[signal.id]
        if any(box.id == box_id for box in rated.connection.boxes)
    }
    return max(1, len(users))


def solve_day(day: DayProblem, limit_s: float = _LIMIT_S) -> DayAnswer | None:
    """The choice with the fewest cables plugged anew, and of those the one furthest above the noise.

    None where a layer has no connections, or no recorder takes all of them.

    source: scipy.optimize.milp (HiGHS), branch and bound to a gap of 0
    """
    problems = [layer for layer in day.layers if isinstance(layer, Problem)]
    if not problems:
        return DayAnswer(chosen=tuple({} for _ in day.layers), replugs=0)
    best: tuple[float, DayAnswer] | None = None
    for recorder in problems[0].stock.recorders:
        if recorder.count < 1 and recorder.id not in problems[0].may_add:
            continue
        found = _solve_into(day, recorder, limit_s)
        if found is not None and (best is None or found[0] < best[0] - 1e-9):
            best = found
    return None if best is None else best[1]


def _solve_into(day: DayProblem, recorder: Box, limit_s: float) -> tuple[float, DayAnswer] | None:
    # Imported here: the solver is loaded when somebody first plans a day.
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    options = layer_options(day, recorder)
    if options is None:
        return None
    model = _Model()
    weight = 1.0 + 2.0 * sum(_span(p) for p in day.layers if isinstance(p, Problem))
    taken: list[dict[str, dict[int, Option]]] = []
    switches = [_switches(layer, model) for layer in day.layers]
    for layer, own, on in zip(day.layers, options, switches, strict=True):
        columns = {
            key: {model.column(quality_cost(option.rated)): option for option in found}
            for key, found in own.items()
        }
        taken.append(columns)
        if isinstance(layer, Problem):
            _layer_rows(model, layer, recorder, columns, on)
    fresh = _plug_rows(model, day, taken, switches, weight)
    if not model.rows:
        return None
    data = [(v, i, j) for i, row in enumerate(model.rows) for j, v in row.items() if v]
    values, at_row, at_column = (np.array(part) for part in zip(*data, strict=True))
    matrix = coo_array((values, (at_row, at_column)), shape=(len(model.rows), len(model.cost)))
    result = milp(
        np.array(model.cost),
        constraints=LinearConstraint(matrix.tocsr(), model.low, model.high),
        bounds=Bounds(0.0, 1.0),
        integrality=np.ones(len(model.cost)),
        options={"mip_rel_gap": 0.0, "time_limit": limit_s},
    )
    if result.x is None:
        return None
    chosen = tuple(
        {
            key: next(option for at, option in found.items() if result.x[at] > 0.5)
            for key, found in columns.items()
        }
        for columns in taken
    )
    count = round(sum(float(result.x[at]) for at in fresh))
    bound = float(result.mip_dual_bound if result.mip_dual_bound is not None else result.fun)
    gap = int(max(0.0, float(result.fun) - bound) // weight)
    return float(result.fun), DayAnswer(chosen=chosen, replugs=count, gap=gap)


def _switches(layer: Problem | Fixed, model: _Model) -> dict[str, int]:
    """A column for each phantom switch that several inputs share; of a fixed layer it is what it is."""
    if isinstance(layer, Fixed):
        found = {}
        for key in layer.switches:
            found[key] = model.column()
            model.row({found[key]: 1.0}, 1.0, 1.0)
        return found
    keys = sorted({group.id for group in layer.stock.inputs if group.switch})
    return {key: model.column() for key in keys}


def _layer_rows(
    model: _Model,
    problem: Problem,
    recorder: Box,
    columns: Mapping[str, Mapping[int, Option]],
    switches: Mapping[str, int],
) -> None:
    """What one layer asks for by itself."""
    pieces: dict[str, dict[int, float]] = {}
    ports: dict[str, dict[int, float]] = {}
    drawn: dict[int, float] = {}
    flaws: dict[int, float] = {}
    for found in columns.values():
        model.row(dict.fromkeys(found, 1.0), 1.0, 1.0)
        for at, option in found.items():
            connection = option.rated.connection
            for key, share in option.pieces:
                pieces.setdefault(key, {})[at] = float(share)
            ports.setdefault(option.place.port, {})[at] = 1.0
            flaws[at] = float(option.rated.flaws)
            if connection.current_ma:
                drawn[at] = connection.current_ma
            switch = switches.get(connection.inputs.id)
            if switch is not None and connection.power == "needs":
                model.row({at: 1.0, switch: -1.0}, -np.inf, 0.0)
            elif switch is not None and connection.power == "never":
                model.row({at: 1.0, switch: 1.0}, -np.inf, 1.0)
    for row in (*pieces.values(), *ports.values()):
        model.row(row, -np.inf, 1.0)
    ways = admissible(problem, recorder)
    assert ways is not None
    model.row(flaws, -np.inf, float(ways[1]))
    budget = recorder.figures.phantom_supply_ma()
    if budget is not None and drawn:
        model.row(drawn, -np.inf, budget)
    done: set[str] = set()
    for signal in problem.signals:
        if signal.partner is None or signal.partner not in columns or signal.id in done:
            continue
        done |= {signal.id, signal.partner}
        by_kind: dict[tuple[object, ...], dict[int, float]] = {}
        for key, sign in ((signal.id, 1.0), (signal.partner, -1.0)):
            for at, option in columns[key].items():
                by_kind.setdefault(kind_of(option.rated), {})[at] = sign
        for row in by_kind.values():
            model.row(row, 0.0, 0.0)


def _plug_rows(
    model: _Model,
    day: DayProblem,
    taken: Sequence[Mapping[str, Mapping[int, Option]]],
    switches: Sequence[Mapping[str, int]],
    weight: float,
) -> list[int]:
    """Cables in time: plugged when they are needed, pulled when something needs their place; the columns that count
    what is plugged anew."""
    users: list[dict[Plug, list[int]]] = []
    fixed: list[frozenset[Plug]] = []
    for layer, columns in zip(day.layers, taken, strict=True):
        own: dict[Plug, list[int]] = {}
        for found in columns.values():
            for at, option in found.items():
                for plug in option.plugs:
                    own.setdefault(plug, []).append(at)
        users.append(own)
        fixed.append(layer.plugs if isinstance(layer, Fixed) else frozenset())
    never = _never(taken)
    fresh, before = [], dict[Plug, int]()
    for number, own in enumerate(users):
        now: dict[Plug, int] = {}
        for plug in sorted({*before, *own, *fixed[number]}):
            at = now[plug] = model.column()
            needs = own.get(plug, [])
            if plug in fixed[number]:
                model.row({at: 1.0}, 1.0, 1.0)
            for need in needs:
                model.row({at: 1.0, need: -1.0}, 0.0, np.inf)
            kept = {before[plug]: -1.0} if plug in before else {}
            if plug not in fixed[number]:
                # Nothing is plugged before it is needed: only what is in place can stay.
                model.row({at: 1.0, **kept, **dict.fromkeys(needs, -1.0)}, -np.inf, 0.0)
            switch = switches[number].get(never.get(plug, ""))
            if switch is not None:
                model.row({at: 1.0, switch: 1.0}, -np.inf, 1.0)
            if number:
                count = model.column(weight)
                fresh.append(count)
                model.row({count: 1.0, at: -1.0, **dict.fromkeys(kept, 1.0)}, 0.0, np.inf)
        ends: dict[str, dict[int, float]] = {}
        for plug, at in now.items():
            for end in plug:
                ends.setdefault(end, {})[at] = 1.0
        for row in ends.values():
            if len(row) > 1:
                model.row(row, -np.inf, 1.0)
        before = now
    return fresh


def _never(taken: Sequence[Mapping[str, Mapping[int, Option]]]) -> dict[Plug, str]:
    """Cables through which only what must not get phantom power is plugged, and the inputs they lead to."""
    found: dict[Plug, str] = {}
    others: set[Plug] = set()
    for columns in taken:
        for options in columns.values():
            for option in options.values():
                connection = option.rated.connection
                if not option.plugs:
                    continue
                if connection.power == "never":
                    found[option.plugs[-1]] = connection.inputs.id
                else:
                    others.add(option.plugs[-1])
    return {plug: key for plug, key in found.items() if plug not in others}


def answer_of(chosen: Mapping[str, Option]) -> Answer:
    """What was chosen for a layer, as the one who builds patches takes it."""
    return Answer(chosen={key: option.rated for key, option in chosen.items()}, added={})
