"""Setting lines that have a knob in common together: all their positions compared, the best taken.

Lines without a common knob are sets of their own, and a set's best is found by itself: scores add up
over lines and are compared in one order.
"""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from verve.core.engine import Engine
from verve.core.gain._grid import Base, best_snr_db, lexmin, meshed, outcome, scores, thinned
from verve.core.gain._positions import GainKnob, Pad, Settable, settable
from verve.core.gain._single import best_of, free_knobs
from verve.core.network import LineState, line_states
from verve.core.session import Change, Session, apply_changes
from verve.core.units import FloatArray, IntArray

_MOST_PADS = 64
"""Combinations of pads of one line; six pads in a row."""
_MOST_POSITIONS = 400_000
"""Of one line with all combinations of its pads: some tenths of a second, and some tens of megabytes."""
_HURRIED_POSITIONS = 2_000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Padded:
    """A line solved with one combination of its pads, by key."""

    state: LineState
    pads: Mapping[str, float]


def is_solvable(state: LineState) -> bool:
    """Whether a line is whole and comes to a level."""
    return (
        state.staged is not None
        and state.reading is not None
        and state.levels is not None
        and state.levels.peak_dbfs is not None
        and state.route.is_complete
    )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Task:
    """What is asked of one line: its base for every combination of pads, the aim, its share of a bus.

    unit: dBFS, dB; `is_cut` where time or number kept combinations of pads out
    """

    bases: tuple[Base, ...]
    target_dbfs: float
    share_db: float
    is_cut: bool = False


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Solution:
    """The best of one line: its base, where every knob of it stands, and how good that is.

    `score` is that of its whole set of lines. `within_db`: nothing else can be further above the noise
    than by this; 0 where every position was compared.
    """

    base: Base
    places: Mapping[str, float]
    peak_dbfs: float
    noise_dbfs_a: float
    score: tuple[float, ...]
    within_db: float


def pad_choices(pads: Sequence[Pad]) -> list[dict[str, float]]:
    """Every combination of a line's pads by key: those of now, all out, then by the fewest changes."""
    by_key = {pad.key: pad for pad in pads}
    combinations = itertools.product(*(pad.choices for pad in by_key.values()))
    found = [dict(zip(by_key, values, strict=True)) for values in combinations]

    def order(chosen: Mapping[str, float]) -> tuple[bool, bool, int]:
        changes = sum(chosen[key] != pad.now for key, pad in by_key.items())
        return changes > 0, sum(chosen.values()) > 0.0, changes

    return sorted(found, key=order)


def _has(state: LineState, item: Settable, chosen: Mapping[str, float]) -> bool:
    """Whether a state's pads stand as chosen."""
    now = {
        (c.owner, c.channel): float(c.value or 0.0)
        for step in state.route.steps
        if (c := step.controls.get("pad_db")) is not None
    }
    return all(now.get((p.control.owner, p.control.channel)) == chosen[p.key] for p in item.pads)


def _pad_changes(item: Settable, chosen: Mapping[str, float]) -> list[Change]:
    return [
        Change(
            owner=p.control.owner,
            channel=p.control.channel,
            name=p.control.name,
            value=chosen[p.key],
        )
        for p in item.pads
        if chosen[p.key] != p.now
    ]


def task_of(
    item: Settable, solved: Sequence[Padded], *, target_dbfs: float, share_db: float
) -> Task:
    """What is asked of a line that may be set so, and was solved with these pads."""
    found = []
    for padded in solved:
        # A pad may be a stage of its own: where the gains act is read from this very state.
        fresh = settable(padded.state).turns
        turns = tuple(replace(t, at=f.at) for t, f in zip(item.turns, fresh, strict=True))
        found.append(Base(state=padded.state, turns=turns, pads=padded.pads))
    return Task(
        bases=tuple(found),
        target_dbfs=target_dbfs,
        share_db=share_db,
        is_cut=len(solved) < len(pad_choices(item.pads)),
    )


def with_pads(
    session: Session,
    states: Sequence[LineState],
    found: Mapping[str, Settable],
    deadline_s: float,
    engine: Engine | None = None,
) -> dict[str, list[Padded]]:
    """Every line with every combination of its pads, solved together: the first of all, the second …

    After the deadline (of `time.monotonic`) no more are solved than those that stand now.
    """
    choices = {s.line.id: pad_choices(found[s.line.id].pads) for s in states}
    now = {state.line.id: state for state in states}
    solved: dict[str, list[Padded]] = {line_id: [] for line_id in choices}
    most = min(_MOST_PADS, max((len(c) for c in choices.values()), default=0))
    for number in range(most):
        if number and time.monotonic() > deadline_s:
            break
        wanted = {key: pads[number] for key, pads in choices.items() if number < len(pads)}
        for line_id, state in _padded(session, now, found, wanted, engine).items():
            if is_solvable(state):
                solved[line_id].append(Padded(state=state, pads=wanted[line_id]))
    return solved


