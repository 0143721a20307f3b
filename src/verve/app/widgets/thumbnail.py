"""A line's corridor in small, on the same scale as all others of the session."""

from __future__ import annotations

from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from verve.app import theme
from verve.app.widgets.corridor_shape import Point, Shape


def polygon(
    points: tuple[Point, ...], rect: QRectF, stages: int, low: float, high: float
) -> QPolygonF:
    """Outline points laid into a rectangle, as `place` does, all in one go. Not to be changed: it is kept."""
    box = (rect.left(), rect.bottom(), rect.width() / max(stages, 1), rect.height() / (high - low))
    return _laid(points, box, low, high)


# A frame draws the outlines of every line, of which at most one has moved since the last frame.
@lru_cache(maxsize=2048)
def _laid(
    points: tuple[Point, ...], box: tuple[float, float, float, float], low: float, high: float
) -> QPolygonF:
    left, bottom, across, up = box
    return QPolygonF(
        [
            QPointF(left + x * across, bottom - (min(max(y, low), high) - low) * up)
            for x, y in points
        ]
    )


def place(x: float, y: float, rect: QRectF, stages: int, low: float, high: float) -> QPointF:
    """One point laid into a rectangle; what lies beyond the scale is drawn at its edge."""
    share = (min(max(y, low), high) - low) / (high - low)
    return QPointF(
        rect.left() + x / max(stages, 1) * rect.width(), rect.bottom() - share * rect.height()
    )


def paint_small(
    painter: QPainter, rect: QRectF, shape: Shape, scale: tuple[float, float], colour: QColor
) -> None:
    """Walls, band and floor without words."""
    c = theme.colours()
    low, high = scale
    painter.save()
    painter.setClipRect(rect)
    painter.fillRect(rect, QColor(c.card))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for run in shape.ceilings:
        edge = polygon(run, rect, shape.stages, low, high)
        fill_to(painter, edge, rect.top(), QColor(c.ceiling), QColor(c.ceiling_edge))
    if shape.floor:
        edge = polygon(shape.floor, rect, shape.stages, low, high)
        fill_to(painter, edge, rect.bottom(), QColor(c.floor), QColor(c.floor_edge))
    if shape.hardest:
        band = polygon(shape.hardest + shape.softest[::-1], rect, shape.stages, low, high)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPolygon(band)
    painter.restore()


def fill_to(painter: QPainter, edge: QPolygonF, y: float, fill: QColor, line: QColor) -> None:
    """A wall: filled from its edge to a height, the edge drawn 1 px wide (wider is slow)."""
    whole = QPolygonF(edge)
    whole.append(QPointF(edge[edge.count() - 1].x(), y))
    whole.append(QPointF(edge[0].x(), y))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(fill)
    painter.drawPolygon(whole)
    painter.setPen(line)
    painter.drawPolyline(edge)
