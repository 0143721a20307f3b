"""A recording as a corridor over time: its level between the noise it carries and full scale, moment by moment.

What touches the ceiling, breaks off or bursts is marked where it is, with its time. A place is chosen by mouse or
keys, a stretch by dragging.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.app.widgets.course_marks import paint_expected, paint_places
from verve.app.widgets.scales import paint_levels, paint_times, picture_area
from verve.core.recordings import columns_of
from verve.core.sheets import time_text

if TYPE_CHECKING:
    from verve.core.assess import LineAssessment
    from verve.core.measure import Recording
    from verve.core.recordings import Column, Place

_HIGHEST_DBFS = 9.0
_LOWEST_DBFS = -120.0
_UNDER_FLOOR_DB = 14.0
_COLUMN_PX = 2
_SHORTEST_S = 0.05
_STEP, _BIG_STEP = 0.01, 0.1
_ZOOM = 2.0


class Course(QWidget):
    """One channel over time."""

    chosen = pyqtSignal(float)
    """Somebody chose a place, in seconds."""
    play_wanted = pyqtSignal()
    stretch_changed = pyqtSignal()
    viewed = pyqtSignal(float, float)
    """From when to when is seen."""

    def __init__(self) -> None:
        super().__init__()
        self._recording: Recording | None = None
        self._key: str | None = None
        self._channel = 0
        self._item: LineAssessment | None = None
        self._places: Sequence[Place] = ()
        self._columns: tuple[Column, ...] = ()
        self._drawn_for: tuple[object, ...] = ()
        self.begin_s, self.end_s = 0.0, 1.0
        self.place_s = 0.0
        self.stretch: tuple[float, float] | None = None
        self._pressed_s: float | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.px(130))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Level over time")
        self.setToolTip(
            "The band is how quiet and how loud it is, A-weighted; the line above it the peaks. Click to choose a "
            "place, drag to choose a stretch. Keys: arrows move, Page keys move further, Space plays, + and − zoom."
        )

    def sizeHint(self) -> QSize:
        return QSize(600, 200)

    # ── what is shown ─────────────────────────────────────────────────────────────────────────
    def show_recording(
        self,
        recording: Recording | None,
        channel: int,
        item: LineAssessment | None,
        places: Sequence[Place],
        key: str = "",
    ) -> None:
        """Draw a channel; nothing without a recording. `key` tells files apart: of another one all is seen at
        first, and no stretch is chosen."""
        is_other = recording is not None and key != self._key
        self._recording, self._channel, self._item, self._places = recording, channel, item, places
        if is_other and recording is not None:
            self._key = key
            self.begin_s, self.end_s = 0.0, recording.seconds
            self.stretch = None
            self.viewed.emit(self.begin_s, self.end_s)
        self._describe()
        self.update()

    def go_to(self, place_s: float) -> None:
        """Show where one is."""
        self.place_s = place_s
        if self._recording is not None and not self.begin_s <= place_s <= self.end_s:
            width = self.end_s - self.begin_s
            self._view(place_s - 0.1 * width, width)
        self._describe()
        self.update()

    def select(self, stretch: tuple[float, float] | None) -> None:
        """Choose a stretch, or none."""
        self.stretch = stretch
        self._describe()
        self.stretch_changed.emit()
        self.update()

    def _describe(self) -> None:
        recording = self._recording
        if recording is None:
            self.setAccessibleDescription("nothing to be seen yet")
            return
        found = recording.channels[self._channel]
        noise = (
            "no pause" if found.noise_dbfs_a is None else f"noise {found.noise_dbfs_a:.1f} dBFS A"
        )
        peak = "silent" if found.peak_dbfs is None else f"peak {found.peak_dbfs:.1f} dBFS"
        stretch = (
            ""
            if self.stretch is None
            else (f", stretch {time_text(self.stretch[0])} to {time_text(self.stretch[1])}")
        )
        self.setAccessibleDescription(f"at {time_text(self.place_s)}; {peak}, {noise}{stretch}")

    def zoom(self, factor: float, around_s: float | None = None) -> None:
        """See so many times less of it, around a place."""
        if self._recording is None:
            return
        width = self.end_s - self.begin_s
        middle = self.place_s if around_s is None else around_s
        share = (middle - self.begin_s) / width if self.begin_s <= middle <= self.end_s else 0.5
        wide = min(max(width / factor, _SHORTEST_S), max(self._recording.seconds, _SHORTEST_S))
        self._view(middle - share * wide, wide)

    def show_whole(self) -> None:
        """See all of it."""
        if self._recording is not None:
            self._view(0.0, self._recording.seconds)

    def _view(self, begin_s: float, wide_s: float) -> None:
        assert self._recording is not None
        begin_s = min(max(0.0, begin_s), max(0.0, self._recording.seconds - wide_s))
        self.begin_s, self.end_s = begin_s, begin_s + wide_s
        self.viewed.emit(self.begin_s, self.end_s)
        self.update()

    # ── hands ─────────────────────────────────────────────────────────────────────────────────
    def _seconds(self, x: float) -> float:
        area = self._area()
        share = min(max((x - area.left()) / max(1.0, area.width()), 0.0), 1.0)
        return self.begin_s + share * (self.end_s - self.begin_s)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._recording is not None:
            self._pressed_s = self._seconds(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed_s is not None:
            here = self._seconds(event.position().x())
            if abs(here - self._pressed_s) > 4 * (self.end_s - self.begin_s) / max(1, self.width()):
                self.select((min(here, self._pressed_s), max(here, self._pressed_s)))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed_s is None:
            return
        here, pressed, self._pressed_s = self._seconds(event.position().x()), self._pressed_s, None
        if abs(here - pressed) <= 4 * (self.end_s - self.begin_s) / max(1, self.width()):
            self.select(None)
        self.chosen.emit(min(here, pressed))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and self._recording is not None and event.angleDelta().y():
            factor = _ZOOM ** (event.angleDelta().y() / 240.0)
            self.zoom(factor, self._seconds(event.position().x()))
            event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._recording is None:
            super().keyPressEvent(event)
            return
        key, wide = event.key(), self.end_s - self.begin_s
        moves = {
            Qt.Key.Key_Left: -_STEP * wide,
            Qt.Key.Key_Right: _STEP * wide,
            Qt.Key.Key_PageUp: -_BIG_STEP * wide,
            Qt.Key.Key_PageDown: _BIG_STEP * wide,
            Qt.Key.Key_Home: -math.inf,
            Qt.Key.Key_End: math.inf,
        }
        if key in moves:
            self.chosen.emit(
                min(max(0.0, self.place_s + moves[Qt.Key(key)]), self._recording.seconds)
            )
        elif key in {Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.play_wanted.emit()
        elif key in {Qt.Key.Key_Plus, Qt.Key.Key_Equal}:
            self.zoom(_ZOOM)
        elif key == Qt.Key.Key_Minus:
            self.zoom(1.0 / _ZOOM)
        elif key == Qt.Key.Key_0:
            self.show_whole()
        elif key == Qt.Key.Key_BracketLeft:
            end = self.stretch[1] if self.stretch else self._recording.seconds
            self.select((min(self.place_s, end - _SHORTEST_S), end))
        elif key == Qt.Key.Key_BracketRight:
            begin = self.stretch[0] if self.stretch else 0.0
            self.select((begin, max(self.place_s, begin + _SHORTEST_S)))
        else:
            super().keyPressEvent(event)

    # ── painting ──────────────────────────────────────────────────────────────────────────────
    def _area(self) -> QRectF:
        return picture_area(QRectF(self.rect()))

    def _lowest(self) -> float:
        assert self._recording is not None
        noise = self._recording.channels[self._channel].noise_dbfs_a
        return max(_LOWEST_DBFS, -70.0 if noise is None else min(-60.0, noise - _UNDER_FLOOR_DB))

    def _y(self, level_dbfs: float, area: QRectF) -> float:
        low = self._lowest()
        share = (level_dbfs - low) / (_HIGHEST_DBFS - low)
        return area.bottom() - min(max(share, 0.0), 1.0) * area.height()

    def _x(self, at_s: float, area: QRectF) -> float:
        return area.left() + (at_s - self.begin_s) / (self.end_s - self.begin_s) * area.width()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        c = theme.colours()
        painter = QPainter(self)
        area = self._area()
        painter.fillRect(area, QColor(c.paper))
        if self._recording is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        clips_at = self._recording.channels[self._channel].clip_level_dbfs
        # An earlier stage's ceiling lies under full scale.
        ceiling = self._y(0.0 if clips_at is None else min(0.0, clips_at), area)
        painter.fillRect(
            QRectF(area.left(), area.top(), area.width(), ceiling - area.top()), QColor(c.ceiling)
        )
        self._paint_stretch(painter, area)
        self._paint_band(painter, area)
        self._paint_floor(painter, area)
        painter.setPen(QPen(QColor(c.ceiling_edge), 1.2))
        painter.drawLine(QPointF(area.left(), ceiling), QPointF(area.right(), ceiling))
        if self._item is not None:
            paint_expected(painter, area, self._item, lambda level: self._y(level, area))
        paint_places(painter, area, self._places, lambda at_s: self._x(at_s, area), ceiling)
        low = self._lowest()
        step = next((s for s in (10, 20, 30) if s / (_HIGHEST_DBFS - low) * area.height() > 16), 60)
        levels = range(0, math.floor(low), -step)
        paint_levels(painter, area, levels, lambda level: self._y(level, area))
        paint_times(painter, area, self.begin_s, self.end_s)
        x = self._x(self.place_s, area)
        if area.left() <= x <= area.right():
            painter.setPen(QPen(QColor(c.ink), 1.4))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        if self.hasFocus():
            painter.setPen(QPen(QColor(c.ink), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def _paint_stretch(self, painter: QPainter, area: QRectF) -> None:
        if self.stretch is None:
            return
        c = theme.colours()
        left, right = (min(max(self._x(s, area), area.left()), area.right()) for s in self.stretch)
        chosen = QRectF(left, area.top(), right - left, area.height())
        painter.fillRect(chosen, QColor(c.raised))
        painter.setPen(QPen(QColor(c.ink), 1.0))
        for x in (left, right):
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        painter.fillRect(QRectF(left, area.bottom(), right - left, 3.0), QColor(c.ink))

    def _paint_band(self, painter: QPainter, area: QRectF) -> None:
        assert self._recording is not None
        count = max(1, int(area.width() / _COLUMN_PX))
        wanted = (id(self._recording), self._channel, self.begin_s, self.end_s, count)
        if self._drawn_for != wanted:
            self._drawn_for = wanted
            self._columns = columns_of(
                self._recording, self._channel, self.begin_s, self.end_s, count
            )
        low = self._lowest()
        c = theme.colours()
        colour = QColor(c.muted) if self._item is None else c.line(self._item.line.colour)
        light = QColor(colour)
        light.setAlpha(60)
        upper: list[QPointF] = []
        lower: list[QPointF] = []
        peaks: list[QPointF] = []
        for column in self._columns:
            x = self._x((column.start_s + column.end_s) / 2.0, area)
            high = low if column.highest_dbfs is None else column.highest_dbfs
            quiet = low if column.lowest_dbfs is None else column.lowest_dbfs
            peak = low if column.peak_dbfs is None else column.peak_dbfs
            # Never thinner than a stroke: what is steady is seen as well.
            upper.append(QPointF(x, self._y(high, area) - 0.8))
            lower.append(QPointF(x, self._y(quiet, area) + 0.8))
            peaks.append(QPointF(x, self._y(peak, area)))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(light)
        painter.drawPolygon(QPolygonF(peaks + lower[::-1]))
        strong = QColor(colour)
        strong.setAlpha(150)
        painter.setBrush(strong)
        painter.drawPolygon(QPolygonF(upper + lower[::-1]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, 1.2))
        painter.drawPolyline(QPolygonF(peaks))

    def _paint_floor(self, painter: QPainter, area: QRectF) -> None:
        assert self._recording is not None
        c = theme.colours()
        noise = self._recording.channels[self._channel].noise_dbfs_a
        if noise is None:
            return
        y = self._y(noise, area)
        floor = QColor(c.floor)
        painter.fillRect(QRectF(area.left(), y, area.width(), area.bottom() - y), floor)
        painter.setPen(QPen(QColor(c.floor_edge), 1.2))
        painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
        for start_s, end_s in self._recording.course.pauses_s[self._channel]:
            left, right = (
                self._x(max(start_s, self.begin_s), area),
                self._x(min(end_s, self.end_s), area),
            )
            if right > left:
                painter.fillRect(QRectF(left, y - 1.0, right - left, 3.0), QColor(c.floor_edge))
        painter.setFont(theme.words(9.0))
        words = f"noise {noise:.1f} dBFS A".replace("-", "−")
        if area.bottom() - y > QFontMetricsF(painter.font()).height():
            painter.setPen(QColor(c.ink))
            painter.drawText(QRectF(area.left() + 6, y + 2, area.width() - 12, 18), 0, words)
