"""A second model of the states of a patch, from first principles: sockets, cables, volts, mains and ears.

It knows nothing of lines and legs as the planner does: it follows 48 V from every socket that gives them through
what is plugged in at that moment, and looks at what they arrive at.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from verve.core.power import RunStep
from verve.core.session import Link, RouteStep, Setup, routes

Switch = tuple[str, str]


@dataclass(frozen=True, slots=True)
class _Socket:
    """Where a cable ends in something that can give 48 V."""

    link: str
    switch: Switch


@dataclass(slots=True)
class SecondModel:
    """What is plugged, on, charged and up at one moment; `said` is what went wrong, each with its step."""

    setup: Setup
    plugged: set[str] = field(default_factory=set)
    mains: set[str] = field(default_factory=set)
    volts: set[Switch] = field(default_factory=set)
    charged: set[Switch] = field(default_factory=set)
    loaded: set[str] = field(default_factory=set)
    up: set[str] = field(default_factory=set)
    ears: bool = True
    said: list[str] = field(default_factory=list)
    _links: dict[str, Link] = field(default_factory=dict)
    _sockets: list[_Socket] = field(default_factory=list)
    _passing: dict[str, RouteStep] = field(default_factory=dict)
    _lines: dict[str, set[str]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._links = {link.id: link for link in self.setup.links}
        devices = {device.id: device for device in self.setup.devices}
        for link in self.setup.links:
            owner, _, port = link.end.partition(":")
            figures = devices[owner].figures
            switch = figures.phantom_switch(port)
            if switch is None:
                continue
            settings = devices[owner].settings
            mode = settings[port].mode if port in settings else None
            modes = tuple(figures.modes(port))
            if (mode or (modes[0] if modes else "microphone")) == "microphone":
                self._sockets.append(_Socket(link.id, (owner, switch)))
            if figures.has_phantom_on(port, settings):
                self.volts.add((owner, switch))
        for route in routes(self.setup):
            if route.is_complete:
                self._lines[route.line.id] = {step.link.id for step in route.steps}
                for step in route.steps:
                    self._passing[step.link.id] = step

    def all_up(self) -> SecondModel:
        """The same, with everything plugged, on and up: how it stands before a change or the end."""
        self.plugged = {key for own in self._lines.values() for key in own}
        self.mains = {d.id for d in self.setup.devices} | {s.id for s in self.setup.sources}
        self.loaded = set(self.mains)
        self.up = set(self._lines)
        return self

    # ── what is where ─────────────────────────────────────────────────────────────────────────
    def _before(self, link: str, is_there: set[str]) -> Iterator[tuple[str, bool]]:
        """What 48 V at the end of a cable come to: its beginning, and on through what lets them."""
        start = self._links[link].start.partition(":")[0]
        came = [key for key, step in self._passing.items() if step.owner == start]
        yield start, not came
        for key in came:
            step = self._passing[key]
            is_way = step.figures.lets_phantom_through(step) and step.link.cable is not None
            if is_way and key in is_there:
                yield from self._before(key, is_there)

    def reached(self, switch: Switch, is_there: set[str]) -> Iterator[tuple[str, bool]]:
        """Devices and sources (True) that 48 V from a switch come to."""
        for socket in self._sockets:
            if socket.switch == switch and socket.link in is_there:
                yield from self._before(socket.link, is_there)

    def carrying(self, link: str, switches: set[Switch]) -> bool:
        """Whether a cable carries 48 V at either end, or what is left of them."""
        everything = self.plugged | {link}
        for socket in self._sockets:
            if socket.switch in switches and socket.link in everything:
                if socket.link == link:
                    return True
                start = self._links[socket.link].start.partition(":")[0]
                at = [key for key, step in self._passing.items() if step.owner == start]
                for key in at:
                    step = self._passing[key]
                    if key == link and step.figures.lets_phantom_through(step):
                        return True
        return False

    def needs(self) -> Mapping[str, str]:
        """What each device and each source does at 48 V: needs, tolerates, never."""
        found: dict[str, str] = {}
        for step in self._passing.values():
            draw = step.at_phantom
            if draw is not None:
                found[step.owner] = draw.need
        for source in self.setup.sources:
            need = source.figures.at_phantom()
            if need is not None:
                found[source.id] = need
        return found

    def harmed(self) -> list[str]:
        """What has 48 V now and must not."""
        needs = self.needs()
        return [
            owner
            for switch in self.volts
            for owner, _ in self.reached(switch, self.plugged)
            if needs.get(owner) == "never"
        ]

    def unfed(self) -> list[str]:
        """What needs 48 V and has none."""
        fed = {o for switch in self.volts for o, _ in self.reached(switch, self.plugged)}
        used = {step.owner for step in self._passing.values()}
        return [o for o, need in self.needs().items() if need == "needs" and o in used - fed]

    # ── what is done ──────────────────────────────────────────────────────────────────────────
    def _heard(self, lines: Sequence[str]) -> bool:
        return self.ears and bool(self.up & set(lines))

    def _with_link(self, link: str) -> list[str]:
        return [line for line, own in self._lines.items() if link in own]

    def _with_owner(self, owner: str) -> list[str]:
        found = []
        for line, own in self._lines.items():
            starts = {self._links[key].start.partition(":")[0] for key in own}
            if owner in starts | {self._passing[key].owner for key in own}:
                found.append(line)
        return found

    def do(self, step: RunStep) -> None:
        """One deed: first what it could do, then what is so afterwards."""
        what, harmed = step.subject, self.harmed()
        match step.kind:
            case "monitors_up" | "monitors_down":
                self.ears = step.kind == "monitors_up"
            case "gain_up":
                self.up.add(what)
            case "gain_down":
                self.up.discard(what)
            case "load":
                self.loaded.add(what)
            case "plug" | "unplug":
                if self.carrying(what, self.volts | self.charged):
                    self.said.append(f"{step.key}: 48 V on the cable")
                if self._heard(self._with_link(what)):
                    self.said.append(f"{step.key}: bangs in the ears")
                start = self._links[what].start.partition(":")[0]
                if start in self.mains and self._is_amplifier(start):
                    self.said.append(f"{step.key}: an amplifier under load")
                (self.plugged.add if step.kind == "plug" else self.plugged.discard)(what)
            case "power_on" | "power_off":
                if self._heard(self._with_owner(what)):
                    self.said.append(f"{step.key}: mains bang")
                if step.kind == "power_on" and self._is_amplifier(what) and what not in self.loaded:
                    self.said.append(f"{step.key}: no load")
                (self.mains.add if step.kind == "power_on" else self.mains.discard)(what)
            case "phantom_on" | "phantom_off":
                device, _, name = what.partition(":")
                switch = (device, name)
                lines = [
                    line
                    for socket in self._sockets
                    if socket.switch == switch and socket.link in self.plugged
                    for line in self._with_link(socket.link)
                ]
                if self._heard(lines):
                    self.said.append(f"{step.key}: switches into the ears")
                (self.volts.add if step.kind == "phantom_on" else self.volts.discard)(switch)
                self.charged.add(switch)
            case "wait":
                done = {tuple(key.partition(":")[::2]) for key in what.split(",")}
                self.charged -= done
        if newly := [owner for owner in self.harmed() if owner not in harmed]:
            self.said.append(f"{step.key}: 48 V on {', '.join(newly)}")

    def _is_amplifier(self, owner: str) -> bool:
        return any(
            source.id == owner and source.figures.is_amplifier_output()
            for source in self.setup.sources
        )
