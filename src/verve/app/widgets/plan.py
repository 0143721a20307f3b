"""The plan of the room from above, and over it the map of one microphone's ears."""

from __future__ import annotations

import math
from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.app.widgets.plan_marks import paint_hold, paint_microphone, paint_player, paint_thing
from verve.core.air import Hearing, PlacedMicrophone, PlacedSource, ear_map
from verve.core.place import Key, keys_of, said_of
from verve.core.words import number

_MARGIN = 30
_AROUND_M = 1.0
"""How much of the floor is seen around what stands there."""
_NEAR_PX = 16.0
_AS_LOUD = "as loud"
_AROUND = ((0, -1), (0, 1), (1, 0), (-1, 0), (1, -1), (-1, -1), (1, 1), (-1, 1))
"""Where a name may stand, seen from what it names: above, below, beside, across."""
_PLACES = 12
"""At so many places of a line there may be what it is called."""
_SOURCE_PX, _THING_PX, _EARS_PX = 9.0, 7.0, 24.0
_SOURCE_M, _EARS_M = 0.2, 0.4
"""No larger than so much of the floor, down to half of that in pixels: a hall is seen as a whole, too."""
_STEP_M, _FINE_M = 0.1, 0.01
_TURN_DEG, _FINE_DEG = 15.0, 1.0
_ARROWS: Mapping[int, tuple[int, int]] = {
    int(Qt.Key.Key_Left): (-1, 0),
    int(Qt.Key.Key_Right): (1, 0),
    int(Qt.Key.Key_Up): (0, 1),
    int(Qt.Key.Key_Down): (0, -1),
}


