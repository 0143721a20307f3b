"""What the takes say: a knob that has moved since, a take that clipped, one that differs from its prediction."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass

from verve.core.engine import Engine, Remembered
from verve.core.findings import Finding
from verve.core.network import LineState, line_states
from verve.core.session import Session, Setup, Take, TakeTrack, layer_of, only_lines, routes
from verve.core.takes import _words as words
from verve.core.takes._differences import Difference, differences_of
from verve.core.words import Fact, fill, level_text

SURPRISE_DB = 3.0
"""Measured and predicted peak further apart than this: something is not as the session says."""


_HEARD_DB = 0.5
"""A change of level smaller than this is no reason to check it again."""


_IN_THE_AIR = frozenset({"distance_m", "angle_deg", "foam", "presence"})
"""What is set on a microphone before its sound is a voltage: what it does to a level depends on player and room."""


_Peaks = dict[str, tuple[str, float]]
"""By line, its name and its hardest peak."""


def _peaks(states: Sequence[LineState]) -> _Peaks:
    return {
        state.line.id: (state.line.name, state.peak_dbfs)
        for state in states
        if state.peak_dbfs is not None
    }


def _peaks_then(setup: Setup, engine: Engine) -> _Peaks:
    table: Remembered[_Peaks] = engine.table("take peaks", 16)
    return table.get((setup,), lambda: _peaks(line_states(setup, engine)))


def _changes_db(
    states: Sequence[LineState], since: Since, engine: Engine
) -> dict[str, tuple[str, float]]:
    """By line, its name and what the settings since a take do to its level."""
    if since.take.setup is None:
        return {}
    before, now = _peaks_then(since.take.setup, engine), _peaks(states)
    both = now.keys() & before.keys() & since.lines
    return {key: (now[key][0], now[key][1] - before[key][1]) for key in both}


def _louder(changes: Mapping[str, tuple[str, float]]) -> str:
    """What the changed settings did to the levels, as a sentence; empty where they did nothing to them."""
    told = sorted((c for c in changes.values() if abs(c[1]) >= _HEARD_DB), key=lambda c: -abs(c[1]))
    if not told:
        return ""
    said = (
        fill(words.LINE_LOUDER if by > 0.0 else words.LINE_QUIETER, line=name, by_db=abs(by))
        for name, by in told[:3]
    )
    return fill(words.LOUDER, lines=", ".join(said))


@dataclass(frozen=True, slots=True, kw_only=True)
class Since:
    """The newest take of some signals, and what is different for them now; nothing that others have."""

    take: Take
    lines: frozenset[str]
    moved: tuple[Difference, ...]


def since_takes(session: Session, engine: Engine | None = None) -> tuple[Since, ...]:
    """Every take that is the newest one of a signal that is set up now, the newest first.

    Signals of other layers, and what is recorded of them, are no concern of these. A take whose setup nobody can
    read is left out.
    """
    setup = session.setup
    left = {line.id for line in setup.lines}
    found = []
    for take in reversed(session.takes):
        if not left:
            break
        own = frozenset(t.line for t in take.tracks if t.line in left)
        if take.aside or not own:
            continue
        left -= own
        if take.setup is None:
            continue
        # What a take had that is gone now is missed; unless another layer has it.
        others = {track.line for track in take.tracks} - own
        then = own | {key for key in others if _is_gone(session, take, key)}
        moved: tuple[Difference, ...] = ()
        if take.setup is not setup:
            ways = [way for way in routes(setup, engine) if way.line.id in own]
            moved = differences_of(_only(take.setup, then), _only(setup, own), ways)
        found.append(Since(take=take, lines=own, moved=moved))
    return tuple(found)


def take_before(session: Session, take: Take) -> Take | None:
    """The take of the same layer that was recorded before; None for the first one."""
    before = None
    for one in session.takes:
        if one.id == take.id:
            return before
        if one.layer == take.layer:
            before = one
    return None


def _is_gone(session: Session, take: Take, line_id: str) -> bool:
    here = layer_of(session)
    is_same = take.layer is None or here is None or take.layer == here.id
    return is_same and all(line.id != line_id for line in session.setup.lines)


def _only(setup: Setup, lines: Set[str]) -> Setup:
    if lines >= {line.id for line in setup.lines}:
        return setup
    return only_lines(setup, lines)


def _moved(states: Sequence[LineState], since: Since, engine: Engine) -> Finding | None:
    moved = since.moved
    if not moved:
        return None
    backs = tuple(item.back for item in moved if item.back is not None)
    shown = "; ".join(item.words for item in moved[:3])
    more = fill(words.AND_MORE, count=len(moved) - 3) if len(moved) > 3 else ""
    return Finding(
        rule="moved_since_take",
        severity="know",
        line=None,
        words=words.ONE_MOVED if len(moved) == 1 else words.MOVED,
        places={
            "count": len(moved),
            "take": since.take.name,
            "moved": shown + more,
            "louder": _louder(_changes_db(states, since, engine)),
        },
        edits=backs if len(backs) == len(moved) else None,
    )


def _level_changed(states: Sequence[LineState], since: Since, engine: Engine) -> list[Finding]:
    """Signals whose microphone stands, aims or is switched otherwise than in the last take, and are louder or softer
    for it: until Check has heard them, that is arithmetic."""
    moved: dict[str, str] = {}
    for item in since.moved:
        if item.back is not None and item.back.name in _IN_THE_AIR:
            moved.setdefault(item.back.owner, item.words)
    if not moved:
        return []
    changes = _changes_db(states, since, engine)
    found = []
    for state in states:
        first = state.route.steps[0].owner if state.route.steps else ""
        by_db = changes.get(state.line.id, ("", 0.0))[1]
        if first in moved and abs(by_db) >= _HEARD_DB:
            found.append(
                Finding(
                    rule="level_changed",
                    severity="know",
                    line=state.line.id,
                    words=words.LEVEL_CHANGED,
                    places={"by_db": by_db, "take": since.take.name, "what": moved[first]},
                    size_db=abs(by_db),
                )
            )
    return found


def _clipped(track: TakeTrack, take: Take) -> Finding:
    return Finding(
        rule="take_clipped",
        severity="mend",
        line=track.line,
        words=words.CLIPPED,
        places={
            "take": take.name,
            "track": track.name,
            "clipped_frames": track.clipped_frames or 0,
        },
    )


def _is_off(track: TakeTrack, beside_db: float) -> bool:
    """Whether a peak is not what was computed.

    That counts everybody who was to play in the room: where the others were silent it may be softer by `beside_db`.
    """
    measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
    if measured is None or predicted is None:
        return False
    return not -SURPRISE_DB - beside_db <= measured - predicted <= SURPRISE_DB


def _surprise(track: TakeTrack, take: Take, beside_db: float) -> Finding | None:
    measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
    if measured is None or predicted is None or not _is_off(track, beside_db):
        return None
    return Finding(
        rule="take_surprises",
        severity="know",
        line=track.line,
        words=words.LOUDER_THAN_COMPUTED if measured > predicted else words.QUIETER_THAN_COMPUTED,
        places={
            "take": take.name,
            "track": track.name,
            "by_db": abs(measured - predicted),
        },
        facts=(
            Fact(label=words.MEASURED, text=level_text(measured, "dBFS"), origin="measured"),
            Fact(label=words.PREDICTED, text=level_text(predicted, "dBFS"), origin="computed"),
        ),
    )


def track_advice(
    track: TakeTrack, worst: Finding | None, *, is_whole: bool = True, beside_db: float = 0.0
) -> str:
    """What to change after a rehearsal of a line, whose most urgent finding is `worst`.

    `is_whole` is whether the take came to its end; `beside_db` how much of the level others in the room have.
    """
    measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
    if worst is not None and worst.severity != "know":
        return worst.advice
    if track.clipped_frames:
        return words.IT_CLIPPED
    if not is_whole:
        return words.NOT_WHOLE
    if measured is not None and predicted is not None and _is_off(track, beside_db):
        said = words.IT_WAS_LOUDER if measured > predicted else words.IT_WAS_QUIETER
        return fill(said, by_db=abs(measured - predicted))
    return worst.advice if worst is not None else words.AS_COMPUTED


def findings(session: Session, states: Sequence[LineState], engine: Engine) -> list[Finding]:
    """What the last take of each signal says about now, whose lines are `states`.

    A take that was redone with other settings is history.
    """
    found: list[Finding] = []
    for since in since_takes(session, engine):
        found += _findings_since(states, since, engine)
    return found


def _findings_since(states: Sequence[LineState], since: Since, engine: Engine) -> list[Finding]:
    take = since.take
    moved = _moved(states, since, engine)
    tracks = [track for track in take.tracks if track.line in since.lines]
    clipped = [track for track in tracks if track.clipped_frames]
    if clipped and moved is not None:
        # What has been turned down since is mended; a new name or a moved pan is not.
        quieter = _changes_db(states, since, engine)
        clipped = [t for t in clipped if quieter.get(t.line, ("", 0.0))[1] > -_HEARD_DB]
    found = [_clipped(track, take) for track in clipped]
    if moved is not None:
        return [*found, *_level_changed(states, since, engine), moved]
    if take.ended != "whole":
        # What was computed is the hardest of the whole passage: of a part of it nothing follows.
        return found
    beside = {state.line.id: -state.own_db for state in states}
    surprises = [
        _surprise(track, take, beside.get(track.line, 0.0))
        for track in tracks
        if not track.clipped_frames
    ]
    return [*found, *(s for s in surprises if s is not None)]
