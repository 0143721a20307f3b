"""Following a signal through the session, from its source to the recorder."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from verve.core.engine import Engine, Remembered
from verve.core.kind import (
    CableFigures,
    Capsule,
    ChannelSettings,
    Control,
    DeviceFigures,
    FrozenDict,
    Mode,
    ModeFigures,
    PhantomDraw,
    Settings,
    marked,
)
from verve.core.session._setup import Device, Line, Link, Setup, Source, split_port


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class RouteStep:
    """A device on the way: where the signal comes in, by which link, and where it goes out.

    It holds what counts there and no device: `settings` are those of the channels it passes, `controls`
    those of its channel by name, phantom included, `shared` those behind it that other signals pass too;
    `capsule` is the microphone that sound meets here, None where a plug goes in.
    """

    owner: str
    name: str
    figures: DeviceFigures
    settings: Settings
    link: Link
    in_port: str
    out_port: str | None
    controls: Mapping[str, Control]
    shared: tuple[Control, ...] = ()
    capsule: Capsule | None = None

    @property
    def cable(self) -> CableFigures | None:
        """The cable into this device; None through the air."""
        return self.link.cable

    @property
    def port_name(self) -> str:
        """Where it comes in as one reads it off the box: "input 3"; empty where there is but one."""
        return self.figures.port_name(self.in_port)

    @property
    def place(self) -> str:
        """Device and port in a sentence: "Interface, input 3"."""
        return f"{self.name}, {self.port_name}" if self.port_name else self.name

    @property
    def mode(self) -> Mode | None:
        """Which way the input is switched; None for one without modes."""
        return self.figures.mode(self.in_port, self.settings)

    @property
    def mode_figures(self) -> ModeFigures | None:
        """The figures of that mode."""
        mode = self.mode
        return None if mode is None else self.figures.modes(self.in_port)[mode]

    @property
    def phantom_switch(self) -> str | None:
        """Name of the switch that gives phantom power here."""
        return self.figures.phantom_switch(self.in_port)

    @property
    def has_phantom_on(self) -> bool:
        """Whether that switch is on."""
        return self.figures.has_phantom_on(self.in_port, self.settings)

    @property
    def at_phantom(self) -> PhantomDraw | None:
        """What phantom power does to the device that arrives at its output."""
        return self.figures.at_phantom(self)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Route:
    """The way of one line. `is_complete` when something feeds it and it arrives at a recorder.

    `memory` keeps what was once worked out of it, as long as it lives.
    """

    line: Line
    source_or_none: Source | None
    steps: tuple[RouteStep, ...]
    is_complete: bool
    memory: dict[str, Any] = field(default_factory=dict, repr=False)

    @property
    def source(self) -> Source:
        """What feeds it.

        raises: LookupError where nothing does; `has_source` tells
        """
        if self.source_or_none is None:
            raise LookupError(f"{self.line.name} has no source")
        return self.source_or_none

    @property
    def has_source(self) -> bool:
        """Whether anything feeds it."""
        return self.source_or_none is not None

    @property
    def source_name(self) -> str:
        """What feeds it is called."""
        return "nothing" if self.source_or_none is None else self.source_or_none.name

    @property
    def recorder(self) -> RouteStep | None:
        """The interface input it ends at; None for a line that ends before."""
        return self.steps[-1] if self.is_complete else None


_Index = tuple[dict[str, list[Link]], dict[str, list[Link]]]


def _indexed(links: tuple[Link, ...]) -> _Index:
    """Links by the port they come from, and by the device they lead into."""
    starts: dict[str, list[Link]] = {}
    ends: dict[str, list[Link]] = {}
    for link in links:
        starts.setdefault(link.start, []).append(link)
        ends.setdefault(split_port(link.end)[0], []).append(link)
    return starts, ends


class Topology:
    """The links of a setup, indexed for following."""

    def __init__(self, setup: Setup, engine: Engine | None = None) -> None:
        engine = engine or Engine()
        self._steps: Remembered[RouteStep] = engine.table("route steps", 1536)
        self._routes: Remembered[Route] = engine.table("routes", 384)
        # A line's way is as it was while every device and source that was met in finding it is.
        self._known: Remembered[tuple[dict[str, Device | Source], Route]] = engine.table(
            "ways", 384
        )
        self._met: dict[str, Device | Source] = {}
        self._links_now = setup.links
        self._devices = {device.id: device for device in setup.devices}
        self._sources = {source.id: source for source in setup.sources}
        self._owners: dict[str, Device | Source] = {**self._devices, **self._sources}
        self._links = {link.id: link for link in setup.links}
        index: Remembered[_Index] = engine.table("links", 64)
        self._from, self._into = index.get((setup.links,), lambda: _indexed(setup.links))

    def route(self, line: Line) -> Route:
        """The way of a line as far as it goes; the first of equals where it splits."""
        known = self._known.find((line, self._links_now))
        if known is not None and all(self._owners.get(i) is owner for i, owner in known[0].items()):
            return known[1]
        self._met = {}
        found = self._find(line)
        self._known.keep((line, self._links_now), (self._met, found))
        return found

    def _find(self, line: Line) -> Route:
        before, source = self._origin(self._links[line.first_link])
        steps, arrives = self._follow(self._links[line.first_link])
        steps = (*before, *steps)
        complete = arrives and source is not None
        parts = (line, source, "whole" if complete else "part", *steps)
        return self._routes.get(
            parts,
            lambda: Route(line=line, source_or_none=source, steps=steps, is_complete=complete),
        )

    def _origin(self, first: Link) -> tuple[tuple[RouteStep, ...], Source | None]:
        """What feeds a link: its source, and the steps between, for a line that begins behind a device."""
        owner, port = split_port(first.start)
        self._met[owner] = self._owners[owner]
        if owner in self._sources:
            return (), self._sources[owner]
        longest: tuple[RouteStep, ...] = ()
        waiting: list[tuple[str, str, tuple[RouteStep, ...]]] = [(owner, port, ())]
        seen: set[str] = set()
        while waiting:
            owner, port, steps = waiting.pop(0)
            device = self._devices[owner]
            for link in self._into.get(owner, ()):
                in_port = split_port(link.end)[1]
                if link.id in seen or port not in self.outputs_reached(device, in_port):
                    continue
                seen.add(link.id)
                found = (self.step(device, link, in_port, port), *steps)
                start, out = split_port(link.start)
                self._met[start] = self._owners[start]
                if start in self._sources:
                    return found, self._sources[start]
                longest = max(longest, found, key=len)
                waiting.append((start, out, found))
        return (), None

    def outputs_reached(self, device: Device, in_port: str) -> tuple[str, ...]:
        """Outputs of a device at which a signal on an input arrives, the louder first."""
        return device.figures.outputs_reached(in_port, device.settings)

    def links_from(self, owner: str, port: str) -> list[Link]:
        """What is plugged into an output."""
        return self._from.get(f"{owner}:{port}", [])

    def device(self, owner: str) -> Device:
        """A device by its id."""
        return self._devices[owner]

    def _follow(self, first: Link) -> tuple[tuple[RouteStep, ...], bool]:
        """The first way that arrives at a recorder, else the longest; every device is entered once."""
        best: tuple[RouteStep, ...] = ()
        seen = {first.end}
        waiting: list[tuple[Link, tuple[RouteStep, ...]]] = [(first, ())]
        while waiting:
            link, before = waiting.pop()
            owner, port = split_port(link.end)
            device = self._devices[owner]
            self._met[owner] = device
            if device.figures.records:
                return (*before, self.step(device, link, port, None)), True
            onward: list[tuple[Link, tuple[RouteStep, ...]]] = []
            for out_port in self.outputs_reached(device, port):
                for following in self.links_from(owner, out_port):
                    if following.end not in seen:
                        seen.add(following.end)
                        step = self.step(device, link, port, out_port)
                        onward.append((following, (*before, step)))
            if not onward:
                ended = (*before, self.step(device, link, port, None))
                best = max(best, ended, key=len)
            waiting += reversed(onward)
        return best, False

    def step(self, device: Device, link: Link, in_port: str, out_port: str | None) -> RouteStep:
        """A device as one signal passes it."""
        # A step looks at the channels it passes: another channel of the same box can be set without
        # making it anew.
        figures = device.figures
        channels = figures.channels_passed(in_port, out_port)
        passed = [device.settings.get(channel) for channel in channels]
        parts = (device.id, device.name, figures, link, in_port, out_port, *passed)
        known = self._steps.find(parts)
        if known is not None:
            return known
        settings: dict[str, ChannelSettings] = {
            channel: now for channel, now in zip(channels, passed, strict=True) if now is not None
        }
        made = RouteStep(
            owner=device.id,
            name=device.name,
            figures=figures,
            settings=FrozenDict(settings),
            link=link,
            in_port=in_port,
            out_port=out_port,
            controls=FrozenDict(figures.passed_controls(device.id, in_port, settings)),
            shared=marked(figures.shared_controls(device.id, out_port, settings), settings),
            capsule=figures.capsule(in_port),
        )
        return self._steps.keep(parts, made)


def routes(setup: Setup, engine: Engine | None = None) -> tuple[Route, ...]:
    """The ways of all lines, in their order."""
    topology = Topology(setup, engine)
    return tuple(topology.route(line) for line in setup.lines)
