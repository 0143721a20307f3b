"""A phantom switch with what hangs on it, and a step of a run sheet."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from verve.app.widgets.labels import caption, text
from verve.core.power import (
    CAUTION,
    RunStep,
    SwitchRow,
)


class SwitchBox(QWidget):
    """One phantom switch: thrown here, with what hangs on it."""

    thrown = pyqtSignal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 4)
        column.setSpacing(0)
        self.box, self._notes = QCheckBox(), caption(wrap=True)
        self._row: SwitchRow | None = None
        self.box.clicked.connect(self._throw)
        column.addWidget(self.box)
        column.addWidget(self._notes)

    def show_row(self, row: SwitchRow) -> None:
        """Draw another one."""
        self._row = row
        self.box.setText(row.name)
        self.box.setChecked(bool(row.control.value))
        self.box.setAccessibleName(f"Phantom power, {row.name}: {', '.join(row.lines)}")
        self.box.setToolTip(CAUTION)
        shared = "shared by " if row.is_shared else ""
        self._notes.setText(f"{shared}{', '.join(row.lines)}. {'; '.join(row.notes)}.")

    def _throw(self, on: bool) -> None:
        if self._row is not None:
            self.thrown.emit(self._row.control, on)


class StepRow(QWidget):
    """A step to tick: its words may take two lines, and pressing them ticks as well."""

    def __init__(self) -> None:
        super().__init__()
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 1, 0, 1)
        line.setSpacing(4)
        self.box, self._words = QCheckBox(), text()
        line.addWidget(self.box, 0, Qt.AlignmentFlag.AlignTop)
        line.addWidget(self._words, 1)

    def show_step(self, number: int, step: RunStep) -> None:
        """Draw another one."""
        self._words.setText(f"{number}  {step.words}")
        self.box.setAccessibleName(step.words)
        for widget in (self, self.box):
            widget.setToolTip(step.reason)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.box.click()
