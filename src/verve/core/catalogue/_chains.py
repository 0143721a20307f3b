"""Putting a whole chain into a session: source, gear, cables, a free input, and the line itself."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.catalogue._entries import Catalogue, Chain, ChainLine
from verve.core.errors import EditError
from verve.core.kind import NOTHING_SET, ChannelSettings, FrozenDict, Mode
from verve.core.session import (
    Device,
    Line,
    Link,
    Session,
    Setup,
    Source,
    add_parts,
    free_identifier,
    free_inputs,
    free_name,
)

_INTERFACE = "interface_eight"
"""What a session without a suitable free input gets."""
_COLOURS = 8
_MIXER = "mixer"
"""Stands for the mixer of a chain, in the row of its boxes."""


def _free_name(setup: Setup, wish: str) -> str:
    taken = {line.name for line in setup.lines} | {source.name for source in setup.sources}
    return free_name(wish, taken)


def _suitable_inputs(setup: Setup, mode: Mode) -> list[tuple[Device, str]]:
    found = []
    for device, port in free_inputs(setup):
        if not device.figures.records or device.figures.capsule(port):
            continue
        modes = device.figures.modes(port)
        if mode in modes:
            # A socket that can do nothing else comes first: keep the others for what needs them.
            found.append((len(modes), device, port))
    return [(device, port) for _, device, port in sorted(found, key=lambda item: item[0])]


def _with_interface(session: Session, entries: Catalogue) -> Session:
    entry = entries.devices[_INTERFACE]
    identifier = free_identifier(session.setup, "interface")
    there = sum(d.figures.records for d in session.setup.devices)
    name = f"Interface {there + 1}" if there else "Interface"
    device = Device(id=identifier, name=name, figures=entry.figures)
    return add_parts(session, devices=(device,))


@dataclass(frozen=True, slots=True, kw_only=True)
class _Placing:
    """What one line of a chain needs to know of the others."""

    name: str
    source_name: str
    shared_source: Source | None
    pair: str | None
    colour: int
    distance_m: float | None
    mixer: Device | None = None
    side: int = 0
    """Which side of the mixer it takes, and which of its free channels."""


def _is_own_recorder(entries: Catalogue, key: str) -> bool:
    figures = entries.devices[key].figures
    return figures.records and figures.capsule(figures.input_ports()[0]) is not None


def _recorder(
    session: Session, entries: Catalogue, part: ChainLine, placing: _Placing
) -> tuple[Session, Device, str]:
    """The input a line ends at: a free one, one of a new interface, or the microphone's own."""
    for key in part.devices:
        if _is_own_recorder(entries, key):
            device = _device(session, entries, key, placing)
            return add_parts(session, devices=(device,)), device, device.figures.input_ports()[0]
    inputs = _suitable_inputs(session.setup, part.mode)
    if not inputs:
        session = _with_interface(session, entries)
        inputs = _suitable_inputs(session.setup, part.mode)
    if not inputs:
        raise EditError(f"{placing.name}: there is no interface with a {part.mode} input")
    return session, *inputs[0]


def _place_line(
    session: Session, entries: Catalogue, part: ChainLine, placing: _Placing
) -> tuple[Session, Source, str]:
    """One line put in; also its source and the id of the line.

    raises: EditError if no input is left that it could go to
    """
    session, recorder, recorder_port = _recorder(session, entries, part, placing)
    boxes = tuple(key for key in part.devices if not _is_own_recorder(entries, key))
    source = placing.shared_source
    if source is None:
        source = Source(
            id=free_identifier(session.setup, placing.source_name),
            name=placing.source_name,
            figures=entries.sources[part.source].figures,
        )
        session = add_parts(session, sources=(source,))
    start, cables = f"{source.id}:out", list(part.cables)
    mixer = placing.mixer
    channel = None if mixer is None else _mixer_channel(session.setup, mixer)
    is_in_air = source.figures.is_acoustic
    links: list[Link] = []
    for key in (*boxes, *(() if mixer is None else (_MIXER,)), None):
        cable = None if is_in_air and not links else entries.cables[cables.pop(0)].figures
        if key is None:
            end = f"{recorder.id}:{recorder_port}"
        elif key == _MIXER and mixer is not None:
            end = f"{mixer.id}:{channel}"
        else:
            device = _device(session, entries, key, placing)
            port = device.figures.input_ports()[0]
            session, end = add_parts(session, devices=(device,)), f"{device.id}:{port}"
        # Every link is in the session before the next is named, so that names stay apart.
        link = Link(
            id=free_identifier(session.setup, f"{placing.name} cable"),
            start=start,
            end=end,
            cable=cable,
        )
        session = add_parts(session, links=(link,))
        links.append(link)
        if key == _MIXER and mixer is not None:
            start = f"{mixer.id}:{mixer.figures.output_ports()[placing.side]}"
        elif key is not None:
            start = f"{device.id}:{device.figures.outputs_reached(port, {})[-1]}"
    line = Line(
        id=free_identifier(session.setup, f"{placing.name} line"),
        name=placing.name,
        first_link=links[0].id,
        colour=placing.colour,
        pair=placing.pair,
    )
    session = add_parts(session, lines=(line,))
    if mixer is not None and channel is not None:
        pan = -1.0 if placing.side == 0 else 1.0
        session = _with_settings(session, mixer.id, channel, {"pan": pan})
    return _with_mode(session, recorder, recorder_port, part.mode), source, line.id


