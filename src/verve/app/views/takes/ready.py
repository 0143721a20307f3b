"""What is asked before a take: one thing a line, each with what mends it; nothing where nothing is."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from verve.app.widgets.buttons import push
from verve.app.widgets.labels import caption, small_heading, text
from verve.app.widgets.marks import Mark
from verve.core.takes import Knob, Ready, ReadyItem

_ADVICE = "R records as it is."


class ReadyPanel(QWidget):
    """Shown when something may cost the take; passed with the key that records."""

    mend_wanted = pyqtSignal(int)
    """What mends the item of that number."""

    declined = pyqtSignal()
    """Not now: strings stay as they are."""

    def __init__(self) -> None:
        super().__init__()
        self.items: tuple[ReadyItem, ...] = ()
        self.asked: Ready | None = None
        self.knob: Knob | None = None
        self.buttons: list[QPushButton] = []
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 4, 0, 4)
        outer.setSpacing(2)
        head = QHBoxLayout()
        self._heading = small_heading("Before the take")
        head.addWidget(self._heading)
        self._advice = caption(_ADVICE)
        head.addWidget(self._advice, 1)
        outer.addLayout(head)
        self._grid = QGridLayout()
        self._grid.setColumnStretch(1, 1)
        self._grid.setVerticalSpacing(3)
        outer.addLayout(self._grid)
        self.setAccessibleName("Before the take")
        self.hide()

    def clear(self) -> None:
        """Nothing is in the way any more."""
        self.items, self.knob, self.asked = (), None, None
        self.hide()

    def show_ready(self, ready: Ready, knob: Knob | None = None) -> None:
        """Show what there is, with the one knob that a hand has to turn."""
        while (taken := self._grid.takeAt(0)) is not None:
            widget = taken.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.items, self.buttons, self.knob = ready.items, [], knob
        self.asked = ready if ready.items else None
        for row, item in enumerate(ready.items):
            self._grid.addWidget(Mark("know"), row, 0, Qt.AlignmentFlag.AlignTop)
            said = text(item.words)
            self._grid.addWidget(said, row, 1)
            if item.button:
                button = push(
                    item.button,
                    "Makes it as it was; what a hand has to turn is then shown large",
                    partial(self.mend_wanted.emit, row),
                )
                button.setAccessibleName(f"{item.button}: {item.words}")
                self.buttons.append(button)
                self._grid.addWidget(button, row, 2)
            if item.kind == "tuning":
                later = push(
                    "Not now",
                    "Twice on one day, and it is not asked again that day",
                    self.declined.emit,
                )
                self._grid.addWidget(later, row, 3)
        self._heading.setText("Before the take" if ready.items else "")
        self.setAccessibleDescription(" ".join(item.words for item in ready.items))
        self.setVisible(bool(ready.items))
