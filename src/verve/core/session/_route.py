"""Following a signal through the session, from its source to the recorder."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.session._controls import (
    Control,
    channel_controls,
    group_of,
    input_figures,
    phantom_channel,
)
from verve.core.session._gear import (
    CableFigures,
    InterfaceFigures,
    MicrophoneFigures,
    MixerFigures,
    capsule_of,
)
from verve.core.session._models import (
    NOTHING_SET,
    Device,
    Line,
    Link,
    Setup,
    Source,
    inputs_of,
    outputs_of,
    split_port,
)
from verve.core.session._remembered import Remembered

_HARD_OVER = 0.995
"""A pan this far over is meant as hard over; what it leaves on the other side is inaudible."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Hop:
    """A device on the way: where the signal comes in, by which link, and where it goes out.

    `controls` are those of the channel the signal passes, by name, phantom included; `capsule` is the
    microphone that sound meets here, None where a plug goes in.
    """

    device: Device
    link: Link
    in_port: str
    out_port: str | None
    controls: Mapping[str, Control]
    capsule: MicrophoneFigures | None = None

    @property
    def cable(self) -> CableFigures | None:
        """The cable into this device; None through the air."""
        return self.link.cable


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Route:
    """The way of one line. `is_complete` when it arrives at an interface."""

    line: Line
    source: Source
    hops: tuple[Hop, ...]
    is_complete: bool

    @property
    def recorder(self) -> Hop | None:
        """The interface input it ends at; None for a line that ends before."""
        return self.hops[-1] if self.is_complete else None


class Topology:
    """The links of a setup, indexed for following."""

    def __init__(self, setup: Setup) -> None:
        self._devices = {device.id: device for device in setup.devices}
        self._sources = {source.id: source for source in setup.sources}
        self._links = {link.id: link for link in setup.links}
        self._from: dict[str, list[Link]] = {}
        for link in setup.links:
            self._from.setdefault(link.start, []).append(link)

    def route(self, line: Line) -> Route:
        """The way of a line as far as it goes; the first of equals where it splits."""
        first = self._links[line.first_link]
        owner, _ = split_port(first.start)
        source = self._sources.get(owner)
        if source is None:  # a line that begins behind a device: its source is what feeds that
            source = next(iter(self._sources.values()))
        hops, complete = self._follow(first, frozenset())
        parts = (line, source, "whole" if complete else "part", *hops)
        return _routes.get(
            parts, lambda: Route(line=line, source=source, hops=hops, is_complete=complete)
        )

    def _follow(self, link: Link, seen: frozenset[str]) -> tuple[tuple[Hop, ...], bool]:
        owner, port = split_port(link.end)
        device = self._devices[owner]
        if isinstance(device.figures, InterfaceFigures):
            return (_hop(device, link, port, None),), True
        best: tuple[tuple[Hop, ...], bool] | None = None
        if link.id not in seen:
            for out_port in outputs_reached(device, port):
                for following in self._from.get(f"{owner}:{out_port}", []):
                    rest, complete = self._follow(following, seen | {link.id})
                    hop = _hop(device, link, port, out_port)
                    if complete:
                        return (hop, *rest), True
                    if best is None or len(rest) + 1 > len(best[0]):
                        best = ((hop, *rest), False)
        if best is not None:
            return best
        return (_hop(device, link, port, None),), False


_hops: Remembered[Hop] = Remembered(2048)
_routes: Remembered[Route] = Remembered(1024)


def _hop(device: Device, link: Link, in_port: str, out_port: str | None) -> Hop:
    # A hop looks at its own channel, its phantom switch and a mixer's main fader: another channel of
    # the same box can be set without making it anew.
    settings = device.settings
    switch = None
    if isinstance(device.figures, InterfaceFigures):
        switch = input_figures(device, in_port).phantom_switch
    parts = (
        device.id,
        device.name,
        device.figures,
        settings.get(in_port),
        None if switch is None else settings.get(phantom_channel(switch)),
        settings.get("main"),
        None if out_port is None else settings.get(out_port),
        link,
        in_port,
        out_port,
    )
    return _hops.get(
        parts,
        lambda: Hop(
            device=device,
            link=link,
            in_port=in_port,
            out_port=out_port,
            controls=channel_controls(device, in_port),
            capsule=capsule_of(device.figures, in_port),
        ),
    )


def outputs_reached(device: Device, in_port: str) -> tuple[str, ...]:
    """Outputs at which a signal on an input arrives, the louder first."""
    if not isinstance(device.figures, MixerFigures):
        return outputs_of(device.figures)
    own: tuple[str, ...] = ()
    if device.figures.direct_outs:
        # What is plugged into a channel's own output is meant for that channel alone.
        own = (f"direct.{in_port.removeprefix('in.')}",)
    return (*own, *_mains(device, in_port))


def _mains(device: Device, in_port: str) -> tuple[str, ...]:
    group = group_of(device, in_port)
    if group is not None:
        return (f"group.{group}",)
    pan = device.settings.get(in_port, NOTHING_SET).pan or 0.0
    if pan <= -_HARD_OVER:
        return ("main.left",)
    if pan >= _HARD_OVER:
        return ("main.right",)
    return ("main.left", "main.right") if pan <= 0.0 else ("main.right", "main.left")


def routes(setup: Setup) -> tuple[Route, ...]:
    """The ways of all lines, in their order."""
    topology = Topology(setup)
    return tuple(topology.route(line) for line in setup.lines)


def free_inputs(setup: Setup) -> tuple[tuple[Device, str], ...]:
    """Inputs of interfaces and mixers that nothing is plugged into."""
    taken = {link.end for link in setup.links}
    return tuple(
        (device, port)
        for device in setup.devices
        if isinstance(device.figures, InterfaceFigures | MixerFigures)
        for port in inputs_of(device.figures)
        if f"{device.id}:{port}" not in taken
    )
