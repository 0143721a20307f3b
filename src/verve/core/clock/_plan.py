"""The day against the clock: who arrives, what is set up, checked, tuned, recorded and changed, and when."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.clock import _words as words
from verve.core.clock._times import PAUSE_EVERY_S, Pace
from verve.core.errors import InputError
from verve.core.learning import DayTimes
from verve.core.power import RunStep, set_up_sheet, tear_down_sheet
from verve.core.session import Pass, Session, Setup, listeners, patch_of, routes
from verve.core.sheets import day_sheets
from verve.core.words import fill, listed

Kind = Literal[
    "arrive", "set_up", "change", "check", "tune", "take", "listen", "pause", "wait", "tear_down"
]
_TIGHT_S: Final = 1200.0
_IDLE_S: Final = 3600.0
_CABLES_PER_PART = 2
_STRUNG = {"plucked", "bowed"}
_SECTIONS_S, _CABLE_SAVES_S = 600.0, 15.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Something of the day, in seconds since midnight; `who` are performers who are needed."""

    kind: Kind
    start_s: float
    end_s: float
    title: str
    layer: str = ""
    who: tuple[str, ...] = ()
    is_learnt: bool = False

    @property
    def seconds(self) -> float:
        """How long it takes."""
        return self.end_s - self.start_s


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """The whole plan: its events in their order, where it is tight, what costs most, and what to prepare.

    `free_s` is what is left at the end, negative for too late.
    """

    title: str
    events: tuple[Event, ...]
    end_s: float
    free_s: float
    findings: tuple[str, ...]
    costliest: tuple[str, ...]
    prepare: tuple[str, ...]
    note: str

    @property
    def over_s(self) -> float:
        """When all is done."""
        return self.events[-1].end_s if self.events else self.end_s - self.free_s


@dataclass(frozen=True, slots=True, kw_only=True)
class _Layer:
    """A layer as the day needs it."""

    key: str
    name: str
    steps: tuple[RunStep, ...]
    cables: int
    signals: int
    who: tuple[str, ...]
    strung: tuple[str, ...]


def clock_text(seconds: float) -> str:
    """A time of the day: "14:05"; after midnight it goes on from 0:00."""
    minutes = round(seconds / 60.0)
    return f"{minutes // 60 % 24}:{minutes % 60:02d}"


def span_text(seconds: float) -> str:
    """How long something takes: "40 min", "2 h 5 min"; less than a minute is one."""
    minutes = max(1, round(seconds / 60.0))
    hours, rest = divmod(minutes, 60)
    return " ".join([f"{hours} h"] * bool(hours) + [f"{rest} min"] * bool(rest))


def day_of(session: Session, times: DayTimes, pace: Pace | None = None) -> Day:
    """The day of a session, from its layers and the song, with typical times or one's own."""
    pace = pace or Pace()
    layers = tuple(_layers(session))
    # Who comes in the middle of something comes then: an order of its own is by when each begins.
    events = tuple(sorted(_events(session, layers, times, pace), key=lambda one: one.start_s))
    end_s = times.end_h * 3600.0
    over_s = events[-1].end_s if events else times.begin_h * 3600.0
    free_s = end_s - over_s
    return Day(
        title=session.title,
        events=events,
        end_s=end_s,
        free_s=free_s,
        findings=tuple(_findings(events, times, free_s, over_s)),
        costliest=tuple(_costliest(events)),
        prepare=tuple(_prepare(session, layers, events, pace)),
        note=words.LEARNT if any(one.is_learnt for one in events) else words.TYPICAL,
    )


def _layers(session: Session) -> Iterator[_Layer]:
    names = dict(listeners(session.setup))
    sheets = {row.layer: steps for row, steps in day_sheets(session)}
    before: set[str] = set()
    is_first = True
    for item in session.brief.passes:
        setup = patch_of(session, item.id)
        steps = sheets.get(item.id, ())
        if setup is None and is_first and session.layer is None and session.setup.lines:
            # Nothing belongs to a layer yet: what is set up is what one begins with.
            setup, steps = session.setup, set_up_sheet(session.setup)
        if setup is None or not setup.lines:
            yield _unpatched(session, item, before)
        else:
            yield _patched(item.id, item.name, setup, steps, names)
        before |= set(item.parts)
        is_first = False
    if not session.brief.passes and session.setup.lines:
        steps = set_up_sheet(session.setup)
        yield _patched("", words.THE_SESSION, session.setup, steps, names)


def _patched(
    key: str, name: str, setup: Setup, steps: tuple[RunStep, ...], names: Mapping[str, str]
) -> _Layer:
    found = [route for route in routes(setup) if route.has_source and route.is_complete]
    people: dict[str, str] = {}
    strung: dict[str, None] = {}
    for route in found:
        source = route.source
        who = source.performer or source.id
        people.setdefault(who, names.get(who, source.name))
        if source.figures.player in _STRUNG:
            strung.setdefault(people[who])
    return _Layer(
        key=key, name=name, steps=steps, cables=0, signals=len(found), who=tuple(people.values()),
        strung=tuple(strung),
    )  # fmt: skip


