"""The scales of pictures of a recording: levels on the left, times below."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter

from verve.app import theme
from verve.core.sheets import time_text

_LEFT, _RIGHT, _TOP, _BOTTOM = 46, 12, 6, 22
_NICE_S = (
    0.01,
    0.02,
    0.05,
    0.1,
    0.2,
    0.5,
    1,
    2,
    5,
    10,
    15,
    30,
    60,
    120,
    300,
    600,
    1200,
    1800,
    3600,
)


def picture_area(rect: QRectF) -> QRectF:
    """What of a widget the picture has, with space for its scales."""
    return rect.adjusted(theme.px(_LEFT), _TOP, -theme.px(_RIGHT), -theme.px(_BOTTOM))


def paint_levels(
    painter: QPainter, area: QRectF, levels: Iterable[int], y_of: Callable[[float], float]
) -> None:
    """Levels to the left of the picture."""
    painter.setPen(QColor(theme.colours().muted))
    painter.setFont(theme.numbers(9.0))
    for level in levels:
        box = QRectF(0, y_of(level) - 9, area.left() - 6, 18)
        text = str(level).replace("-", "−")
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)


def paint_times(painter: QPainter, area: QRectF, from_s: float, to_s: float) -> None:
    """Times below the picture, as many as there is space for."""
    painter.setPen(QColor(theme.colours().muted))
    painter.setFont(theme.numbers(9.0))
    metrics = QFontMetricsF(painter.font())
    space = metrics.horizontalAdvance("0:00.00") + 24.0
    wide = to_s - from_s
    ticks = max(1, int(area.width() / space))
    step_s = next((s for s in _NICE_S if wide / s <= ticks), _NICE_S[-1])
    decimals = 2 if step_s < 0.1 else 1 if step_s < 1 else 0
    for number in range(math.ceil(from_s / step_s), math.floor(to_s / step_s) + 1):
        x = area.left() + (number * step_s - from_s) / wide * area.width()
        painter.drawLine(QPointF(x, area.bottom()), QPointF(x, area.bottom() + 4))
        said = time_text(number * step_s, decimals)
        width = metrics.horizontalAdvance(said)
        # The last one stays within the widget.
        left = min(x - width / 2.0, area.right() + theme.px(_RIGHT) - width)
        painter.drawText(QPointF(left, area.bottom() + 5 + metrics.ascent()), said)
