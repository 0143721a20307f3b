"""Buffer sizes against one another: how late each is, and whether the computer bears it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.core.monitor import Option
from verve.core.words import number

_HIGH = 190
_HEAD, _FOOT, _LEFT = 34, 34, 40
_SHAPES = {"calm": "○", "tight": "◇", "drop-outs likely": "■"}


class BufferChart(QWidget):
    """A column for each size; what is too late for those who listen lies above the line."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._options: Sequence[Option] = ()
        self._now = 0
        self._bearable_ms = math.inf
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(theme.px(_HIGH))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Buffer sizes")
        self.setToolTip(
            "Round trip of each buffer size in milliseconds; below it how busy the computer is: a ring is calm, a "
            "diamond tight, a full square too slow. A press takes that size, as do the arrow keys"
        )

    def sizeHint(self) -> QSize:
        return QSize(320, theme.px(_HIGH))

    def show_options(self, options: Sequence[Option], now: int, bearable_ms: float) -> None:
        """Draw them; `now` is the size that is set, `bearable_ms` what the most critical listener bears."""
        self._options, self._now, self._bearable_ms = options, now, bearable_ms
        self.setAccessibleDescription(
            "; ".join(
                f"{one.buffer_frames} samples: {number(one.round_trip_ms, 1)} ms, {one.risk}"
                for one in options
            )
        )
        self.update()

    def _columns(self) -> list[QRectF]:
        wide = (self.width() - theme.px(_LEFT)) / max(1, len(self._options))
        return [
            QRectF(theme.px(_LEFT) + number_ * wide, 0.0, wide, float(self.height()))
            for number_ in range(len(self._options))
        ]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self._options:
            return
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.hasFocus():
            painter.setPen(QPen(QColor(c.ink), 1.0, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        top, bottom = float(theme.px(_HEAD) / 2), float(self.height() - theme.px(_FOOT) - 4)
        most = max(one.round_trip_ms for one in self._options)

        def y_of(ms: float) -> float:
            return bottom - (bottom - top) * math.log1p(ms) / math.log1p(most)

        centre = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter
        if math.isfinite(self._bearable_ms) and self._bearable_ms < most:
            late = y_of(self._bearable_ms)
            area = QRectF(float(theme.px(_LEFT)), 0.0, float(self.width()), late)
            painter.fillRect(area, QColor(c.ceiling))
            painter.setPen(QPen(QColor(c.ceiling_edge), 1.0))
            painter.drawLine(area.bottomLeft(), area.bottomRight())
            painter.setFont(theme.numbers(9.0))
            painter.drawText(
                QRectF(0.0, late - 9.0, theme.px(_LEFT) - 4.0, 18.0),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{number(self._bearable_ms, 0)} ms",
            )
        for one, column in zip(self._options, self._columns(), strict=True):
            is_now = one.buffer_frames == self._now
            bar = QRectF(
                column.left() + 6.0, y_of(one.round_trip_ms), column.width() - 12.0,
                bottom - y_of(one.round_trip_ms),
            )  # fmt: skip
            painter.fillRect(bar, QColor(c.ink if is_now else c.floor_edge))
            painter.setPen(QColor(c.ink))
            painter.setFont(theme.numbers(9.0))
            metrics = QFontMetricsF(painter.font())
            high = metrics.height()
            said = number(one.round_trip_ms, 0 if one.round_trip_ms >= 10.0 else 1)
            wide = metrics.horizontalAdvance(said) + 4.0
            label = QRectF(bar.center().x() - wide / 2.0, bar.top() - high - 1.0, wide, high)
            painter.fillRect(label, QColor(c.card))
            painter.drawText(label, centre, said)
            below = QRectF(column.left(), bottom + 2.0, column.width(), high)
            size = str(one.buffer_frames)
            if metrics.horizontalAdvance(size) + 4.0 > column.width() and one.buffer_frames >= 1024:
                size = f"{one.buffer_frames // 1024} k"
            painter.drawText(below, centre, size)
            painter.setPen(QColor(c.ceiling_edge if one.risk != "calm" else c.muted))
            painter.drawText(below.translated(0.0, high), centre, _SHAPES[one.risk])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        sizes = [one.buffer_frames for one in self._options]
        if step is None or not sizes:
            super().keyPressEvent(event)
            return
        nearest = min(range(len(sizes)), key=lambda at: abs(sizes[at] - self._now))
        self.chosen.emit(sizes[min(max(nearest + step, 0), len(sizes) - 1)])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for one, column in zip(self._options, self._columns(), strict=True):
            if column.contains(event.position()):
                self.chosen.emit(one.buffer_frames)
