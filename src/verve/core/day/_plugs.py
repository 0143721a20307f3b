"""What is plugged at each layer of a day, cable by cable, and how often something has to be plugged in anew."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass

from verve.core.connections import Identities, Place, Problem, Rated, root_of, side_channel
from verve.core.session import Link, Setup, split_port

Plug = tuple[str, str]
"""A cable in place: where it begins and where it ends, as `piece:port`."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One way of a signal through certain pieces: every cable that is plugged for it."""

    rated: Rated
    place: Place
    plugs: tuple[Plug, ...]
    pieces: tuple[tuple[str, int], ...]
    """Box and number of everything that it has for itself: one side of what has several."""


def piece_key(kind: str, number: int) -> str:
    """What one piece of a kind is called here."""
    return f"{kind}#{number}"


def _ways(
    rated: Rated, counts: Mapping[str, int], pieces: tuple[tuple[int, int], ...] = ()
) -> Iterator[tuple[tuple[int, int], ...]]:
    """Every choice of number and side for the boxes of a way."""
    boxes = rated.connection.boxes
    if len(pieces) == len(boxes):
        yield pieces
        return
    box = boxes[len(pieces)]
    sides = box.figures.lines_kept_apart()
    for number in range(1, counts[box.id] + 1):
        for side in range(sides):
            yield from _ways(rated, counts, (*pieces, (number, side)))


def options_of(
    rated: Rated, counts: Mapping[str, int], ports: Mapping[str, Sequence[str]], root: str
) -> Iterator[Option]:
    """A way through every choice of pieces and input.

    `counts` are how many pieces of each box are looked at, `ports` which inputs of each kind, `root` names the
    instrument.
    """
    connection = rated.connection
    for units in _ways(rated, counts):
        plugs: list[Plug] = []
        start = None if connection.signal.is_air else f"{root}:out"
        for place, (box, (number, side)) in enumerate(zip(connection.boxes, units, strict=True)):
            figures, has_before = box.figures, place > 0
            port = figures.input_ports()[0]
            if figures.lines_kept_apart() > 1:
                is_microphone = connection.signal.is_air and has_before
                port = side_channel(box, side, is_microphone=is_microphone)
            if start is not None:
                plugs.append((start, f"{piece_key(box.id, number)}:{port}"))
            start = f"{piece_key(box.id, number)}:out{side or ''}"
        for port in ports[connection.inputs.id]:
            end = f"{piece_key(connection.recorder.id, 1)}:{port}"
            yield Option(
                rated=rated,
                place=Place(units=units, port=port),
                plugs=(*plugs, (start, end)) if start is not None else tuple(plugs),
                pieces=tuple(
                    (f"{piece_key(box.id, number)}/{side}", 1)
                    for box, (number, side) in zip(connection.boxes, units, strict=True)
                ),
            )


def stay(plugged: Set[Plug], wanted: Collection[Plug]) -> frozenset[Plug]:
    """What stays plugged when something else is: all whose two places nothing else needs."""
    taken = {end for plug in wanted for end in plug}
    return frozenset(plug for plug in plugged if not taken & set(plug))


@dataclass(frozen=True, slots=True, kw_only=True)
class Fixed:
    """A layer that stays as it is: its cables in place, and the phantom switches of its recorder that are on."""

    plugs: frozenset[Plug]
    switches: frozenset[str]


def named_plugs(setup: Setup, known: Identities) -> dict[Plug, Link]:
    """The cables of a setup by where they are plugged; `known` has learnt its pieces."""
    names = {key: piece_key(*piece) for key, piece in known.pieces.items()}
    for (root, number), (key, _) in known.sources.items():
        names[key] = instrument_key(root, int(number))
    sides = {
        device.id: {port: n for n, port in enumerate(device.figures.output_ports())}
        for device in setup.devices
        if device.figures.lines_kept_apart() > 1
    }
    found = {}
    for link in setup.links:
        if link.cable is None:
            continue
        owner, port = split_port(link.start)
        side = sides[owner].get(port, 0) if owner in sides else 0
        end_owner, end_port = split_port(link.end)
        found[(f"{names[owner]}:out{side or ''}", f"{names[end_owner]}:{end_port}")] = link
    return found


def instrument_key(root: str, number: int) -> str:
    """What an instrument of a part is called here, the first of its outputs 0."""
    return f"={root}/{number}"


def instruments_of(problem: Problem, roots: Mapping[str, str]) -> dict[str, str]:
    """By signal, the instrument it comes from; signals of one part are numbered in their order."""
    counts: dict[str, int] = {}
    found = {}
    for signal in problem.signals:
        root = root_of(signal, roots)
        if signal.is_air and signal.part.capture == "pair" and signal.side == "right":
            found[signal.id] = instrument_key(root, counts.get(root, 0))
            continue
        number = counts[root] = counts.get(root, -1) + 1
        found[signal.id] = instrument_key(root, number)
    return found


def replugs(layers: Sequence[Collection[Plug]]) -> tuple[int, ...]:
    """How many cables have to be plugged in before each layer, when everything stays that can.

    The first count is the whole set-up.
    """
    plugged: frozenset[Plug] = frozenset()
    found = []
    for wanted in layers:
        fresh = set(wanted) - plugged
        found.append(len(fresh))
        plugged = stay(plugged, fresh) | frozenset(wanted)
    return tuple(found)
