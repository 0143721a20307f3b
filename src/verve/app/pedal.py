"""A MIDI pedal in the window's own thread."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

if TYPE_CHECKING:
    from verve.devices import Pedal


class FootPedal(QObject):
    """Tells presses of the pedal that was chosen."""

    pressed = pyqtSignal(str)
    """What it asks for: to record, or to mark."""
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(self) -> None:
        super().__init__()
        self._pedal: Pedal | None = None
        self.name = ""

    def listen_to(self, name: str) -> None:
        """Listen to a MIDI input, and to no other."""
        from verve.devices import NO_PEDAL, Pedal

        self.let_go()
        try:
            # A signal that is sent from another thread arrives in this one.
            self._pedal = Pedal(name, self.pressed.emit)
        except LookupError:
            self.told.emit(NO_PEDAL)
            return
        self.name = name
        self.told.emit(f"{name}: sustain records and stops, any other controller marks a good one.")

    def let_go(self) -> None:
        """Listen no longer."""
        if self._pedal is not None:
            self._pedal.close()
            self.told.emit(f"{self.name} is no longer listened to.")
        self._pedal, self.name = None, ""
