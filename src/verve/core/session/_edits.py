"""Edits: pure functions from a session to a new one. An edit that cannot be raises and changes nothing."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import TypeVar

from pydantic import ValidationError

from verve.core.errors import EditError, InputError, from_validation_error
from verve.core.kind import NOTHING_SET, Control, ControlValue, Frozen, FrozenDict
from verve.core.session._asked import controls_of
from verve.core.session._models import Session
from verve.core.session._setup import (
    Audio,
    Device,
    LevelTarget,
    Line,
    Link,
    Room,
    Setup,
    Source,
    check_setup,
    split_port,
)

LONGEST_NAME = 80


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One control put to one value: what a remedy consists of."""

    owner: str
    channel: str
    name: str
    value: ControlValue


_Model = TypeVar("_Model", bound=Frozen)


def _checked(model: _Model) -> _Model:
    """The same value, its figures looked at: a copy with other fields is made without a look."""
    return type(model).model_validate(model.model_dump())


def with_setup(session: Session, **changes: object) -> Session:
    """The session with parts of its setup replaced: what is new in them and all references are checked.

    raises: EditError for a part that no setup has, a figure that cannot be, or a loose reference
    """
    for name in changes.keys() - Setup.model_fields.keys():
        raise EditError(f"{name}: is no part of a setup")
    old = session.setup
    try:
        for name, value in changes.items():
            before = getattr(old, name)
            if isinstance(value, Frozen) and value is not before:
                changes[name] = _checked(value)
            elif isinstance(value, tuple):
                known = {id(item) for item in before}
                changes[name] = tuple(i if id(i) in known else _checked(i) for i in value)
        setup = placed(old.model_copy(update=changes))
        check_setup(setup)
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, "setup"))) from error
    except InputError as error:
        raise EditError(str(error)) from error
    return session.model_copy(update={"setup": setup})


def placed(setup: Setup) -> Setup:
    """Without the places of what is no longer there: what takes their names would stand in them."""
    placement = setup.placement
    owners = {one.id for one in setup.sources} | {one.id for one in setup.devices}
    stands = {key: stand for key, stand in placement.stands.items() if key in owners}
    aims = {key: aim for key, aim in placement.aims.items() if split_port(key)[0] in owners}
    heard = {one.performer or one.id for one in setup.sources}
    cues = tuple(one for one in setup.monitoring.cues if one.who in heard)
    if len(cues) < len(setup.monitoring.cues):
        monitoring = setup.monitoring.model_copy(update={"cues": cues})
        setup = setup.model_copy(update={"monitoring": monitoring})
    if (len(stands), len(aims)) == (len(placement.stands), len(placement.aims)):
        return setup
    kept = placement.model_copy(update={"stands": FrozenDict(stands), "aims": FrozenDict(aims)})
    return setup.model_copy(update={"placement": kept})


def find_control(setup: Setup, owner: str, channel: str, name: str) -> Control:
    """raises: EditError if there is no such control"""
    device = next((d for d in setup.devices if d.id == owner), None)
    if device is not None and channel in device.figures.input_ports():
        own = device.figures.passed_controls(device.id, channel, device.settings)
        found = own.get(name)
        if found is not None and found.channel == channel:
            return found
    for control in controls_of(setup, owner):
        if control.channel == channel and control.name == name:
            return control
    raise EditError(f"{owner}.{channel}.{name}: must be a control of this session")


def set_control(session: Session, change: Change) -> Session:
    """Put one control to one value.

    raises: EditError if there is no such control, or it has no such position
    """
    control = find_control(session.setup, change.owner, change.channel, change.name)
    if not control.accepts(change.value):
        raise EditError(f"{control.label}: {control.rule()}; got {change.value!r}")
    value = change.value
    if control.kind == "range":
        value = float(value)  # type: ignore[arg-type]
    update: dict[str, object] = {change.name: value}
    if change.name == "gain_db" and control.hour is not None and value != control.value:
        # Whoever turns it has not said yet where it stands now.
        update["hour"] = None
    return put_settings(session, change, update)


def put_settings(session: Session, change: Change, update: dict[str, object]) -> Session:
    """The same settings on the channel of a change, and on all that share its knob."""
    for channel in _turned_together(session.setup, change):
        session = _put(session, change.owner, channel, update)
    return session


def _turned_together(setup: Setup, change: Change) -> tuple[str, ...]:
    """Channels that one knob turns: that of the change, and what shares its knob."""
    device = next((d for d in setup.devices if d.id == change.owner), None)
    if device is None:
        return (change.channel,)
    return device.figures.turned_together(change.channel, change.name)


