"""What stands on the plan, one by one: a player, a microphone with what it hears, something else that sounds."""

from __future__ import annotations

import math
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from verve.app import theme


@lru_cache(maxsize=64)
def _polar(share: float, radius: float) -> QPolygonF:
    """What a pattern hears to all sides, upwards in front."""
    shape = QPolygonF()
    for degrees in range(0, 360, 6):
        turn = math.radians(degrees)
        heard = abs(share + (1.0 - share) * math.cos(turn)) * radius
        shape.append(QPointF(math.sin(turn) * heard, -math.cos(turn) * heard))
    return shape


def _front(facing_deg: float) -> QPointF:
    turn = math.radians(facing_deg)
    return QPointF(math.sin(turn), -math.cos(turn))


def paint_microphone(
    painter: QPainter,
    at: QPointF,
    *,
    radius: float,
    aim_deg: float,
    share: float,
    colour: QColor,
    is_ears: bool,
    is_chosen: bool,
) -> QRectF:
    """Its polar pattern where it stands: what it hears, as far as it hears it. Gives back what that covers."""
    fill = QColor(colour)
    fill.setAlphaF(0.28 if is_ears else 0.08)
    painter.setBrush(fill)
    painter.setPen(QPen(colour, 2.2 if is_chosen else 1.1))
    painter.save()
    painter.translate(at)
    painter.rotate(aim_deg)
    painter.drawPolygon(_polar(share, radius))
    painter.restore()
    ink, front = QColor(theme.colours().ink), _front(aim_deg)
    painter.setPen(QPen(ink, 2.0))
    painter.drawLine(at, at + front * (radius * 0.55))
    painter.setBrush(ink)
    painter.drawEllipse(at, 3.0, 3.0)
    if is_chosen:
        paint_hold(painter, at, radius * 1.1)
    middle, half = at + front * (radius * 0.4), radius * 0.6
    return QRectF(middle.x() - half, middle.y() - half, 2 * half, 2 * half)


def paint_player(
    painter: QPainter, at: QPointF, size: float, facing_deg: float, colour: QColor
) -> None:
    """A drop whose point is where it faces."""
    front = _front(facing_deg)
    side = QPointF(-front.y(), front.x()) * size
    tip, back = at + front * (size * 1.9), front * (1.3 * size)
    path = QPainterPath(tip)
    path.quadTo(at + front * size + side, at + side)
    path.cubicTo(at + side - back, at - side - back, at - side)
    path.quadTo(at + front * size - side, tip)
    painter.setPen(QPen(QColor(theme.colours().card), 1.2))
    painter.setBrush(colour)
    painter.drawPath(path)


def paint_thing(
    painter: QPainter, at: QPointF, size: float, facing_deg: float, *, is_on: bool
) -> None:
    """A box with a stroke where it faces; dotted while it is off."""
    c = theme.colours()
    style = Qt.PenStyle.SolidLine if is_on else Qt.PenStyle.DotLine
    painter.setPen(QPen(QColor(c.ink), 1.4, style))
    painter.setBrush(QColor(c.raised) if is_on else Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size))
    painter.drawLine(at, at + _front(facing_deg) * (size * 1.9))


def paint_hold(painter: QPainter, at: QPointF, radius: float) -> None:
    """That something is chosen."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(theme.colours().ink), 1.4, Qt.PenStyle.DashLine))
    painter.drawEllipse(at, radius, radius)
