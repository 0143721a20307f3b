"""Marks that tell a state by shape: a full square stops, a half diamond asks, a ring tells, a tick is well."""

from __future__ import annotations

from typing import assert_never

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from verve.app import theme
from verve.core.findings import Severity

SAID = {"stop": "stops a take", "mend": "to mend", "know": "to know", None: "well"}


def paint_mark(painter: QPainter, rect: QRectF, severity: Severity | None) -> None:
    """Draw the mark of a severity; None is the tick."""
    c = theme.colours()
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    middle, r = rect.center(), min(rect.width(), rect.height()) / 2.0 - 1.0
    if severity == "stop":
        painter.fillRect(
            QRectF(middle.x() - r * 0.85, middle.y() - r * 0.85, r * 1.7, r * 1.7),
            QColor(c.ceiling_edge),
        )
    elif severity == "mend":
        top, right = QPointF(middle.x(), middle.y() - r), QPointF(middle.x() + r, middle.y())
        bottom, left = QPointF(middle.x(), middle.y() + r), QPointF(middle.x() - r, middle.y())
        painter.setPen(QPen(QColor(c.ceiling_edge), 1.4))
        painter.drawPolygon(QPolygonF([top, right, bottom, left]))
        painter.setBrush(QColor(c.ceiling_edge))
        painter.drawPolygon(QPolygonF([left, right, bottom]))
    elif severity == "know":
        painter.setPen(QPen(QColor(c.muted), 1.4))
        painter.drawEllipse(middle, r * 0.7, r * 0.7)
    elif severity is None:
        painter.setPen(QPen(QColor(c.muted), 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        knee = QPointF(middle.x() - r * 0.15, middle.y() + r * 0.6)
        painter.drawLine(QPointF(middle.x() - r * 0.7, middle.y()), knee)
        painter.drawLine(knee, QPointF(middle.x() + r * 0.8, middle.y() - r * 0.6))
    else:
        assert_never(severity)
    painter.restore()


class Mark(QWidget):
    """A mark on its own."""

    def __init__(self, severity: Severity | None = None) -> None:
        super().__init__()
        self._severity = severity
        self.setFixedSize(QSize(14, 18))
        self.show_severity(severity)

    def show_severity(self, severity: Severity | None) -> None:
        """Draw another one."""
        self._severity = severity
        self.setToolTip(SAID[severity])
        self.setAccessibleName(SAID[severity])
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_mark(QPainter(self), QRectF(self.rect()), self._severity)
