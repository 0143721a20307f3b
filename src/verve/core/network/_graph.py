"""The places of a setup and what passes between them: many sources to many inputs, without circles.

A place is a stage of something: a cable, a box, a channel, a bus, an input. Where two signals come to one
place they meet; where one goes on to several it splits. Ids and stages only, nothing that could be stale.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from verve.core.engine import Engine, Remembered
from verve.core.kind import OUT
from verve.core.network._room import NOBODY, RoomSound, RoomSounds
from verve.core.network._staging import (
    CapsuleResponse,
    NodeKey,
    Part,
    cable_part,
    capsule_response_of,
    device_parts,
    source_part,
)
from verve.core.network._tangles import has_circle, tangled_links
from verve.core.session import Audio, Link, Room, RouteStep, Setup, Source, Topology, split_port
from verve.core.stages import Stage


@dataclass(slots=True, eq=False)
class Graph:
    """Stages by place, with what they come from and go on to. `colours` are by the place of a source."""

    stages: dict[NodeKey, Stage] = field(default_factory=dict)
    roles: dict[NodeKey, str] = field(default_factory=dict)
    following: dict[NodeKey, list[NodeKey]] = field(default_factory=dict)
    before: dict[NodeKey, list[NodeKey]] = field(default_factory=dict)
    responses: dict[NodeKey, CapsuleResponse] = field(default_factory=dict)
    passages: dict[NodeKey, RouteStep] = field(default_factory=dict)
    circles: list[tuple[NodeKey, ...]] = field(default_factory=list)

    def add(self, part: Part) -> NodeKey:
        """Put a place in, unless it is there."""
        if part.key not in self.stages:
            self.stages[part.key] = part.stage
            self.roles[part.key] = part.role
            self.following[part.key] = []
            self.before[part.key] = []
        return part.key

    def join(self, start: NodeKey, end: NodeKey) -> None:
        """Let one place go on to another."""
        if end not in self.following[start]:
            self.following[start].append(end)
            self.before[end].append(start)

    def cut(self, start: NodeKey, end: NodeKey, circle: tuple[NodeKey, ...]) -> None:
        """Take a connection out: one that closes a circle, whose places are kept."""
        self.following[start].remove(end)
        self.before[end].remove(start)
        self.circles.append(circle)

    def reached(self) -> frozenset[NodeKey]:
        """Places on a circle, and all that hear one: what is there depends on what comes back."""
        waiting = [key for circle in self.circles for key in circle]
        found: set[NodeKey] = set()
        while waiting:
            key = waiting.pop()
            if key not in found:
                found.add(key)
                waiting += self.following[key]
        return frozenset(found)

    def components(self) -> list[list[NodeKey]]:
        """Places that hang together where signals meet or split; where none do, a line is alone."""
        seen: set[NodeKey] = set()
        found = []
        knots = [
            key
            for key, following in self.following.items()
            if len(following) > 1 or len(self.before[key]) > 1
        ]
        for first in knots:
            if first in seen:
                continue
            group, waiting = [], [first]
            seen.add(first)
            while waiting:
                key = waiting.pop()
                group.append(key)
                for other in (*self.following[key], *self.before[key]):
                    if other not in seen:
                        seen.add(other)
                        waiting.append(other)
            found.append(group)
        return found


def graph_of(setup: Setup, topology: Topology, engine: Engine, heard: RoomSounds = NOBODY) -> Graph:
    """Everything that is connected to a source where signals meet or split; what is alone is left out."""
    graph = Graph()
    tangled = tangled_links(setup, topology, engine)
    if not tangled:
        return graph
    begun: Remembered[tuple[CapsuleResponse, Part]] = engine.table("sources", 1024)
    passed: Remembered[list[Part]] = engine.table("passages", 4096)
    done: set[str] = set()
    waiting: list[tuple[Link, NodeKey]] = []
    for source in setup.sources:
        for link in topology.links_from(source.id, OUT):
            if link.id not in tangled:
                continue
            step = _first_step(topology, link)
            if (step.capsule is not None) != source.figures.is_acoustic:
                continue
            beside = heard.get((source.id, link.end)) if heard else None
            response, part = begun.get(
                (source, step, setup.room, beside),
                lambda source=source, step=step, beside=beside: _begin(  # type: ignore[misc]
                    source, step, setup.room, beside
                ),
            )
            key = graph.add(part)
            graph.responses[key] = response
            waiting.append((link, key))
    while waiting:
        link, start = waiting.pop(0)
        if link.id in done:
            continue
        done.add(link.id)
        waiting += _pass(graph, topology, passed, setup.audio, link, start)
    if has_circle(setup, engine):
        _cut_circles(graph)
    return graph


def _begin(
    source: Source, step: RouteStep, room: Room, heard: RoomSound | None
) -> tuple[CapsuleResponse, Part]:
    response = capsule_response_of(source, step, heard)
    return response, source_part(source, step, room, response, heard)


def _first_step(topology: Topology, link: Link) -> RouteStep:
    owner, port = split_port(link.end)
    device = topology.device(owner)
    return topology.step(device, link, port, None)


def _pass(
    graph: Graph,
    topology: Topology,
    passed: Remembered[list[Part]],
    audio: Audio,
    link: Link,
    start: NodeKey,
) -> list[tuple[Link, NodeKey]]:
    """One link with the device it leads into: its places, and the links that go on from there."""
    owner, port = split_port(link.end)
    device = topology.device(owner)
    figures = device.figures
    if figures.capsule(port) is not None and start not in graph.responses:
        return []
    reached = topology.outputs_reached(device, port)
    # A mixer's outputs are there for its meters, whether anything is plugged in or not.
    outs: list[str | None] = [
        out for out in reached if figures.mixes or topology.links_from(owner, out)
    ]
    onward = []
    for out in outs or [None]:
        step = topology.step(device, link, port, out)
        last = start
        response = graph.responses.get(start) if step.capsule is not None else None
        parts = passed.get(
            (step, response, audio),
            lambda step=step, response=response: _parts(step, audio, response),  # type: ignore[misc]
        )
        for part in parts:
            key = graph.add(part)
            graph.join(last, key)
            if part.role != "cable":
                graph.passages.setdefault(key, step)
            last = key
        if out is not None:
            onward += [(following, last) for following in topology.links_from(owner, out)]
    return onward


def _parts(step: RouteStep, audio: Audio, response: CapsuleResponse | None) -> list[Part]:
    cable = cable_part(step, None)
    own = device_parts(step, audio, response, None)
    return own if cable is None else [cable, *own]


def _cut_circles(graph: Graph) -> None:
    """Remove every connection that closes a loop, which is feedback and has no level."""
    white, grey = set(graph.stages), set[NodeKey]()
    for first in list(graph.stages):
        if first not in white:
            continue
        path: list[tuple[NodeKey, list[NodeKey]]] = []
        white.discard(first)
        grey.add(first)
        path.append((first, list(graph.following[first])))
        while path:
            key, left = path[-1]
            if not left:
                grey.discard(key)
                path.pop()
                continue
            following = left.pop(0)
            if following in grey:
                places = [place for place, _ in path]
                graph.cut(key, following, tuple(places[places.index(following) :]))
            elif following in white:
                white.discard(following)
                grey.add(following)
                path.append((following, list(graph.following[following])))
