"""Set all on sessions as people leave them: nothing contradicts it, and each sentence of a certificate holds."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator

from prove.report import Tally
from prove.sessions import session_of
from verve.core.assess import assess
from verve.core.certificates import Certificate, Improvement, certificates
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.gain import all_changes, optimum
from verve.core.kind import Control
from verve.core.network import LineState, line_states
from verve.core.session import Change, Session, apply_changes

RULES_OF_GAIN = {
    "clips",
    "above_window",
    "below_window",
    "tight_before",
    "pair_unequal",
    "needless_pad",
    "preamp_behind_mixer",
    "fader_off_unity",
    "bus_too_loud",
}


_GAINS = {"gain_db", "pad_db", "fader_db"}


def agreed(count: int, first: int) -> Tally:
    """Right after setting all nothing would be set again, and no finding sets a gain otherwise."""
    tally = Tally("right after set all: no contradiction")
    for number in range(first, first + count):
        session = session_of(number)
        found = optimum(session)
        once = apply_changes(session, all_changes(found))
        if again := all_changes(optimum(once)):
            tally.fault(f"session {number}: set again {again[0]}")
            continue
        against = [
            finding.rule
            for finding in assess(once).findings
            if finding.rule in RULES_OF_GAIN
            and finding.remedy is not None
            # Where it puts something else back, the gains go along with that.
            and all(change.name in _GAINS for change in finding.remedy.changes)
        ]
        if against:
            tally.fault(f"session {number}: {against[0]} would set it otherwise")
        else:
            tally.note("agrees")
    return tally


def _state(session: Session, line: str, engine: Engine) -> LineState:
    return next(s for s in line_states(session.setup, engine) if s.line.id == line)


def _gains(state: LineState) -> Iterator[Control]:
    for step in state.route.steps:
        control = step.controls.get("gain_db")
        if control is not None and not control.is_locked and control.is_dial:
            yield control


def _moved(session: Session, control: Control, value: float) -> Session | None:
    change = Change(
        owner=control.owner,
        channel=control.channel,
        name=control.name,
        value=control.clamped(value),
    )
    try:
        return apply_changes(session, (change,))
    except EditError:
        return None


def _number(words: str, pattern: str) -> float | None:
    found = re.search(pattern, words)
    return float(found[1].replace("−", "-")) if found else None


def _near(told: float | None, is_so: float | None, by: float) -> bool:
    return told is not None and is_so is not None and abs(told - is_so) <= by + 1e-6


def _figures(one: Certificate, engine: Engine) -> Iterator[tuple[str, bool]]:
    """What a certificate says in figures, each against a new computation of the session it leaves."""
    state = _state(one.after, one.line, engine)
    levels = state.levels
    assert levels is not None
    yield "peak", _near(one.best.peak_dbfs, levels.peak_dbfs, 0.05)
    yield "noise", _near(one.best.noise_dbfs_a, levels.noise_dbfs_a, 0.05)
    # A stage may have a ceiling before its gain and one behind it: the tighter one is the stage's.
    tightest: dict[int, float] = {}
    for limit in one.best.limits:
        tightest[limit.index] = min(limit.headroom_db, tightest.get(limit.index, math.inf))
    for index, told in tightest.items():
        room = levels.headroom_db[index]
        # Behind a bus the others' share is taken off.
        yield "room", any(_near(told + share, room, 0.06) for share in (0.0, one.best.share_db))


def _louder(one: Certificate, engine: Engine) -> Iterator[tuple[str, bool]]:
    """Why not louder: what would happen if one did."""
    state, said = _state(one.after, one.line, engine), one.why_not_louder
    gains = list(_gains(state))
    if said.startswith("Every gain on the way"):
        yield (
            "at its end",
            all(c.value is not None and float(c.value) >= c.maximum - 0.01 for c in gains),
        )
    if " is the ceiling" in said:
        binds = one.best.binds
        assert binds is not None
        told = _number(said, r"it has (−?[\d.]+) dB of headroom")
        yield "ceiling", _near(told, binds.headroom_db, 0.05)
        clips = []
        for control in gains:
            more = _moved(one.after, control, float(control.value or 0.0) + binds.headroom_db + 1.5)
            if more is None:
                continue
            there = _state(more, one.line, engine)
            if there.levels is not None:
                rooms = [r for r in there.levels.headroom_db if r is not None]
                clips.append(min(rooms) < 0.0 or _is_stuck(control))
        yield "more of it clips", not clips or any(clips)
    if said.startswith("Even with"):
        lowest = one.after
        for control in gains:
            lowest = _moved(lowest, control, control.minimum) or lowest
        least = _state(lowest, one.line, engine).levels
        peak = None if least is None else least.peak_dbfs
        yield "lowest", peak is not None and peak >= one.best.target.highest_dbfs - 0.5


def _is_stuck(control: Control) -> bool:
    return float(control.value or 0.0) >= control.maximum - 0.01


def _quieter(one: Certificate, engine: Engine) -> Iterator[tuple[str, bool]]:
    """Why not quieter: with 6 dB less the converter's part of the noise is what was said."""
    state = _state(one.after, one.line, engine)
    if state.levels is None or state.levels.snr_db is None:
        return
    told = _number(one.why_not_quieter, r"own hiss is (\d+) ?%")
    last = next((c for c in _gains(state) if c.owner == state.route.steps[-1].owner), None)
    if told is None or last is None or float(last.value or 0.0) - 6.0 < last.minimum:
        return
    less = _moved(one.after, last, float(last.value or 0.0) - 6.0)
    there = None if less is None else _state(less, one.line, engine).levels
    if there is not None and there.snr_db is not None:
        share = told / 100.0
        # A microphone preamp may hiss more where it is lower: at least the converter's part is lost.
        yield "converter", there.snr_db <= state.levels.snr_db + 0.1 + share


