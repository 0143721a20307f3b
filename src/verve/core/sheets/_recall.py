"""Dialling a take in again by hand: what was set for it, what still differs, and how one hears that it is right."""

from __future__ import annotations

import csv
import html
import io
from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.gain import dial_words, hour_words
from verve.core.kind import Control, control_text
from verve.core.session import (
    Change,
    Route,
    Session,
    Setup,
    Take,
    last_take_of,
    routes,
)
from verve.core.sheets._patch import PAPER_STYLE, TABLE
from verve.core.sheets._takes import moment_text
from verve.core.takes import differences
from verve.core.words import fill

_CABLE = "{start} into {end}"
_CABLE_M = "{start} into {end}, {length_m:g m}"
_LEVEL = "Play the phrase: the loudest of {line} was {peak_dbfs:.1 dBFS}"
_NOW = "{take}: {peak_dbfs:.1 dBFS}, {by_db:+.1 dB}"
_NEAR_DB = 1.5
"""A phrase that is played twice by one person differs by about so much."""
_USUAL = {"none", "off", "out", "0", "0 dB", "0°", "centre", "main"}
"""Where a control stands when nobody has touched it: told only where that is no longer so."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RecallItem:
    """One thing to set as it was: what, how it stands now where that is otherwise, and the change that sets it.

    `group` is the signal or the recorder that it belongs to.
    """

    key: str
    group: str
    words: str
    now: str
    change: Change | None = None

    @property
    def is_same(self) -> bool:
        """Whether it is as it was."""
        return not self.now


_Place = tuple[str, str, str]


def recall_items(take: Take, session: Session) -> tuple[RecallItem, ...]:
    """Everything to be dialled in for a take, in the order of its signals; nothing where nobody can read it."""
    then = take.setup
    if then is None:
        return ()
    now = _controls(session.setup)
    links = {(link.start, link.end) for link in session.setup.links}
    items: list[RecallItem] = []
    seen: set[str] = set()
    recorded = {track.line for track in take.tracks}
    for route in routes(then):
        if route.line.id not in recorded:
            continue
        own = [*_cables(route, links), *_settings(route, now)]
        items += [item for item in own if not (item.key in seen or seen.add(item.key))]  # type: ignore[func-returns-value]
    items += _recorder(then, session.setup)
    items += _else(then, session.setup)
    items += _levels(take, session)
    return tuple(items)


def _controls(setup: Setup) -> Mapping[_Place, Control]:
    return {
        (control.owner, control.channel, control.name): control
        for route in routes(setup)
        for step in route.steps
        for control in (*step.controls.values(), *step.shared)
    }


def _cables(route: Route, links: set[tuple[str, str]]) -> list[RecallItem]:
    found = []
    start = route.source_name
    for step in route.steps:
        if step.cable is not None:
            place = (step.link.start, step.link.end)
            said = _CABLE if step.cable.length_m is None else _CABLE_M
            found.append(
                RecallItem(
                    key=f"link {place}",
                    group=route.line.name,
                    words=fill(
                        said, start=start, end=step.place, length_m=step.cable.length_m or 0.0
                    ),
                    now="" if place in links else "not plugged so",
                )
            )
        start = step.name
    return found


def _settings(route: Route, now: Mapping[_Place, Control]) -> list[RecallItem]:
    found = []
    for step in route.steps:
        for control in (*step.controls.values(), *step.shared):
            key = (control.owner, control.channel, control.name)
            current = now.get(key)
            text = _value(control)
            is_same = current is not None and current.value == control.value
            if is_same and control_text(control, control.value) in _USUAL:
                continue
            found.append(
                RecallItem(
                    key=f"control {key}",
                    group=route.line.name,
                    words=f"{step.place}: {control.said} {text}",
                    now=""
                    if is_same
                    else "gone"
                    if current is None
                    else f"now {control_text(current, current.value)}",
                    change=None
                    if is_same or current is None or not current.accepts(control.value)
                    else Change(
                        owner=control.owner,
                        channel=control.channel,
                        name=control.name,
                        value=control.value,
                    ),
                )
            )
    return found


def _value(control: Control) -> str:
    """A position with the hour of a knob, as it was read or as it is reckoned."""
    said = control_text(control, control.value)
    if not control.is_dial or not isinstance(control.value, int | float):
        return said
    if control.hour is not None:
        return f"{said}, at {hour_words(control.hour)}"
    return f"{said}, {dial_words(control, float(control.value))}"


def _recorder(then: Setup, now: Setup) -> list[RecallItem]:
    old, new = then.audio, now.audio
    rows = (
        ("sample rate", old.sample_rate_hz, new.sample_rate_hz, "Hz"),
        ("bit depth", old.bit_depth, new.bit_depth, "bit"),
        ("buffer", old.buffer_frames, new.buffer_frames, "samples"),
    )
    return [
        RecallItem(
            key=f"audio {name}",
            group="Recorder",
            words=f"{name} {was} {unit}",
            now="" if was == current else f"now {current} {unit}",
        )
        for name, was, current, unit in rows
    ]


def _else(then: Setup, now: Setup) -> list[RecallItem]:
    """What no control sets back: who stands elsewhere, what is another piece."""
    told = {"sample rate", "bit depth", "buffer", "level target", "cable"}
    return [
        RecallItem(key=f"else {one.words}", group="Else", words=one.words, now="differs")
        for one in differences(then, now)
        if one.back is None and one.subject not in told
    ]


def _levels(take: Take, session: Session) -> list[RecallItem]:
    """How one hears that it is as it was: the same phrase has the same level."""
    found = []
    for track in take.tracks:
        was = track.peak_dbfs.measured
        if was is None:
            continue
        newest = last_take_of(session, track.line)
        now = "play it in Check or as a take"
        if newest is not None and newest.id != take.id:
            own = next(x for x in newest.tracks if x.line == track.line).peak_dbfs.measured
            if own is not None:
                by_db = own - was
                now = "" if abs(by_db) <= _NEAR_DB else fill(
                    _NOW, take=newest.name, peak_dbfs=own, by_db=by_db
                )  # fmt: skip
        found.append(
            RecallItem(
                key=f"level {track.line}",
                group="Then",
                words=fill(_LEVEL, line=track.name, peak_dbfs=was),
                now=now,
            )
        )
    return found


def recall_html(take: Take, session: Session) -> str:
    """The sheet as a page: what is as it was already is ticked."""
    title = f"{take.name}, {moment_text(take.recorded_at)}: dialled in again"
    rows, group = [], ""
    for item in recall_items(take, session):
        if item.group != group:
            group = item.group
            rows.append(f'<tr><td></td><td class="line">{_e(group)}</td><td></td></tr>')
        tick = "☑" if item.is_same else "☐"
        rows.append(
            f'<tr><td class="box">{tick}</td><td>{_e(item.words)}</td><td>{_e(item.now)}</td></tr>'
        )
    notes = f"<p>{_e(take.notes)}</p>" if take.notes else ""
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{_e(title)}</title>'
        f"<style>{PAPER_STYLE}</style></head><body><h1>{_e(title)}</h1>{notes}"
        "<p>Monitors and headphones down before anything is plugged; phantom power last.</p>"
        f"{TABLE}{''.join(rows)}</table></body></html>"
    )


def recall_csv(take: Take, session: Session) -> str:
    """One row for each thing."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("as it was", "signal", "what", "now"))
    for item in recall_items(take, session):
        writer.writerow(("yes" if item.is_same else "", item.group, item.words, item.now))
    return out.getvalue()


