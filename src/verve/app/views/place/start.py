"""Where a microphone usually goes for what it records, and what moving it does."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from verve.app.widgets.labels import small_heading, text


class StartBox(QWidget):
    """The starting point in words, and a button that puts the microphone there; not there without one."""

    pressed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(small_heading("Where to begin"))
        self.said = text()
        column.addWidget(self.said)
        self.button = QPushButton("Put it there")
        self.button.setToolTip(
            "Puts the microphone where it usually goes; typical, and then to be moved by ear"
        )
        self.button.clicked.connect(self.pressed)
        column.addWidget(self.button)

    def show_text(self, words: str) -> None:
        """Draw it; nothing where nothing is known."""
        self.setVisible(bool(words))
        self.said.setText(words)