class Plan(QWidget):
    """Whoever plays, their microphones and what else sounds, to scale; what is chosen is moved and turned here."""

    chosen = pyqtSignal(object)
    """A key: what somebody took hold of, or went to."""
    dragged = pyqtSignal(object, float, float)
    """A key and where the hand is, in metres; many times until `let_go`."""
    let_go = pyqtSignal()
    nudged = pyqtSignal(object, float, float)
    """A key, and how far to the right and away, in metres."""
    turned = pyqtSignal(object, float)
    """A key, and by how much, in degrees clockwise."""

    def __init__(self) -> None:
        super().__init__()
        self._hearing: Hearing | None = None
        self._microphone: int | None = None
        self._key: Key | None = None
        self._colours: Mapping[str, int] = {}
        self._words: Mapping[str, str] = {}
        self._held: Key | None = None
        self._is_whole = False
        self._beside: dict[str, QPointF] = {}
        self._sizes: dict[tuple[str, str], tuple[str, QSizeF]] = {}
        self._within = (0.0, 0.0, 1.0, 1.0)
        self._corner, self._scale = QPointF(), 1.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        # It paints all of itself: nothing under it has to be painted for each move of a hand.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(theme.px(260), theme.px(200))
        self.setAccessibleName("Plan of the room")
        self.setToolTip(
            "The room from above. Drag what stands there, or choose it with Home and End and move it with the arrows "
            "(10 cm, with Shift 1 cm); Page Up and Page Down turn it (15°, with Shift 1°), the wheel too. The lines: "
            "a player as loud as the microphone’s own would be heard so far below it, standing there."
        )

    def sizeHint(self) -> QSize:
        return QSize(520, theme.px(220))

    def show_hearing(
        self,
        hearing: Hearing,
        microphone: int | None,
        key: Key | None,
        colours: Mapping[str, int],
        words: Mapping[str, str],
    ) -> None:
        """Draw where everything stands.

        `microphone` is whose ears the map is, `key` what is chosen; `colours` are those of the signals of sources,
        `words` what stands beside each source.
        """
        self._hearing, self._microphone = hearing, microphone
        self._key, self._colours, self._words = key, colours, words
        if self._held is None:
            self._sizes.clear()
            self.setAccessibleDescription(" ".join(said_of(hearing.positions)))
            self._frame_part()
        self.update()

    def show_whole(self, is_whole: bool) -> None:
        """All of the room, or as much of it as something stands in."""
        self._is_whole = is_whole
        self._frame_part()
        self.update()

    def _frame_part(self) -> None:
        """Which part of the room is seen; it stays while something is dragged."""
        if self._hearing is None:
            return
        positions = self._hearing.positions
        room = positions.room
        whole = (0.0, 0.0, room.length_m, room.width_m)
        self._within = whole if self._is_whole else positions.extent(_AROUND_M)
        self._frame()

    @property
    def part(self) -> tuple[float, float, float, float]:
        """What of the room is seen, in metres: left, front, right, back."""
        if self._hearing is None:
            return (0.0, 0.0, 1.0, 1.0)
        seen = self._seen()
        left, back = self._metres(seen.topLeft())
        right, front = self._metres(seen.bottomRight())
        return (left, front, right, back)

    # ── where things are on the screen ────────────────────────────────────────────────────────
    def _frame(self) -> None:
        """Work out where the left front corner of the room is on the screen, and pixels to a metre."""
        left, front, right, back = self._within
        margin = theme.px(_MARGIN)
        wide, high = self.width() - 2 * margin, self.height() - 2 * margin
        self._scale = scale = max(1.0, min(wide / (right - left), high / (back - front)))
        x = (self.width() - (right - left) * scale) / 2.0
        y = (self.height() + (back - front) * scale) / 2.0
        self._corner = QPointF(x - left * scale, y + front * scale)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._frame()

    def _seen(self) -> QRectF:
        """What of the floor is seen: as much beside the part as there is space for."""
        corner, scale = self._corner, self._scale
        assert self._hearing is not None
        room = self._hearing.positions.room
        floor = QRectF(
            corner.x(),
            corner.y() - room.width_m * scale,
            room.length_m * scale,
            room.width_m * scale,
        )
        margin = float(theme.px(_MARGIN))
        return floor.intersected(QRectF(self.rect()).adjusted(margin, margin, -margin, -margin))

    def _at(self, x_m: float, y_m: float) -> QPointF:
        return QPointF(self._corner.x() + x_m * self._scale, self._corner.y() - y_m * self._scale)

    def _metres(self, at: QPointF) -> tuple[float, float]:
        return (at.x() - self._corner.x()) / self._scale, (self._corner.y() - at.y()) / self._scale

    def _size(self, usual_px: float, most_m: float) -> float:
        """How large something is drawn."""
        usual = float(theme.px(int(usual_px)))
        return min(usual, max(usual / 2.0, most_m * self._scale))

    def point_of(self, key: Key) -> QPointF | None:
        """Where something is drawn."""
        one = self._placed(key)
        return None if one is None else self._at(one.at.x_m, one.at.y_m)

    def _placed(self, key: Key) -> PlacedSource | PlacedMicrophone | None:
        if self._hearing is None:
            return None
        positions = self._hearing.positions
        if key.kind == "microphone":
            return positions.microphone(key.id)
        return next(
            (
                s
                for s in (*positions.sources, *positions.surfaces)
                if s.id == key.id and (s.thing is not None) == (key.kind == "thing")
            ),
            None,
        )

    def _keys(self) -> tuple[Key, ...]:
        return () if self._hearing is None else keys_of(self._hearing.positions)

    def _nearest(self, at: QPointF) -> Key | None:
        best, best_px = None, _NEAR_PX
        # Microphones first: they stand before what they record.
        for key in sorted(self._keys(), key=lambda one: one.kind != "microphone"):
            point = self.point_of(key)
            assert point is not None
            away = math.hypot(point.x() - at.x(), point.y() - at.y())
            if away < best_px:
                best, best_px = key, away
        return best

    # ── by hand and by keyboard ───────────────────────────────────────────────────────────────
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._held = self._nearest(event.position())
        if self._held is not None:
            self.chosen.emit(self._held)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held is not None:
            self.dragged.emit(self._held, *self._metres(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._held is not None:
            self._held = None
            self.let_go.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self._key is None or not event.angleDelta().y():
            return
        is_fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        step = _FINE_DEG if is_fine else _TURN_DEG
        self.turned.emit(self._key, -step if event.angleDelta().y() > 0 else step)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        is_fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        keys = self._keys()
        if event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End) and keys:
            step = 1 if event.key() == Qt.Key.Key_End else -1
            now = keys.index(self._key) if self._key in keys else -step
            self.chosen.emit(keys[(now + step) % len(keys)])
        elif event.key() in _ARROWS and self._key is not None:
            right, away = _ARROWS[event.key()]
            step_m = _FINE_M if is_fine else _STEP_M
            self.nudged.emit(self._key, right * step_m, away * step_m)
        elif event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown) and self._key is not None:
            degrees = _FINE_DEG if is_fine else _TURN_DEG
            self.turned.emit(self._key, degrees if event.key() == Qt.Key.Key_PageDown else -degrees)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()

    # ── the picture ───────────────────────────────────────────────────────────────────────────
    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._hearing is None:
            return
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        floor, scale = self._seen(), self._scale
        painter.fillRect(self.rect(), QColor(c.card))
        painter.fillRect(floor, QColor(c.paper))
        lines = self._paint_map(painter, floor)
        self._paint_walls(painter, floor, scale)
        taken: list[QRectF] = []
        positions = self._hearing.positions
        for which, mic in enumerate(positions.microphones):
            taken.append(self._paint_microphone(painter, mic, which == self._microphone))
        standing = (*positions.surfaces, *positions.sources)
        for source in standing:
            taken.append(self._paint_source(painter, source))
        painter.setFont(theme.words(9.5))
        metrics = QFontMetricsF(painter.font())
        for source in standing:
            self._paint_name(painter, source, metrics, taken)
        self._paint_levels(painter, floor, lines, taken)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(c.ink), 1.0, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -2, -2))

    def _paint_walls(self, painter: QPainter, floor: QRectF, scale: float) -> None:
        """Walls where they are seen, a thin edge where the room goes on, and metres along both."""
        assert self._hearing is not None
        c, room = theme.colours(), self._hearing.positions.room
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(c.rule), 1.0))
        painter.drawRect(floor)
        near, far = self._at(0.0, 0.0), self._at(room.length_m, room.width_m)
        painter.setPen(QPen(QColor(c.ink), 2.4))
        for x in (near.x(), far.x()):
            if floor.left() - 1.0 <= x <= floor.right() + 1.0:
                painter.drawLine(QPointF(x, floor.top()), QPointF(x, floor.bottom()))
        for y in (near.y(), far.y()):
            if floor.top() - 1.0 <= y <= floor.bottom() + 1.0:
                painter.drawLine(QPointF(floor.left(), y), QPointF(floor.right(), y))
        painter.setFont(theme.numbers(8.5))
        painter.setPen(QPen(QColor(c.muted), 1.0))
        wide = QFontMetricsF(painter.font()).horizontalAdvance("00 m ")
        step = next((one for one in (1, 2, 5, 10, 20) if one * scale >= wide), 50)
        for metre in range(0, math.floor(room.length_m + 1e-6) + 1, step):
            x = self._at(metre, 0.0).x()
            if floor.left() - 1.0 <= x <= floor.right() + 1.0:
                painter.drawLine(QPointF(x, floor.bottom()), QPointF(x, floor.bottom() + 5.0))
                box = QRectF(x - 24, floor.bottom() + 6, 48, 16)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{metre} m")
        for metre in range(0, math.floor(room.width_m + 1e-6) + 1, step):
            y = self._at(0.0, metre).y()
            if floor.top() - 1.0 <= y <= floor.bottom() + 1.0:
                painter.drawLine(QPointF(floor.left(), y), QPointF(floor.left() - 5.0, y))
                box = QRectF(floor.left() - 48, y - 8, 40, 16)
                how = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(box, how, str(metre))

    def _paint_map(self, painter: QPainter, floor: QRectF) -> list[tuple[str, list[QPointF]]]:
        """Lines of equal loudness; gives back what each is called, and where it goes."""
        if self._hearing is None or self._microphone is None:
            return []
        painter.save()
        painter.setClipRect(floor)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        found = []
        for level, lines in ear_map(self._hearing, self._microphone, self.part).lines():
            width = 2.0 if level == 0.0 else 1.0
            painter.setPen(QPen(QColor(theme.colours().muted), width))
            for line in lines:
                across = self._corner.x() + line[:, 0] * self._scale
                down = self._corner.y() - line[:, 1] * self._scale
                points = list(map(QPointF, across.tolist(), down.tolist()))
                painter.drawPolyline(QPolygonF(points))
                found.append((_AS_LOUD if level == 0.0 else number(level), points))
        painter.restore()
        return found

    def _paint_levels(
        self,
        painter: QPainter,
        floor: QRectF,
        lines: list[tuple[str, list[QPointF]]],
        taken: list[QRectF],
    ) -> None:
        """What each line is called, at a place on it where nothing else stands."""
        painter.setFont(theme.numbers(8.5))
        painter.setPen(QColor(theme.colours().muted))
        metrics = QFontMetricsF(painter.font())
        for text, points in lines:
            size = metrics.size(0, text)
            box = QRectF(0, 0, size.width() + 4, size.height())
            for at in points[:: max(1, len(points) // _PLACES)]:
                box.moveCenter(at)
                if floor.contains(box) and not any(box.intersects(one) for one in taken):
                    taken.append(QRectF(box))
                    painter.fillRect(box, QColor(theme.colours().paper))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
                    break

    def _paint_microphone(self, painter: QPainter, mic: PlacedMicrophone, is_ears: bool) -> QRectF:
        assert self._hearing is not None
        return paint_microphone(
            painter,
            self._at(mic.at.x_m, mic.at.y_m),
            radius=self._size(_EARS_PX, _EARS_M),
            aim_deg=mic.aim_deg,
            share=self._hearing.pressure_share(mic),
            colour=theme.colours().line(self._colours.get(mic.wants[0], 0)),
            is_ears=is_ears,
            is_chosen=self._key == Key("microphone", mic.id),
        )

    def _paint_source(self, painter: QPainter, source: PlacedSource) -> QRectF:
        at = self._at(source.at.x_m, source.at.y_m)
        if source.thing is not None:
            size, key = self._size(_THING_PX, _SOURCE_M), Key("thing", source.id)
            paint_thing(painter, at, size, source.facing_deg, is_on=source.thing.is_on)
        else:
            size, key = self._size(_SOURCE_PX, _SOURCE_M), Key("source", source.id)
            colour = theme.colours().line(self._colours.get(source.id, 0))
            paint_player(painter, at, size, source.facing_deg, colour)
        if self._key == key:
            paint_hold(painter, at, size * 2.1)
        return QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size)

    def _paint_name(
        self, painter: QPainter, source: PlacedSource, metrics: QFontMetricsF, taken: list[QRectF]
    ) -> None:
        c = theme.colours()
        at = self._at(source.at.x_m, source.at.y_m)
        said = self._words.get(source.id, "")
        words = (source.name, said)
        if words not in self._sizes:
            name = metrics.elidedText(source.name, Qt.TextElideMode.ElideRight, theme.px(150))
            wide = max(metrics.horizontalAdvance(name), metrics.horizontalAdvance(said)) + 6
            self._sizes[words] = (name, QSizeF(wide, metrics.height() * (2 if said else 1)))
        name, size = self._sizes[words]
        box = self._name_box(source.id, at, size, taken)
        taken.append(box)
        painter.fillRect(box, QColor(c.paper))
        painter.setPen(QColor(c.ink))
        line = QRectF(box.left(), box.top(), box.width(), metrics.height())
        painter.drawText(line, Qt.AlignmentFlag.AlignCenter, name)
        if said:
            painter.setPen(QColor(c.muted))
            below = line.translated(0, metrics.height())
            painter.drawText(below, Qt.AlignmentFlag.AlignCenter, said)

    def _name_box(self, source_id: str, at: QPointF, size: QSizeF, taken: list[QRectF]) -> QRectF:
        """Where a name stands; while something is dragged names keep their places."""
        known = self._beside.get(source_id) if self._held is not None else None
        if known is None:
            known = self._free_box(at, size, taken).center() - at
            self._beside[source_id] = known
        half = QPointF(size.width() / 2.0, size.height() / 2.0)
        return QRectF(at + known - half, size)

    def _free_box(self, at: QPointF, size: QSizeF, taken: list[QRectF]) -> QRectF:
        """Where a name stands: near what it names, and in nobody's way where there is such a place."""
        away, bounds = float(theme.px(14)), self._seen()
        half = QPointF(size.width() / 2.0, size.height() / 2.0)
        first = None
        for far in (away, 2.5 * away, 4.0 * away):
            for right, down in _AROUND:
                middle = at + QPointF(right * (far + half.x()), down * (far + half.y()))
                box = QRectF(middle - half, size)
                first = first or box
                if bounds.contains(box) and not any(map(box.intersects, taken)):
                    return box
        assert first is not None
        return first
