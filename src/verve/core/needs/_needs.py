"""What a pass needs at once, against what is there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from verve.core.connections import Choice, Picked, Suggestion
from verve.core.kind import DeviceFigures, HostPlug
from verve.core.needs import _words as words
from verve.core.session import KitItem, Part, Session
from verve.core.words import Fact, fill

FEEDS_OF_SPLITTER = 4
WITHOUT_STAND = {"condenser_clip", "boundary", "usb_microphone", "recorder_handheld"}
"""Microphones that clamp, lie, or bring a foot of their own."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Need:
    """So many of something are needed, so many are there, and how that comes about."""

    key: str
    label: str
    needed: int
    owned: int
    how: str

    @property
    def missing(self) -> int:
        """How many are not there."""
        return max(0, self.needed - self.owned)

    @property
    def spare(self) -> int:
        """How many are left over."""
        return max(0, self.owned - self.needed)

    def fact(self) -> Fact:
        """It as a number that can say where it comes from."""
        return Fact(
            label=self.label,
            text=fill(words.OF, needed=self.needed, owned=self.owned),
            origin="computed",
            how=self.how,
        )


def _count(kit: Sequence[KitItem], keys: tuple[str, ...]) -> int:
    return sum(
        item.there for item in kit if item.accessory is not None and item.accessory.startswith(keys)
    )


def _names(choices: Sequence[Choice]) -> str:
    return ", ".join(choice.signal.name for choice in choices) or "none"


def _recorder(suggestion: Suggestion) -> DeviceFigures | None:
    if not suggestion.choices:
        return None
    return suggestion.choices[0].rated.connection.recorder.figures


def _phantom_at(figures: DeviceFigures | None, port: str) -> bool:
    return figures is not None and figures.phantom_switch(port) is not None


def _takes(figures: DeviceFigures | None, port: str, mode: str) -> bool:
    return figures is not None and mode in figures.modes(port)


def _inputs(suggestion: Suggestion) -> list[Need]:
    figures = _recorder(suggestion)
    sockets = () if figures is None else figures.input_ports()
    is_there = figures is not None and suggestion.choices[0].rated.connection.recorder.count > 0
    choices = suggestion.choices
    powered = [c for c in choices if c.rated.connection.power == "needs"]
    found = [
        Need(
            key="inputs",
            label=words.INPUTS,
            needed=len(choices),
            owned=len(sockets) if is_there else 0,
            how=fill(words.INPUTS_HOW, signals=_names(choices)),
        ),
        Need(
            key="phantom",
            label=words.PHANTOM,
            needed=len(powered),
            owned=sum(_phantom_at(figures, s) for s in sockets) if is_there else 0,
            how=fill(words.PHANTOM_HOW, signals=_names(powered)),
        ),
    ]
    for mode, label in (("instrument", words.FOR_INSTRUMENTS), ("line", words.AT_LINE_LEVEL)):
        using = [c for c in choices if c.rated.connection.mode == mode]
        found.append(
            Need(
                key=mode,
                label=label,
                needed=len(using),
                owned=sum(_takes(figures, s, mode) for s in sockets) if is_there else 0,
                how=fill(words.MODE_HOW, signals=_names(using)),
            )
        )
    return found


