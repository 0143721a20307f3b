"""The steps of the work, in order, each with how many findings are open in it."""

from __future__ import annotations

from collections.abc import Container, Mapping

from PyQt6.QtCore import QEvent, QPoint, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QCursor, QFont, QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QTabBar

from verve.app import theme
from verve.app.widgets.marks import paint_mark
from verve.core.findings import STEPS, Step

STEP_NAMES: Mapping[Step, str] = {
    "brief": "Brief",
    "patch": "Patch",
    "place": "Place",
    "power": "Power",
    "stage": "Stage",
    "monitor": "Monitor",
    "check": "Check",
    "takes": "Takes",
}
_SAYS: Mapping[Step, str] = {
    "brief": "Who plays what, and what that takes",
    "patch": "What goes where: each signal’s stages, cables and switches",
    "place": "Where players and microphones stand, and what each microphone hears",
    "power": "Phantom power, and the order that harms nothing",
    "stage": "Every gain where it belongs: the corridor",
    "monitor": "Who hears what, how late and how loud",
    "check": "A rehearsal on the simulated interface, measured",
    "takes": "What was recorded, with every setting",
}


_BADGE, _AROUND = 20, 26
"""The mark behind a name, and what is left and right of both."""


class StepBar(QTabBar):
    """All steps side by side, any of them at any time: tabs, each with its open findings or a tick."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._counts: Mapping[Step, int] = {}
        self._done: Container[Step] = frozenset()
        self.setDrawBase(False)
        self.setExpanding(False)
        self.setUsesScrollButtons(False)
        self.setMouseTracking(True)
        self.setAccessibleName("Steps")
        for number, step in enumerate(STEPS, 1):
            self.addTab(STEP_NAMES[step])
            self.setTabToolTip(number - 1, f"{_SAYS[step]}. Shortcut: Ctrl+{number}")
        self.currentChanged.connect(lambda index: self.chosen.emit(STEPS[index]))

    def show_steps(self, current: Step, counts: Mapping[Step, int], done: Container[Step]) -> None:
        """Draw the counts and which step is open."""
        self._counts, self._done = counts, done
        for index, step in enumerate(STEPS):
            count = counts.get(step, 0)
            said = f"{count} open" if count else "done" if step in done else "nothing open"
            self.setAccessibleTabName(index, f"{STEP_NAMES[step]}, {said}")
        # Shown, not chosen: what the window did itself is not asked for again.
        was = self.blockSignals(True)
        self.setCurrentIndex(STEPS.index(current))
        self.blockSignals(was)
        self.update()

    def point_of(self, step: Step) -> QPoint:
        """The middle of the tab of a step."""
        return self.tabRect(STEPS.index(step)).center()

    def tabSizeHint(self, index: int) -> QSize:
        metrics = QFontMetricsF(theme.words(12.0, weight=QFont.Weight.DemiBold))
        return QSize(
            int(metrics.horizontalAdvance(self.tabText(index))) + theme.px(_BADGE) + _AROUND,
            theme.px(38),
        )

    def minimumTabSizeHint(self, index: int) -> QSize:
        return self.tabSizeHint(index)

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        over = self.tabAt(self.mapFromGlobal(QCursor.pos())) if self.underMouse() else -1
        for index, step in enumerate(STEPS):
            self._paint_tab(painter, self.tabRect(index), step, is_over=index == over)

    def _paint_tab(self, painter: QPainter, place: QRect, step: Step, *, is_over: bool) -> None:
        c = theme.colours()
        name, left = STEP_NAMES[step], float(place.left())
        is_open = STEPS[self.currentIndex()] == step
        painter.setFont(
            theme.words(12.0, weight=QFont.Weight.DemiBold if is_open else QFont.Weight.Normal)
        )
        painter.setPen(QColor(c.ink if is_open or is_over else c.muted))
        width = QFontMetricsF(painter.font()).horizontalAdvance(name)
        painter.drawText(
            QRectF(left + 10, 0, width + 4, theme.px(34)), Qt.AlignmentFlag.AlignVCenter, name
        )
        size = theme.px(_BADGE)
        badge = QRectF(left + 16 + width, theme.px(7), size, size)
        if count := self._counts.get(step, 0):
            painter.setPen(QPen(QColor(c.ceiling_edge), 1.2))
            painter.drawEllipse(badge)
            painter.setFont(theme.numbers(9.5))
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, str(count))
        elif step in self._done:
            paint_mark(painter, badge.adjusted(3, 3, -3, -3), None)
        if is_open:
            painter.fillRect(QRectF(left + 10, theme.px(33), width, 3), QColor(c.ink))
            if self.hasFocus():
                painter.setPen(QPen(QColor(c.ink), 2.0))
                painter.drawRoundedRect(QRectF(place).adjusted(3, 2, -7, -1), 5, 5)
