"""Faults injected into sessions that are well: is the true cause named first?"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from prove.report import Tally
from verve.core.assess import assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.causes import causes_of
from verve.core.causes._usual import controls_on
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.kind import Control, ControlValue
from verve.core.network import LineState, is_alive, line_states
from verve.core.pressing import pressed
from verve.core.session import Change, Session, apply_changes

LEAST_DB = 3.0
"""A fault that moves a line by less is none."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One control put where it should not be."""

    line: str
    change: Change

    @property
    def key(self) -> tuple[str, str, str]:
        """What a cause is known by."""
        return self.change.owner, self.change.channel, self.change.name


def _wrong(control: Control) -> Iterator[ControlValue]:
    """Where a slip puts a control, at its usual sizes."""
    match control.name:
        case "pad_db":
            yield from (c for c in control.choices if c)
        case "fader_db":
            yield from (control.minimum, -20.0)
        case "volume_position" | "tone_position":
            yield from (0.0, 0.2)
        case "gain_db":
            value = float(control.value or 0.0)
            yield from (control.clamped(value + by) for by in (-20.0, -8.0, 8.0))
        case "distance_m":
            yield control.clamped(10.0 * float(control.value or 0.0))
        case "angle_deg":
            yield from (150.0, 180.0)
        case "high_pass" | "foam" | "presence" | "phantom" | "battery" | "load":
            yield not control.value
        case "mode":
            yield from (c for c in control.choices if c != control.value)
        case "pan":
            yield from (-1.0, 1.0)
        case _:
            return


def well(number: int) -> Session:
    """A session in which nothing is wrong: the demo or some chains, pressed to the end."""
    rng = random.Random(f"well {number}")
    if rng.random() < 0.2:
        return pressed(demo_session()).session
    session = Session()
    for _ in range(rng.randint(1, 3)):
        try:
            session, _line = add_chain(session, catalogue(), rng.choice(catalogue().chains))
        except EditError:
            continue
    return pressed(session).session


def _peak(state: LineState) -> float | None:
    peak = state.peak_dbfs
    return None if peak is None or peak < -100.0 or not is_alive(state.route) else peak


def _state(session: Session, line: str) -> LineState:
    return next(s for s in line_states(session.setup) if s.line.id == line)


def faults_of(session: Session) -> Iterator[tuple[Fault, Session]]:
    """Every fault of every line that silences it or moves it by three decibels."""
    for state in line_states(session.setup):
        at_first = _peak(state)
        if at_first is None:
            continue
        for _, control in controls_on(state):
            for value in _wrong(control):
                change = Change(
                    owner=control.owner, channel=control.channel, name=control.name, value=value
                )
                try:
                    broken = apply_changes(session, (change,))
                    there = _peak(_state(broken, state.line.id))
                except (EditError, StopIteration):
                    continue
                if there is None or abs(there - at_first) >= LEAST_DB:
                    yield Fault(line=state.line.id, change=change), broken


def injected(count: int, first: int) -> list[Tally]:
    """So many faults one at a time, and a tenth as many two at a time."""
    tally, missed = Tally("one fault: the true cause first"), Counter[str]()
    two = Tally("two faults: both among the first four")
    number = first
    while tally.tries < count:
        session = well(number)
        rng = random.Random(f"faults {number}")
        number += 1
        if assess(session).stops:
            continue
        found = list(faults_of(session))
        for fault, broken in rng.sample(found, min(8, len(found))):
            keys = [(c.owner, c.channel, c.control) for c in causes_of(broken, fault.line).causes]
            rank = keys.index(fault.key) + 1 if fault.key in keys else 0
            tally.note({0: "not found", 1: "first", 2: "second", 3: "third"}.get(rank, "later"))
            if rank != 1:
                missed[fault.change.name] += 1
            if rank == 0 or rank > 3:
                tally.faults.append(f"session {number - 1}: {fault.change} on {fault.line}")
        if len(found) > 1:
            _two_at_once(two, rng, session, [f for f, _ in found])
    tally.outcomes.update({f"not first: {name}": n for name, n in missed.items()})
    return [tally, two]


def _two_at_once(two: Tally, rng: random.Random, session: Session, found: list[Fault]) -> None:
    line = rng.choice(found).line
    own = {f.key: f for f in found if f.line == line}
    if len(own) < 2:
        return
    pair = rng.sample(list(own.values()), 2)
    try:
        broken = apply_changes(session, tuple(f.change for f in pair))
    except EditError:
        return
    keys = [(c.owner, c.channel, c.control) for c in causes_of(broken, line).causes][:4]
    if all(f.key in keys for f in pair):
        two.note("both")
    else:
        two.fault(f"{pair[0].change} and {pair[1].change} on {line}")
