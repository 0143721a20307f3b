"""One source and its microphone: where to begin, in the place of a plan, which nobody needs yet."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from verve.app.widgets.beside import Beside, group
from verve.app.widgets.labels import small_heading, text
from verve.core.words import Fact


class OneSource(QWidget):
    """Starting point, first reflections and marks of tape of the one microphone that matters."""

    begun = pyqtSignal()
    plan_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.put = QPushButton("Put it there")
        self.put.setToolTip(
            "Puts the microphone where it usually goes; typical, and then to be moved by ear"
        )
        self.put.clicked.connect(self.begun)
        self.plan = QPushButton("Show the plan")
        self.plan.setToolTip("The room from above, to move things by hand")
        self.plan.clicked.connect(self.plan_wanted)
        column.addWidget(Beside(group(self.put), group(self.plan)))
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setAccessibleName("Where to begin")
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inside = QWidget()
        self._grid = QGridLayout(inside)
        self._grid.setContentsMargins(0, 0, 8, 0)
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(8)
        self._grid.setColumnStretch(1, 1)
        area.setWidget(inside)
        column.addWidget(area, 1)
        self._shown: list[tuple[str, tuple[tuple[str, str], ...]]] = []
        self._labels: list[QLabel] = []

    def show_facts(self, groups: Sequence[tuple[str, Sequence[Fact]]], *, can_begin: bool) -> None:
        """Draw them, each group under its heading; one without facts is left out."""
        self.put.setVisible(can_begin)
        wanted = [
            (name, tuple((one.label, one.text) for one in facts)) for name, facts in groups if facts
        ]
        if wanted == self._shown:
            return
        self._shown = wanted
        for label in self._labels:
            self._grid.removeWidget(label)
            label.deleteLater()
        self._labels = []
        row = 0
        for name, facts in wanted:
            self._add(small_heading(name), row, 0, 2)
            row += 1
            for name_of_it, words in facts:
                name_label = text(name_of_it)
                name_label.setAlignment(Qt.AlignmentFlag.AlignTop)
                self._add(name_label, row, 0, 1)
                self._add(text(words), row, 1, 1)
                row += 1
        self._grid.setRowStretch(row, 1)

    def _add(self, label: QLabel, row: int, column: int, span: int) -> None:
        self._grid.addWidget(label, row, column, 1, span)
        self._labels.append(label)

    @property
    def said(self) -> str:
        """All of it as text."""
        return "\n".join(
            "\n".join([name, *(f"{label}: {words}" for label, words in facts)])
            for name, facts in self._shown
        )
