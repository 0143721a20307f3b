"""The ranking of causes: what put back alone mends most of a deviation stands first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from verve.core.causes import _words as words
from verve.core.causes._usual import (
    Candidate,
    controls_on,
    is_solved,
    long_cables,
    setting,
    usual_value,
)
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.gain import all_changes, optimum
from verve.core.kind import Control, ControlValue
from verve.core.network import LineState, is_alive, line_states
from verve.core.session import Change, Session, apply_changes
from verve.core.words import fill

_SILENCE_DB = 100.0
"""A line that gives nothing counts as so far off."""
_FLOOR_DBFS = -110.0
_NOISE_WEIGHT = 0.25
_OFF_DB = 3.0
"""A deviation smaller than this is none."""
_LEAST_DB = 0.2
_MOST_OF_IT = 0.8


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """One thing that explains a deviation, and how much of it.

    unit: dB; a line that is silent counts as 100 dB off
    """

    owner: str
    channel: str
    control: str
    link: str
    value: object
    usual: object
    explains_db: float
    sentence: str
    test: str
    change: Change | None = None
    """What puts it back; None where a hand must."""
    deed: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Causes:
    """What is off on a line, in sentences, and its causes, the best first."""

    deviations: tuple[str, ...]
    causes: tuple[Cause, ...]
    off_db: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class _Stand:
    """How a line stands: its peak in dBFS, and how far above its noise."""

    peak_dbfs: float
    snr_db: float
    is_silent: bool


def _stand(session: Session, line_id: str, engine: Engine, *, is_powered: bool = False) -> _Stand:
    """With `is_powered` as if everything had the power it needs: a level can be judged without it."""
    state = _state(session, line_id, engine)
    peak = None if state is None else state.peak_dbfs
    levels = None if state is None else state.levels
    if state is None or peak is None or levels is None:
        return _Stand(peak_dbfs=_FLOOR_DBFS, snr_db=0.0, is_silent=True)
    if not is_powered and not is_alive(state.route):
        return _Stand(peak_dbfs=_FLOOR_DBFS, snr_db=0.0, is_silent=True)
    return _Stand(
        peak_dbfs=max(peak, _FLOOR_DBFS), snr_db=levels.snr_db or 0.0, is_silent=peak < _FLOOR_DBFS
    )


def _state(session: Session, line_id: str, engine: Engine) -> LineState | None:
    return next((s for s in line_states(session.setup, engine) if s.line.id == line_id), None)


def _off_db(stand: _Stand, usual: _Stand) -> float:
    """How far a line is from how it would stand with everything as usual."""
    if stand.is_silent != usual.is_silent:
        return _SILENCE_DB
    level = min(abs(stand.peak_dbfs - usual.peak_dbfs), _SILENCE_DB)
    return level + _NOISE_WEIGHT * max(0.0, usual.snr_db - stand.snr_db)


def _candidates(session: Session, state: LineState) -> list[Candidate]:
    """Everything but the gains that is not as usual."""
    found = []
    for name, control in controls_on(state):
        if is_solved(control, state):
            continue
        usual = usual_value(control, state, session)
        if usual != control.value:
            found.append(setting(name, control, usual, words.SET_OTHERWISE))
    return [*found, *long_cables(state)]


def _all_usual(session: Session, candidates: list[Candidate]) -> Session:
    for candidate in candidates:
        try:
            session = candidate.put(session, True)
        except EditError:
            # One switch has taken another one's place away: that one is as usual without it.
            continue
    return session


def _gains(
    state: LineState, usual: Session, line_id: str, engine: Engine
) -> tuple[Session, list[Candidate]]:
    """The usual session with the gains that it needs, and the gains that stand otherwise now."""
    solved = optimum(usual, (line_id,), engine=engine)
    changes = all_changes(solved)
    ready = apply_changes(usual, changes)
    wanted: dict[tuple[str, str, str], ControlValue] = {
        (c.owner, c.channel, c.name): c.value for c in changes
    }
    after = _state(ready, line_id, engine)
    if after is not None:
        for _, control in controls_on(after):
            wanted.setdefault((control.owner, control.channel, control.name), control.value)
    found = []
    for name, control in controls_on(state):
        right = wanted.get((control.owner, control.channel, control.name), control.value)
        if is_solved(control, state) and right != control.value:
            found.append(setting(name, control, right, words.GAIN_OTHERWISE))
    return ready, found


def _put(session: Session, candidate: Candidate, *, is_usual: bool) -> Session | None:
    try:
        return candidate.put(session, is_usual)
    except EditError:
        return None


def causes_of(
    session: Session, line_id: str, engine: Engine | None = None, *, is_powered: bool = False
) -> Causes:
    """Why a line is not as it would be with everything as usual and its gains set for that.

    Each thing off its usual position is put back alone. What it mends counts, and, where two things are off
    and neither mends alone, what it would spoil alone. With `is_powered` what is off is looked at as if
    everything had the power it needs.
    """
    engine = engine or Engine()
    state = _state(session, line_id, engine)
    if state is None:
        return Causes(deviations=(), causes=())

    def stand(there: Session) -> _Stand:
        return _stand(there, line_id, engine, is_powered=is_powered)

    candidates = _candidates(session, state)
    usual, gains = _gains(state, _all_usual(session, candidates), line_id, engine)
    at_usual, now = stand(usual), stand(session)
    off_db = _off_db(now, at_usual)
    found: list[tuple[float, bool, Cause]] = []
    for candidate in (*candidates, *gains):
        back = _put(session, candidate, is_usual=True)
        away = _put(usual, candidate, is_usual=False)
        mends = 0.0 if back is None else off_db - _off_db(stand(back), at_usual)
        spoils = 0.0 if away is None else _off_db(stand(away), at_usual)
        if max(mends, spoils) < _LEAST_DB:
            continue
        found.append((mends + spoils, candidate in gains, _cause(candidate, mends)))
    # Of equals the setting before the gain: a gain is turned for what the rest does.
    found.sort(key=lambda row: (-round(row[0], 1), row[1]))
    return Causes(
        deviations=tuple(_deviations(state, now, at_usual)),
        causes=tuple(cause for _, _, cause in found),
        off_db=off_db,
    )


def _cause(candidate: Candidate, explains_db: float) -> Cause:
    return Cause(
        owner=candidate.owner,
        channel=candidate.channel,
        control=candidate.control,
        link=candidate.link,
        value=candidate.value,
        usual=candidate.usual,
        explains_db=round(explains_db, 2),
        sentence=candidate.says,
        test=candidate.test,
        change=candidate.change,
        deed=candidate.deed,
    )


def slip_of(session: Session, state: LineState, engine: Engine) -> Cause | None:
    """The one setting, other than a gain, that explains by itself why a line is off; None for none."""
    if not _candidates(session, state):
        # Nothing stands unusually: then it is the gains, and nothing has to be worked out.
        return None
    found = causes_of(session, state.line.id, engine, is_powered=True)
    first = next(iter(found.causes), None)
    if first is None or first.change is None or first.change.name == "gain_db":
        return None
    explains = first.explains_db >= max(_OFF_DB, _MOST_OF_IT * found.off_db)
    return first if explains else None


def _deviations(state: LineState, now: _Stand, usual: _Stand) -> Iterator[str]:
    line = state.line.name
    if now.is_silent and not usual.is_silent:
        yield fill(words.SILENT, line=line)
        return
    apart = now.peak_dbfs - usual.peak_dbfs
    if abs(apart) >= _OFF_DB:
        way = words.LOUDER if apart > 0.0 else words.QUIETER
        yield fill(words.LEVEL_OFF, line=line, by_db=abs(apart), way=way)
    if usual.snr_db - now.snr_db >= _OFF_DB:
        yield fill(words.NOISE_OFF, line=line, by_db=usual.snr_db - now.snr_db)


# ── from what was measured ────────────────────────────────────────────────────────────────────
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
    state = _state(session, line_id, engine)
    if state is None:
        return Causes(deviations=(), causes=())
    now = _stand(session, line_id, engine)
    by_db = max(peak_dbfs, _FLOOR_DBFS) - now.peak_dbfs
    found: list[tuple[float, Cause]] = []
    for name, control in controls_on(state):
        best: tuple[float, Cause] | None = None
        for value in _elsewhere(control):
            change = Change(
                owner=control.owner, channel=control.channel, name=control.name, value=value
            )
            try:
                there = _stand(apply_changes(session, (change,)), line_id, engine)
            except EditError:
                continue
            would_db = there.peak_dbfs - now.peak_dbfs
            if abs(would_db) < _LEAST_DB:
                continue
            one = setting(name, control, value, words.MIGHT_BE, words.TEST_TRUTH)
            misses = abs(would_db - by_db)
            cause = _cause(one, abs(by_db) - misses)
            if best is None or misses < best[0]:
                best = (misses, cause)
        if best is not None:
            found.append(best)
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
            found.append((misses, _cause(candidate, abs(by_db) - misses)))
    found = [row for row in found if row[1].explains_db >= _LEAST_DB]
    found.sort(key=lambda row: round(row[0], 1))
    way = words.LOUDER if by_db > 0.0 else words.QUIETER
    said = (
        fill(words.MEASURED_OFF, line=state.line.name, by_db=abs(by_db), way=way)
        if abs(by_db) >= _OFF_DB
        else fill(words.NOTHING_OFF, line=state.line.name)
    )
    return Causes(deviations=(said,), causes=tuple(cause for _, cause in found))


def _broken(is_balanced: bool, now: _Stand) -> Iterator[tuple[str, float]]:
    """What a broken cable does to a peak: nothing is left, or with one of two wires half of it."""
    yield words.BROKEN_CABLE, _FLOOR_DBFS - now.peak_dbfs
    if is_balanced:
        yield words.HALF_CABLE, -6.0
