"""Notes about something, told when they are left: one edit for each time."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QPlainTextEdit


class Notes(QPlainTextEdit):
    """A field for notes; `about` is what they are about, by its id."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.about = ""

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.left.emit()
