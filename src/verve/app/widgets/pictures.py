"""Two pictures beside the corridor: what the line does to bass and treble, and whose its noise is."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme

if TYPE_CHECKING:
    from verve.core.assess import LineAssessment

_LEFT, _RIGHT, _TOP, _BOTTOM = 58, 24, 20, 40
_LOW_HZ, _HIGH_HZ = 20.0, 20_000.0
_TICKS_HZ = (31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000)
_HIGHEST_DB, _LOWEST_DB, _STEP_DB = 12.0, -36.0, 6.0
_NOISE_LOW_DBFS, _NOISE_HIGH_DBFS = -150.0, 0.0


def _level(value: float, decimals: int = 0) -> str:
    return f"{value:.{decimals}f}".replace("-", "−")


class _Picture(QWidget):
    asked = pyqtSignal()
    """It was pressed, or Return on it: where do its numbers come from?"""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._item: LineAssessment | None = None
        self.setMinimumHeight(200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_line(self, item: LineAssessment | None) -> None:
        """Draw another line."""
        self._item = item
        self.setAccessibleDescription(self.description())
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.asked.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.asked.emit()
            return
        super().keyPressEvent(event)

    def description(self) -> str:
        """The picture in words."""
        raise NotImplementedError

    def _area(self) -> QRectF:
        return QRectF(
            _LEFT, _TOP, max(60, self.width() - _LEFT - _RIGHT), self.height() - _TOP - _BOTTOM
        )

    def _say(self, painter: QPainter, words: str) -> None:
        painter.setPen(QColor(theme.colours().muted))
        painter.setFont(theme.words(11.5))
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)


class ResponsePicture(_Picture):
    """Level over frequency at the recorder, against 1 kHz; dashed: the source with nothing connected."""

    def __init__(self) -> None:
        super().__init__()
        self.empty_words = "This signal has no response to draw yet."
        self.setAccessibleName("Bass and treble of the selected signal")
        self.setToolTip(
            "What pickup, cable, filter and input do to bass and treble. Solid: at the converter. "
            "Dashed: the source by itself. The shade is where more than 3 dB are lost."
        )

    def description(self) -> str:
        response = None if self._item is None else self._item.response()
        return "Nothing to draw." if response is None else response.sentence()

    def _place(self, hz: float, level_db: float) -> QPointF:
        area = self._area()
        across = math.log(hz / _LOW_HZ) / math.log(_HIGH_HZ / _LOW_HZ)
        up = (min(max(level_db, _LOWEST_DB), _HIGHEST_DB) - _LOWEST_DB) / (_HIGHEST_DB - _LOWEST_DB)
        return QPointF(area.left() + across * area.width(), area.bottom() - up * area.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        response = None if self._item is None else self._item.response()
        if self._item is None or response is None:
            self._say(painter, self.empty_words)
            return
        c, area = theme.colours(), self._area()
        colour = c.line(self._item.line.colour)
        for edge, is_low in ((response.low_edge_hz, True), (response.high_edge_hz, False)):
            if edge is not None:
                x = self._place(edge, 0.0).x()
                left, right = (area.left(), x) if is_low else (x, area.right())
                painter.fillRect(
                    QRectF(left, area.top(), right - left, area.height()), QColor(c.floor)
                )
        self._paint_axes(painter, area)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        points = [self._place(*pair) for pair in zip(response.hz, response.open_db, strict=True)]
        painter.setPen(QPen(QColor(c.muted), 1.0, Qt.PenStyle.DashLine))
        painter.drawPolyline(QPolygonF(points))
        points = [self._place(*pair) for pair in zip(response.hz, response.whole_db, strict=True)]
        painter.setPen(QPen(colour, 2.0))
        painter.drawPolyline(QPolygonF(points))
        painter.setPen(QColor(c.ink))
        painter.setFont(theme.words(10.0))
        painter.drawText(
            area.adjusted(8, 3, -8, 0),
            Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap,
            response.sentence(),
        )

    def _paint_axes(self, painter: QPainter, area: QRectF) -> None:
        c = theme.colours()
        painter.setFont(theme.numbers(9.0))
        level_db = _HIGHEST_DB
        while level_db >= _LOWEST_DB:
            y = self._place(1000.0, level_db).y()
            painter.setPen(QPen(QColor(c.rule), 1.0, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(QColor(c.muted))
            text = f"+{level_db:.0f}" if level_db > 0 else _level(level_db)
            box = QRectF(0, y - 9, _LEFT - 10, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
            level_db -= _STEP_DB
        for hz in _TICKS_HZ:
            x = self._place(hz, 0.0).x()
            text = f"{hz / 1000:g} k" if hz >= 1000 else f"{hz:g}"
            box = QRectF(x - 30, area.bottom() + 4, 60, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, text)
        painter.setFont(theme.words(9.0))
        painter.drawText(QRectF(0, 0, _LEFT - 10, 16), Qt.AlignmentFlag.AlignRight, "dB")
        painter.drawText(
            QRectF(area.left(), area.bottom() + 21, area.width(), 16),
            Qt.AlignmentFlag.AlignRight,
            "Hz, against 1 kHz",
        )


class NoisePicture(_Picture):
    """The origins of the noise as bars on one scale, under the playing that has to stand above them."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Noise of the selected signal by origin")
        self.setToolTip(
            "How loud each origin of noise is in the recording, A-weighted. The longest bar is the one "
            "worth mending; the shaded band is the performance, from quietest to loudest."
        )

    def description(self) -> str:
        if self._item is None or not self._item.noise_parts():
            return "Nothing to draw."
        said = [
            f"{part.name} {_level(part.level_dbfs_a)} dBFS, {part.share:.0%}"
            for part in self._item.noise_parts()
        ]
        return "Noise in the recording, A-weighted: " + "; ".join(said) + "."

    def _x(self, level_dbfs: float) -> float:
        area = self._area()
        share = (level_dbfs - _NOISE_LOW_DBFS) / (_NOISE_HIGH_DBFS - _NOISE_LOW_DBFS)
        return area.left() + 110 + min(max(share, 0.0), 1.0) * (area.width() - 110)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        parts = () if self._item is None else self._item.noise_parts()
        if self._item is None or not parts:
            self._say(painter, "This signal has no noise to draw yet.")
            return
        c, area = theme.colours(), self._area()
        self._paint_playing(painter, area)
        step = min(44.0, area.height() / (len(parts) + 1))
        rows = [*((p.name, p.level_dbfs_a, f"{p.share:.0%}") for p in parts)]
        total = self._item.noise_dbfs_a
        if total is not None:
            rows.append(("Together", total, ""))
        metrics = QFontMetricsF(theme.words(10.5))
        for row, (name, level, share) in enumerate(rows):
            y = area.top() + 8 + row * step
            is_total = row == len(parts)
            bar = QRectF(self._x(_NOISE_LOW_DBFS), y + 4, 0, step - 14)
            bar.setRight(self._x(level))
            painter.fillRect(bar, QColor(c.floor_edge if is_total else c.floor))
            painter.setPen(QPen(QColor(c.floor_edge), 1.0))
            painter.drawRect(bar)
            painter.setPen(QColor(c.ink))
            painter.setFont(theme.words(10.5))
            box = QRectF(4, y, self._x(_NOISE_LOW_DBFS) - 12, step - 6)
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            shown = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, box.width())
            painter.drawText(box, right, shown)
            painter.setFont(theme.numbers(10.0))
            said = f"{_level(level, 1)}   {share}"
            painter.drawText(QPointF(bar.right() + 8, bar.center().y() + 5), said)
        self._paint_scale(painter, area)

    def _paint_playing(self, painter: QPainter, area: QRectF) -> None:
        assert self._item is not None
        c = theme.colours()
        softest = self._item.predicted_peak_dbfs("softest")
        hardest = self._item.predicted_peak_dbfs("hardest")
        if softest is None or hardest is None:
            return
        colour = c.line(self._item.line.colour)
        colour.setAlpha(60)
        left, right = self._x(softest), self._x(hardest)
        painter.fillRect(QRectF(left, area.top(), right - left, area.height()), colour)
        painter.setPen(QColor(c.ink))
        painter.setFont(theme.words(9.5))
        box = QRectF(left, area.bottom() - 18, right - left, 16)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "the performance")

    def _paint_scale(self, painter: QPainter, area: QRectF) -> None:
        c = theme.colours()
        painter.setPen(QColor(c.muted))
        painter.setFont(theme.numbers(9.0))
        for level in range(-140, 1, 20):
            box = QRectF(self._x(level) - 24, area.bottom() + 4, 48, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, _level(level))
        painter.setFont(theme.words(9.0))
        words = "dBFS; noise A-weighted, playing as peaks"
        box = QRectF(area.left(), area.bottom() + 21, area.width(), 16)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight, words)
