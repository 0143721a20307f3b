"""What mixing two microphones does to one source: the response of the sum."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.app.widgets.scales import paint_levels, picture_area
from verve.core.acoustics import SumOfPaths

_LOW_HZ, _HIGH_HZ = 40.0, 16_000.0
_TOP_DB, _BOTTOM_DB = 9.0, -27.0
_TICKS_HZ = ((63.0, "63"), (250.0, "250"), (1e3, "1 k"), (4e3, "4 k"), (16e3, "16 k"))


class SumResponse(QWidget):
    """The sum against the louder path alone, from bass to treble."""

    def __init__(self) -> None:
        super().__init__()
        self._sum: SumOfPaths | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(theme.px(110))
        self.setAccessibleName("Response of the mix")
        self.setToolTip(
            "What two paths of one sound make of it: both microphones mixed at one level, or the direct sound and "
            "its strongest reflection. 0 dB is the louder path alone; valleys are where it cancels."
        )

    def sizeHint(self) -> QSize:
        return QSize(260, theme.px(110))

    def show_sum(self, found: SumOfPaths | None, words: str) -> None:
        """Draw one; nothing without."""
        self._sum = found
        self.setVisible(found is not None)
        self.setAccessibleDescription(words)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._sum is None:
            return
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = picture_area(QRectF(self.rect()))
        painter.fillRect(area, QColor(c.paper))

        def x_of(hz: float) -> float:
            return area.left() + area.width() * math.log(hz / _LOW_HZ) / math.log(
                _HIGH_HZ / _LOW_HZ
            )

        def y_of(level: float) -> float:
            return area.top() + area.height() * (_TOP_DB - level) / (_TOP_DB - _BOTTOM_DB)

        paint_levels(painter, area, (6, 0, -12, -24), y_of)
        for hz, name in _TICKS_HZ:
            is_last = hz == _HIGH_HZ
            box = QRectF(x_of(hz) - (48 if is_last else 24), area.bottom() + 2, 48, 16)
            how = Qt.AlignmentFlag.AlignRight if is_last else Qt.AlignmentFlag.AlignHCenter
            painter.drawText(box, how | Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(QPen(QColor(c.rule), 1.0))
        painter.drawLine(QPointF(area.left(), y_of(0.0)), QPointF(area.right(), y_of(0.0)))
        shape = QPolygonF()
        steps = max(2, int(area.width()))
        for step in range(steps + 1):
            hz = _LOW_HZ * (_HIGH_HZ / _LOW_HZ) ** (step / steps)
            level = self._sum.response_db(hz)
            level = _BOTTOM_DB if level is None else min(max(level, _BOTTOM_DB), _TOP_DB)
            shape.append(QPointF(x_of(hz), y_of(level)))
        painter.setPen(QPen(QColor(c.ink), 1.6))
        painter.drawPolyline(shape)
