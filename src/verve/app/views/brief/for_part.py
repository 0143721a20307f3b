"""Which part of the brief a page speaks of, and one sentence beside it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of
from verve.core.session import Part


class ForPart(QWidget):
    """A row: the part, what is said of it, and a button at the end where there is one."""

    chosen = pyqtSignal()

    def __init__(self, tip: str, button: QPushButton | None = None) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.box = Choice()
        row.addWidget(caption_of(self.box, "for"))
        self.box.setAccessibleName("For which part")
        self.box.setToolTip(tip)
        row.addWidget(self.box)
        self.says = caption(wrap=True)
        row.addWidget(self.says, 1)
        if button is not None:
            row.addWidget(button)
        self.box.activated.connect(lambda _: self.chosen.emit())

    def show_parts(self, parts: Sequence[Part]) -> None:
        """Offer these; the chosen one stays chosen as long as it is there."""
        chosen = self.box.currentData()
        self.box.clear()
        for part in parts:
            self.box.addItem(part.name, part.id)
        self.box.setCurrentIndex(max(0, self.box.findData(chosen)))

    def part_id(self) -> str | None:
        """The chosen part's; None where there is none."""
        found = self.box.currentData()
        return found if isinstance(found, str) else None