def _unpatched(session: Session, item: Pass, before: set[str]) -> _Layer:
    parts = [part for part in session.brief.parts_of(item) if part.capture != "computer"]
    new = [part for part in parts if part.id not in before]
    who = dict.fromkeys(part.performer or part.name for part in parts)
    return _Layer(
        key=item.id, name=item.name, steps=(), cables=max(1, _CABLES_PER_PART * len(new)),
        signals=len(parts), who=tuple(who), strung=(),
    )  # fmt: skip


def _events(
    session: Session, layers: Sequence[_Layer], times: DayTimes, pace: Pace
) -> Iterator[Event]:
    now = times.begin_h * 3600.0
    arrivals = {who: hour * 3600.0 for who, hour in times.arrivals_h.items()}
    everybody = dict.fromkeys(who for layer in layers for who in layer.who)
    come = [
        Event(kind="arrive", start_s=at, end_s=at, title=fill(words.ARRIVES, who=who), who=(who,))
        for who in everybody
        if (at := arrivals.get(who, now)) > now
    ]
    come.sort(key=lambda one: one.start_s)
    since_pause = 0.0
    for number, layer in enumerate(layers):
        for one in _of_layer(session, layer, times, pace, is_first=number == 0):
            if one.kind != "set_up" and one.kind != "change":
                late = [who for who in one.who if arrivals.get(who, now) > now]
                if late:
                    there = max(arrivals[who] for who in late)
                    yield from _come(come, there)
                    title = fill(words.WAIT, who=listed(late))
                    yield Event(
                        kind="wait", start_s=now, end_s=there, title=title, layer=layer.name, who=tuple(late)
                    )  # fmt: skip
                    now, since_pause = there, 0.0
            if since_pause + one.seconds > PAUSE_EVERY_S and one.kind in {
                "take",
                "check",
                "change",
            }:
                rest = pace.seconds("pause")
                yield Event(kind="pause", start_s=now, end_s=now + rest, title=words.PAUSE)
                now, since_pause = now + rest, 0.0
            yield from _come(come, now)
            yield _at(one, now)
            now += one.seconds
            since_pause += one.seconds
    yield from _come(come, now)
    steps = tear_down_sheet(session.setup)
    if steps and layers:
        title = fill(words.TEAR_DOWN, steps=len(steps))
        yield Event(
            kind="tear_down", start_s=now, end_s=now + _whole_minutes(pace.steps_s(steps)), title=title,
            is_learnt=pace.is_learnt("change"),
        )  # fmt: skip


def _whole_minutes(seconds: float) -> float:
    """Planned in whole minutes, up: what is printed adds up."""
    return math.ceil(seconds / 60.0) * 60.0


def _come(come: list[Event], until_s: float) -> Iterator[Event]:
    while come and come[0].start_s <= until_s:
        yield come.pop(0)


def _at(one: Event, now: float) -> Event:
    return Event(
        kind=one.kind, start_s=now, end_s=now + one.seconds, title=one.title, layer=one.layer, who=one.who,
        is_learnt=one.is_learnt,
    )  # fmt: skip


def _of_layer(
    session: Session, layer: _Layer, times: DayTimes, pace: Pace, *, is_first: bool
) -> Iterator[Event]:
    """What a layer needs, each from 0 on."""

    def event(kind: Kind, seconds: float, title: str, **more: object) -> Event:
        seconds = _whole_minutes(seconds)
        return Event(
            kind=kind,
            start_s=0.0,
            end_s=seconds,
            title=title,
            layer=layer.name,
            **more,  # type: ignore[arg-type]
        )

    if layer.steps:
        said = words.SET_UP if is_first else words.CHANGE
        title = fill(said, layer=layer.name, steps=len(layer.steps))
        seconds, own = pace.steps_s(layer.steps), pace.is_learnt("change")
        yield event("set_up" if is_first else "change", seconds, title, is_learnt=own)
    elif layer.cables:
        said = words.SET_UP_OPEN if is_first else words.CHANGE_OPEN
        title = fill(said, layer=layer.name, cables=layer.cables)
        seconds = layer.cables * pace.seconds("cable")
        yield event("set_up" if is_first else "change", seconds, title)
    if layer.strung:
        title = fill(words.TUNE, who=listed(layer.strung))
        yield event("tune", pace.seconds("tune") * len(layer.strung), title, who=layer.strung)
    title = fill(words.CHECK, layer=layer.name, signals=layer.signals)
    yield event("check", pace.seconds("check") * layer.signals, title, who=layer.who)
    length_s = 0.0
    for name, seconds in _sections(session, pace):
        length_s += seconds
        for number in range(1, times.takes + 1):
            section = fill(words.IN_SECTION, section=name) if name else ""
            title = fill(words.TAKE, layer=layer.name, section=section, number=str(number))
            yield event(
                "take", seconds + pace.seconds("between_takes"), title, who=layer.who,
                is_learnt=pace.is_learnt("between_takes"),
            )  # fmt: skip
    yield event("listen", length_s, fill(words.LISTEN, layer=layer.name), who=layer.who)


