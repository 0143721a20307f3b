"""Two setups compared in words: what was changed between takes, and what has been changed since."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.kind import Control, control_text
from verve.core.session import (
    Change,
    Device,
    Line,
    Route,
    Setup,
    Source,
    cue_of,
    device_controls,
    listeners,
    source_controls,
    split_port,
)
from verve.core.takes import _words as words
from verve.core.words import fill


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One thing that differs, in words; `back` undoes it where one control can."""

    words: str
    subject: str
    back: Change | None = None


_Controls = dict[tuple[str, str, str], tuple[str, Control]]


def _controls(before: Setup, after: Setup) -> tuple[_Controls, _Controls]:
    """Everything that can be set on what is not the same in both."""
    old: _Controls = {}
    new: _Controls = {}
    earlier: tuple[Source | Device, ...] = (*before.sources, *before.devices)
    had = {owner.id: owner for owner in earlier}
    owners: tuple[Source | Device, ...] = (*after.sources, *after.devices)
    for owner in owners:
        was = had.get(owner.id)
        if was is None or was is owner or was == owner:
            continue
        for one, found in ((was, old), (owner, new)):
            controls = source_controls(one) if isinstance(one, Source) else device_controls(one)
            for control in controls:
                found[(control.owner, control.channel, control.name)] = (one.name, control)
    return old, new


def _where(name: str, channel: str) -> str:
    part = channel.split(".", 1)[1] if "." in channel else ""
    return f"{name} {part}".strip()


def _named(items: Sequence[Source | Device | Line]) -> dict[str, str]:
    return {item.id: item.name for item in items}


def differences(before: Setup, after: Setup) -> tuple[Difference, ...]:
    """What is different in `after`, most of it as "Interface 1: gain +34 dB, was +30 dB"."""
    found: list[Difference] = []
    old, new = _controls(before, after)
    for key, (name, control) in new.items():
        if key not in old or old[key][1].value == control.value:
            continue
        was = old[key][1].value
        where = _where(name, control.channel)
        said = fill(
            words.SETTING_MOVED,
            where=where,
            control=control.said,
            now=control_text(control, control.value),
            was=control_text(control, was),
        )
        back = Change(owner=control.owner, channel=control.channel, name=control.name, value=was)
        found.append(
            Difference(words=said, subject=where, back=back if control.accepts(was) else None)
        )
    for kind, label in words.KINDS.items():
        had, has = _named(getattr(before, kind)), _named(getattr(after, kind))
        for identifier in had.keys() - has.keys():
            said = fill(words.GONE, kind=label, name=had[identifier])
            found.append(Difference(words=said, subject=label))
        for identifier in has.keys() - had.keys():
            said = fill(words.NEW, kind=label, name=has[identifier])
            found.append(Difference(words=said, subject=label))
        for identifier in had.keys() & has.keys():
            if had[identifier] != has[identifier]:
                said = fill(words.RENAMED, kind=label, was=had[identifier], now=has[identifier])
                found.append(Difference(words=said, subject=label))
    found += _replaced(before, after)
    found += _others(before, after)
    found += _elsewhere(before, after)
    found += _heard_otherwise(before, after)
    return tuple(found)


def differences_of(before: Setup, after: Setup, ways: Sequence[Route]) -> tuple[Difference, ...]:
    """What is different for some signals, whose `ways` are those of now: of gear that others use too, only what is
    set on their own way."""
    return tuple(
        one
        for one in differences(before, after)
        if one.back is None or any(_passes(way, one.back) for way in ways)
    )


def _passes(way: Route, back: Change) -> bool:
    if way.source_or_none is not None and way.source_or_none.id == back.owner:
        return True
    for step in way.steps:
        if step.owner != back.owner:
            continue
        control = step.controls.get(back.name)
        if control is not None and control.channel == back.channel:
            return True
        if any(c.channel == back.channel and c.name == back.name for c in step.shared):
            return True
    return False


def _heard_otherwise(before: Setup, after: Setup) -> list[Difference]:
    """Who hears something else, or in another way."""
    if before.monitoring == after.monitoring:
        return []
    names = dict(listeners(before)) | dict(listeners(after))
    return [
        Difference(words=fill(words.HEARS_OTHERWISE, name=name), subject=name)
        for who, name in names.items()
        if cue_of(before, who) != cue_of(after, who)
    ]


