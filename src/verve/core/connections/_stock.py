"""The kit as a solver sees it: kinds of boxes with how many there are, recorders with their inputs."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import assert_never

from verve.core.kind import DeviceFigures, Mode, ModeFigures
from verve.core.session import KitItem

WEAK_MV_PER_PA = 5.0
"""Microphones weaker than this are what inline preamps are for (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """A kind of box. `count` is how many are there; a mixer counts once for each line it keeps apart."""

    item: KitItem
    count: int

    @property
    def id(self) -> str:
        """The id of its kit item."""
        return self.item.id

    @property
    def name(self) -> str:
        """What it is called."""
        return self.item.name

    @property
    def figures(self) -> DeviceFigures:
        """Its figures."""
        assert self.item.device is not None
        return self.item.device


@dataclass(frozen=True, slots=True, kw_only=True)
class InputGroup:
    """Inputs of one recorder that are alike, and fed by the same phantom switch if it is shared.

    `switch` is the name of a phantom switch that several inputs share, empty for one of its own.
    """

    recorder: str
    key: str
    figures: DeviceFigures
    names: tuple[str, ...]
    switch: str = ""

    @property
    def id(self) -> str:
        """Recorder and kind of input."""
        return f"{self.recorder}/{self.key}"

    @property
    def port(self) -> str:
        """The first of them, which stands for all."""
        return self.names[0]

    @property
    def modes(self) -> Mapping[Mode, ModeFigures]:
        """What they can be switched to."""
        return self.figures.modes(self.port)

    def physics(self, mode: Mode) -> tuple[object, ...]:
        """What a rating depends on there, in a mode: equal for inputs that differ in name alone."""
        return (
            repr(self.modes[mode]),
            self.figures.pads_at(self.port),
            self.figures.alike_key(self.port) if self.has_capsule else "",
            self.has_phantom,
        )

    @property
    def has_capsule(self) -> bool:
        """Whether sound meets a microphone there."""
        return self.figures.capsule(self.port) is not None

    @property
    def has_phantom(self) -> bool:
        """Whether they can give phantom power."""
        return self.figures.phantom_switch(self.port) is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class Stock:
    """Everything there is to make a way of."""

    microphones: tuple[Box, ...] = ()
    inlines: tuple[Box, ...] = ()
    preamps: tuple[Box, ...] = ()
    boxes: tuple[Box, ...] = ()
    mixers: tuple[Box, ...] = ()
    recorders: tuple[Box, ...] = ()
    inputs: tuple[InputGroup, ...] = field(default=())

    def all(self) -> tuple[Box, ...]:
        """Every box, recorders last."""
        return (
            *self.microphones,
            *self.inlines,
            *self.preamps,
            *self.boxes,
            *self.mixers,
            *self.recorders,
        )


def channels_for(figures: DeviceFigures, *, is_microphone: bool) -> tuple[str, ...]:
    """The inputs of a box that a microphone, or anything else, goes into; those that fit best first."""
    ports = figures.input_ports()
    if is_microphone:
        return tuple(port for port in ports if "microphone" in figures.input_levels(port))
    return tuple(sorted(ports, key=lambda port: "microphone" in figures.input_levels(port)))


def phantom_of(box: Box, port: str, before: Sequence[Box]) -> str | None:
    """The phantom switch of a box that has to be on for what stands before it; None for none."""
    switch = box.figures.phantom_switch(port)
    if switch is None or not before:
        return None
    needs = before[-1].figures.phantom_need() == "needs"
    return switch if needs and not before[-1].figures.runs_without_phantom() else None


def input_groups_of(item: KitItem) -> tuple[InputGroup, ...]:
    """The kinds of inputs of an interface."""
    figures = item.device
    assert figures is not None
    shared: dict[str, int] = {}
    for port in figures.input_ports():
        switch = figures.phantom_switch(port)
        if switch is not None:
            shared[switch] = shared.get(switch, 0) + 1
    groups: dict[tuple[object, ...], list[str]] = {}
    switches: dict[tuple[object, ...], str] = {}
    for port in figures.input_ports():
        switch = figures.phantom_switch(port) or ""
        if shared.get(switch, 0) < 2:
            switch = ""
        alike = (figures.alike_key(port), switch, figures.phantom_switch(port) is not None)
        groups.setdefault(alike, []).append(port)
        switches[alike] = switch
    return tuple(
        InputGroup(
            recorder=item.id,
            key=str(number),
            figures=figures,
            names=tuple(ports),
            switch=switches[alike],
        )
        for number, (alike, ports) in enumerate(groups.items())
    )


def stock_of(kit: Iterable[KitItem], extra: Sequence[KitItem] = ()) -> Stock:
    """The kit sorted by what each thing is good for; `extra` is there with a count of 0."""
    items = [(item, item.there) for item in kit if item.device is not None]
    items += [(item, 0) for item in extra if item.device is not None]
    kinds: dict[str, list[Box]] = {name: [] for name in Stock.__slots__ if name != "inputs"}
    for item, count in items:
        figures = item.device
        box = Box(item=item, count=count)
        assert figures is not None
        match figures.use:
            case "microphone":
                kinds["microphones"].append(box)
            case "inline_preamp":
                kinds["inlines"].append(box)
            case "preamp":
                kinds["preamps"].append(box)
            case "di_box":
                apart = figures.lines_kept_apart()
                kinds["boxes"].append(Box(item=item, count=apart * count))
            case "mixer":
                kinds["mixers"].append(Box(item=item, count=figures.lines_kept_apart() * count))
            case "recorder":
                kinds["recorders"].append(box)
            case "effect" | "splitter" | "transformer" | "listening":
                pass  # nothing that a connection is made with
            case other:
                assert_never(other)
    return Stock(
        **{name: tuple(boxes) for name, boxes in kinds.items()},
        inputs=tuple(s for box in kinds["recorders"] for s in input_groups_of(box.item)),
    )
