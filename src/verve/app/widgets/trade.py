"""What a purchase gives against what it costs, drawn as points."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QSizePolicy,
    QWidget,
)

from verve.app import theme
from verve.core.needs import MicrophoneRow


class TradePicture(QWidget):
    """Each microphone as a mark: to the right further above the noise, upwards more room to its ceiling."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: Sequence[MicrophoneRow] = ()
        self.chosen = -1
        self.setMinimumWidth(240)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Microphones: signal-to-noise ratio against headroom")
        self.setToolTip(
            "Filled: yours. To the right: better signal-to-noise ratio. Up: more headroom."
        )

    def show_rows(self, rows: Sequence[MicrophoneRow], chosen: int) -> None:
        """Draw others."""
        self._rows, self.chosen = rows, chosen
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        c = theme.colours()
        area = QRectF(44, 24, max(40, self.width() - 56), max(40, self.height() - 60))
        painter.setPen(QPen(QColor(c.rule), 1.0))
        painter.drawRect(area)
        painter.setFont(theme.words(9.0))
        painter.setPen(QColor(c.muted))
        below = QRectF(area.left(), area.bottom() + 18, area.width(), 16)
        painter.drawText(below, Qt.AlignmentFlag.AlignRight, "dB above the noise")
        above = QRectF(area.left(), 2, area.width(), 18)
        painter.drawText(above, Qt.AlignmentFlag.AlignLeft, "headroom, dB")
        if not self._rows:
            return
        snrs = [row.snr_db for row in self._rows]
        low, high = min(snrs) - 2.0, max(snrs) + 2.0
        top = max(10.0, *(row.headroom_db for row in self._rows)) + 1.0
        painter.setFont(theme.numbers(9.0))
        for share in (0.0, 0.5, 1.0):
            x = area.left() + share * area.width()
            value = f"{low + share * (high - low):.0f}"
            box = QRectF(x - 20, area.bottom() + 3, 40, 14)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, value)
            y = area.bottom() - share * area.height()
            painter.drawText(
                QRectF(0, y - 8, 38, 16), Qt.AlignmentFlag.AlignRight, f"{share * top:.0f}"
            )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, row in enumerate(self._rows):
            at = QPointF(
                area.left() + (row.snr_db - low) / (high - low) * area.width(),
                area.bottom() - row.headroom_db / top * area.height(),
            )
            painter.setPen(QPen(QColor(c.ink), 1.5))
            painter.setBrush(QColor(c.ink) if row.is_owned else QColor(c.card))
            size = 7.0 if index == self.chosen else 4.5
            painter.drawEllipse(at, size, size)
            if index == self.chosen:
                painter.setFont(theme.words(9.5))
                wide = painter.fontMetrics().horizontalAdvance(row.name) + 2
                left = min(max(at.x() - wide / 2, area.left() + 4), area.right() - wide - 4)
                box = QRectF(left, at.y() + 10, wide, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, row.name)