def _elsewhere(before: Setup, after: Setup) -> list[Difference]:
    """Who or what stands elsewhere in the room."""
    old, new = before.placement, after.placement
    if old == new:
        return []
    names = {**_named(after.sources), **_named(after.devices)}
    names |= {thing.id: thing.name for thing in (*old.things, *new.things)}
    moved = [
        key for key in {**old.stands, **new.stands} if old.stands.get(key) != new.stands.get(key)
    ]
    moved += [
        split_port(key)[0]
        for key in {**old.aims, **new.aims}
        if old.aims.get(key) != new.aims.get(key)
    ]
    things = {one.id: one for one in old.things}
    moved += [one.id for one in new.things if things.get(one.id) != one]
    moved += [key for key in things if all(one.id != key for one in new.things)]
    return [
        Difference(words=fill(words.STANDS_ELSEWHERE, name=names[key]), subject=names[key])
        for key in dict.fromkeys(moved)
        if key in names
    ]


def _replaced(before: Setup, after: Setup) -> list[Difference]:
    """Gear that is another piece under the same name; another player, or one who plays otherwise."""
    found = []
    players = {p.id: p.name for setup in (before, after) for p in setup.performers}
    old_sources = {source.id: source for source in before.sources}
    for source in after.sources:
        old = old_sources.get(source.id)
        if old is None or old is source:
            continue
        if old.performer != source.performer:
            was, now = (players.get(s.performer or "", words.NOBODY) for s in (old, source))
            said = fill(words.OTHER_PLAYER, source=source.name, now=now, was=was)
            found.append(Difference(words=said, subject=source.name))
        if old.figures != source.figures:
            found.append(_other_figures(source, old, words.SOUNDS_OTHERWISE))
    old_devices = {device.id: device for device in before.devices}
    for device in after.devices:
        old_device = old_devices.get(device.id)
        if old_device is None or old_device is device:
            continue
        if old_device.figures != device.figures:
            found.append(_other_figures(device, old_device, words.OTHER_PIECE))
    return found


def _other_figures(now: Source | Device, old: Source | Device, otherwise: str) -> Difference:
    kinds = [one.figures.entry.replace("_", " ") if one.figures.entry else "" for one in (now, old)]
    if all(kinds) and kinds[0] != kinds[1]:
        said = fill(words.OTHER_KIND, name=now.name, now=kinds[0], was=kinds[1])
    else:
        said = fill(otherwise, name=now.name)
    return Difference(words=said, subject=now.name)


def _others(before: Setup, after: Setup) -> list[Difference]:
    found = []
    old_links = {link.id: link for link in before.links}
    new_links = {link.id: link for link in after.links}
    for identifier in sorted(old_links.keys() & new_links.keys()):
        old, new = old_links[identifier], new_links[identifier]
        if old is new:
            continue
        if (old.start, old.end) != (new.start, new.end):
            start, end = (port.replace(":", " ") for port in (new.start, new.end))
            said = fill(words.CABLE_MOVED, start=start, end=end)
            found.append(Difference(words=said, subject=words.CABLE))
        elif old.cable != new.cable and new.cable is not None:
            end = new.end.replace(":", " ")
            said = fill(words.OTHER_CABLE, end=end, length_m=new.cable.length_m)
            found.append(Difference(words=said, subject=words.CABLE))
    rows = (
        (words.SAMPLE_RATE, before.audio.sample_rate_hz, after.audio.sample_rate_hz, "Hz"),
        (words.BIT_DEPTH, before.audio.bit_depth, after.audio.bit_depth, "bit"),
        (words.BUFFER, before.audio.buffer_frames, after.audio.buffer_frames, "samples"),
        (words.ROOM_NOISE, before.room.noise_dba, after.room.noise_dba, "dBA"),
        (words.LEVEL_TARGET, before.level_target, after.level_target, ""),
    )
    for label, was, now, unit in rows:
        if was != now:
            now_text, was_text = (f"{value} {unit}".rstrip() for value in (now, was))
            said = fill(words.VALUE_MOVED, label=label, now=now_text, was=was_text)
            found.append(Difference(words=said, subject=label))
    return found
