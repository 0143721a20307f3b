"""A microphone and a pickup of one instrument: which track to shift by how much."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from verve.app.tasks import Tasks
from verve.app.widgets.labels import small_heading, text
from verve.core.place import measured_text

if TYPE_CHECKING:
    from verve.core.measure import Alignment
    from verve.core.session import TakeTrack

_LANE = "microphone and pickup"


class PickupBox(QWidget):
    """The delay by geometry, and by the last take that has both; not there without a direct signal."""

    failed = pyqtSignal(str)

    def __init__(self, tasks: Tasks) -> None:
        super().__init__()
        self._tasks = tasks
        self._pair: tuple[TakeTrack, TakeTrack] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(small_heading("With its direct signal"))
        self.said = text()
        column.addWidget(self.said)
        self.measure = QPushButton("Measure from the last take")
        self.measure.setToolTip("Compares both tracks: delay, polarity, and how sure that is")
        self.measure.clicked.connect(self._measure)
        column.addWidget(self.measure)
        self.measured = text()
        column.addWidget(self.measured)

    def show_pair(self, words: str, pair: tuple[TakeTrack, TakeTrack] | None) -> None:
        """Draw what geometry says; `pair` are the tracks to measure, direct one first."""
        self.setVisible(bool(words))
        self.said.setText(words)
        self.measure.setVisible(pair is not None)
        if pair != self._pair:
            self.measured.setText("")
        self._pair = pair
        self.measured.setVisible(bool(self.measured.text()))

    def _measure(self) -> None:
        pair = self._pair
        if pair is None:
            return

        def work(_: object, __: object) -> object:
            # Imported here: the step is opened before what measures is loaded.
            from verve.core.measure import alignment_of
            from verve.core.soundfiles import read_sound

            (first, rate_hz), (second, _rate) = (read_sound(Path(one.file)) for one in pair)
            return alignment_of(first[pair[0].channel], second[pair[1].channel], rate_hz)

        def done(found: object) -> None:
            self.measured.setText(measured_text(cast("Alignment", found), *pair))
            self.measured.setVisible(True)

        self._tasks.run(_LANE, work, done, failed=self.failed.emit)
