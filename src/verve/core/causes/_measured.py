"""What would make a line arrive as it was measured: what the session says is not what is."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from verve.core.causes import _words as words
from verve.core.causes._causes import LEAST_DB, OFF_DB, Cause, Causes, cause_of
from verve.core.causes._stand import FLOOR_DBFS, Stand, stand_of, state_of
from verve.core.causes._usual import Candidate, controls_on, setting
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.kind import Control, ControlValue
from verve.core.network import LineState, line_states
from verve.core.session import Change, RouteStep, Session, apply_changes
from verve.core.words import fill

_LOOKED_AT, _TRACK, _CABLE, _SELDOM = range(4)
"""Of causes that explain as much: what a look finds, then the track, a cable to swap, and the rest."""
_FORGOTTEN = {"phantom", "volume_position", "fader_db", "battery"}


def _elsewhere(control: Control) -> Iterator[ControlValue]:
    """Other positions a control may be in without anybody having told the session."""
    if control.kind == "switch":
        yield not control.value
    elif control.kind == "choice":
        yield from (choice for choice in control.choices if choice != control.value)
    elif control.name in {"volume_position", "tone_position"}:
        yield from (0.1, 0.5, 1.0)
    elif control.name == "fader_db":
        yield from (control.minimum, -20.0, -10.0, 0.0)
    elif control.name == "gain_db":
        value = float(control.value or 0.0)
        yield from (control.clamped(value + by) for by in (-20.0, -10.0, -6.0, 6.0, 10.0, 20.0))
    elif control.name == "distance_m":
        value = float(control.value or 0.0)
        yield from (control.clamped(value * by) for by in (0.5, 2.0, 4.0))
    elif control.name == "angle_deg":
        yield from (90.0, 180.0)


def measured_causes(
    session: Session, line_id: str, peak_dbfs: float, engine: Engine | None = None
) -> Causes:
    """What would make a line arrive as it was measured: what the session says is not what is.

    Each control is put where it may be, each cable broken; what comes nearest to the measured peak stands first.
    """
    engine = engine or Engine()
    state = state_of(session, line_id, engine)
    if state is None:
        return Causes(deviations=(), causes=())
    now = stand_of(session, line_id, engine)
    by_db = max(peak_dbfs, FLOOR_DBFS) - now.peak_dbfs
    found: list[tuple[float, int, Cause]] = []
    for name, control in controls_on(state):
        best: tuple[float, Cause] | None = None
        for value in _elsewhere(control):
            change = Change(
                owner=control.owner, channel=control.channel, name=control.name, value=value
            )
            try:
                there = stand_of(apply_changes(session, (change,)), line_id, engine)
            except EditError:
                continue
            would_db = there.peak_dbfs - now.peak_dbfs
            if abs(would_db) < LEAST_DB:
                continue
            one = setting(name, control, value, words.MIGHT_BE, words.TEST_TRUTH)
            misses = abs(would_db - by_db)
            cause = replace(
                cause_of(one, abs(by_db) - misses),
                peak_by_db=would_db,
                noise_by_db=_apart_db(there.noise_dbfs_a, now.noise_dbfs_a),
                is_looked_at=control.name in _FORGOTTEN,
            )
            if best is None or misses < best[0]:
                best = (misses, cause)
        if best is not None:
            found.append((best[0], _usualness(control), best[1]))
    for step in state.route.steps:
        if step.link.cable is None:
            continue
        for says, would_db in _broken(step.link.cable.balanced, now):
            misses = abs(would_db - by_db)
            candidate = Candidate(
                owner=step.owner,
                link=step.link.id,
                says=fill(says, where=step.name),
                test=fill(words.TEST_CABLE, where=step.name),
                put=lambda same, _: same,
            )
            cause = replace(cause_of(candidate, abs(by_db) - misses), peak_by_db=would_db)
            found.append((misses, _CABLE, cause))
    for candidate, would_db in _other_inputs(session, state, now, engine):
        misses = abs(would_db - by_db)
        cause = replace(cause_of(candidate, abs(by_db) - misses), peak_by_db=would_db)
        found.append((misses, _TRACK, cause))
    found = [row for row in found if row[2].explains_db >= LEAST_DB]
    found.sort(key=lambda row: (round(row[0], 1), row[1]))
    way = words.LOUDER if by_db > 0.0 else words.QUIETER
    said = (
        fill(words.MEASURED_OFF, line=state.line.name, by_db=abs(by_db), way=way)
        if abs(by_db) >= OFF_DB
        else fill(words.NOTHING_OFF, line=state.line.name)
    )
    return Causes(deviations=(said,), causes=tuple(cause for _, _, cause in found))


def _apart_db(there: float | None, now: float | None) -> float | None:
    return None if there is None or now is None else there - now


def _usualness(control: Control) -> int:
    return _LOOKED_AT if control.name in _FORGOTTEN else _SELDOM


def _other_inputs(
    session: Session, state: LineState, now: Stand, engine: Engine
) -> Iterator[tuple[Candidate, float]]:
    """The track listens to another input: to another line, or to nothing where inputs are left."""
    recorder = state.route.recorder
    if recorder is None:
        return
    taken = {recorder.in_port}
    for other in line_states(session.setup, engine):
        there = other.route.recorder
        if there is None or there.owner != recorder.owner or there.in_port in taken:
            continue
        taken.add(there.in_port)
        peak = stand_of(session, other.line.id, engine).peak_dbfs
        yield _track(recorder, words.WRONG_INPUT, there.in_port), peak - now.peak_dbfs
    if len(taken) < len(recorder.figures.input_ports()):
        yield _track(recorder, words.NO_INPUT, ""), FLOOR_DBFS - now.peak_dbfs


def _track(recorder: RouteStep, says: str, port: str) -> Candidate:
    own, other = (f"{recorder.name}, {p.removeprefix('in.')}" for p in (recorder.in_port, port))
    return Candidate(
        owner="recorder",
        value=port.removeprefix("in."),
        usual=recorder.in_port.removeprefix("in."),
        says=fill(says, other=other, own=own),
        test=fill(words.TEST_TRACK, own=own),
        put=lambda same, _: same,
    )


def _broken(is_balanced: bool, now: Stand) -> Iterator[tuple[str, float]]:
    """What a broken cable does to a peak: nothing is left, or with one of two wires half of it."""
    yield words.BROKEN_CABLE, FLOOR_DBFS - now.peak_dbfs
    if is_balanced:
        yield words.HALF_CABLE, -6.0
