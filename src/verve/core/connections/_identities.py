"""Who is who from layer to layer: the same microphone, instrument and cable keep their names all day."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from verve.core.connections._signals import Signal
from verve.core.session import Link, Setup, free_key


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Which pieces a signal goes through: of each box the number, from 1, and its side, from 0; and which input."""

    units: tuple[tuple[int, int], ...]
    port: str


@dataclass(slots=True)
class Identities:
    """What has a name already, by what it is. It grows as one layer after the other is built."""

    devices: dict[tuple[str, int], tuple[str, str]] = field(default_factory=dict)
    sources: dict[tuple[str, str], tuple[str, str]] = field(default_factory=dict)
    people: dict[str, str] = field(default_factory=dict)
    links: dict[tuple[str, str], Link] = field(default_factory=dict)
    pieces: dict[str, tuple[str, int]] = field(default_factory=dict)
    taken: set[str] = field(default_factory=set)
    names: set[str] = field(default_factory=set)
    busy: Mapping[str, int] = field(default_factory=dict)
    """Cables that stay plugged from the layer before, by kit item."""

    def key(self, wish: str) -> str:
        """An id like `wish` that nothing has had all day."""
        found = free_key(wish, self.taken)
        self.taken.add(found)
        return found

    def learn(self, setup: Setup, roots: Mapping[str, str]) -> None:
        """Take over what a setup calls its pieces; `roots` are the parts that others double, by part."""
        for device in setup.devices:
            if device.id not in self.pieces:
                kind = device.kit_item or f"={device.id}"
                number = 1 + max((n for k, n in self.devices if k == kind), default=0)
                self.pieces[device.id] = (kind, number)
                self.devices[(kind, number)] = (device.id, device.name)
                self.names.add(device.name)
        known = {key for key, _ in self.sources.values()}
        for source in setup.sources:
            if source.id not in known:
                root = roots.get(source.part or "", source.part or f"={source.id}")
                number = sum(1 for other, _ in self.sources if other == root)
                self.sources[(root, str(number))] = (source.id, source.name)
        for performer in setup.performers:
            self.people.setdefault(performer.name, performer.id)
        for kind in ("performers", "sources", "devices", "links", "lines"):
            self.taken |= {item.id for item in getattr(setup, kind)}

    def stay_plugged(self, links: Mapping[tuple[str, str], Link]) -> None:
        """Say which cables are in use beside those that a layer needs."""
        busy: dict[str, int] = {}
        for link in links.values():
            if link.kit_item is not None:
                busy[link.kit_item] = busy.get(link.kit_item, 0) + 1
        self.busy = busy


def root_of(signal: Signal, roots: Mapping[str, str]) -> str:
    """The part that a signal's part is a double of; itself where it is none."""
    return roots.get(signal.part.id, signal.part.id)
