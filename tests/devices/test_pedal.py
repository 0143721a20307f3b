"""A MIDI pedal: what counts as a press, and that one which is not there is told."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from verve.devices import NO_MIDI, NO_PEDAL, Pedal, pedals, press_of


class Stand:
    """A stand-in for the library's listener."""

    def __init__(self, *names: str) -> None:
        self.names, self.open, self.is_deleted = list(names), -1, False
        self.callback: Callable[..., None] | None = None

    def get_ports(self) -> list[str]:
        return self.names

    def set_callback(self, callback: Callable[..., None]) -> None:
        self.callback = callback

    def open_port(self, number: int) -> None:
        self.open = number

    def close_port(self) -> None:
        self.open = -1

    def delete(self) -> None:
        self.is_deleted = True


@pytest.mark.parametrize(
    ("message", "press"),
    [
        ([0xB0, 64, 127], "record"),
        ([0xB3, 64, 64], "record"),
        ([0xB0, 64, 63], None),
        ([0xB0, 67, 127], "mark"),
        ([0x90, 36, 100], "record"),
        ([0x90, 36, 0], None),
        ([0x80, 36, 64], None),
        ([0xC5, 3], "record"),
        ([0xF8], None),
        ([], None),
        ([0xB0, 64], None),
    ],
)
def test_what_counts_as_a_press(message: list[int], press: str | None) -> None:
    assert press_of(message) == press


def test_a_pedal_is_listened_to_until_it_is_closed() -> None:
    made, pressed = Stand("Keyboard", "Pedal"), list[str]()
    pedal = Pedal("Pedal", pressed.append, lambda: made)
    assert made.open == 1
    assert made.callback is not None
    for message in ([0xB0, 64, 127], [0xB0, 64, 0], [0xB0, 66, 127]):
        made.callback((message, 0.0))
    assert pressed == ["record", "mark"]
    pedal.close()
    assert made.is_deleted


def test_without_one_it_is_said_what_to_do() -> None:
    def nothing() -> Any:
        return None

    assert pedals(nothing) == NO_MIDI
    assert pedals(lambda: Stand()) == NO_PEDAL
    assert pedals(lambda: Stand("Pedal")) == ("Pedal",)
    with pytest.raises(LookupError):
        Pedal("Pedal", lambda _: None, nothing)
    assert isinstance(pedals(), str | tuple)
