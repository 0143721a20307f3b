"""Setting every gain, pad, trim and fader for the hardest playing: all positions are compared, the best is taken.

A gain moves everything behind it dB for dB and changes no impedance. So a line is solved once for every
combination of its pads, and all positions of all its gains follow by adding decibels: the whole set of
positions, to half a decibel or to the steps the gear has, is looked at, and the choice is the best there
is. Lines that have a knob in common are set together. Tests compare with assessing every position.

Order of aims: room at every stage; the aim of the school from below; faders at unity; the least
A-weighted noise; pads out; the fewest changes from now. Channel faders leave unity only where room or
the window of the aim are not met otherwise: a fader at unity is what a hand finds again.
"""

from __future__ import annotations

import math
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from verve.core.engine import Engine
from verve.core.gain._dial import dial_words
from verve.core.gain._grid import ceilings, shared_from
from verve.core.gain._positions import (
    Settable,
    groups_of,
    in_common,
    link_pairs,
    settable,
    together_with,
)
from verve.core.gain._solve import (
    Solution,
    Task,
    is_better,
    is_solvable,
    moved,
    solve,
    task_of,
    with_pads,
)
from verve.core.gain._targets import MARGIN_DB, Window, windows_of
from verve.core.kind import control_text
from verve.core.network import BusLevel, LineState, Network, line_states, network_of, powered
from verve.core.session import Change, Session, Setup, apply_changes, routes

