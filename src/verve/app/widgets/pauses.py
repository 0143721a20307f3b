"""What the pauses of a recording sound like: thirds of octaves, and the lines of mains hum through them."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.app.widgets.scales import paint_levels, picture_area
from verve.core.sheets import pauses_text

if TYPE_CHECKING:
    from verve.core.check import NoisePicture
    from verve.core.measure import Recording

_LOW_HZ, _HIGH_HZ = 17.8, 22_400.0
_TICKS_HZ = ((31.5, "31"), (63.0, "63"), (125.0, "125"), (250.0, "250"), (500.0, "500"), (1e3, "1 k"),
             (2e3, "2 k"), (4e3, "4 k"), (8e3, "8 k"), (16e3, "16 k"))  # fmt: skip
_SPACE_DB = 6.0


class Pauses(QWidget):
    """The spectrum of one channel's pauses, in dBFS."""

    def __init__(self) -> None:
        super().__init__()
        self._recording: Recording | None = None
        self._channel = 0
        self._computed: NoisePicture | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.px(84))
        self.setAccessibleName("Noise in the pauses, by frequency")
        self.setToolTip(
            "What is heard when nobody plays: bass on the left, treble on the right. Strokes with a knob are mains "
            "hum; a hill on the left is rumble of the room, an even slope the hiss of the equipment."
        )

    def sizeHint(self) -> QSize:
        return QSize(400, 160)

    def show_computed(self, computed: NoisePicture | None) -> None:
        """What is computed of the noise of the signal that the channel holds; None for none."""
        self._computed = computed
        self.update()

    def show_recording(self, recording: Recording | None, channel: int) -> None:
        """Draw a channel; nothing without a recording."""
        self._recording, self._channel = recording, channel
        self.setAccessibleDescription("" if recording is None else pauses_text(recording, channel))
        self.update()

    @staticmethod
    def _paint_computed(
        painter: QPainter,
        area: QRectF,
        computed: NoisePicture,
        x_of: Callable[[float], float],
        y_of: Callable[[float], float],
    ) -> None:
        """The room as a dotted stair, the equipment as a dashed one: told by their strokes, and by their names."""
        c = theme.colours()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for name, levels, style in (
            ("room, computed", computed.room_dbfs, Qt.PenStyle.DotLine),
            ("equipment, computed", computed.equipment_dbfs, Qt.PenStyle.DashLine),
        ):
            painter.setPen(QPen(QColor(c.ink), 1.6, style))
            path, last = QPainterPath(), None
            for hz, level in zip(computed.bands_hz, levels, strict=True):
                if level is None:
                    continue
                y = y_of(level)
                left, right = x_of(hz * 10.0**-0.05), x_of(hz * 10.0**0.05)
                if last is None:
                    path.moveTo(left, y)
                else:
                    path.lineTo(left, y)
                path.lineTo(right, y)
                last = (right, y)
            painter.drawPath(path)
            if last is not None:
                painter.setFont(theme.words(9.0))
                box = QRectF(area.right() - 150.0, last[1] - 18.0, 146.0, 16.0)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight, name)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._recording is None or self._channel >= len(self._recording.course.spectra):
            return
        spectrum = self._recording.course.spectra[self._channel]
        bands = [
            (hz, level)
            for hz, level in zip(spectrum.bands_hz, spectrum.levels_dbfs, strict=False)
            if level is not None
        ]
        if not bands:
            return
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = picture_area(QRectF(self.rect()))
        lines = self._recording.channels[self._channel].hum.harmonics
        levels = [level for _, level in bands]
        high = (
            math.ceil((max([*levels, *(one.level_dbfs for one in lines)]) + _SPACE_DB) / 10.0)
            * 10.0
        )
        low = math.floor((max(min(levels), high - 90.0) - _SPACE_DB) / 10.0) * 10.0

        def x_of(hz: float) -> float:
            return (
                area.left() + math.log(hz / _LOW_HZ) / math.log(_HIGH_HZ / _LOW_HZ) * area.width()
            )

        def y_of(level: float) -> float:
            return area.bottom() - min(max((level - low) / (high - low), 0.0), 1.0) * area.height()

        painter.fillRect(area, QColor(c.paper))
        for hz, level in bands:
            left, right = x_of(hz * 10.0**-0.05), x_of(hz * 10.0**0.05)
            bar = QRectF(left + 0.5, y_of(level), right - left - 1.0, area.bottom() - y_of(level))
            painter.fillRect(bar, QColor(c.floor))
            painter.setPen(QPen(QColor(c.floor_edge), 2.0))
            painter.drawLine(bar.topLeft(), bar.topRight())
        if self._computed is not None:
            self._paint_computed(painter, area, self._computed, x_of, y_of)
        painter.setBrush(QColor(c.ink))
        painter.setPen(QPen(QColor(c.ink), 1.4))
        for one in lines:
            x, y = x_of(one.hz), y_of(one.level_dbfs)
            painter.drawLine(QPointF(x, area.bottom()), QPointF(x, y))
            painter.drawEllipse(QPointF(x, y), 2.6, 2.6)
        step = 10 if high - low <= 50 else 20
        paint_levels(painter, area, range(int(low), int(high) + 1, step), y_of)
        for hz, words in _TICKS_HZ:
            box = QRectF(x_of(hz) - 30, area.bottom() + 3, 60, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, words)
