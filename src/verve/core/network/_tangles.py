"""Where signals meet or split: which cables belong to such a place, so that all other lines are alone."""

from __future__ import annotations

from verve.core.engine import Engine, Remembered
from verve.core.kind import DeviceFigures
from verve.core.session import Device, Link, Setup, Topology, split_port


class _Joined:
    """Cables joined into groups; a group that is marked has a place where signals meet or split."""

    def __init__(self) -> None:
        self._root: dict[str, str] = {}
        self._marked: set[str] = set()

    def root(self, link: str) -> str:
        """The one that stands for a cable's group."""
        root = self._root.setdefault(link, link)
        while root != self._root[root]:
            self._root[root] = self._root[self._root[root]]
            root = self._root[root]
        return root

    def join(self, one: str, other: str) -> None:
        """Let two cables be in one group."""
        first, second = self.root(one), self.root(other)
        if first != second:
            self._root[second] = first
            if second in self._marked:
                self._marked.add(first)

    def mark(self, link: str) -> None:
        """Signals meet or split at this cable."""
        self._marked.add(self.root(link))

    def is_marked(self, link: str) -> bool:
        """Whether signals meet or split in its group."""
        return self.root(link) in self._marked


def tangled_links(setup: Setup, topology: Topology, engine: Engine) -> frozenset[str]:
    """Cables of all signals that meet others, or split, or go round in a circle."""
    table: Remembered[frozenset[str]] = engine.table("tangles", 64)
    # Where a signal leaves a device follows from its figures alone, unless its kind says otherwise.
    devices = [d if _routes_by_setting(d.figures) else d.figures for d in setup.devices]
    parts = (setup.links, setup.sources, *devices)
    return table.get(parts, lambda: _tangled(setup, topology, engine))


def _routes_by_setting(figures: DeviceFigures) -> bool:
    return type(figures).outputs_reached is not DeviceFigures.outputs_reached


def _tangled(setup: Setup, topology: Topology, engine: Engine) -> frozenset[str]:
    joined = _Joined()
    acoustic = {source.id for source in setup.sources if source.figures.is_acoustic}
    into: dict[str, list[Link]] = {}
    starts: dict[str, str] = {}
    for link in setup.links:
        into.setdefault(split_port(link.end)[0], []).append(link)
        if split_port(link.start)[0] not in acoustic:
            first = starts.setdefault(link.start, link.id)
            if first != link.id:
                joined.join(first, link.id)
                joined.mark(first)
    for device in setup.devices:
        if device.figures.records:
            # What arrives at different inputs of a recorder does not meet; a capsule may hear several.
            _join_ends(into.get(device.id, ()), joined)
        else:
            _pass(device, into.get(device.id, ()), topology, joined)
    if has_circle(setup, engine):
        for link in setup.links:
            joined.mark(link.id)
    return frozenset(link.id for link in setup.links if joined.is_marked(link.id))


def _join_ends(links: list[Link] | tuple[()], joined: _Joined) -> None:
    """A port that several cables lead into: a capsule may hear several sounds."""
    ends: dict[str, str] = {}
    for link in links:
        first = ends.setdefault(link.end, link.id)
        if first != link.id:
            joined.join(first, link.id)
            joined.mark(first)


def _pass(
    device: Device, links: list[Link] | tuple[()], topology: Topology, joined: _Joined
) -> None:
    by_out: dict[str, str] = {}
    if len(links) > 1:
        _join_ends(links, joined)
    for link in links:
        outs = topology.outputs_reached(device, split_port(link.end)[1])
        used = 0
        for out in outs:
            onward = topology.links_from(device.id, out)
            if not onward and not device.figures.mixes:
                continue
            used += 1
            first = by_out.setdefault(out, link.id)
            if first != link.id:
                joined.join(first, link.id)
                joined.mark(first)
            for following in onward:
                joined.join(link.id, following.id)
        if used > 1:
            joined.mark(link.id)


def has_circle(setup: Setup, engine: Engine) -> bool:
    """Whether cables lead back to a device that they come from: only then can a signal go round."""
    table: Remembered[bool] = engine.table("circles", 64)
    return table.get((setup.links,), lambda: _has_circle(setup))


def _has_circle(setup: Setup) -> bool:
    following: dict[str, set[str]] = {}
    into: dict[str, int] = {}
    for link in setup.links:
        start, end = split_port(link.start)[0], split_port(link.end)[0]
        ends = following.setdefault(start, set())
        if end not in ends:
            ends.add(end)
            into[end] = into.get(end, 0) + 1
    ready = [owner for owner in following if owner not in into]
    while ready:
        for end in following.get(ready.pop(), ()):
            into[end] -= 1
            if not into[end]:
                del into[end]
                ready.append(end)
    return bool(into)