LIMIT_S = 5.0
"""After so long what is found is told, with how far it may be from the best."""
_TIGHT_DB = MARGIN_DB + 0.5
_TOLERANCE_DB = 0.05
_LEAST_POWER = 0.01
"""Of what a bus may carry, this share is left to be set where lines that are left alone fill it already."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """A ceiling on the way with the room that is left to it at the hardest playing."""

    stage: str
    index: int
    headroom_db: float
    before_gain: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Optimum:
    """The best settings of one line: what changes, and what it gives.

    unit: dBFS for peak and noise (A-weighted); `peak_before` and `noise_before` are those of now.
    `together` are the lines that were set with it, since they have a knob in common or are a pair;
    `held_by` the one of them that keeps the common knob where it is. Nothing else can be further above
    the noise than by `within_db`: 0 where every position was compared. `share_db` is how far below the aim
    it goes for the sake of the other lines of its bus. `has_more`: a gain that may be set is not at its end.
    `first_share` is the part of the noise that its first stage has, the room's where it begins in the air.
    """

    line: str
    changes: tuple[Change, ...]
    words: tuple[str, ...]
    peak_dbfs: float
    noise_dbfs_a: float
    peak_before_dbfs: float | None
    noise_before_dbfs_a: float | None
    target: Window
    limits: tuple[Limit, ...]
    together: tuple[str, ...] = ()
    held_by: str | None = None
    within_db: float = 0.0
    share_db: float = 0.0
    has_more: bool = False
    first_share: float = 0.0

    @property
    def with_others_dbfs(self) -> float:
        """Its peak with its share for the other lines of its bus."""
        return self.peak_dbfs + self.share_db

    @property
    def is_above(self) -> bool:
        """Whether it arrives above the window of its aim."""
        return self.with_others_dbfs > self.target.highest_dbfs + _TOLERANCE_DB

    @property
    def is_below(self) -> bool:
        """Whether it arrives below the window of its aim."""
        return self.with_others_dbfs < self.target.lowest_dbfs - _TOLERANCE_DB

    @property
    def reaches_target(self) -> bool:
        """Whether it arrives within the window of its aim."""
        return not self.is_above and not self.is_below

    @property
    def binds(self) -> Limit | None:
        """The tightest ceiling, if it leaves no more than the margin."""
        tight = [limit for limit in self.limits if limit.headroom_db < _TIGHT_DB]
        return min(tight, key=lambda limit: limit.headroom_db, default=None)


def _shares(
    states: Sequence[LineState], buses: Sequence[BusLevel], targets: Mapping[str, Window]
) -> Mapping[str, float]:
    """How far below the aim each line goes so that all lines of one bus together reach it.

    source: derivation, independent signals add as powers: n equal ones are 10·log₁₀(n) above one; what
    lines bring that are left alone is taken off before
    """
    found: dict[str, float] = {}
    by_id = {state.line.id: state for state in states}
    for bus in buses:
        lines = [by_id[line_id] for line_id in bus.lines if line_id in by_id]
        free = [state.line.id for state in lines if not state.line.is_fixed]
        if len(lines) < 2 or bus.recorder_dbfs is None:
            continue
        for line_id in free:
            aim = targets[line_id].target_dbfs
            taken = sum(
                10.0 ** ((state.peak_dbfs - aim) / 10.0)
                for state in lines
                if state.line.is_fixed and state.peak_dbfs is not None
            )
            share = 10.0 * math.log10(len(free) / max(_LEAST_POWER, 1.0 - taken))
            found[line_id] = max(found.get(line_id, 0.0), share)
    return found


def _is_within(target: Window, peak_dbfs: float) -> bool:
    low, high = target.lowest_dbfs - _TOLERANCE_DB, target.highest_dbfs + _TOLERANCE_DB
    return low <= peak_dbfs <= high


def _settables(
    states: Sequence[LineState], setup: Setup, *, free_faders: bool
) -> dict[str, Settable]:
    """What may be set on every line; what a line has that is left alone stays where it is for all."""
    held: set[str] = set()
    for state in states:
        item = settable(state)
        if state.line.is_fixed:
            held |= item.keys()
        elif (state.line.school or setup.school) == "meter":
            # The aim is what the mixer's meter shows: what stands behind it would only move the aim.
            meets = shared_from(state)
            held |= {t.key for t in item.turns if t.at > meets}
    frozen = frozenset(held)
    found = {s.line.id: settable(s, frozen, free_faders=free_faders) for s in states}
    return in_common(link_pairs(states, found))


def optimum(
    session: Session,
    lines: Sequence[str] | None = None,
    *,
    limit_s: float = LIMIT_S,
    engine: Engine | None = None,
    network: Network | None = None,
) -> tuple[Optimum, ...]:
    """The best settings of all lines, or of some; lines that are kept, dead or incomplete are left out.

    Both sides of a pair get equal gains. Lines on one knob are found together, though only some are
    asked for. `limit_s` is how long it may take before it compares fewer positions. `network` is that of the
    session, where it is known already.
    """
    deadline_s = time.monotonic() + limit_s
    engine = engine or Engine()
    setup = session.setup
    network = network or network_of(setup, engine)
    states = [state for state in network.lines if is_solvable(state)]
    if lines is not None:
        # Who has nothing in common with those that are asked for is left out from the beginning.
        groups_now = together_with(states, engine)
        near = {s.line.id for line_id in lines for s in groups_now.get(line_id, ())}
        states = [state for state in states if state.line.id in near]
    found = _settables(states, setup, free_faders=False)
    free = {state.line.id for state in states if not state.line.is_fixed}
    groups = [
        tuple(line_id for line_id in group if line_id in free)
        for group in groups_of(found)
        if free & set(group) and (lines is None or set(group) & set(lines))
    ]
    together = {i: tuple(k for k in group if k != i) for group in groups for i in group}
    wanted = [state for state in states if state.line.id in together]
    targets = windows_of(states, setup)
    shares = _shares(states, network.buses, targets)
    solved = with_pads(session, wanted, found, deadline_s, engine)
    solutions: dict[str, Solution] = {}

    def tasks_of(group: Sequence[str], items: Mapping[str, Settable]) -> dict[str, Task]:
        tasks = {}
        for line_id in group:
            share_db = shares.get(line_id, 0.0)
            target_dbfs = targets[line_id].target_dbfs - share_db
            tasks[line_id] = task_of(
                items[line_id], solved[line_id], target_dbfs=target_dbfs, share_db=share_db
            )
        return tasks

    loose: dict[str, Settable] | None = None
    for group in groups:
        best = solve(tasks_of(group, found), deadline_s)
        score = best[group[0]].score
        is_met = score[0] == 0.0 and all(
            _is_within(targets[i], best[i].peak_dbfs + shares.get(i, 0.0)) for i in group
        )
        if not is_met and any(t.is_fader for i in group for t in found[i].turns):
            loose = loose or _settables(states, setup, free_faders=True)
            other = solve(tasks_of(group, loose), deadline_s)
            if is_better(other[group[0]].score, score):
                best = other
        solutions |= best
    told = {
        state.line.id: _told(
            state,
            solutions[state.line.id],
            targets[state.line.id],
            shares.get(state.line.id, 0.0),
            {s.line.id: s.line.name for s in wanted if s.line.id in together[state.line.id]},
        )
        for state in wanted
    }
    told = {key: replace(one, held_by=_held_by(one, told)) for key, one in told.items()}
    told = _together_at_buses(session, told, shares, engine)
    return tuple(told[state.line.id] for state in wanted if lines is None or state.line.id in lines)


def _told(
    state: LineState,
    best: Solution,
    target: Window,
    share_db: float,
    together: Mapping[str, str],
) -> Optimum:
    changes: list[Change] = []
    words: list[str] = []
    base = best.base
    for step in state.route.steps:
        control = step.controls.get("pad_db")
        if control is None:
            continue
        value = next(
            float(c.value or 0.0)
            for h in base.state.route.steps
            if (c := h.controls.get("pad_db")) is not None
            and (c.owner, c.channel) == (control.owner, control.channel)
        )
        if value != float(control.value or 0.0):
            changes.append(
                Change(owner=control.owner, channel=control.channel, name="pad_db", value=value)
            )
            words.append(f"pad {control_text(control, value)}")
    for turn, place in moved(base.turns, best.places):
        value = round(place, 6)
        c = turn.control
        changes.append(Change(owner=c.owner, channel=c.channel, name=c.name, value=value))
        hour = f", about {dial_words(c, value)}" if c.is_dial else ""
        words.append(f"{c.said} {control_text(c, value)}{hour}")
    if changes and together:
        words.append(f"with {', '.join(together.values())}")
    before = state.levels
    assert before is not None
    peak = best.peak_dbfs
    return Optimum(
        line=state.line.id,
        changes=tuple(changes),
        words=tuple(words),
        peak_dbfs=peak,
        noise_dbfs_a=best.noise_dbfs_a,
        peak_before_dbfs=before.peak_dbfs,
        noise_before_dbfs_a=before.noise_dbfs_a,
        target=target,
        limits=_limits(best, share_db),
        together=tuple(together),
        within_db=best.within_db,
        share_db=share_db,
        has_more=any(
            best.places[t.key] < float(t.positions.max()) - 1e-9
            for t in base.turns
            if not t.is_fader
        ),
        first_share=_first_share(best),
    )


def _first_share(best: Solution) -> float:
    """Part of the noise that comes from the first stage.

    source: derivation, all gains are behind it and move it as they move the peak
    """
    state = best.base.state
    assert state.levels is not None
    assert state.reading is not None
    powers = state.reading.powers.end_noise_a_v2
    now, peak, whole = state.levels.noise_dbfs_a, state.levels.peak_dbfs, sum(powers)
    if now is None or peak is None or not whole or not powers[0]:
        return 0.0
    moved_db = best.peak_dbfs - peak
    first = now + 10.0 * math.log10(powers[0] / whole) + moved_db
    return float(min(1.0, 10.0 ** ((first - best.noise_dbfs_a) / 10.0)))


def _limits(best: Solution, share_db: float) -> tuple[Limit, ...]:
    state = best.base.state
    assert state.staged is not None
    meets = shared_from(state)
    gains = [t for t in best.base.turns if not t.is_fader]
    found = []
    for index, before_gain, now in ceilings(state):
        passed = [t for t in best.base.turns if (t.at < index if before_gain else t.at <= index)]
        part = state.staged.parts[index]
        name = state.route.source.name
        if part.step_index is not None:
            step = state.route.steps[part.step_index]
            name = step.figures.stage_name(step, part.role, step.name)
        room = now - sum(best.places[t.key] - t.now for t in passed)
        found.append(
            Limit(
                stage=name,
                index=index,
                headroom_db=room - (share_db if index >= meets else 0.0),
                before_gain=not any(t.at < index for t in gains),
            )
        )
    return tuple(sorted(found, key=lambda limit: limit.headroom_db))


def _held_by(one: Optimum, told: Mapping[str, Optimum]) -> str | None:
    """The line that keeps a common knob down, where this one stays below its aim."""
    below = one.target.target_dbfs - one.peak_dbfs
    if one.reaches_target or below <= 0.0 or one.binds is not None:
        return None
    others = [told[key] for key in one.together if key in told]
    near = [
        other
        for other in others
        if other.binds is not None or other.target.target_dbfs - other.peak_dbfs < below
    ]
    nearest = min(near, key=lambda o: o.target.target_dbfs - o.peak_dbfs, default=None)
    return None if nearest is None else nearest.line


def _together_at_buses(
    session: Session,
    told: Mapping[str, Optimum],
    shares: Mapping[str, float],
    engine: Engine | None,
) -> dict[str, Optimum]:
    """Where lines meet, the noise of each with what the others bring once all are set."""
    if not any(line_id in shares for line_id in told):
        return dict(told)
    setup: Setup = apply_changes(session, all_changes(tuple(told.values()))).setup
    result = dict(told)
    for state in line_states(setup, engine):
        one = result.get(state.line.id)
        if one is None or state.levels is None or state.line.id not in shares:
            continue
        noise = state.levels.noise_dbfs_a
        if noise is not None:
            result[state.line.id] = replace(one, noise_dbfs_a=noise)
    return result


def all_changes(found: Sequence[Optimum]) -> tuple[Change, ...]:
    """Every change of several lines, each control once."""
    by_key = {(c.owner, c.channel, c.name): c for best in found for c in best.changes}
    return tuple(by_key.values())


def settled(
    session: Session, lines: Sequence[str] | None = None, engine: Engine | None = None
) -> Session:
    """The session with these lines powered, as far as a switch does it, and their gains set."""
    engine = engine or Engine()
    for route in routes(session.setup, engine):
        if lines is None or route.line.id in lines:
            session = powered(session, route)
    return apply_changes(session, all_changes(optimum(session, lines, engine=engine)))


def with_best_gains(session: Session, before: Session) -> Session:
    """The session with the gains set of the lines that were not there before."""
    had = {line.id for line in before.setup.lines}
    lines = tuple(line.id for line in session.setup.lines if line.id not in had)
    return apply_changes(session, all_changes(optimum(session, lines)))
