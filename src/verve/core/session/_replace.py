"""Exchanging one piece of gear for another: what was plugged in stays plugged in."""

from __future__ import annotations

from collections.abc import Mapping

from verve.core.errors import EditError
from verve.core.kind import (
    ChannelSettings,
    DeviceFigures,
    FrozenDict,
    SourceFigures,
)
from verve.core.session._edits import free_identifier, free_name, with_setup
from verve.core.session._models import Session
from verve.core.session._setup import Device, split_port

_SHORT_M = 1.0


def replace_device(session: Session, device_id: str, figures: DeviceFigures, name: str) -> Session:
    """Another device in the place of one: links move to its sockets, settings it has too stay.

    raises: EditError if it is no such device, or the new one has too few sockets for what is plugged in
    """
    setup = session.setup
    old = next((device for device in setup.devices if device.id == device_id), None)
    if old is None:
        raise EditError(f"{device_id}: must be a device of this session")
    if old.figures.group != figures.group:
        raise EditError(f"{name}: cannot stand where {old.name} stands, it is of another kind")
    ends = [split_port(link.end)[1] for link in setup.links if link.end.startswith(f"{device_id}:")]
    moved = _moved(old, figures, ends, name)
    links = tuple(
        link.model_copy(update={"end": f"{device_id}:{moved[split_port(link.end)[1]]}"})
        if split_port(link.end)[0] == device_id
        else link
        for link in setup.links
    )
    left_over = {
        split_port(link.start)[1] for link in links if link.start.startswith(f"{device_id}:")
    } - set(figures.output_ports())
    if left_over:
        raise EditError(f"{name}: has no output {', '.join(sorted(left_over))}")
    settings = {
        moved.get(channel, channel): _fitting(kept, figures)
        for channel, kept in old.settings.items()
        if channel in moved or channel in figures.channels_set()
    }
    fresh = old.model_copy(
        update={"figures": figures, "name": name, "settings": FrozenDict(settings)}
    )
    devices = tuple(fresh if device.id == device_id else device for device in setup.devices)
    return with_setup(session, devices=devices, links=links)


def insert_device(
    session: Session, link_id: str, figures: DeviceFigures, name: str, out_port: str | None = None
) -> Session:
    """A box in the middle of a cable: a short cable leads to it, the old one goes on from it.

    `out_port` is which of its outputs the line takes, its last unless said.

    raises: EditError if there is no such cable, or the box does not stand in the middle of a line
    """
    setup = session.setup
    link = next((link for link in setup.links if link.id == link_id), None)
    if link is None or link.cable is None:
        raise EditError(f"{link_id}: must be a cable of this session")
    outputs = figures.output_ports()
    if not figures.is_between or out_port not in (None, *outputs):
        raise EditError(f"{name}: cannot stand in the middle of a signal")
    device_id = free_identifier(setup, name)
    device = Device(
        id=device_id, name=free_name(name, [d.name for d in setup.devices]), figures=figures
    )
    session = with_setup(session, devices=(*setup.devices, device))
    before = link.model_copy(
        update={
            "end": f"{device_id}:{figures.input_ports()[0]}",
            "cable": link.cable.model_copy(update={"length_m": _SHORT_M}),
        }
    )
    behind = link.model_copy(
        update={
            "id": free_identifier(session.setup, f"{link.id}_on"),
            "start": f"{device_id}:{out_port or outputs[-1]}",
        }
    )
    links = tuple(
        new for old in setup.links for new in ((before, behind) if old.id == link_id else (old,))
    )
    return with_setup(session, links=links)


def take_out_device(session: Session, device_id: str) -> Session:
    """A box out of the middle of a line: the cable behind it takes its place.

    raises: EditError if there is no such box, or not one cable leads in and one out
    """
    setup = session.setup
    device = next((d for d in setup.devices if d.id == device_id), None)
    if device is None or not device.figures.is_between:
        raise EditError(f"{device_id}: must be a box in the middle of a signal")
    into = [link for link in setup.links if split_port(link.end)[0] == device_id]
    out = [link for link in setup.links if split_port(link.start)[0] == device_id]
    if len(into) != 1 or len(out) != 1:
        raise EditError(f"{device.name}: must have one cable in and one out to be taken out")
    # The first cable keeps its name, since a line may begin with it.
    whole = into[0].model_copy(update={"end": out[0].end, "cable": out[0].cable})
    links = tuple(
        whole if link.id == whole.id else link for link in setup.links if link.id != out[0].id
    )
    devices = tuple(d for d in setup.devices if d.id != device_id)
    return with_setup(session, links=links, devices=devices)


def _moved(old: Device, figures: DeviceFigures, used: list[str], name: str) -> Mapping[str, str]:
    """Where what is plugged into each socket goes: the socket of the same name, else a free one that
    can do what the old one was switched to."""
    sockets = list(figures.input_ports())
    found = {port: port for port in used if port in sockets and _can(figures, port, old, port)}
    for port in used:
        if port in found:
            continue
        free = [s for s in sockets if s not in found.values() and _can(figures, s, old, port)]
        if not free:
            raise EditError(
                f"{name}: has no free input for what is in {old.name}, {port.removeprefix('in.')}"
            )
        found[port] = free[0]
    return found


def _can(figures: DeviceFigures, socket: str, old: Device, port: str) -> bool:
    """Whether a socket of the new device can do what the old one was switched to."""
    mode = old.figures.mode(port, old.settings)
    if mode is None or not figures.modes(socket):
        return True
    is_alike = (old.figures.capsule(port) is None) == (figures.capsule(socket) is None)
    return mode in figures.modes(socket) and is_alike


def _fitting(kept: ChannelSettings, figures: DeviceFigures) -> ChannelSettings:
    """Settings without a pad the new device does not have; gains are held to its range where read."""
    pads = {pad for port in figures.input_ports() for pad in figures.pads_at(port)}
    return kept if kept.pad_db in pads else kept.model_copy(update={"pad_db": None})


def replace_source(session: Session, source_id: str, figures: SourceFigures) -> Session:
    """Another kind of source in the place of one, under its name.

    raises: EditError for an unknown source, or sound in the air in the place of a plug
    """
    setup = session.setup
    old = next((source for source in setup.sources if source.id == source_id), None)
    if old is None:
        raise EditError(f"{source_id}: must be a source of this session")
    if old.figures.is_acoustic != figures.is_acoustic:
        raise EditError(f"{old.name}: an acoustic sound and an output cannot replace each other")
    sources = tuple(
        source.model_copy(update={"figures": figures}) if source.id == source_id else source
        for source in setup.sources
    )
    return with_setup(session, sources=sources)
