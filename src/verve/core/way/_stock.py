"""The kit as a solver sees it: kinds of boxes with how many there are, recorders with their sockets."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from verve.core.session import (
    ActiveDiFigures,
    DeviceFigures,
    InputFigures,
    InterfaceFigures,
    KitItem,
    MicrophoneFigures,
    MixerFigures,
    PassiveDiFigures,
    PreampFigures,
)

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
class Sockets:
    """Sockets of one recorder that are alike: same figures, and the same phantom switch if shared.

    `switch` is the name of a phantom switch that several sockets share, empty for one of its own.
    """

    recorder: str
    key: str
    figures: InputFigures
    names: tuple[str, ...]
    switch: str = ""

    @property
    def id(self) -> str:
        """Recorder and kind of socket."""
        return f"{self.recorder}/{self.key}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Stock:
    """Everything there is to make a way of."""

    microphones: tuple[Box, ...] = ()
    inlines: tuple[Box, ...] = ()
    preamps: tuple[Box, ...] = ()
    boxes: tuple[Box, ...] = ()
    mixers: tuple[Box, ...] = ()
    recorders: tuple[Box, ...] = ()
    sockets: tuple[Sockets, ...] = field(default=())

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


def outputs_of_mixer(figures: MixerFigures) -> int:
    """How many lines a mixer keeps apart: its two sides, or every channel with an output of its own."""
    return len(figures.channels) if figures.direct_outs else 2


def sockets_of(item: KitItem) -> tuple[Sockets, ...]:
    """The kinds of sockets of an interface."""
    figures = item.device
    assert isinstance(figures, InterfaceFigures)
    shared: dict[str, int] = {}
    for socket in figures.inputs:
        if socket.phantom_switch is not None:
            shared[socket.phantom_switch] = shared.get(socket.phantom_switch, 0) + 1
    groups: list[tuple[InputFigures, str, list[str]]] = []
    for socket in figures.inputs:
        switch = socket.phantom_switch or ""
        if shared.get(switch, 0) < 2:
            switch = ""
        alike = socket.model_copy(update={"name": "", "phantom_switch": None})
        has_phantom = socket.phantom_switch is not None
        for first, other, names in groups:
            same = first.model_copy(update={"name": "", "phantom_switch": None})
            if (
                same == alike
                and other == switch
                and (first.phantom_switch is not None) == has_phantom
            ):
                names.append(socket.name)
                break
        else:
            groups.append((socket, switch, [socket.name]))
    return tuple(
        Sockets(
            recorder=item.id,
            key=str(number),
            figures=socket,
            names=tuple(names),
            switch=switch,
        )
        for number, (socket, switch, names) in enumerate(groups)
    )


def stock_of(kit: Iterable[KitItem], extra: Sequence[KitItem] = ()) -> Stock:
    """The kit sorted by what each thing is good for; `extra` is there with a count of 0."""
    items = [(item, item.quantity) for item in kit if item.device is not None]
    items += [(item, 0) for item in extra if item.device is not None]
    kinds: dict[str, list[Box]] = {name: [] for name in Stock.__slots__ if name != "sockets"}
    for item, count in items:
        figures = item.device
        box = Box(item=item, count=count)
        if isinstance(figures, MicrophoneFigures):
            kinds["microphones"].append(box)
        elif isinstance(figures, PreampFigures):
            is_inline = figures.gain_min_db == figures.gain_max_db
            kinds["inlines" if is_inline else "preamps"].append(box)
        elif isinstance(figures, PassiveDiFigures | ActiveDiFigures):
            kinds["boxes"].append(box)
        elif isinstance(figures, MixerFigures):
            kinds["mixers"].append(Box(item=item, count=outputs_of_mixer(figures) * count))
        elif isinstance(figures, InterfaceFigures):
            kinds["recorders"].append(box)
    return Stock(
        **{name: tuple(boxes) for name, boxes in kinds.items()},
        sockets=tuple(s for box in kinds["recorders"] for s in sockets_of(box.item)),
    )
