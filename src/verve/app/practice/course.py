"""One's own thresholds over time: a dot for each result, the better the higher, and where practice usually leads."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.core.ear import POSITIONS, value_text

if TYPE_CHECKING:
    from verve.core.ear import Drill
    from verve.core.learning import Threshold

_MOST = 24
_LEFT_PX, _RIGHT_PX, _MARGIN_PX = 92.0, 14.0, 16.0


class ThresholdCourse(QWidget):
    """Results of one drill, the last two dozen of them."""

    def __init__(self) -> None:
        super().__init__()
        self._drill: Drill | None = None
        self._results: tuple[Threshold, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.px(110))
        self.setAccessibleName("Your results over time")
        self.setToolTip(
            "Each dot is one result, the last one at the right; higher is finer. The line is usual with practice"
        )

    def sizeHint(self) -> QSize:
        return QSize(420, 150)

    def show_results(self, drill: Drill, results: Sequence[Threshold]) -> None:
        """Draw those of a drill."""
        self._drill, self._results = drill, tuple(results[-_MOST:])
        said = [f"{one.at[:10]}: {value_text(drill, one.value)}" for one in self._results]
        self.setAccessibleDescription("; ".join(said))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        drill = self._drill
        if drill is None or not self._results:
            return
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(self.rect()).adjusted(_LEFT_PX, _MARGIN_PX, -_RIGHT_PX, -_MARGIN_PX)
        painter.setFont(theme.numbers(9.0))

        def y_of(value: float) -> float:
            share = min(1.0, max(0.0, drill.scale.position(value) / POSITIONS))
            return float(area.bottom() - share * area.height())

        for value in (drill.scale.easiest, drill.scale.hardest):
            painter.setPen(QPen(QColor(c.rule), 1.0))
            painter.drawLine(QPointF(area.left(), y_of(value)), QPointF(area.right(), y_of(value)))
            self._label(painter, y_of(value), value_text(drill, value), c.muted)
        painter.setPen(QPen(QColor(c.floor), 1.0, Qt.PenStyle.DashLine))
        painter.drawLine(
            QPointF(area.left(), y_of(drill.good)), QPointF(area.right(), y_of(drill.good))
        )
        self._label(painter, y_of(drill.good), value_text(drill, drill.good), c.ink)
        step = area.width() / max(1, _MOST - 1)
        points = [
            QPointF(area.left() + step * number, y_of(one.value))
            for number, one in enumerate(self._results)
        ]
        painter.setPen(QPen(QColor(c.ink), 1.4))
        for one, two in pairwise(points):
            painter.drawLine(one, two)
        painter.setBrush(QColor(c.ink))
        for point in points:
            painter.drawEllipse(point, 3.6, 3.6)

    @staticmethod
    def _label(painter: QPainter, y: float, words: str, colour: str) -> None:
        painter.setPen(QColor(colour))
        where = QRectF(0.0, y - 9.0, _LEFT_PX - 8.0, 18.0)
        painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