def lock_control(
    session: Session, owner: str, channel: str, name: str, *, is_locked: bool
) -> Session:
    """Keep a control as it is, or let go of it: what sets gains by itself leaves it alone meanwhile.

    raises: EditError if there is no such control
    """
    control = find_control(session.setup, owner, channel, name)
    change = Change(owner=owner, channel=channel, name=name, value=control.value)
    for other in _turned_together(session.setup, change):
        now = _locked_now(session.setup, owner, other)
        kept = tuple(n for n in now if n != name) + ((name,) if is_locked else ())
        session = _put(session, owner, other, {"kept": kept})
    return session


def _locked_now(setup: Setup, owner: str, channel: str) -> tuple[str, ...]:
    for source in setup.sources:
        if source.id == owner:
            return source.settings.kept
    for device in setup.devices:
        if device.id == owner:
            return device.settings.get(channel, NOTHING_SET).kept
    return ()


def _put(session: Session, owner: str, channel: str, update: dict[str, object]) -> Session:
    setup = session.setup
    for index, source in enumerate(setup.sources):
        if source.id == owner:
            new_settings = source.settings.model_copy(update=update)
            new_source = source.model_copy(update={"settings": new_settings})
            sources = (*setup.sources[:index], new_source, *setup.sources[index + 1 :])
            return _replace_setup(session, setup, "sources", sources)
    for index, device in enumerate(setup.devices):
        if device.id == owner:
            now = device.settings.get(channel, NOTHING_SET)
            settings = FrozenDict({**device.settings, channel: now.model_copy(update=update)})
            new_device = device.model_copy(update={"settings": settings})
            devices = (*setup.devices[:index], new_device, *setup.devices[index + 1 :])
            return _replace_setup(session, setup, "devices", devices)
    raise EditError(f"{owner}: must be a source or device of this session")


def _replace_setup(session: Session, setup: Setup, field: str, value: object) -> Session:
    return session.model_copy(update={"setup": setup.model_copy(update={field: value})})


def apply_changes(session: Session, changes: Sequence[Change]) -> Session:
    """Several controls at once, as one edit."""
    for change in changes:
        session = set_control(session, change)
    return session


def clean_name(name: str) -> str:
    """A name as it is kept: without what nobody sees, and not too long.

    raises: EditError for one that nobody could read
    """
    cleaned = " ".join(
        "".join(c for c in name if unicodedata.category(c)[0] != "C" or c in "\u200d\u200c").split()
    )
    if not cleaned:
        raise EditError("A name: must have at least one visible character")
    if len(cleaned) > LONGEST_NAME:
        raise EditError(f"A name: must have at most {LONGEST_NAME} characters; got {len(cleaned)}")
    return cleaned


def rename_session(session: Session, title: str) -> Session:
    """raises: EditError for an empty title"""
    return session.model_copy(update={"title": clean_name(title)})


def rename_line(session: Session, line_id: str, name: str) -> Session:
    """raises: EditError for an empty name, one that another line has, or an unknown line"""
    cleaned = clean_name(name)
    _line(session, line_id)
    if any(line.name == cleaned and line.id != line_id for line in session.setup.lines):
        raise EditError(
            f"{cleaned}: is the name of another signal; choose one that tells them apart"
        )
    lines = tuple(
        line.model_copy(update={"name": cleaned}) if line.id == line_id else line
        for line in session.setup.lines
    )
    return with_setup(session, lines=lines)


def _line(session: Session, line_id: str) -> Line:
    for line in session.setup.lines:
        if line.id == line_id:
            return line
    raise EditError(f"{line_id}: must be a signal of this session")


def remove_line(session: Session, line_id: str) -> Session:
    """Take a line away with its links, and the source and gear that nothing else uses.

    Interfaces and mixers stay: they are the furniture of the session.
    """
    line = _line(session, line_id)
    setup = session.setup
    lines = tuple(other for other in setup.lines if other.id != line_id)
    gone = _links_used_only_by(setup, line, lines)
    links = tuple(link for link in setup.links if link.id not in gone)
    used = {split_port(port)[0] for link in links for port in (link.start, link.end)}
    touched = {
        split_port(port)[0]
        for link in setup.links
        if link.id in gone
        for port in (link.start, link.end)
    }
    devices = tuple(
        device
        for device in setup.devices
        if device.id in used or device.id not in touched or device.figures.is_furniture
    )
    sources = tuple(s for s in setup.sources if s.id in used or s.id not in touched)
    # What somebody played beside it, into the same microphone, goes with the last signal of theirs.
    led = {split_port(link.start)[0] for link in setup.links}
    left = {s.performer for s in sources if s.id in used}
    taken = {s.performer for s in setup.sources if s.id in touched and s.performer is not None}
    sources = tuple(
        s for s in sources if s.id in led or s.performer not in taken or s.performer in left
    )
    return with_setup(session, lines=lines, links=links, devices=devices, sources=sources)


