"""What is running in the room now: each thing ticked on or off, and what that did to the noise of takes."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from verve.app.widgets.labels import caption, text
from verve.core.session import SILENT, Thing

_USUAL = "Usual ones: fans, heating, fridges, computers, lights that hum, windows to the street."


class RunningBox(QWidget):
    """A tick for each thing that sounds."""

    switched = pyqtSignal(str, bool)
    """Which thing, and whether it is running."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self.ticks: dict[str, QCheckBox] = {}
        self.none = caption(wrap=True)
        self.none.setText(_USUAL)
        self._column.addWidget(self.none)
        self.noise = text()
        self._column.addWidget(self.noise)

    def show_things(self, things: Sequence[Thing], noise: str) -> None:
        """Draw which of them run; `noise` is what takes have measured."""
        sounding = [one for one in things if one.kind not in SILENT]
        if list(self.ticks) != [one.id for one in sounding]:
            for tick in self.ticks.values():
                self._column.removeWidget(tick)
                tick.deleteLater()
            self.ticks = {}
            for place, one in enumerate(sounding):
                tick = QCheckBox()
                tick.setToolTip("Off: nothing is heard of it")
                tick.clicked.connect(lambda is_on, key=one.id: self.switched.emit(key, is_on))
                self._column.insertWidget(1 + place, tick)
                self.ticks[one.id] = tick
        for one in sounding:
            self.ticks[one.id].setText(f"{one.name} is running")
            self.ticks[one.id].setChecked(one.is_on)
        self.none.setVisible(not sounding)
        self.noise.setText(noise)
        self.noise.setVisible(bool(noise))
