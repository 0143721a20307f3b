"""The next thing: one sentence, why, and a button that does it or goes there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from verve.app import theme
from verve.app.widgets.labels import caption, restyle, small_heading, text

if TYPE_CHECKING:
    from verve.core.assess import NextThing


class NextBar(QFrame):
    """The application's voice, always at the top."""

    pressed = pyqtSignal(object)
    """The button: carries the next thing."""
    why_pressed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("card", "true")
        self._next: NextThing | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 9, 14, 9)
        row.setSpacing(10)
        column = QVBoxLayout()
        column.setSpacing(1)
        self._heading = small_heading("Next")
        self.sentence = text()
        self.sentence.setFont(theme.words(13.0))
        self._why = caption(wrap=True)
        for label in (self._heading, self.sentence, self._why):
            column.addWidget(label)
        row.addLayout(column, 1)
        self.button = QPushButton()
        self.button.setProperty("strong", "true")
        self.button.setMinimumHeight(38)
        self.button.clicked.connect(self._press)
        self.why_button = QPushButton("Why?")
        self.why_button.setMinimumHeight(38)
        self.why_button.setToolTip("Shows how this comes about, on the right. Shortcut: F2")
        self.why_button.clicked.connect(self._ask_why)
        row.addWidget(self.button)
        row.addWidget(self.why_button)

    def show_next(self, thing: NextThing, *, is_there: bool) -> None:
        """Say another one; `is_there` when its step is open already."""
        self._next = thing
        self.button.setEnabled(True)
        self.sentence.setText(thing.sentence)
        why = thing.why if not thing.caution else f"{thing.why} {thing.caution}"
        self._why.setText(why)
        self.button.setText(thing.button_there if is_there and thing.button_there else thing.button)
        tip = (
            "Does it, as one step that can be undone." if thing.action == "apply" else "Goes there."
        )
        self.button.setToolTip(f"{tip} Shortcut: Ctrl+Return")
        self.button.setAccessibleDescription(f"{thing.sentence} {why}")
        self.why_button.setEnabled(thing.finding is not None)
        restyle(self, "card", "true")

    def wait(self) -> None:
        """What stands here is of before; until another thing is shown, a press does nothing."""
        self._next = None

    def show_opening(self, title: str) -> None:
        """What stands here for the moment until the lines are worked out."""
        self.sentence.setText(f"Opening {title} …")
        self._why.setText("The signals are being worked out.")
        self.button.setText("One moment")
        self.button.setEnabled(False)
        self.why_button.setEnabled(False)

    def _press(self) -> None:
        if self._next is not None:
            self.pressed.emit(self._next)

    def _ask_why(self) -> None:
        if self._next is not None:
            self.why_pressed.emit(self._next)
