"""What the devices and sources of a session are asked, each with what is set on it."""

from __future__ import annotations

from verve.core.kind import Control, Mode
from verve.core.session._setup import Device, Setup, Source


def device_controls(device: Device) -> tuple[Control, ...]:
    """Everything that can be set on a device."""
    return device.figures.controls(device.id, device.settings)


def source_controls(source: Source) -> tuple[Control, ...]:
    """What can be set on an instrument itself."""
    return source.figures.controls(source.id, source.settings)


def controls_of(setup: Setup, owner: str) -> tuple[Control, ...]:
    """Everything that can be set on one source or device; empty for an unknown owner."""
    for device in setup.devices:
        if device.id == owner:
            return device_controls(device)
    for source in setup.sources:
        if source.id == owner:
            return source_controls(source)
    return ()


def current_mode(device: Device, port: str) -> Mode:
    """Which way an input of a recorder is switched.

    raises: KeyError for an input without modes
    """
    found = device.figures.mode(port, device.settings)
    if found is None:
        raise KeyError(port)
    return found


def free_inputs(setup: Setup) -> tuple[tuple[Device, str], ...]:
    """Inputs of recorders and mixers that nothing is plugged into."""
    taken = {link.end for link in setup.links}
    return tuple(
        (device, port)
        for device in setup.devices
        if device.figures.records or device.figures.mixes
        for port in device.figures.input_ports()
        if f"{device.id}:{port}" not in taken
    )
