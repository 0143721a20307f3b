"""The corridor, large: a line between ceiling and floor, its band to be taken hold of."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFont,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.app.widgets.corridor_marks import paint_before, paint_lamps, paint_words
from verve.app.widgets.corridor_shape import HANDLE_AT, Shape, shape_of
from verve.app.widgets.thumbnail import fill_to, place, polygon
from verve.core.kind import Control, control_text

LEFT_GUTTER = 58
RIGHT_GUTTER = 92
_HANDLE_RADIUS = 7.0
_REACH = 14.0
_STILL_PX = 3
"""A press that moves less than this asks and does not turn."""
_COARSE_DB = 0.5
_FINE_DB = 0.1
_KEY_STEPS_DB = (1.0, 0.1)

if TYPE_CHECKING:
    from verve.core.assess import LineAssessment
    from verve.core.explain import Span


def _number(value: float, decimals: int = 1) -> str:
    return f"{value:+.{decimals}f}".replace("-", "−")


class Corridor(QWidget):
    """Draws one assessed line; emits what the hand or the keys do to a gain."""

    moved = pyqtSignal(object, float)
    """A gain is being moved: its control and the new value; part of one movement."""
    let_go = pyqtSignal()
    """The movement is over."""
    asked = pyqtSignal(int)
    """A stage was pressed, or Return on the chosen one: where do its numbers come from?"""
    stage_chosen = pyqtSignal(int)
    """A stage was pressed or reached by key."""

    def __init__(self) -> None:
        super().__init__()
        self.empty_words = "Choose a signal on the left, or add one."
        self._item: LineAssessment | None = None
        self._shape: Shape | None = None
        self._scale = (-140.0, 30.0)
        self._chosen = -1
        self._held: tuple[int, float, float] | None = None
        self._before: Shape | None = None
        self._pressed_at: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumHeight(200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Corridor of the selected signal")
        self.setToolTip(
            "The signal between its ceiling and its floor. Take hold of the band at a ring to change a gain; "
            "with the keys: left and right choose a stage, up and down move it by 1 dB, with Shift by 0.1 dB."
        )

    def sizeHint(self) -> QSize:
        # It takes what is left, and asks for no more than it needs: or the view would scroll.
        return QSize(720, 200)

    # ── model ─────────────────────────────────────────────────────────────────────────────────
    def show_line(self, item: LineAssessment | None, scale: tuple[float, float]) -> None:
        """Draw another assessment."""
        self._item, self._scale = item, scale
        self._shape = None if item is None else shape_of(item)
        gains = self.gain_stages()
        if self._chosen not in gains:
            self._chosen = gains[-1] if gains else -1
        self.setAccessibleDescription(self.description())
        self.update()

    def gain_stages(self) -> tuple[int, ...]:
        """Stages whose gain can be taken hold of."""
        if self._item is None:
            return ()
        return tuple(
            i for i, span in enumerate(self._item.spans) if span.gain and span.role != "converter"
        )

    @property
    def chosen_stage(self) -> int:
        """The stage the keys move; −1 for none."""
        return self._chosen

    def choose_stage(self, index: int) -> None:
        """Let the keys move this stage's gain."""
        if index in self.gain_stages():
            self._chosen = index
            self.update()
            self.stage_chosen.emit(index)

    def description(self) -> str:
        """The picture in words, for who does not see it."""
        if self._item is None:
            return "No signal is selected."
        if not self._item.spans:
            return f"{self._item.line.name}: {self._item.verdict}."
        parts = []
        for span in self._item.spans:
            said = span.title
            if span.right.hardest_dbu is not None:
                said += f" {_number(span.right.hardest_dbu)} dBu"
            if span.headroom_db is not None:
                said += f", {span.headroom_db:.1f} dB below its ceiling"
            for mark in span.marks:
                said += f", {mark.label} at {_number(mark.level_dbu)} dBu"
            if span.gain is not None:
                said += f", gain {control_text(span.gain, span.gain.value)}"
            parts.append(said)
        return f"{self._item.line.name}, loudest passage: " + "; ".join(parts) + "."

    # ── places ────────────────────────────────────────────────────────────────────────────────
    def _area(self) -> QRectF:
        return QRectF(
            LEFT_GUTTER, 26, max(40, self.width() - LEFT_GUTTER - RIGHT_GUTTER), self.height() - 34
        )

    def _at(self, x: float, y: float) -> QPointF:
        stages = self._shape.stages if self._shape else 1
        return place(x, y, self._area(), stages, *self._scale)

    def handle_position(self, index: int) -> QPointF:
        """Where a stage's ring is drawn."""
        assert self._item is not None
        level = self._item.spans[index].right.hardest_dbu
        return self._at(index + HANDLE_AT, self._scale[0] if level is None else level)

    def _handle_near(self, position: QPointF) -> int | None:
        best: tuple[float, int] | None = None
        for index in self.gain_stages():
            offset = self.handle_position(index) - position
            distance = (offset.x() ** 2 + offset.y() ** 2) ** 0.5
            if distance <= _REACH and (best is None or distance < best[0]):
                best = (distance, index)
        return self._band_under(position) if best is None else best[1]

    def _band_under(self, position: QPointF) -> int | None:
        """The stage whose band is under the hand: it can be taken hold of anywhere on it."""
        area, item = self._area(), self._item
        if item is None or not item.spans or not area.contains(position):
            return None
        index = int((position.x() - area.left()) / area.width() * len(item.spans))
        level = item.spans[index].right.hardest_dbu if index in self.gain_stages() else None
        if level is None:
            return None
        top = self._at(index, level).y()
        bottom = self._at(index, level - item.state.below_hardest_db("softest")).y()
        return index if top - _REACH <= position.y() <= bottom else None

    def stage_at(self, x: float) -> int | None:
        """The stage at a place; None beside the picture."""
        area = self._area()
        if self._item is None or not self._item.spans or not area.left() <= x < area.right():
            return None
        return int((x - area.left()) / area.width() * len(self._item.spans))

    def _gain(self, index: int) -> Control:
        assert self._item is not None
        gain = self._item.spans[index].gain
        assert gain is not None
        return gain

    def held_words(self) -> str:
        """What a held gain moves, and what it does not; empty while none is held."""
        if self._held is None or self._item is None:
            return ""
        index, _, from_db = self._held
        by_db = float(self._gain(index).value or 0.0) - from_db
        title = self._item.spans[index].title
        return f"{title} and all behind it: {_number(by_db)} dB; before it nothing moves"

    # ── hand and keys ─────────────────────────────────────────────────────────────────────────
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed_at = event.position()
        index = self._handle_near(event.position())
        if index is not None:
            self.choose_stage(index)
            self._before = self._shape
            self._held = (index, event.position().y(), float(self._gain(index).value or 0.0))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._held is None:
            near = self._handle_near(event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeVerCursor if near else Qt.CursorShape.ArrowCursor)
            return
        index, from_y, from_db = self._held
        db_per_pixel = (self._scale[1] - self._scale[0]) / self._area().height()
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        step = _FINE_DB if fine else _COARSE_DB
        wanted = from_db + (from_y - event.position().y()) * db_per_pixel
        self._move(index, round(wanted / step) * step)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._held is not None:
            self._held = self._before = None
            self.let_go.emit()
            self.update()
        start, self._pressed_at = self._pressed_at, None
        if start is not None and (event.position() - start).manhattanLength() < _STILL_PX:
            index = self.stage_at(event.position().x())
            if index is not None:
                self.asked.emit(index)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        gains = self.gain_stages()
        ways = {Qt.Key.Key_Up: 1.0, Qt.Key.Key_Down: -1.0}
        turns = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        key = Qt.Key(event.key())
        if key in ways and self._chosen in gains:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            step = _KEY_STEPS_DB[1] if fine else _KEY_STEPS_DB[0]
            now = float(self._gain(self._chosen).value or 0.0)
            self._move(self._chosen, round(now + ways[key] * step, 1))
            if not event.isAutoRepeat():
                self.let_go.emit()
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter} and self._chosen >= 0:
            self.asked.emit(self._chosen)
        elif key in turns and gains:
            there = gains.index(self._chosen) if self._chosen in gains else 0
            self.choose_stage(gains[(there + turns[key]) % len(gains)])
        else:
            super().keyPressEvent(event)

    def _move(self, index: int, value: float) -> None:
        gain = self._gain(index)
        value = gain.clamped(value)
        if value != gain.value:
            self.moved.emit(gain, value)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.update()

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self._item is None or self._shape is None or not self._shape.stages:
            self._paint_empty(painter)
            return
        area = self._area()
        self._paint_scale(painter, area)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_walls(painter, area)
        self._paint_band(painter, area)
        self._paint_wall_names(painter, area)
        paint_lamps(painter, area, self._item.spans, self._scale)
        if self._held is not None and self._before is not None:
            paint_before(painter, area, self._before, self._scale)
            paint_words(painter, area, self.held_words())
        self._paint_target(painter, area)
        self._paint_handles(painter)
        self._paint_flag(painter, area)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(QColor(theme.colours().muted))
        painter.setFont(theme.words(11.5))
        text = self.empty_words
        if self._item is not None:
            text = f"{self._item.line.name} cannot be computed yet: {self._item.verdict}."
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_scale(self, painter: QPainter, area: QRectF) -> None:
        c = theme.colours()
        painter.setFont(theme.numbers(9.0))
        low, high = self._scale
        value = high
        while value >= low:
            y = self._at(0.0, value).y()
            painter.setPen(QPen(QColor(c.rule), 1.0, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(QColor(c.muted))
            text = _number(value, 0) if value else "0"
            painter.drawText(
                QRectF(0, y - 9, LEFT_GUTTER - 10, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                text,
            )
            value -= 20.0
        assert self._shape is not None
        painter.setPen(QPen(QColor(c.rule), 1.0))
        for index in range(1, self._shape.stages):
            x = self._at(float(index), low).x()
            painter.drawLine(QPointF(x, area.bottom() - 5), QPointF(x, float(self.height())))
        painter.setPen(QColor(c.muted))
        painter.setFont(theme.words(9.0))
        painter.drawText(QRectF(0, 2, LEFT_GUTTER - 10, 16), Qt.AlignmentFlag.AlignRight, "dBu")

    def _paint_walls(self, painter: QPainter, area: QRectF) -> None:
        c, shape = theme.colours(), self._shape
        assert shape is not None
        for run in shape.ceilings:
            edge = polygon(run, area, shape.stages, *self._scale)
            fill_to(painter, edge, area.top(), QColor(c.ceiling), QColor(c.ceiling_edge))
        if shape.floor:
            edge = polygon(shape.floor, area, shape.stages, *self._scale)
            fill_to(painter, edge, area.bottom(), QColor(c.floor), QColor(c.floor_edge))

    def _paint_band(self, painter: QPainter, area: QRectF) -> None:
        shape, item = self._shape, self._item
        assert shape is not None
        assert item is not None
        colour = theme.colours().line(item.line.colour)
        outer, inner = QColor(colour), QColor(colour)
        outer.setAlpha(70)
        inner.setAlpha(120)
        if not item.is_alive:
            # What would be there if the line were not dead: an outline and a hint of it.
            outer.setAlpha(18)
            inner.setAlpha(32)
        painter.setPen(Qt.PenStyle.NoPen)
        for upper, lower, fill in (
            (shape.hardest, shape.typical, inner),
            (shape.typical, shape.softest, outer),
        ):
            painter.setBrush(fill)
            painter.drawPolygon(polygon(upper + lower[::-1], area, shape.stages, *self._scale))
        painter.setPen(QPen(colour, 1.0, Qt.PenStyle.DashLine))
        painter.drawPolyline(polygon(shape.typical, area, shape.stages, *self._scale))
        alive = item.is_alive
        painter.setPen(QPen(colour, 1.0, Qt.PenStyle.SolidLine if alive else Qt.PenStyle.DotLine))
        edge = polygon(shape.hardest, area, shape.stages, *self._scale)
        # Two strokes of 1 px side by side: as strong as one of 2 px, at a fraction of its time.
        painter.drawPolyline(edge)
        painter.drawPolyline(edge.translated(0.0, 0.8))

    def _paint_wall_names(self, painter: QPainter, area: QRectF) -> None:
        """How much room there is below each ceiling; the tightest says what the wall is."""
        c, item = theme.colours(), self._item
        assert item is not None
        painter.setFont(theme.words(9.0))
        metrics = QFontMetricsF(painter.font())
        width = area.width() / max(len(item.spans), 1)
        rooms = [span.headroom_db for span in item.spans if span.headroom_db is not None]
        for index, span in enumerate(item.spans):
            ceiling = span.left.ceiling_dbu
            if ceiling is None:
                ceiling = span.right.ceiling_dbu
            room = span.headroom_db
            if ceiling is None or room is None or room < 0.0:
                continue
            y = self._at(index, ceiling).y()
            space = width * _wall_width(span) - 8
            texts = [f"{room:.1f} dB", f"{room:.0f} dB", f"{room:.0f}"]
            if room == min(rooms):
                texts = [f"ceiling {room:.1f} dB above", f"ceiling: {room:.1f} dB", *texts]
            fitting = [text for text in texts if metrics.horizontalAdvance(text) <= space]
            if fitting and y - area.top() >= metrics.height() + 3:
                x = area.left() + (index + _wall_start(span)) * width + 5
                painter.setPen(QColor(c.ceiling_edge))
                painter.drawText(QPointF(x, y - 4), fitting[0])
        floor_text = _floor_text(item)
        y = self._at(0.0, item.spans[0].left.floor_dbu or self._scale[0]).y()
        if floor_text and area.bottom() - y >= metrics.height() + 4:
            painter.setPen(QColor(c.floor_edge))
            text = metrics.elidedText(floor_text, Qt.TextElideMode.ElideRight, width * 3 - 16)
            painter.drawText(QPointF(area.left() + width * 0.05 + 5, area.bottom() - 6), text)

    def _paint_target(self, painter: QPainter, area: QRectF) -> None:
        """What the target asks for at the recorder, beside what arrives there."""
        c, item = theme.colours(), self._item
        assert item is not None
        last = item.spans[-1]
        if last.full_scale_dbu is None:
            return
        full = last.full_scale_dbu
        index = len(item.spans) - 1
        top = self._at(index + 0.05, full + item.target.highest_dbfs)
        bottom = self._at(index + 0.95, full + item.target.lowest_dbfs)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(c.ink), 1.0))
        # A bracket open to the left: the band should end inside it.
        right = area.right() + 6
        painter.drawLine(QPointF(right - 10, top.y()), QPointF(right, top.y()))
        painter.drawLine(QPointF(right, top.y()), QPointF(right, bottom.y()))
        painter.drawLine(QPointF(right - 10, bottom.y()), QPointF(right, bottom.y()))
        aim_y = self._at(0.0, full + item.target.target_dbfs).y()
        painter.drawLine(QPointF(right, aim_y), QPointF(right + 6, aim_y))
        painter.setFont(theme.words(9.5))
        painter.drawText(
            QPointF(right + 9, aim_y + 4), f"target {_number(item.target.target_dbfs, 0)}"
        )
        painter.setPen(QColor(c.muted))
        painter.setFont(theme.numbers(9.0))
        for value in (0.0, -24.0, -48.0, -72.0, -96.0):
            y = self._at(0.0, full + value).y()
            if area.top() <= y <= area.bottom() - 4 and abs(y - aim_y) > 14:
                painter.drawText(QPointF(right + 9, y + 4), _number(value, 0) if value else "0")
        painter.setFont(theme.words(9.0))
        painter.drawText(QPointF(right + 9, 14), "dBFS")

    def _paint_handles(self, painter: QPainter) -> None:
        c, item = theme.colours(), self._item
        assert item is not None
        colour = c.line(item.line.colour)
        for index in self.gain_stages():
            centre = self.handle_position(index)
            chosen = index == self._chosen
            painter.setBrush(colour if chosen else QColor(c.card))
            painter.setPen(QPen(colour, 2.0))
            painter.drawEllipse(centre, _HANDLE_RADIUS, _HANDLE_RADIUS)
            if chosen and self.hasFocus():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(QColor(c.ink), 1.0, Qt.PenStyle.DashLine))
                painter.drawEllipse(centre, _HANDLE_RADIUS + 5, _HANDLE_RADIUS + 5)

    def _paint_flag(self, painter: QPainter, area: QRectF) -> None:
        """Where the band goes through the ceiling, or that nothing comes, said where it happens."""
        item = self._item
        assert item is not None
        if not item.is_alive:
            level = item.spans[-1].right.hardest_dbu
            self._flag(painter, area, len(item.spans) - 0.6, level, item.verdict)
            return
        over = [
            (span.headroom_db, index)
            for index, span in enumerate(item.spans)
            if span.headroom_db is not None and span.headroom_db < 0.0
        ]
        if over:
            headroom, index = min(over)
            level = item.spans[index].right.hardest_dbu
            self._flag(painter, area, index + 0.5, level, f"clips by {-headroom:.1f} dB")

    def _flag(
        self, painter: QPainter, area: QRectF, x: float, level: float | None, words: str
    ) -> None:
        c = theme.colours()
        painter.setFont(theme.words(10.0, weight=QFont.Weight.DemiBold))
        width = QFontMetricsF(painter.font()).horizontalAdvance(words) + 18
        anchor = self._at(x, self._scale[1] if level is None else level)
        left = min(max(anchor.x() - width / 2, area.left()), area.right() - width)
        box = QRectF(left, max(anchor.y() - 32, 2.0), width, 23)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(c.ink))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(QColor(c.card))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _wall_start(span: Span) -> float:
    return 0.05 if span.left.ceiling_dbu is not None else 0.64


def _wall_width(span: Span) -> float:
    both = span.left.ceiling_dbu is not None and span.right.ceiling_dbu is not None
    return 0.9 if both else 0.33


def _floor_text(item: LineAssessment) -> str:
    facts = item.noise()
    return f"floor: {facts[0].label.lower()} is {facts[0].text} of the noise" if facts else ""
