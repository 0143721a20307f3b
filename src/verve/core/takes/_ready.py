"""The ready check: what may cost the next take, asked once before it, and nothing where nothing is the matter."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from verve.core.findings import Finding
from verve.core.kind import Control, control_text
from verve.core.session import (
    Change,
    Line,
    NamedSettings,
    Session,
    Take,
    apply_changes,
    cue_of,
    find_control,
    last_good_take_of,
    listeners,
    moved_from_settings,
    only_lines,
    routes,
    same_input,
    settings_in_use,
    tuned,
    use_settings,
)
from verve.core.takes import _words as words
from verve.core.takes._differences import Difference, differences_of
from verve.core.words import fill, listed

Kind = Literal["moved", "settings", "armed", "buffer", "effects", "tuning", "level", "loudspeaker"]
_TALK_DB = 6.0
"""So far down, somebody has turned it down on purpose: for talking, most often (a choice)."""
_DECLINED_OFTEN = 2
_FEW = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Knob:
    """A knob that a hand has to turn: which, and where it belongs."""

    line: str
    words: str
    control: Control
    wanted: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadyItem:
    """One thing that may cost the take. `mend` makes it right in the session, `button` says so; `knob` is what a
    hand has to turn for it."""

    kind: Kind
    words: str
    line: str | None = None
    button: str = ""
    mend: Callable[[Session], Session] | None = None
    knob: Knob | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Ready:
    """What is armed, and what is to be looked at before the take; nothing where everything is as it was."""

    armed: tuple[str, ...]
    items: tuple[ReadyItem, ...]

    @property
    def is_clear(self) -> bool:
        """Whether nothing stands in the way."""
        return not self.items


def armed_lines(session: Session) -> tuple[Line, ...]:
    """The signals that are recorded in the next take: armed, and arriving somewhere."""
    whole = {r.line.id for r in routes(session.setup) if r.is_complete}
    return tuple(x for x in session.setup.lines if x.is_armed and x.id in whole)


def ready_check(session: Session, findings: Sequence[Finding], today: str = "") -> Ready:
    """What has to be said before the next take; `findings` are those of now, `today` as 2026-05-04."""
    lines = armed_lines(session)
    items = [
        *_armed(session, lines),
        *_moved(session, lines),
        *_settings(session, lines),
        *_levels(findings, lines),
        *_monitors(session, lines),
        *_tuning(session, today),
    ]
    seen: set[str] = set()
    told = [x for x in items if not (x.words in seen or seen.add(x.words))]  # type: ignore[func-returns-value]
    return Ready(armed=tuple(line.name for line in lines), items=tuple(told))


def _armed(session: Session, lines: Sequence[Line]) -> Iterator[ReadyItem]:
    if not lines:
        yield ReadyItem(kind="armed", words=words.READY_NOTHING_ARMED)
        return
    armed = {line.id: line.name for line in lines}
    told: set[str] = set()
    for line in lines:
        beside = [key for key in same_input(session.setup, line.id) if key in armed]
        if beside and line.id not in told:
            told |= {line.id, *beside}
            names = listed([line.name, *(armed[key] for key in beside)])
            yield ReadyItem(
                kind="armed", line=line.id, words=fill(words.READY_SAME_INPUT, lines=names)
            )
    newest = next((x for x in reversed(session.takes) if not x.aside and _has(x, armed)), None)
    if newest is None:
        return
    unarmed = [
        line.name for line in session.setup.lines if not line.is_armed and _has(newest, {line.id})
    ]
    if unarmed:
        shown = (
            unarmed
            if len(unarmed) <= _FEW
            else [*unarmed[: _FEW - 1], f"{len(unarmed) - _FEW + 1} more"]
        )
        said = fill(words.READY_UNARMED, lines=listed(shown), take=newest.name)
        yield ReadyItem(kind="armed", words=said)


def _has(take: Take, lines: Collection[str]) -> bool:
    return any(track.line in lines for track in take.tracks)


def _since(session: Session, line: Line) -> tuple[Take, tuple[Difference, ...]] | None:
    """What is different on the way of a signal since its last good take."""
    take = last_good_take_of(session, line.id)
    if take is None or take.setup is None or take.setup == session.setup:
        return None
    before, after = only_lines(take.setup, {line.id}), only_lines(session.setup, {line.id})
    ways = [way for way in routes(session.setup) if way.line.id == line.id]
    return take, differences_of(before, after, ways)


def _moved(session: Session, lines: Sequence[Line]) -> Iterator[ReadyItem]:
    for line in lines:
        found = _since(session, line)
        if found is None:
            continue
        take, moved = found
        named = _named_then(session, line, take)
        if named is not None and settings_in_use(session, line.id) not in {None, named}:
            # Told as what it is: another way of playing, not a row of knobs.
            continue
        for one in moved:
            back = one.back
            if back is None:
                said = fill(words.READY_SINCE, line=line.name, what=one.words, take=take.name)
                yield ReadyItem(kind="moved", line=line.id, words=said)
                continue
            yield ReadyItem(
                kind="moved",
                line=line.id,
                words=_moved_text(session, line, take, one, back),
                button=words.PUT_BACK,
                mend=_putting_back(back),
                knob=_knob(session, line, one, back),
            )


def _putting_back(back: Change) -> Callable[[Session], Session]:
    return lambda session: apply_changes(session, (back,))


def _moved_text(session: Session, line: Line, take: Take, one: Difference, back: Change) -> str:
    if back.name == "gain_db" and isinstance(back.value, int | float):
        control = find_control(session.setup, back.owner, back.channel, back.name)
        now = control.value
        assert isinstance(now, int | float)
        by_db = float(now) - float(back.value)
        if abs(by_db) >= _TALK_DB:
            said = words.READY_LOWER if by_db < 0.0 else words.READY_HIGHER
            return fill(
                said, where=one.subject, control=control.said, by_db=abs(by_db), take=take.name
            )
    return fill(words.READY_SINCE, line=line.name, what=one.words, take=take.name)


def _knob(session: Session, line: Line, one: Difference, back: Change) -> Knob | None:
    control = find_control(session.setup, back.owner, back.channel, back.name)
    if not control.is_level or not isinstance(back.value, int | float):
        return None
    value = control_text(control, float(back.value))
    said = fill(words.KNOB, where=one.subject, control=control.said, value=value)
    return Knob(line=line.id, words=said, control=control, wanted=float(back.value))


def _named_then(session: Session, line: Line, take: Take) -> NamedSettings | None:
    """The settings with a name that a take was made with: those of which every control stood so."""
    setup = take.setup
    if setup is None:
        return None
    route = next((r for r in routes(setup) if r.line.id == line.id), None)
    if route is None:
        return None
    then = {
        (c.owner, c.channel, c.name): c.value
        for step in route.steps
        for c in step.controls.values()
    }
    for one in session.named_settings:
        if one.line == line.id and all(
            then.get((x.owner, x.channel, x.name), x.value) == x.value for x in one.settings
        ):
            return one
    return None


def _settings(session: Session, lines: Sequence[Line]) -> Iterator[ReadyItem]:
    for line in lines:
        now = settings_in_use(session, line.id)
        if now is None:
            continue
        moved = moved_from_settings(session, now)
        if moved:
            controls = [
                find_control(session.setup, x.owner, x.channel, x.name).said for x in moved[:3]
            ]
            said = fill(
                words.READY_SETTINGS_MOVED, line=line.name, what=listed(controls), name=now.name
            )
            yield _switching(line, now, said)
        take = last_good_take_of(session, line.id)
        then = None if take is None else _named_then(session, line, take)
        if take is not None and then is not None and then.id != now.id:
            said = fill(
                words.READY_SETTINGS, line=line.name, now=now.name, take=take.name, was=then.name
            )
            yield _switching(line, then, said)


def _switching(line: Line, wanted: NamedSettings, said: str) -> ReadyItem:
    key = wanted.id
    return ReadyItem(
        kind="settings",
        line=line.id,
        words=said,
        button=fill(words.USE_SETTINGS, name=wanted.name),
        mend=lambda session: use_settings(session, key),
    )


def _levels(findings: Sequence[Finding], lines: Sequence[Line]) -> Iterator[ReadyItem]:
    names = {line.id: line.name for line in lines}
    for finding in findings:
        if finding.rule == "level_changed" and finding.line in names:
            said = fill(words.READY_LEVEL, line=names[finding.line], title=finding.title)
            yield ReadyItem(kind="level", line=finding.line, words=said)


def _monitors(session: Session, lines: Sequence[Line]) -> Iterator[ReadyItem]:
    setup = session.setup
    audio = setup.audio
    if audio.buffer_frames >= setup.monitoring.mixing_frames:
        ms = 2000.0 * audio.buffer_frames / audio.sample_rate_hz
        said = fill(words.READY_BUFFER, frames=audio.buffer_frames, ms=ms)
        yield ReadyItem(kind="buffer", words=said)
    by_line = {r.line.id: r.source for r in routes(setup) if r.has_source}
    playing = {by_line[x.id].performer or by_line[x.id].id for x in lines if x.id in by_line}
    hearing = [x.name for x in lines if x.id in by_line and by_line[x.id].figures.is_acoustic]
    for who, name in listeners(setup):
        cue = cue_of(setup, who)
        if cue.effects == "printed" and who in playing:
            yield ReadyItem(kind="effects", words=fill(words.READY_PRINTED, name=name))
        if (
            cue.worn == "loudspeaker"
            and hearing
            and any(c.who == who for c in setup.monitoring.cues)
        ):
            said = fill(words.READY_LOUDSPEAKER, name=name, lines=listed(hearing[:3]))
            yield ReadyItem(kind="loudspeaker", words=said)


def _tuning(session: Session, today: str) -> Iterator[ReadyItem]:
    tuning = session.tuning
    if tuning.asked == "never" or (tuning.day == today and tuning.declined >= _DECLINED_OFTEN):
        return
    count = len(session.takes) - tuning.tuned_at
    if not session.takes and not tuning.declined:
        said = words.READY_TUNE_FIRST
    elif count >= (1 if tuning.asked == "each" else tuning.every):
        said = fill(words.READY_TUNE, count=count)
    else:
        return
    yield ReadyItem(kind="tuning", words=said, button=words.TUNED_NOW, mend=tuned)
