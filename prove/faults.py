"""Faults injected into sessions that are well: is the true cause named first?"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from prove.report import Tally
from verve.core.assess import assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.causes import Causes, causes_of, measured_causes
from verve.core.causes._usual import controls_on
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.kind import Control, ControlValue
from verve.core.network import LineState, is_alive, line_states, octaves_dbu, tilt
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


def _is_heard(state: LineState) -> bool:
    peak = state.peak_dbfs
    return peak is not None and peak >= -100.0 and is_alive(state.route)


def _apart_db(one: LineState, other: LineState) -> float:
    """How far two states of a line are apart: in level, above the noise, or in one octave against the rest."""
    a, b = one.levels, other.levels
    if not (_is_heard(one) and _is_heard(other)) or a is None or b is None:
        return 0.0 if _is_heard(one) == _is_heard(other) else 100.0
    colour = tilt(octaves_dbu(one), octaves_dbu(other))
    return max(
        abs((a.peak_dbfs or 0.0) - (b.peak_dbfs or 0.0)),
        abs((a.snr_db or 0.0) - (b.snr_db or 0.0)),
        0.0 if colour is None else abs(colour.by_db),
    )


def _state(session: Session, line: str) -> LineState:
    return next(s for s in line_states(session.setup) if s.line.id == line)


def faults_of(session: Session) -> Iterator[tuple[Fault, Session]]:
    """Every fault of every line that silences it, or moves level, noise or colour by three decibels."""
    for state in line_states(session.setup):
        if not _is_heard(state):
            continue
        for _, control in controls_on(state):
            for value in _wrong(control):
                change = Change(
                    owner=control.owner, channel=control.channel, name=control.name, value=value
                )
                try:
                    broken = apply_changes(session, (change,))
                    there = _state(broken, state.line.id)
                except (EditError, StopIteration):
                    continue
                if _apart_db(state, there) >= LEAST_DB:
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
    found_now = causes_of(broken, line)
    keys = [(c.owner, c.channel, c.control) for c in found_now.causes][:4]
    if all(f.key in keys for f in pair):
        two.note("both")
    elif _explains_all(found_now) and keys[0] in {f.key for f in pair}:
        # A gain that by chance is the right one for the other thing as usual is no fault beside it.
        two.note("one explains all")
    else:
        two.fault(f"{pair[0].change} and {pair[1].change} on {line}")


def _explains_all(found: Causes) -> bool:
    return bool(found.causes) and found.off_db - found.causes[0].explains_db < 0.5


def _hidden(session: Session, line: str) -> Iterator[tuple[str, float]]:
    """What is so in truth and stands in no session: a cable, the track's input; each with the peak it makes."""
    states = {s.line.id: s for s in line_states(session.setup)}
    state = states[line]
    peak, recorder = state.peak_dbfs or 0.0, state.route.recorder
    for step in state.route.steps:
        if step.link.cable is not None:
            yield step.link.id, _SILENT_DBFS
            if step.link.cable.balanced:
                yield step.link.id, peak - 6.0
    for other in states.values():
        there = other.route.recorder
        if recorder is None or there is None or other.line.id == line or not _is_heard(other):
            continue
        if there.owner == recorder.owner and abs((other.peak_dbfs or 0.0) - peak) >= LEAST_DB:
            yield "recorder", other.peak_dbfs or 0.0


_SILENT_DBFS = -110.0


def measured(count: int, first: int) -> Tally:
    """Faults that only a measurement shows: a broken cable, the track on another input.

    Causes that make the same peak to half a decibel cannot be told apart by it and count as one.
    """
    tally, number = Tally("hidden faults, from a measured peak"), first
    while tally.tries < count:
        session = well(number)
        rng = random.Random(f"hidden {number}")
        number += 1
        lines = [s.line.id for s in line_states(session.setup) if _is_heard(s)]
        if not lines:
            continue
        line = rng.choice(lines)
        found = list(_hidden(session, line))
        if not found:
            continue
        owner, peak = rng.choice(found)
        causes = measured_causes(session, line, peak).causes
        at = next((n for n, c in enumerate(causes) if owner in {c.owner, c.link}), None)
        if at is None:
            tally.fault(f"session {number - 1}: {owner} at {peak:.1f} dBFS on {line}: not found")
            continue
        classes = {round(2.0 * c.explains_db) for c in causes[:at]}
        rank = len(classes - {round(2.0 * causes[at].explains_db)}) + 1
        alike = sum(abs(c.explains_db - causes[at].explains_db) < 0.5 for c in causes)
        tally.outcomes["causes alike"] += alike
        if rank > 3:
            tally.fault(f"session {number - 1}: {owner} at {peak:.1f} dBFS on {line}: rank {rank}")
        else:
            tally.note({1: "first", 2: "second", 3: "third"}[rank])
    return tally