def _raised(one: Certificate, before: Session, engine: Engine) -> Iterator[tuple[str, bool]]:
    """What the take of now would be if it were raised: from the session as it was."""
    up = _number(one.raised, r"by (\d+) dB")
    noise = _number(one.raised, r"noise is ([−+]?\d+) dBFS")
    if up is None:
        return
    was = _state(before, one.line, engine).levels
    assert was is not None
    aim = one.best.target.target_dbfs - one.best.share_db
    yield "raised by", _near(up, aim - (was.peak_dbfs or 0.0), 0.51)
    exact = aim - (was.peak_dbfs or 0.0)
    yield "raised noise", _near(noise, (was.noise_dbfs_a or 0.0) + exact, 0.51)


def _helped(one: Certificate, way: Improvement, engine: Engine) -> bool | None:
    """Whether something else helps as much as it says; None for what no setting alone does."""
    if not way.changes:
        return None
    changed = apply_changes(one.after, way.changes)
    found = {best.line: best for best in optimum(changed, (one.line,), engine=engine)}
    best = found.get(one.line)
    if best is None:
        return False
    # What is set with it, a pair or a mixer's channel, goes along.
    all_of_them = optimum(changed, (one.line, *best.together), engine=engine)
    set_so = apply_changes(changed, all_changes(all_of_them))
    then, now = (_state(s, one.line, engine).levels for s in (set_so, one.after))
    if then is None or now is None or then.snr_db is None or now.snr_db is None:
        return False
    gained_db = then.snr_db - now.snr_db
    return _near(way.snr_db, gained_db, 0.1) and way.reaches_target == best.reaches_target


def certified(count: int, first: int) -> list[Tally]:
    """Every sentence of every certificate, and every way on that it names."""
    sentences, ways = Tally("certificates, sentence by sentence"), Tally("improvements, tried")
    for number in range(first, first + count):
        session = session_of(number)
        # Another memory than the one that the certificate was worked out with.
        engine = Engine()
        for one in certificates(session):
            if not one.is_alive:
                sentences.note("silent")
                continue
            checks = [
                *_figures(one, engine),
                *_louder(one, engine),
                *_quieter(one, engine),
                *_raised(one, session, engine),
            ]
            for name, holds in checks:
                if holds:
                    sentences.note(name)
                else:
                    sentences.fault(f"session {number}, {one.line}: {name}")
            for way in one.improvements if number % 8 == 0 else ():
                helped = _helped(one, way, engine)
                if helped is False:
                    ways.fault(f"session {number}, {one.line}: {way.label}")
                elif helped:
                    ways.note("as said")
    return [sentences, ways]