def _padded(
    session: Session,
    now: Mapping[str, LineState],
    found: Mapping[str, Settable],
    wanted: Mapping[str, Mapping[str, float]],
    engine: Engine | None,
) -> dict[str, LineState]:
    """Lines with their pads as wanted; where lines want one switch differently, one after the other."""
    result = {key: now[key] for key, chosen in wanted.items() if _has(now[key], found[key], chosen)}
    rest = [key for key in wanted if key not in result]
    while rest:
        changed = session
        for key in rest:
            changed = apply_changes(changed, _pad_changes(found[key], wanted[key]))
        ready = {s.line.id: s for s in line_states(changed.setup, engine)}
        good = [key for key in rest if _has(ready[key], found[key], wanted[key])]
        result |= {key: ready[key] for key in good}
        # The last of them always has what it wants, so this comes to an end.
        rest = [key for key in rest if key not in good]
    return result


def solve(tasks: Mapping[str, Task], deadline_s: float) -> dict[str, Solution]:
    """The best positions of lines that are set together.

    shape of the search: (positions of what they share) × (positions of its own), for every line
    """
    if len(tasks) == 1:
        ((line_id, task),) = tasks.items()
        if all(len(free_knobs(base)) < 2 for base in task.bases):
            return {line_id: _solve_single(task)}
    turn_users: dict[str, set[str]] = {}
    pad_users: dict[str, set[str]] = {}
    axes: dict[str, FloatArray] = {}
    for line_id, task in tasks.items():
        for turn in task.bases[0].turns:
            turn_users.setdefault(turn.key, set()).add(line_id)
            axes[turn.key] = turn.positions
        for key in task.bases[0].pads:
            pad_users.setdefault(key, set()).add(line_id)
    shared = {k: axes[k] for k, users in turn_users.items() if len(users) > 1 and axes[k].size > 1}
    shared_pads = [key for key, users in pad_users.items() if len(users) > 1]
    own_size = max(_own_size(task, shared) for task in tasks.values())
    few = thinned(shared, max(1, _most(deadline_s) // min(own_size, 200)))
    common = {key: axis[:, None] for key, axis in meshed(few).items()} if few else {}
    best: tuple[list[float], dict[str, tuple[Base, dict[str, float]]]] | None = None
    is_thinned = any(few[key].size < axis.size for key, axis in shared.items())
    together = _shared_pads(tasks, shared_pads)
    for wanted in together:
        rows: list[FloatArray] | None = None
        chosen: dict[str, _Rows] = {}
        for line_id, task in tasks.items():
            fit = [b for b in task.bases if all(b.pads.get(k, v) == v for k, v in wanted.items())]
            if not fit:
                break
            chosen[line_id] = _rows(fit, task, shared, common, _most(deadline_s) // len(together))
            is_thinned |= chosen[line_id].is_thinned
            mine = chosen[line_id].components
            rows = mine if rows is None else [a + b for a, b in zip(rows, mine, strict=True)]
        else:
            assert rows is not None
            row = int(lexmin([component[None, :] for component in rows])[0])
            score = [float(component[row]) for component in rows]
            if best is None or score < best[0]:
                best = score, {key: found.at(row) for key, found in chosen.items()}
    assert best is not None
    is_thinned |= any(task.is_cut for task in tasks.values())
    return {
        line_id: _solution(tasks[line_id], base, places, tuple(best[0]), axes, is_thinned)
        for line_id, (base, places) in best[1].items()
    }


def _solve_single(task: Task) -> Solution:
    """A line that is alone and has one gain to be set, in closed form for each combination of its pads."""
    found = [(best_of(base, task.target_dbfs, task.share_db), base) for base in task.bases]
    best, base = min(found, key=lambda item: item[0].score)
    within = 0.0
    if task.is_cut:
        highest = {knob.key: float(knob.positions.max()) for knob in base.turns}
        bound = max(best_snr_db(b, highest) + sum(b.pads.values()) for b in task.bases)
        within = max(0.0, bound - (best.peak_dbfs - best.noise_dbfs_a))
    return Solution(
        base=base,
        places=best.places,
        peak_dbfs=best.peak_dbfs,
        noise_dbfs_a=best.noise_dbfs_a,
        score=best.score,
        within_db=within,
    )


def _most(deadline_s: float) -> int:
    return _MOST_POSITIONS if time.monotonic() <= deadline_s else _HURRIED_POSITIONS


def _own_size(task: Task, shared: Mapping[str, FloatArray]) -> int:
    """So many positions has a line for each of what it shares."""
    own = [t.positions.size for t in task.bases[0].turns if t.key not in shared]
    return math.prod(own) * len(task.bases)


def _shared_pads(tasks: Mapping[str, Task], keys: Sequence[str]) -> list[dict[str, float]]:
    """Positions of shared pads that were solved, each once."""
    found: dict[tuple[float, ...], dict[str, float]] = {}
    options: dict[str, list[float]] = {key: [] for key in keys}
    for task in tasks.values():
        for base in task.bases:
            for key in keys:
                if key in base.pads and base.pads[key] not in options[key]:
                    options[key].append(base.pads[key])
    for values in itertools.product(*options.values()):
        found[values] = dict(zip(keys, values, strict=True))
    return list(found.values())


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Rows:
    """For every position of what is shared the best of a line's own, over all its bases.

    shape: components (n_shared,) each
    """

    components: list[FloatArray]
    base_at: IntArray
    own_at: IntArray
    bases: Sequence[Base]
    own: Mapping[str, FloatArray]
    common: Mapping[str, FloatArray]
    fixed: Mapping[str, float]
    is_thinned: bool

    def at(self, row: int) -> tuple[Base, dict[str, float]]:
        base = self.bases[int(self.base_at[row])]
        column = int(self.own_at[row])
        places = dict(self.fixed)
        places |= {key: float(axis[0, column]) for key, axis in self.own.items()}
        places |= {key: float(axis[row, 0]) for key, axis in self.common.items()}
        return base, {turn.key: places[turn.key] for turn in base.turns}


def _rows(
    fit: Sequence[Base],
    task: Task,
    shared: Mapping[str, FloatArray],
    common: Mapping[str, FloatArray],
    most: int,
) -> _Rows:
    turns = {turn.key: turn for turn in fit[0].turns}
    fixed = {k: float(t.positions[0]) for k, t in turns.items() if t.positions.size == 1}
    axes = {k: t.positions for k, t in turns.items() if k not in shared and k not in fixed}
    n_shared = max((axis.shape[0] for axis in common.values()), default=1)
    few = thinned(axes, max(1, most // (n_shared * len(fit))))
    own = {key: axis[None, :] for key, axis in meshed(few).items()} if few else {}
    positions = {**{k: np.array([[v]]) for k, v in fixed.items()}, **own, **common}
    columns = max((axis.shape[1] for axis in own.values()), default=1)
    found = []
    for base in fit:
        parts = scores(base, positions, task.target_dbfs, task.share_db)
        found.append([np.broadcast_to(part, (n_shared, columns)) for part in parts])
    together = [np.concatenate(parts, axis=1) for parts in zip(*found, strict=True)]
    at = lexmin(together)
    index = np.arange(n_shared)
    return _Rows(
        components=[component[index, at] for component in together],
        base_at=at // columns,
        own_at=at % columns,
        bases=fit,
        own=own,
        common=common,
        fixed=fixed,
        is_thinned=any(few[key].size < axis.size for key, axis in axes.items()),
    )


def _solution(
    task: Task,
    base: Base,
    places: Mapping[str, float],
    score: tuple[float, ...],
    axes: Mapping[str, FloatArray],
    is_thinned: bool,
) -> Solution:
    found = outcome(base, {k: np.array([[v]]) for k, v in places.items()}, task.share_db)
    peak, noise = float(found.peak_dbfs[0, 0]), float(found.noise_dbfs_a[0, 0])
    within = 0.0
    if is_thinned:
        highest = {key: float(axis.max()) for key, axis in axes.items()}
        # Taking a pad out betters it by no more than what the pad takes away.
        bound = max(best_snr_db(b, highest) + sum(b.pads.values()) for b in task.bases)
        within = max(0.0, bound - (peak - noise))
    return Solution(
        base=base,
        places=places,
        peak_dbfs=peak,
        noise_dbfs_a=noise,
        score=score,
        within_db=within,
    )


def is_better(score: Sequence[float], than: Sequence[float]) -> bool:
    """Whether room and aim are better met: what a fader may leave unity for."""
    return tuple(score[:3]) < tuple(than[:3])


def moved(turns: Sequence[GainKnob], places: Mapping[str, float]) -> list[tuple[GainKnob, float]]:
    """Gains that do not stay where they are, with where they go."""
    return [(t, places[t.key]) for t in turns if abs(places[t.key] - t.now) > 1e-9]