def _links_used_only_by(setup: Setup, line: Line, others: Sequence[Line]) -> set[str]:
    from_start: dict[str, list[Link]] = {}
    by_id = {link.id: link for link in setup.links}
    mixes = {device.id: device.figures.mixes for device in setup.devices}
    for link in setup.links:
        from_start.setdefault(split_port(link.start)[0], []).append(link)

    def reached(first: str) -> set[str]:
        found: set[str] = set()
        waiting = [by_id[first]]
        while waiting:
            link = waiting.pop()
            if link.id in found:
                continue
            found.add(link.id)
            owner = split_port(link.end)[0]
            # A mixer's outputs carry its other channels too: they belong to no single line.
            if not mixes[owner]:
                waiting += from_start.get(owner, [])
        return found

    kept: set[str] = set()
    for other in others:
        kept |= reached(other.first_link)
    return reached(line.first_link) - kept


def set_level_target(session: Session, level_target: LevelTarget) -> Session:
    """Choose the level target of the session."""
    return with_setup(session, level_target=level_target)


def set_own_aim(session: Session, target_dbfs: float) -> Session:
    """Numbers of one's own: where the hardest peak shall arrive; the level target becomes that.

    raises: EditError outside −40 to −1 dBFS
    """
    if not -40.0 <= target_dbfs <= -1.0:
        raise EditError(f"The target: must be −40 to −1 dBFS; got {target_dbfs:g}")
    return with_setup(session, level_target="own", own_target_dbfs=float(target_dbfs))


def set_line_level_target(
    session: Session, line_id: str, level_target: LevelTarget | None
) -> Session:
    """A level target for one line alone; None for the session's.

    raises: EditError for an unknown line
    """
    _line(session, line_id)
    lines = tuple(
        line.model_copy(update={"level_target": level_target}) if line.id == line_id else line
        for line in session.setup.lines
    )
    return with_setup(session, lines=lines)


def set_audio(session: Session, audio: Audio) -> Session:
    """Choose the recorder's rate, depth and buffer."""
    return with_setup(session, audio=audio)


def set_room(session: Session, room: Room) -> Session:
    """Describe the room."""
    return with_setup(session, room=room)


def add_parts(
    session: Session,
    *,
    sources: Sequence[Source] = (),
    devices: Sequence[Device] = (),
    links: Sequence[Link] = (),
    lines: Sequence[Line] = (),
) -> Session:
    """Put whole chains in: sources, gear, links and lines together.

    raises: EditError if the parts do not hold together
    """
    setup = session.setup
    return with_setup(
        session,
        sources=(*setup.sources, *sources),
        devices=(*setup.devices, *devices),
        links=(*setup.links, *links),
        lines=(*setup.lines, *lines),
    )


def free_identifier(setup: Setup, wish: str) -> str:
    """An identifier like `wish` that nothing in the setup has yet."""
    ascii_only = unicodedata.normalize("NFKD", wish).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "_", ascii_only).strip("_")[:60] or "item"
    taken = {
        item.id
        for items in (setup.sources, setup.devices, setup.links, setup.lines, setup.performers)
        for item in items
    }
    if stem not in taken:
        return stem
    number = 2
    while f"{stem}_{number}" in taken:
        number += 1
    return f"{stem}_{number}"


def set_a4(session: Session, a4_hz: float) -> Session:
    """The pitch that all tune to.

    raises: EditError outside 300 to 600 Hz
    """
    if not 300.0 <= a4_hz <= 600.0:
        raise EditError(f"A4: must be 300 to 600 Hz; got {a4_hz:g}")
    return session.model_copy(update={"a4_hz": a4_hz})


def free_name(wish: str, taken: Collection[str]) -> str:
    """The wished name, with a number behind it where it is taken."""
    number, name = 2, wish
    while name in taken:
        name, number = f"{wish} {number}", number + 1
    return name
