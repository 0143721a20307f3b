"""A MIDI pedal as a key for the foot: what counts as a press, and who listens. Without the package it is said."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Final, Literal

Press = Literal["record", "mark"]
NO_PEDAL: Final = (
    "No MIDI pedal is found. Is it plugged in? A foot switch or page turner that sends keys needs nothing: page down "
    "records, page up begins anew."
)
NO_MIDI: Final = (
    "MIDI pedals cannot be reached: the package “python-rtmidi” is missing, or this machine has no MIDI. "
    "A foot switch or page turner that sends keys works all the same."
)
_CONTROL, _NOTE_ON, _PROGRAM = 0xB0, 0x90, 0xC0
_SUSTAIN = 64
_DOWN = 64
"""From here on a pedal is down (the MIDI specification: 0 to 63 is off, 64 to 127 on)."""


def press_of(message: Sequence[int]) -> Press | None:
    """What a MIDI message asks for: the sustain pedal, a note or a program change records and stops; any other
    controller marks a good one. None for a pedal that comes up, and for everything else.

    source: MIDI 1.0, channel voice messages: kind in the upper four bits of the first byte
    """
    if not message:
        return None
    kind = message[0] & 0xF0
    if kind == _CONTROL and len(message) >= 3:
        if message[2] < _DOWN:
            return None
        return "record" if message[1] == _SUSTAIN else "mark"
    if kind == _NOTE_ON and len(message) >= 3:
        return "record" if message[2] else None
    return "record" if kind == _PROGRAM and len(message) >= 2 else None


def _input() -> Any:
    """A listener of the library; None where it cannot be had."""
    try:
        import rtmidi

        return rtmidi.MidiIn()
    except Exception:
        # Whatever is wrong with a driver, a pedal is not worth a take.
        return None


def pedals(make: Callable[[], Any] = _input) -> tuple[str, ...] | str:
    """The MIDI inputs there are now; else the sentence that says why there are none."""
    listener = make()
    if listener is None:
        return NO_MIDI
    try:
        return tuple(listener.get_ports()) or NO_PEDAL
    finally:
        listener.delete()


class Pedal:
    """Listens to one MIDI input until it is closed; presses come in a thread of the library's."""

    def __init__(
        self, name: str, pressed: Callable[[Press], None], make: Callable[[], Any] = _input
    ) -> None:
        """raises: LookupError if there is no such input any more"""
        listener = make()
        names = [] if listener is None else list(listener.get_ports())
        if name not in names:
            raise LookupError(name)
        self._listener = listener
        self._pressed = pressed
        listener.set_callback(self._take)
        listener.open_port(names.index(name))

    def _take(self, event: tuple[Sequence[int], float], _: object = None) -> None:
        press = press_of(event[0])
        if press is not None:
            self._pressed(press)

    def close(self) -> None:
        """Listen no longer."""
        self._listener.close_port()
        self._listener.delete()
