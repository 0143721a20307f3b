"""Stereo with one press: how both microphones of a pair stand, and what that gives."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from verve.app.widgets.labels import caption, small_heading
from verve.core.place import TECHNIQUES
from verve.core.words import Fact


class StereoBox(QWidget):
    """A button for each technique, and what the pair gives as it stands; not there without a pair."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(small_heading("This pair"))
        grid = QGridLayout()
        grid.setSpacing(4)
        self.buttons: dict[str, QPushButton] = {}
        for number, (technique, (label, says)) in enumerate(TECHNIQUES.items()):
            button = QPushButton(label)
            button.setToolTip(f"{says} Puts both microphones so; gains stay as they are.")
            button.clicked.connect(lambda _, technique=technique: self.chosen.emit(technique))
            self.buttons[technique] = button
            grid.addWidget(button, number // 2, number % 2)
        column.addLayout(grid)
        self.said = caption(wrap=True)
        column.addWidget(self.said)

    def show_facts(self, facts: Sequence[Fact]) -> None:
        """Draw what the pair gives; nothing for what is no side of a pair."""
        self.setVisible(bool(facts))
        self.said.setText("\n".join(f"{fact.label}: {fact.text}" for fact in facts))
        self.said.setToolTip("\n".join(f"{fact.label}: {fact.how}" for fact in facts))
