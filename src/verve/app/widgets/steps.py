"""The steps of the work, in order, each with how many findings are open in it."""

from __future__ import annotations

from collections.abc import Container, Mapping

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QWidget

from verve.app import theme
from verve.app.widgets.marks import paint_mark
from verve.core.findings import STEPS, Step

STEP_NAMES: Mapping[Step, str] = {
    "brief": "Brief",
    "patch": "Patch",
    "power": "Power",
    "stage": "Stage",
    "check": "Check",
    "takes": "Takes",
}
_SAYS: Mapping[Step, str] = {
    "brief": "Who plays what, and what that takes",
    "patch": "What goes where: each signal’s stages, cables and switches",
    "power": "Phantom power, and the order that harms nothing",
    "stage": "Every gain where it belongs: the corridor",
    "check": "A rehearsal on the simulated interface, measured",
    "takes": "What was recorded, with every setting",
}


class StepButton(QAbstractButton):
    """A step's name with its open findings, or a tick when there are none."""

    def __init__(self, step: Step, number: int) -> None:
        super().__init__()
        self._count = 0
        self._is_done = False
        self._step: Step = step
        self.setText(STEP_NAMES[step])
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(f"{_SAYS[step]}. Shortcut: Ctrl+{number}")

    def show_count(self, count: int, *, is_done: bool) -> None:
        """How many findings are open, or that nothing is left to do."""
        self._count, self._is_done = count, is_done
        said = f"{count} open" if count else "done" if is_done else "nothing open"
        self.setAccessibleName(f"{self.text()}, {said}")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        metrics = QFontMetricsF(theme.words(12.0, weight=QFont.Weight.DemiBold))
        return QSize(int(metrics.horizontalAdvance(self.text())) + 54, 38)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = self.isChecked()
        painter.setFont(
            theme.words(12.0, weight=QFont.Weight.DemiBold if chosen else QFont.Weight.Normal)
        )
        painter.setPen(QColor(c.ink if chosen or self.underMouse() else c.muted))
        width = QFontMetricsF(painter.font()).horizontalAdvance(self.text())
        painter.drawText(QRectF(10, 0, width + 4, 34), Qt.AlignmentFlag.AlignVCenter, self.text())
        badge = QRectF(16 + width, 7, 20, 20)
        if self._count:
            painter.setPen(QPen(QColor(c.ceiling_edge), 1.2))
            painter.drawEllipse(badge)
            painter.setFont(theme.numbers(9.5))
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, str(self._count))
        elif self._is_done:
            paint_mark(painter, badge.adjusted(3, 3, -3, -3), None)
        if chosen:
            painter.fillRect(QRectF(10, 33, width, 3), QColor(c.ink))
        if self.hasFocus():
            painter.setPen(QPen(QColor(c.ink), 1.0, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 1, -2, -1), 5, 5)


class StepBar(QWidget):
    """All steps side by side; any of them at any time."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self._group = QButtonGroup(self)
        self.buttons: dict[Step, StepButton] = {}
        for number, step in enumerate(STEPS, 1):
            button = StepButton(step, number)
            button.clicked.connect(lambda _, step=step: self.chosen.emit(step))
            self._group.addButton(button)
            self.buttons[step] = button
            row.addWidget(button)
        row.addStretch(1)
        self.setAccessibleName("Steps")

    def show_steps(self, current: Step, counts: Mapping[Step, int], done: Container[Step]) -> None:
        """Draw the counts and which step is open."""
        for step, button in self.buttons.items():
            button.show_count(counts.get(step, 0), is_done=step in done)
        self.buttons[current].setChecked(True)
