"""One microphone for two sources of one person: what else goes into it, and where both are equally loud."""

from __future__ import annotations

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of, text


class AlsoBox(QWidget):
    """What is added, and the place of balance; not there without a microphone."""

    added = pyqtSignal(str)
    """An entry of the catalogue."""
    balanced = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.entry = Choice()
        self.entry.setAccessibleName("What the same person plays into it too")
        self.entry.setToolTip(
            "As a guitar to a song: it has no signal of its own, and is heard in this one"
        )
        self.add = QPushButton("Add")
        self.add.setToolTip(
            "Adds it beside what the microphone is there for; Undo takes it away again"
        )
        self.add.clicked.connect(lambda: self.added.emit(self.entry.currentData()))
        column.addWidget(caption_of(self.entry, "What the same person plays into it too"))
        column.addWidget(Beside(group(self.entry), group(self.add)))
        self.said = text()
        column.addWidget(self.said)
        self.there = QPushButton("Make both equally loud")
        self.there.setToolTip("Puts the microphone where both are equally loud at typical playing")
        self.there.clicked.connect(self.balanced)
        column.addWidget(self.there)

    def _fill(self) -> None:
        from verve.core.catalogue import catalogue

        sources = catalogue().sources
        self.entry.show_entries(
            [(one.name, key) for key, one in sources.items() if one.figures.is_acoustic]
        )

    def show_balance(self, microphone: str, words: str, *, can_move: bool) -> None:
        """Draw where both are equally loud; nothing for a microphone with one source."""
        self.setVisible(bool(microphone))
        if microphone and not self.entry.count():
            # The step is painted before the catalogue is read.
            QTimer.singleShot(0, self._fill)
        self.said.setText(words)
        self.said.setVisible(bool(words))
        self.there.setVisible(can_move)
