"""Where the sound of a check comes from: simulated players, or a sound device with the input of each signal."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from verve.app import theme
from verve.app.checking import Checking
from verve.app.document import Document
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of

if TYPE_CHECKING:
    from verve.devices import Live, SystemDevice, WatchRequest

_SIMULATED, _LOOK = "simulated", "look again"


class SoundFrom(QWidget):
    """A choice of players or device; which signals are heard there, and on which inputs."""

    chosen = pyqtSignal()
    """Something else is listened to."""

    def __init__(self, document: Document, checking: Checking) -> None:
        super().__init__()
        self._document, self._checking = document, checking
        self.devices: tuple[SystemDevice, ...] = ()
        self.inputs_found: dict[str, int] = {}
        """By signal, the input on which “Who is it?” has found it, where somebody uses that."""
        self._has_looked = self._is_asked = False
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.choice = Choice()
        self.choice.setAccessibleName("Sound comes from")
        self.choice.setToolTip(
            "Simulated players to try it with, or a sound device of this computer"
        )
        self.choice.setMaximumWidth(theme.px(300))
        row.addWidget(caption_of(self.choice, "sound from"))
        row.addWidget(self.choice)
        # ── connections ──
        self.choice.activated.connect(self.choose)
        checking.devices_found.connect(self.on_devices)

    def refresh(self) -> None:
        """Draw the document as it is now; the first time, look for devices."""
        if not self._has_looked:
            self._has_looked = True
            self._checking.look_for_devices()
        entries = [("Simulated players", _SIMULATED)]
        entries += [(f"{one.name}, {one.channels_in} inputs", one.name) for one in self.devices]
        self.choice.show_entries([*entries, ("Look for sound devices again", _LOOK)])

    def device(self) -> SystemDevice | None:
        """The sound device that is chosen; None for simulated players."""
        name = self.choice.currentData()
        return next((one for one in self.devices if one.name == name), None)

    def lines(self) -> tuple[str, ...]:
        """The signals that can be checked: with a device, those of one recorder, that of the selected signal."""
        from verve.devices import arrivals

        found = arrivals(self._document.assessment)
        if self.device() is None:
            return tuple(found)
        item = self._document.line
        mine = found.get(item.line.id) if item is not None else None
        recorders = [one.device for one in found.values()]
        recorder = (
            mine.device if mine is not None else max(recorders, key=recorders.count, default="")
        )
        return tuple(line for line, one in found.items() if one.device == recorder)

    def inputs(self) -> dict[str, int]:
        """By signal, the input it is listened to on, counted from 0."""
        from verve.devices import arrivals

        found = arrivals(self._document.assessment)
        elsewhere = self.inputs_found if self.device() is not None else {}
        return {line: elsewhere.get(line, one.channel) for line, one in found.items()}

    def live(self) -> Live | None:
        """The chosen device with the input of each signal; None for simulated players."""
        from verve.devices import Live

        device, inputs = self.device(), self.inputs()
        if device is None:
            return None
        return Live(device=device, channels={line: inputs[line] for line in self.lines()})

    def watch_request(self) -> WatchRequest | None:
        """A watch of the device that is chosen here; None for simulated players."""
        from verve.devices import WatchRequest

        live = self.live()
        if live is None or not live.channels:
            return None
        return WatchRequest(session=self._document.session, live=live)

    def choose(self) -> None:
        """Listen to what is chosen; or look once more for devices."""
        if self.choice.currentData() == _LOOK:
            self.choice.setCurrentIndex(0)
            self._is_asked = True
            self._checking.look_for_devices()
        self.chosen.emit()

    def on_devices(self, found: tuple[SystemDevice, ...] | str) -> None:
        """The devices there are; why there are none is told to whoever has asked."""
        if isinstance(found, str):
            if self._is_asked:
                self._document.refused.emit(found)
            found = ()
        self.devices = found
        self._is_asked = False
        self.refresh()
