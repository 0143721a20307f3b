"""Moving a line to another socket of its recorder."""

from __future__ import annotations

from verve.core.errors import EditError
from verve.core.session._controls import input_figures
from verve.core.session._edits import with_setup
from verve.core.session._gear import InterfaceFigures, Mode
from verve.core.session._models import NOTHING_SET, Session, inputs_of
from verve.core.session._route import routes


def move_input(session: Session, line_id: str, port: str, mode: Mode) -> Session:
    """The line into another socket of its recorder, switched to a mode; its gain goes along.

    raises: EditError for an unknown line, a socket that is taken, or a mode the socket does not have
    """
    setup = session.setup
    route = next((r for r in routes(setup) if r.line.id == line_id), None)
    if route is None or route.recorder is None:
        raise EditError(f"{line_id}: must be a line that ends in a recorder")
    recorder = route.recorder
    device = recorder.device
    assert isinstance(device.figures, InterfaceFigures)
    if port not in inputs_of(device.figures):
        raise EditError(f"{device.name}: has no {port}")
    end = f"{device.id}:{port}"
    if end != recorder.link.end and any(link.end == end for link in setup.links):
        raise EditError(f"{device.name}, input {port.removeprefix('in.')}: is taken already")
    socket = input_figures(device, port)
    if mode not in socket.modes or (socket.capsule is None) != (recorder.capsule is None):
        raise EditError(
            f"{device.name}, input {socket.name}: cannot be a {mode} input for this line"
        )
    links = tuple(
        link.model_copy(update={"end": end}) if link.id == recorder.link.id else link
        for link in setup.links
    )
    before = device.settings.get(recorder.in_port, NOTHING_SET)
    settings = {k: v for k, v in device.settings.items() if k != recorder.in_port}
    settings[port] = before.model_copy(update={"mode": mode, "pad_db": None, "high_pass": None})
    changed = device.model_copy(update={"settings": settings})
    devices = tuple(changed if d.id == device.id else d for d in setup.devices)
    return with_setup(session, links=links, devices=devices)
