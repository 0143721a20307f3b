"""What is marked in the corridor over time: faults where they are, and what was computed for the signal."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPolygonF

from verve.app import theme
from verve.core.sheets import time_text

if TYPE_CHECKING:
    from verve.core.assess import LineAssessment
    from verve.core.recordings import Place

Scale = Callable[[float], float]
_BESIDE = 8.0
_NOT_MARKED = frozenset({"pause", "loudest"})


def paint_places(
    painter: QPainter, area: QRectF, places: Sequence[Place], x_of: Scale, ceiling: float
) -> None:
    """Wedges into the ceiling, breaks through the band, puffs on the floor; their times where there is space."""
    ink = QColor(theme.colours().ink)
    painter.setFont(theme.numbers(9.0))
    metrics = QFontMetricsF(painter.font())
    free_from = area.left()
    for place in places:
        x = x_of(place.start_s)
        if place.kind in _NOT_MARKED or not area.left() <= x <= area.right():
            continue
        painter.setPen(QPen(ink, 1.6))
        painter.setBrush(ink)
        if place.kind == "clipped":
            points = [QPointF(x - 4, ceiling), QPointF(x + 4, ceiling), QPointF(x, ceiling - 9)]
            painter.drawPolygon(QPolygonF(points))
        elif place.kind == "plosive":
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, area.bottom() - 6), 4.5, 4.5)
        else:
            for offset in (-2.0, 2.0):
                low, high = QPointF(x + offset - 3, area.bottom()), QPointF(x + offset + 3, ceiling)
                painter.drawLine(low, high)
        said = time_text(place.start_s, 2)
        width = metrics.horizontalAdvance(said)
        if place.kind == "plosive":
            left = min(max(x - width / 2.0, area.left()), area.right() - width)
            painter.drawText(QPointF(left, area.bottom() - 14), said)
            continue
        # Beside its mark, on the side where there is space.
        left = x + _BESIDE if x + _BESIDE + width <= area.right() else x - _BESIDE - width
        if left >= free_from:
            painter.drawText(QPointF(left, area.top() + metrics.ascent()), said)
            free_from = left + width + _BESIDE


def paint_expected(painter: QPainter, area: QRectF, item: LineAssessment, y_of: Scale) -> None:
    """What was computed for the signal: its peaks from quietest to loudest, and the target."""
    ink = QColor(theme.colours().ink)
    painter.setFont(theme.words(9.0))
    quiet, loud = item.predicted_peak_dbfs("softest"), item.predicted_peak_dbfs("hardest")
    if quiet is not None and loud is not None:
        painter.setPen(QPen(ink, 1.4))
        x = area.right() - 4.0
        top, bottom = y_of(loud), y_of(quiet)
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        for y in (top, bottom):
            painter.drawLine(QPointF(x - 6, y), QPointF(x, y))
        box = QRectF(area.right() - 140, bottom - 18, 128, 16)
        _write(painter, box, Qt.AlignmentFlag.AlignRight, "computed peaks")
    painter.setPen(QPen(ink, 1.0, Qt.PenStyle.DashLine))
    for level in {item.target.lowest_dbfs, item.target.highest_dbfs}:
        painter.drawLine(QPointF(area.left(), y_of(level)), QPointF(area.right(), y_of(level)))
    box = QRectF(area.left() + 6, y_of(item.target.lowest_dbfs) + 1, 128, 16)
    _write(painter, box, Qt.AlignmentFlag.AlignLeft, "target")


def _write(painter: QPainter, box: QRectF, side: Qt.AlignmentFlag, words: str) -> None:
    """Words on a little paper of their own: what they stand on may be dense."""
    paper = QColor(theme.colours().paper)
    paper.setAlpha(215)
    painter.fillRect(painter.boundingRect(box, side, words).adjusted(-2, 0, 2, 0), paper)
    painter.drawText(box, side, words)
