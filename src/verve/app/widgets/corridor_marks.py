"""What the corridor shows beside its band: how it was before a hand took hold, lamps and meters in words."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from verve.app import theme
from verve.app.widgets.corridor_shape import Shape
from verve.app.widgets.thumbnail import place, polygon
from verve.core.explain import Span


def paint_before(
    painter: QPainter, area: QRectF, before: Shape, scale: tuple[float, float]
) -> None:
    """The band's upper edge and the floor as they were: dashed, so that one sees what moved and what not."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(theme.colours().ink), 1.0, Qt.PenStyle.DashLine))
    for outline in (before.hardest, before.floor):
        if outline:
            painter.drawPolyline(polygon(outline, area, before.stages, *scale))


def paint_words(painter: QPainter, area: QRectF, words: str) -> None:
    """One line above the picture."""
    painter.setPen(QColor(theme.colours().ink))
    painter.setFont(theme.words(9.5))
    painter.drawText(QRectF(area.left(), 1, area.width(), 18), Qt.AlignmentFlag.AlignHCenter, words)


def paint_lamps(
    painter: QPainter, area: QRectF, spans: Sequence[Span], scale: tuple[float, float]
) -> None:
    """Where a lamp would light and a meter shows 0, each as a short line with its name."""
    c = theme.colours()
    painter.setFont(theme.words(8.5))
    metrics = QFontMetricsF(painter.font())
    ground = QColor(c.card)
    ground.setAlpha(190)
    for index, span in enumerate(spans):
        for mark in span.marks:
            if not scale[0] < mark.level_dbu < scale[1]:
                continue
            left = place(index + 0.55, mark.level_dbu, area, len(spans), *scale)
            right = place(index + 0.95, mark.level_dbu, area, len(spans), *scale)
            painter.setPen(QPen(QColor(c.ink), 1.0, Qt.PenStyle.DotLine))
            painter.drawLine(left, right)
            wide = metrics.horizontalAdvance(mark.label)
            if wide <= area.width() / len(spans) - 8:
                box = QRectF(right.x() - wide - 2, left.y() + 1, wide + 2, metrics.height() - 1)
                # The band may pass behind the words.
                painter.fillRect(box, ground)
                painter.setPen(QColor(c.ink))
                painter.drawText(QPointF(box.left() + 1, left.y() + metrics.ascent()), mark.label)
