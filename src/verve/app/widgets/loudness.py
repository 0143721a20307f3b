"""Loudness over time, beside the corridor's: how loud 400 ms and 3 s were, and the whole."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.app.widgets.scales import paint_levels, paint_times, picture_area
from verve.core.recordings import loudness_columns
from verve.core.sheets import programme_text

if TYPE_CHECKING:
    from verve.core.measure import Recording

_COLUMN_PX = 2
_LEAST_LU, _MOST_LU = 20.0, 60.0


class Loudness(QWidget):
    """The loudness of a mono or stereo recording, in LUFS."""

    def __init__(self) -> None:
        super().__init__()
        self._recording: Recording | None = None
        self._from_s, self._to_s = 0.0, 1.0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.px(84))
        self.setAccessibleName("Loudness over time")
        self.setToolTip(
            "The thin line is the loudness of 400 ms, the thick one that of 3 s, the dashed one that of the whole "
            "(ITU-R BS.1770)"
        )

    def sizeHint(self) -> QSize:
        return QSize(400, 160)

    def show_recording(self, recording: Recording | None) -> None:
        """Draw a recording; nothing without one."""
        self._recording = recording
        self.setAccessibleDescription("" if recording is None else programme_text(recording))
        self.update()

    def view(self, from_s: float, to_s: float) -> None:
        """Show the same time as the corridor."""
        self._from_s, self._to_s = from_s, to_s
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        recording = self._recording
        if recording is None or recording.programme is None:
            return
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = picture_area(QRectF(self.rect()))
        painter.fillRect(area, QColor(c.paper))
        count = max(1, int(area.width() / _COLUMN_PX))
        found = loudness_columns(recording, self._from_s, self._to_s, count)
        highest = recording.programme.max_momentary_lufs
        high = math.ceil(((-20.0 if highest is None else highest) + 3.0) / 5.0) * 5.0
        heard = [one for _, one, _ in found if one is not None]
        lowest = min(heard, default=high)
        low = min(high - _LEAST_LU, max(high - _MOST_LU, math.floor((lowest - 3.0) / 5.0) * 5.0))

        def at(second: float, level: float) -> QPointF:
            share = (second - self._from_s) / (self._to_s - self._from_s)
            height = min(max((level - low) / (high - low), 0.0), 1.0)
            return QPointF(
                area.left() + share * area.width(), area.bottom() - height * area.height()
            )

        ink = QColor(c.ink)
        for index, width in ((1, 1.0), (2, 2.4)):
            painter.setPen(QPen(ink if index == 2 else QColor(c.muted), width))
            part: list[QPointF] = []
            for column in (*found, (self._to_s, None, None)):
                level = column[index]
                if level is not None:
                    part.append(at(column[0], level))
                elif part:
                    painter.drawPolyline(QPolygonF(part))
                    part = []
        whole = recording.programme.integrated_lufs
        painter.setFont(theme.words(9.0))
        if whole is not None:
            y = at(self._from_s, whole).y()
            painter.setPen(QPen(ink, 1.0, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            words = f"the whole {whole:.1f} LUFS".replace("-", "−")
            box = QRectF(area.right() - 180, y - 17, 176, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight, words)
        levels = range(int(low), int(high) + 1, 5 if high - low <= 20.0 else 10)
        paint_levels(painter, area, levels, lambda level: at(self._from_s, level).y())
        paint_times(painter, area, self._from_s, self._to_s)
