"""The ranking of causes: what put back alone mends most of a deviation stands first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from verve.core.causes import _words as words
from verve.core.causes._stand import Stand, off_db, stand_of, state_of
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
from verve.core.kind import ControlValue
from verve.core.network import LineState, tilt
from verve.core.session import Change, Session, apply_changes
from verve.core.words import fill

OFF_DB = 3.0
"""A deviation smaller than this is none."""
LEAST_DB = 0.2
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
    peak_by_db: float | None = None
    """What it would do to the peak, where it was worked out from a measured one."""
    noise_by_db: float | None = None
    """What it would do to the noise; None where there would be none to compare."""
    is_looked_at: bool = False
    """Whether it is one of those that are forgotten, and that a look finds."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Causes:
    """What is off on a line, in sentences, and its causes, the best first."""

    deviations: tuple[str, ...]
    causes: tuple[Cause, ...]
    off_db: float = 0.0


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
    after = state_of(ready, line_id, engine)
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
    state = state_of(session, line_id, engine)
    if state is None:
        return Causes(deviations=(), causes=())

    def stand(there: Session) -> Stand:
        return stand_of(there, line_id, engine, is_powered=is_powered)

    candidates = _candidates(session, state)
    at_home = _all_usual(session, candidates)
    # A channel panned into another track leads elsewhere: what stands where the line belongs counts as well.
    there = state_of(at_home, line_id, engine) or state
    known = {(one.owner, one.channel, one.control, one.link) for one in candidates}
    more = [
        one
        for one in _candidates(at_home, there)
        if (one.owner, one.channel, one.control, one.link) not in known
    ]
    candidates += more
    usual, gains = _gains(there, _all_usual(at_home, more), line_id, engine)
    # A battery takes the place of phantom power: what feeds a box is looked at without one as well.
    batteries = [one for one in candidates if one.control == "battery"]
    unfed = usual
    for battery in batteries:
        unfed = _put(unfed, battery, is_usual=False) or unfed
    at_usual, now = stand(usual), stand(session)
    off = off_db(now, at_usual)
    found: list[tuple[float, bool, Cause]] = []
    for candidate in (*candidates, *gains):
        back = _put(session, candidate, is_usual=True)
        away = _put(usual, candidate, is_usual=False)
        mends = 0.0 if back is None else off - off_db(stand(back), at_usual)
        spoils = 0.0 if away is None else off_db(stand(away), at_usual)
        if batteries and candidate not in batteries:
            away = _put(unfed, candidate, is_usual=False)
            spoils = max(spoils, 0.0 if away is None else off_db(stand(away), at_usual))
        if max(mends, spoils) < LEAST_DB:
            continue
        is_last = candidate in gains or candidate in batteries
        found.append((mends + spoils, is_last, cause_of(candidate, mends)))
    # Of equals the setting before the gain, which is turned for what the rest does, and before a battery, which
    # is in there for want of phantom power.
    found.sort(key=lambda row: (-round(row[0], 1), row[1]))
    return Causes(
        deviations=tuple(_deviations(state, now, at_usual)),
        causes=tuple(cause for _, _, cause in found),
        off_db=off,
    )


def cause_of(candidate: Candidate, explains_db: float) -> Cause:
    """What is told of a candidate that explains so much."""
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
    explains = first.explains_db >= max(OFF_DB, _MOST_OF_IT * found.off_db)
    return first if explains else None


def _deviations(state: LineState, now: Stand, usual: Stand) -> Iterator[str]:
    line = state.line.name
    if now.is_silent and not usual.is_silent:
        yield fill(words.SILENT, line=line)
        return
    apart = now.peak_dbfs - usual.peak_dbfs
    if abs(apart) >= OFF_DB:
        way = words.LOUDER if apart > 0.0 else words.QUIETER
        yield fill(words.LEVEL_OFF, line=line, by_db=abs(apart), way=way)
    if usual.snr_db - now.snr_db >= OFF_DB:
        yield fill(words.NOISE_OFF, line=line, by_db=usual.snr_db - now.snr_db)
    colour = tilt(now.octaves_dbu, usual.octaves_dbu)
    if colour is not None and abs(colour.by_db) >= OFF_DB:
        way = words.STRONGER if colour.by_db > 0.0 else words.WEAKER
        yield fill(words.COLOUR_OFF, line=line, hz=colour.hz, by_db=abs(colour.by_db), way=way)