def compared_sessions(one: Session, other: Session) -> tuple[str, ...]:
    """What is different in another session, in words: what is set up, who plays what, what was recorded."""
    found = [difference.words for difference in differences(one.setup, other.setup)]
    names = {item.id: item.name for item in one.brief.passes}
    theirs = {item.id: item.name for item in other.brief.passes}
    found += [f"layer {names[key]} is gone" for key in names if key not in theirs]
    found += [f"layer {theirs[key]} is new" for key in theirs if key not in names]
    if one.song != other.song:
        found += _song(one, other)
    ours = {take.id: take for take in one.takes}
    fresh = [take.name for take in other.takes if take.id not in ours]
    gone = [take.name for take in one.takes if all(take.id != x.id for x in other.takes)]
    for takes, word in ((fresh, "more"), (gone, "fewer")):
        if takes:
            shown = ", ".join(takes[:4]) + (f" and {len(takes) - 4} more" if takes[4:] else "")
            found.append(f"{len(takes)} takes {word}: {shown}")
    return tuple(found)


def _song(one: Session, other: Session) -> list[str]:
    found = []
    if one.song.tempo_bpm != other.song.tempo_bpm:
        was, now = (
            "none" if s.song.tempo_bpm is None else f"{s.song.tempo_bpm:g} bpm"
            for s in (one, other)
        )
        found.append(f"tempo {now}, was {was}")
    if one.song.sections != other.song.sections:
        names = ", ".join(section.name for section in other.song.sections) or "none"
        found.append(f"sections are now {names}")
    return found


def _e(text: str) -> str:
    return html.escape(text)