def _device(session: Session, entries: Catalogue, key: str, placing: _Placing) -> Device:
    entry = entries.devices[key]
    port = entry.figures.input_ports()[0]
    given = entry.figures.settings_for(port, distance_m=placing.distance_m)
    settings = {port: ChannelSettings(**given)} if given else {}
    return Device(
        id=free_identifier(session.setup, key),
        name=entry.name,
        figures=entry.figures,
        settings=settings,
    )


def _mixer_channel(setup: Setup, mixer: Device) -> str:
    """The first channel of a mixer that nothing is plugged into.

    raises: EditError if there is none
    """
    for device, port in free_inputs(setup):
        if device.id == mixer.id:
            return port
    raise EditError(f"{mixer.name}: has no free channel left")


def _with_mode(session: Session, recorder: Device, port: str, mode: Mode) -> Session:
    return _with_settings(session, recorder.id, port, {"mode": mode})


def _with_settings(
    session: Session, device_id: str, port: str, given: Mapping[str, object]
) -> Session:
    setup = session.setup
    device = next(item for item in setup.devices if item.id == device_id)
    now = device.settings.get(port, NOTHING_SET)
    settings = {**device.settings, port: now.model_copy(update=dict(given))}
    changed = device.model_copy(update={"settings": FrozenDict(settings)})
    devices = tuple(changed if item.id == changed.id else item for item in setup.devices)
    return session.model_copy(update={"setup": setup.model_copy(update={"devices": devices})})


def add_chain(
    session: Session, entries: Catalogue, chain: Chain, name: str = ""
) -> tuple[Session, str]:
    """A chain put into a session, and the id of its first line.

    A pair of microphones hears one source; a stereo output has two. An interface is added where no
    input is free.

    raises: EditError if it cannot be
    """
    base = _free_name(session.setup, name or chain.line_name)
    colour = 1 + max((line.colour for line in session.setup.lines), default=-1)
    pair = free_identifier(session.setup, f"{base} pair") if chain.pair else None
    is_shared = _is_shared(entries, chain)
    first_line, source, mixer = "", None, None
    if chain.mixer is not None:
        entry = entries.devices[chain.mixer]
        identifier = free_identifier(session.setup, "mixer")
        mixer = Device(id=identifier, name=entry.name, figures=entry.figures)
        session = add_parts(session, devices=(mixer,))
    for side, part in enumerate(chain.lines):
        line_name = f"{base} {part.suffix}".strip()
        placing = _Placing(
            name=line_name,
            source_name=base if is_shared else line_name,
            shared_source=source if is_shared else None,
            pair=pair,
            colour=colour % _COLOURS,
            distance_m=chain.distance_m,
            mixer=mixer,
            side=side,
        )
        session, source, line_id = _place_line(session, entries, part, placing)
        first_line = first_line or line_id
    return session, first_line


def _is_shared(entries: Catalogue, chain: Chain) -> bool:
    """Whether all lines of a chain hear one source: sound in the air does, two outputs do not."""
    return entries.sources[chain.lines[0].source].figures.is_acoustic
