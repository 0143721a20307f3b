"""Setting every gain, pad, trim and fader for the hardest playing: all positions are compared, the best is taken.

A gain moves everything behind it dB for dB and changes no impedance. So a line is solved once for every
combination of its pads, and all positions of all its gains follow by adding decibels: the whole set of
positions, to half a decibel or to the steps the gear has, is looked at, and the choice is the best there
is. Lines that have a knob in common are set together. Tests compare with assessing every position.

Order of aims: room at every stage; the level target from below; faders at unity; the least
A-weighted noise; pads out; the fewest changes from now. Channel faders leave unity only where room or
the window of the aim are not met otherwise: a fader at unity is what a hand finds again.
"""

from __future__ import annotations

import math
import time
from collections.abc import Mapping, Sequence
from dataclasses import replace

from verve.core.engine import Engine
from verve.core.gain._grid import shared_from
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
    solve,
    task_of,
    with_pads,
)
from verve.core.gain._targets import Window, windows_of
from verve.core.gain._told import TOLERANCE_DB, Optimum, from_the_start, held_by, told_of
from verve.core.network import BusLevel, LineState, Network, line_states, network_of, powered
from verve.core.session import Change, Session, Setup, apply_changes, routes

LIMIT_S = 5.0
"""After so long what is found is told, with how far it may be from the best."""
_MOST_ROUNDS = 6
_LEAST_POWER = 0.01
"""Of what a bus may carry, this share is left to be set where lines that are left alone fill it already."""


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
    low, high = target.lowest_dbfs - TOLERANCE_DB, target.highest_dbfs + TOLERANCE_DB
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
        elif (state.line.level_target or setup.level_target) == "meter":
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
    asked for. Where lines meet in a mixer each brings its noise to the others, and is only then on the bus when
    its fader is up; a stage that is driven holds what passes it: there it is repeated from what was found until
    nothing changes. `limit_s` is how long it may
    take before it compares fewer positions. `network` is that of the session, where it is known already.
    """
    deadline_s = time.monotonic() + limit_s
    engine = engine or Engine()
    network = network or network_of(session.setup, engine)
    first = _once(session, lines, deadline_s, engine, network)
    found, after, there = {one.line: one for one in first}, session, network
    turned: dict[tuple[str, str, str], Change] = {}
    asked: set[str] = set()
    for _ in range(_MOST_ROUNDS):
        asked |= _meeting(found, there)
        changes = all_changes([one for key, one in found.items() if key in asked])
        if not changes or (turned and time.monotonic() > deadline_s):
            # In a hurry it would find something else, and worse, than what it has.
            break
        turned |= {(c.owner, c.channel, c.name): c for c in changes}
        after = apply_changes(after, changes)
        there = network_of(after.setup, engine)
        again = _once(after, tuple(asked), deadline_s, engine, there)
        found |= {one.line: one for one in again if one.line in found}
    if not turned:
        return first
    names = {line.id: line.name for line in session.setup.lines}
    states = {state.line.id: state for state in network.lines}
    return tuple(
        from_the_start(found[one.line], one, states[one.line], turned, names)
        if one.line in asked
        else one
        for one in first
    )


def _meeting(found: Mapping[str, Optimum], network: Network) -> set[str]:
    """Lines whose noise or share may be another one once everything is set.

    Lines that are alone on their buses bring nothing to each other, unless a fader that was down goes up. A stage
    that is driven on purpose holds the peak: what stands before it no longer moves what follows dB for dB.
    """
    again = {key for bus in network.buses if len(bus.lines) > 1 for key in bus.lines}
    again |= {
        state.line.id
        for state in network.lines
        if any(step.figures.is_driven(step) for step in state.route.steps)
    }
    again |= {
        key
        for key, one in found.items()
        if any(change.name == "fader_db" for change in one.changes)
    }
    # What is set together is found again together.
    again |= {other for key in again & found.keys() for other in found[key].together}
    return again & found.keys()


def _once(
    session: Session,
    lines: Sequence[str] | None,
    deadline_s: float,
    engine: Engine,
    network: Network,
) -> tuple[Optimum, ...]:
    """One round: every line with what the others bring as they stand now."""
    setup = session.setup
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
        state.line.id: told_of(
            state,
            solutions[state.line.id],
            targets[state.line.id],
            shares.get(state.line.id, 0.0),
            {s.line.id: s.line.name for s in wanted if s.line.id in together[state.line.id]},
        )
        for state in wanted
    }
    told = {key: replace(one, held_by=held_by(one, told)) for key, one in told.items()}
    told = _together_at_buses(session, told, shares, engine)
    return tuple(told[state.line.id] for state in wanted if lines is None or state.line.id in lines)


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
