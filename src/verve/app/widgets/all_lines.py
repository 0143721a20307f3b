"""The corridors of all lines side by side on one scale, each with its tightest place marked."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.app.widgets.corridor_shape import shape_of, shared_scale
from verve.app.widgets.thumbnail import paint_small, place

if TYPE_CHECKING:
    from verve.core.assess import Assessment, LineAssessment

_ROOM_FOR_UNIT = 60
_LEFT, _TOP, _BOTTOM, _GAP = 46, 22, 56, 6


def _tightest(item: LineAssessment) -> tuple[int, float] | None:
    """The stage with the least room to its ceiling, and how much."""
    rooms = [(s.headroom_db, i) for i, s in enumerate(item.spans) if s.headroom_db is not None]
    if not rooms:
        return None
    room, index = min(rooms)
    return index, room


class AllLines(QWidget):
    """One strip a line; a press, or the keys, choose the line everywhere."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._assessment: Assessment | None = None
        self._selected = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Corridors of all signals")
        self.setToolTip(
            "Every signal on one scale; a wedge marks where each is tightest. Press a signal to choose it; with "
            "the keys: left and right."
        )

    def show_assessment(self, assessment: Assessment, selected: str) -> None:
        """Draw other lines."""
        self._assessment, self._selected = assessment, selected
        self.setAccessibleDescription(self.description())
        self.update()

    def description(self) -> str:
        """The picture in words."""
        if self._assessment is None:
            return ""
        parts = []
        for item in self._assessment.lines:
            tight = _tightest(item)
            said = f"{item.line.name}: {item.verdict}"
            if tight is not None:
                said += f", tightest at {item.spans[tight[0]].title} with {tight[1]:.1f} dB"
            parts.append(said)
        return "; ".join(parts)

    def _strips(self) -> list[QRectF]:
        count = len(self._assessment.lines) if self._assessment is not None else 0
        if not count:
            return []
        wide = (self.width() - _LEFT - _GAP) / count
        height = max(40, self.height() - _TOP - _BOTTOM)
        return [QRectF(_LEFT + i * wide, _TOP, wide - _GAP, height) for i in range(count)]

    def strip_at(self, x: float) -> int | None:
        """The line at a place; None beside all."""
        for index, strip in enumerate(self._strips()):
            if strip.left() <= x <= strip.right():
                return index
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        index = None if event is None else self.strip_at(event.position().x())
        if index is not None and self._assessment is not None:
            self.chosen.emit(self._assessment.lines[index].line.id)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        turns = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event is not None and Qt.Key(event.key()) in turns and self._assessment is not None:
            ids = [item.line.id for item in self._assessment.lines]
            if ids:
                there = ids.index(self._selected) if self._selected in ids else 0
                self.chosen.emit(ids[(there + turns[Qt.Key(event.key())]) % len(ids)])
            return
        super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self._assessment is None or not self._assessment.lines:
            return
        scale = shared_scale(self._assessment)
        self._paint_scale(painter, scale)
        for item, strip in zip(self._assessment.lines, self._strips(), strict=True):
            self._paint_line(painter, item, strip, scale)

    def _paint_scale(self, painter: QPainter, scale: tuple[float, float]) -> None:
        c = theme.colours()
        area = QRectF(_LEFT, _TOP, self.width() - _LEFT, max(40, self.height() - _TOP - _BOTTOM))
        painter.setFont(theme.numbers(9.0))
        painter.setPen(QColor(c.muted))
        level = scale[1]
        while level >= scale[0]:
            y = place(0.0, level, area, 1, *scale).y()
            said = f"{level:+.0f}".replace("-", "−") if level else "0"
            painter.drawText(
                QRectF(0, y - 8, _LEFT - 8, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                said,
            )
            level -= 20.0
        painter.setFont(theme.words(9.0))
        painter.drawText(QRectF(0, 2, _LEFT - 8, 14), Qt.AlignmentFlag.AlignRight, "dBu")

    def _paint_line(
        self, painter: QPainter, item: LineAssessment, strip: QRectF, scale: tuple[float, float]
    ) -> None:
        c = theme.colours()
        colour = c.line(item.line.colour)
        shape = shape_of(item)
        is_selected = item.line.id == self._selected
        if shape.stages:
            paint_small(painter, strip, shape, scale, colour)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, on=False)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        dashed = Qt.PenStyle.DashLine if is_selected and self.hasFocus() else Qt.PenStyle.SolidLine
        painter.setPen(QPen(QColor(c.ink if is_selected else c.rule), 1.0, dashed))
        painter.drawRect(strip)
        painter.setFont(
            theme.words(9.5, weight=QFont.Weight.DemiBold if is_selected else QFont.Weight.Normal)
        )
        painter.setPen(QColor(c.ink))
        metrics = painter.fontMetrics()
        name = metrics.elidedText(
            item.line.name, Qt.TextElideMode.ElideRight, int(strip.width()) - 2
        )
        under = QRectF(strip.left(), strip.bottom() + 4, strip.width(), 16)
        painter.drawText(under, Qt.AlignmentFlag.AlignHCenter, name)
        painter.setPen(QColor(c.muted))
        painter.setFont(theme.words(9.0))
        verdict = painter.fontMetrics().elidedText(
            item.verdict, Qt.TextElideMode.ElideRight, int(strip.width()) - 2
        )
        painter.drawText(under.translated(0, 17), Qt.AlignmentFlag.AlignHCenter, verdict)
        tight = _tightest(item)
        if tight is not None:
            self._paint_wedge(painter, item, strip, scale, *tight)

    def _paint_wedge(
        self,
        painter: QPainter,
        item: LineAssessment,
        strip: QRectF,
        scale: tuple[float, float],
        index: int,
        headroom_db: float,
    ) -> None:
        """A wedge pointing down at the tightest ceiling, with its room."""
        c = theme.colours()
        span = item.spans[index]
        ceiling = (
            span.right.ceiling_dbu if span.right.ceiling_dbu is not None else span.left.ceiling_dbu
        )
        level = ceiling if ceiling is not None else span.right.hardest_dbu
        if level is None:
            return
        at = place(index + 0.5, level, strip, len(item.spans), *scale)
        wedge = QPolygonF([QPointF(at.x() - 5, at.y() - 9), QPointF(at.x() + 5, at.y() - 9), at])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(c.ink), 1.0))
        painter.setBrush(QColor(c.ink if headroom_db < 0.0 else c.card))
        painter.drawPolygon(wedge)
        painter.setFont(theme.numbers(9.0))
        painter.setPen(QColor(c.ink))
        unit = " dB" if strip.width() >= _ROOM_FOR_UNIT else ""
        said = f"{headroom_db:.0f}{unit}".replace("-", "−")
        # In the middle above the wedge, as far as the strip is wide enough.
        wide = painter.fontMetrics().horizontalAdvance(said) + 2
        left = min(max(at.x() - wide / 2, strip.left()), max(strip.left(), strip.right() - wide))
        box = QRectF(left, max(strip.top() - 18, at.y() - 25), wide, 15)
        painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, said)
