"""Spots heard without knowing which is which: letters in a new order, told when one has been chosen."""

from __future__ import annotations

import random
import string
from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QHBoxLayout,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.widgets.labels import heading, text
from verve.core.session import Spot

_MOST = len(string.ascii_uppercase)


class BlindDialog(QDialog):
    """Every spot as a letter; the order is another one each time, and nothing else tells them apart."""

    def __init__(
        self,
        spots: Sequence[Spot],
        play: Callable[[str], None],
        parent: QWidget | None = None,
        order: random.Random | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Compare blind")
        self.setMinimumWidth(380)
        mixed = list(spots[:_MOST])
        (order or random.Random()).shuffle(mixed)
        self._spots = dict(zip(string.ascii_uppercase, mixed, strict=False))
        self.chosen: str | None = None
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Which one sounds best?"))
        layout.addWidget(
            text(
                "All are equally loud, in an order of their own. Turn your monitors and headphones down first. "
                "Which is which is told when you have chosen."
            )
        )
        self.hear: dict[str, QPushButton] = {}
        self.best: dict[str, QRadioButton] = {}
        together = QButtonGroup(self)
        for letter, spot in self._spots.items():
            row = QHBoxLayout()
            hear = QPushButton(f"Hear {letter}")
            hear.setAutoDefault(False)
            hear.clicked.connect(lambda _, key=spot.id: play(key))
            best = QRadioButton(f"{letter} is best")
            together.addButton(best)
            best.clicked.connect(lambda _: self._allow())
            row.addWidget(hear)
            row.addWidget(best, 1)
            layout.addLayout(row)
            self.hear[letter], self.best[letter] = hear, best
        self.told = text()
        layout.addWidget(self.told)
        self.accept_button = QPushButton("Tell which is which")
        self.accept_button.setToolTip(
            "Tells the names, and asks whether the microphone shall go there"
        )
        self.accept_button.setEnabled(False)
        self.accept_button.clicked.connect(self._settle)
        layout.addLayout(foot(self, self.accept_button))

    def _allow(self) -> None:
        self.accept_button.setEnabled(True)

    def _settle(self) -> None:
        """First the names are told, then the microphone is put there."""
        letter = next(one for one, button in self.best.items() if button.isChecked())
        if self.chosen is not None:
            self.chosen = self._spots[letter].id
            self.accept()
            return
        self.chosen = self._spots[letter].id
        self.told.setText("\n".join(f"{one}: {spot.name}" for one, spot in self._spots.items()))
        self.accept_button.setText("Put it there")
        self.accept_button.setToolTip("The microphone goes to the spot that you have chosen")

    def reject(self) -> None:
        """Nothing is moved."""
        self.chosen = None
        super().reject()