def _sections(session: Session, pace: Pace) -> Sequence[tuple[str, float]]:
    """What is recorded one after the other, with its lead-in and tail; the whole song where there are no sections."""
    song = session.song
    beside = song.lead_in_s + song.tail_s
    if song.sections:
        return [(one.name, one.end_s - one.start_s + beside) for one in song.sections]
    backing = [one.seconds for one in session.sounds if one.role == "backing"]
    return [("", max(backing, default=pace.seconds("song")) + beside)]


def _findings(
    events: Sequence[Event], times: DayTimes, free_s: float, over_s: float
) -> Iterator[str]:
    if free_s < 0.0:
        yield fill(words.OVER, over=span_text(-free_s), at=clock_text(over_s))
        yield fill(words.LATEST, at=clock_text(times.begin_h * 3600.0 + free_s))
    elif free_s < _TIGHT_S:
        yield fill(words.TIGHT, free=span_text(free_s))
    else:
        yield fill(words.ROOM, free=span_text(free_s))
    for one in events:
        if one.kind == "wait":
            yield fill(words.WAITS, who=listed(one.who), wait=span_text(one.seconds))
    begin = times.begin_h * 3600.0
    arrivals = {who: hour * 3600.0 for who, hour in times.arrivals_h.items()}
    for who in dict.fromkeys(name for one in events for name in one.who):
        first = next(one.start_s for one in events if who in one.who and one.kind != "arrive")
        idle_s = first - max(begin, arrivals.get(who, begin))
        if idle_s >= _IDLE_S:
            yield fill(words.IDLE, who=who, idle=span_text(idle_s))


def _costliest(events: Sequence[Event]) -> Iterator[str]:
    """The two changes that cost most; the first set-up is none."""
    found = sorted((one for one in events if one.kind == "change"), key=lambda one: -one.seconds)
    for one in found[:2]:
        yield fill(words.COSTLY, what=one.title, time=span_text(one.seconds))


def _prepare(
    session: Session, layers: Sequence[_Layer], events: Sequence[Event], pace: Pace
) -> Iterator[str]:
    """What can be done the evening before, what saves most first."""
    saves: list[tuple[float, str]] = []
    early = [step for layer in layers[:1] for step in layer.steps if step.kind in {"place", "plug"}]
    if early:
        saves.append((pace.steps_s(early), words.PREPARE_SET_UP))
    if not session.song.sections:
        saves.append((_SECTIONS_S, words.PREPARE_SECTIONS))
    plugs = [step for layer in layers[1:] for step in layer.steps if step.kind == "plug"]
    loose = sum(layer.cables for layer in layers[1:])
    if plugs or loose:
        saves.append(((len(plugs) + loose) * _CABLE_SAVES_S, words.PREPARE_CABLES))
    checks = [one for one in events if one.kind == "check"]
    if session.takes and checks:
        saves.append((sum(one.seconds for one in checks) / 2.0, words.PREPARE_GAINS))
    for seconds, what in sorted(saves, key=lambda row: -row[0]):
        yield fill(words.PREPARE_SAVES, what=what, time=span_text(seconds))
    if any(layer.strung for layer in layers):
        yield fill(words.PREPARE_PLAIN, what=words.PREPARE_STRINGS)


def expected_changes_s(session: Session) -> dict[str, float]:
    """By layer how long coming to it takes with typical times, its check and its tuning with it."""
    pace = Pace()
    found = {}
    for number, layer in enumerate(_layers(session)):
        if number:
            seconds = pace.steps_s(layer.steps) + layer.cables * pace.seconds("cable")
            seconds += layer.signals * pace.seconds("check")
            found[layer.key] = seconds + len(layer.strung) * pace.seconds("tune")
    return found


def parse_clock(text: str) -> float:
    """A time of the day as people write it: "9:30", "9.30", "930", "18"; in hours since midnight.

    raises: InputError for anything else
    """
    found = re.fullmatch(r"\s*(\d{1,2})(?:[:.h ]?(\d{2}))?\s*(?:h|o.?clock)?\s*", text.casefold())
    if found is None or int(found[1]) > 24 or int(found[2] or 0) > 59:
        raise InputError("time", "must be a time of the day, as 9:30", text)
    return int(found[1]) + int(found[2] or 0) / 60.0