def _boxes(suggestion: Suggestion) -> list[Need]:
    used: dict[str, tuple[str, int, int]] = {}
    users: dict[str, list[str]] = {}
    for choice in suggestion.choices:
        for box in choice.rated.connection.boxes:
            sides = box.figures.lines_kept_apart()
            name, needed, _ = used.get(box.id, (box.name, 0, 0))
            used[box.id] = (name, needed + 1, box.count // sides)
            users.setdefault(box.id, []).append(choice.signal.name)
    found = []
    for key, (name, needed, owned) in used.items():
        figures = next(
            b.figures for c in suggestion.choices for b in c.rated.connection.boxes if b.id == key
        )
        count = -(-needed // figures.lines_kept_apart())
        how = fill(words.FOR, signals=", ".join(users[key]))
        found.append(Need(key=key, label=name, needed=count, owned=owned, how=how))
    return found


def _stands_by_itself(choice: Choice) -> bool:
    connection = choice.rated.connection
    return any(
        box.figures.entry in WITHOUT_STAND for box in (*connection.boxes, connection.recorder)
    )


def _stands(suggestion: Suggestion, kit: Sequence[KitItem]) -> list[Need]:
    on_stands = [
        choice
        for choice in suggestion.choices
        if choice.signal.is_air and not _stands_by_itself(choice)
    ]
    voices = [
        c
        for c in suggestion.choices
        if c.signal.is_air and getattr(c.signal.figures, "player", "") == "voice"
    ]
    threads = Need(
        key="threads",
        label=words.THREADS,
        needed=1 if on_stands else 0,
        owned=_count(kit, ("thread",)),
        how=words.THREADS_HOW,
    )
    return [
        threads,
        Need(
            key="stands",
            label=words.STANDS,
            needed=len(on_stands),
            owned=_count(kit, ("stand", "arm")),
            how=words.STANDS_HOW,
        ),
        Need(
            key="shields",
            label=words.SHIELDS,
            needed=len(voices),
            owned=_count(kit, ("shield",)),
            how=fill(words.SHIELDS_HOW, signals=_names(voices)),
        ),
    ]


def _feeds(suggestion: Suggestion, parts: Sequence[Part], kit: Sequence[KitItem]) -> Need:
    # A part that nobody is named for plays with somebody's, or by itself: it wears no headphones.
    people = sorted({part.performer for part in parts if part.performer}) or [words.SOMEBODY]
    figures = _recorder(suggestion)
    own = 0 if figures is None else figures.headphone_sockets()
    splitters = _count(kit, ("headphone_splitter",))
    return Need(
        key="feeds",
        label=words.FEEDS,
        needed=len(people),
        owned=own + (FEEDS_OF_SPLITTER - 1) * splitters,
        how=fill(words.FEEDS_HOW, people=", ".join(people)),
    )


def plugs_text(picked: Picked) -> str:
    """The two ends of a cable: "XLR to 6.3 mm jack"."""
    first, last = words.PLUGS[picked.run.start], words.PLUGS[picked.run.end]
    return fill(words.PLUG_TO_PLUG, first=first, last=last)


def cable_label(picked: Picked) -> str:
    """The kind of a cable by its two ends."""
    first, last = words.PLUGS[picked.run.start], words.PLUGS[picked.run.end]
    return (
        fill(words.CABLES, first=first, last=last)
        if first != last
        else fill(words.CABLES_ALIKE, first=first)
    )


def _cables(suggestion: Suggestion) -> list[Need]:
    by_kind: dict[str, list[Picked]] = {}
    for picked in suggestion.cables:
        by_kind.setdefault(cable_label(picked), []).append(picked)
    found = []
    for label, group in by_kind.items():
        runs = ", ".join(
            fill(words.RUN, run=p.run.name, least_m=max(p.run.least_m, 0.5)) for p in group
        )
        owned = sum(p.item is not None for p in group)
        found.append(
            Need(
                key=label,
                label=label,
                needed=len(group),
                owned=owned,
                how=fill(words.RUNS, runs=runs),
            )
        )
    return found


def _hum(suggestion: Suggestion, kit: Sequence[KitItem]) -> list[Need]:
    """Mains-powered outputs straight into a socket can hum; a transformer between them helps."""
    outputs = [
        c
        for c in suggestion.choices
        if c.signal.figures.is_on_mains() and not c.rated.connection.boxes
    ]
    if not outputs:
        return []
    used = {box.id for choice in suggestion.choices for box in choice.rated.connection.boxes}
    owned = sum(
        item.there
        for item in kit
        if item.device is not None and item.device.isolates and item.id not in used
    )
    return [
        Need(
            key="hum",
            label=words.TRANSFORMERS,
            needed=len(outputs),
            owned=owned,
            how=fill(words.TRANSFORMERS_HOW, signals=_names(outputs)),
        )
    ]


def needs_of(session: Session, parts: Sequence[Part], suggestion: Suggestion) -> tuple[Need, ...]:
    """Everything a pass needs at once, by the way that was found for it."""
    kit = session.kit
    found = [
        *_inputs(suggestion),
        *_boxes(suggestion),
        _feeds(suggestion, parts, kit),
        *_stands(suggestion, kit),
        *_cables(suggestion),
        *_hum(suggestion, kit),
        *_adapters(session, parts, suggestion),
    ]
    return tuple(need for need in found if need.needed or need.key == "inputs")


def computer_plugs(
    parts: Sequence[Part], recorder: DeviceFigures | None
) -> tuple[tuple[str, HostPlug], ...]:
    """What is plugged into the computer, by name: the interface, and what plays instruments inside it."""
    own = None if recorder is None else recorder.computer_plug()
    found = [] if own is None else [(words.INTERFACE, own)]
    for part in parts:
        socket = None if part.plug is None else part.plug.socket_of_computer()
        if part.capture == "computer" and socket is not None:
            found.append((part.name, socket))
    return tuple(found)


def _adapters(session: Session, parts: Sequence[Part], suggestion: Suggestion) -> list[Need]:
    sockets = session.computer.sockets
    plugs = computer_plugs(parts, _recorder(suggestion))
    unfit = [(name, plug) for name, plug in plugs if plug not in sockets]
    if not sockets or not unfit:
        return []
    return [
        Need(
            key="host_plug",
            label=fill(
                words.ADAPTER,
                plug=words.USB_PLUGS[unfit[0][1]],
                socket=words.USB_PLUGS[sockets[0]],
            ),
            needed=len(unfit),
            owned=_count(session.kit, ("plug_c_a",)),
            how=fill(words.ADAPTER_HOW, things=", ".join(name for name, _ in unfit)),
        )
    ]


def spare_devices(session: Session, suggestion: Suggestion) -> Mapping[str, int]:
    """Boxes and microphones of the kit that a way leaves unused, by name."""
    used: dict[str, int] = {}
    for choice in suggestion.choices:
        for box in choice.rated.connection.boxes:
            used[box.id] = used.get(box.id, 0) + 1
    return {
        item.name: item.there - used.get(item.id, 0)
        for item in session.kit
        if item.device is not None and not item.device.records and item.there > used.get(item.id, 0)
    }
