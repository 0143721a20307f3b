"""Moving a line to another socket of its recorder."""

from __future__ import annotations

from verve.core.errors import EditError
from verve.core.kind import NOTHING_SET, FrozenDict, Mode
from verve.core.session._edits import with_setup
from verve.core.session._models import Session
from verve.core.session._route import routes
from verve.core.words import article


def move_input(session: Session, line_id: str, port: str, mode: Mode) -> Session:
    """The line into another socket of its recorder, switched to a mode; its gain goes along.

    raises: EditError for an unknown line, a socket that is taken, or a mode the socket does not have
    """
    setup = session.setup
    route = next((r for r in routes(setup) if r.line.id == line_id), None)
    if route is None or route.recorder is None:
        raise EditError(f"{line_id}: must be a signal that ends in an interface")
    recorder = route.recorder
    # The device as it is now: a route knows only the channels that its line passes.
    device = next(d for d in setup.devices if d.id == recorder.owner)
    figures = device.figures
    if port not in figures.input_ports():
        raise EditError(f"{device.name}: has no {port}")
    end = f"{device.id}:{port}"
    place = f"{device.name}, {figures.port_name(port)}"
    if end != recorder.link.end and any(link.end == end for link in setup.links):
        raise EditError(f"{place}: is taken already")
    has_capsule = figures.capsule(port) is not None
    if mode not in figures.modes(port) or has_capsule != (recorder.capsule is not None):
        raise EditError(f"{place}: cannot be {article(mode)} input for this signal")
    links = tuple(
        link.model_copy(update={"end": end}) if link.id == recorder.link.id else link
        for link in setup.links
    )
    before = device.settings.get(recorder.in_port, NOTHING_SET)
    settings = {k: v for k, v in device.settings.items() if k != recorder.in_port}
    settings[port] = before.model_copy(update={"mode": mode, "pad_db": None, "high_pass": None})
    changed = device.model_copy(update={"settings": FrozenDict(settings)})
    devices = tuple(changed if d.id == device.id else d for d in setup.devices)
    return with_setup(session, links=links, devices=devices)
