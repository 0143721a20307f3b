"""The take sheet: sections down the page like the lines of a lyric sheet, behind each its takes as small marks.

What matters of a take is its shape: round is clean, cut off on the right is clipped, open below is noisy, hollow and
small is silent, leaning is ahead of or behind the beat. The one that is heard is inked, spares have a strong outline.
Strokes below count its rating.
"""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from verve.app import theme
from verve.core.mix import SheetMark, SheetRow
from verve.core.sheets import time_text

_ROW, _MARK, _GAP = 48.0, 21.0, 13.0
_WORDS_SHARE, _TIME = 0.24, 64.0
_LEAN = 0.45


class TakeSheet(QWidget):
    """Draws rows of marks; one mark has the attention of the keys."""

    turned = pyqtSignal(int, int)
    """Another mark has the attention: its row and its place in it."""
    chosen = pyqtSignal(int, int)
    """This one is to be heard."""
    heard = pyqtSignal(int, int)
    """Somebody wants to hear it, in its place."""
    all_heard = pyqtSignal()
    """Somebody wants to hear all takes of this section in a row."""
    rated = pyqtSignal(int, int, int)
    """A rating from 0 to 5."""
    dropped = pyqtSignal(int, int)
    """It is to be put aside."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: tuple[SheetRow, ...] = ()
        self._colour = 0
        self._at = (0, 0)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Take sheet")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)

    def sizeHint(self) -> QSize:
        return QSize(640, max(120, round(theme.px(int(_ROW)) * max(1, len(self._rows)) + 12)))

    def minimumSizeHint(self) -> QSize:
        return QSize(320, self.sizeHint().height())

    def show_rows(self, rows: Sequence[SheetRow], colour: int) -> None:
        """Draw other takes; the attention stays where it was, as far as that is still there."""
        self._rows, self._colour = tuple(rows), colour
        row = min(self._at[0], max(0, len(self._rows) - 1))
        count = len(self._rows[row].marks) if self._rows else 0
        self._at = (row, min(self._at[1], max(0, count - 1)))
        self.updateGeometry()
        self._tell()
        self.update()

    @property
    def at(self) -> tuple[int, int]:
        """The mark that has the attention: its row and its place in it."""
        return self._at

    def mark(self) -> SheetMark | None:
        """The mark that has the attention."""
        row, place = self._at
        marks = self._rows[row].marks if row < len(self._rows) else ()
        return marks[place] if place < len(marks) else None

    def turn_to(self, row: int, place: int) -> None:
        """Give a mark the attention."""
        if not self._rows:
            return
        row = min(max(0, row), len(self._rows) - 1)
        place = min(max(0, place), max(0, len(self._rows[row].marks) - 1))
        if (row, place) != self._at:
            self._at = (row, place)
            self._tell()
            self.turned.emit(row, place)
            self.update()

    def _tell(self) -> None:
        mark = self.mark()
        if not self._rows:
            self.setAccessibleDescription("No takes yet")
            return
        row = self._rows[self._at[0]]
        said = f"{row.name}, no takes" if mark is None else f"{row.name}. {mark.says}"
        heard = " It is the one that is heard." if mark is not None and mark.is_chosen else ""
        self.setAccessibleDescription(said + heard)

    # ── where things are ──────────────────────────────────────────────────────────────────────
    def _row_height(self) -> float:
        return float(theme.px(int(_ROW)))

    def _left(self) -> float:
        return self.width() * _WORDS_SHARE + theme.px(int(_TIME))

    def _scale(self) -> float:
        """Smaller where a row has more takes than there is room for."""
        most = max((len(row.marks) for row in self._rows), default=1)
        wanted = most * theme.px(int(_MARK + _GAP))
        return min(1.0, (self.width() - self._left() - 8.0) / max(1.0, wanted))

    def mark_box(self, row: int, place: int) -> QRectF:
        """Where a mark is drawn."""
        size, step = (
            theme.px(int(_MARK)) * self._scale(),
            theme.px(int(_MARK + _GAP)) * self._scale(),
        )
        top = row * self._row_height() + (self._row_height() - size) / 2.0 - 3.0
        return QRectF(self._left() + place * step, top, size, size)

    def _found(self, point: QPointF) -> tuple[int, int] | None:
        row = int(point.y() // self._row_height())
        if not 0 <= row < len(self._rows):
            return None
        for place in range(len(self._rows[row].marks)):
            if self.mark_box(row, place).adjusted(-3, -8, 3, 10).contains(point):
                return row, place
        return None

    # ── hands ─────────────────────────────────────────────────────────────────────────────────
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = None if event is None else self._found(event.position())
        if found is not None:
            self.turn_to(*found)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        found = None if event is None else self._found(event.position())
        if found is not None:
            self.turn_to(*found)
            self.chosen.emit(*found)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        row, place = self._at
        key = event.key()
        moves = {
            Qt.Key.Key_Up: (row - 1, place),
            Qt.Key.Key_Down: (row + 1, place),
            Qt.Key.Key_Left: (row, place - 1),
            Qt.Key.Key_Right: (row, place + 1),
        }
        if key in moves:
            self.turn_to(*moves[Qt.Key(key)])
        elif self.mark() is None:
            super().keyPressEvent(event)
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.chosen.emit(row, place)
        elif key in {Qt.Key.Key_P, Qt.Key.Key_Space}:
            self.heard.emit(row, place)
        elif key == Qt.Key.Key_L:
            self.all_heard.emit()
        elif key in {Qt.Key.Key_X, Qt.Key.Key_Delete}:
            self.dropped.emit(row, place)
        elif Qt.Key.Key_0 <= key <= Qt.Key.Key_5:
            self.rated.emit(row, place, key - Qt.Key.Key_0)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            found = self._found(QPointF(event.pos()))
            said = "" if found is None else self._rows[found[0]].marks[found[1]].says
            QToolTip.showText(event.globalPos(), said or _HELP, self)
            return True
        return super().event(event)

    # ── painting ──────────────────────────────────────────────────────────────────────────────
    def paintEvent(self, event: QPaintEvent | None) -> None:
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        height = self._row_height()
        for number, row in enumerate(self._rows):
            top = number * height
            is_here = number == self._at[0]
            font = theme.words(14.0 if is_here else 13.0)
            painter.setFont(font)
            painter.setPen(QColor(c.ink))
            wide = self.width() * _WORDS_SHARE - 10.0
            name = QFontMetricsF(font).elidedText(row.name, Qt.TextElideMode.ElideRight, wide)
            box = QRectF(6.0, top, wide, height - 6.0)
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)
            painter.setFont(theme.numbers(9.0))
            painter.setPen(QColor(c.muted))
            at = QRectF(
                self.width() * _WORDS_SHARE - 4.0,
                top,
                float(theme.px(int(_TIME))) - 8.0,
                height - 6.0,
            )
            painter.drawText(
                at,
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                time_text(row.start_s, 0),
            )
            for place, mark in enumerate(row.marks):
                self._paint_mark(painter, self.mark_box(number, place), mark)
            painter.setPen(QPen(QColor(c.rule), 1.0))
            painter.drawLine(
                QPointF(6.0, top + height - 2.0), QPointF(self.width() - 6.0, top + height - 2.0)
            )
        if self.hasFocus() and self.mark() is not None:
            painter.setPen(QPen(QColor(c.ink), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.mark_box(*self._at).adjusted(-5, -5, 5, 11), 4, 4)

    def _paint_mark(self, painter: QPainter, box: QRectF, mark: SheetMark) -> None:
        c = theme.colours()
        ink = QColor(c.line(self._colour))
        weight = 2.2 if mark.is_chosen or mark.is_spare else 1.2
        painter.save()
        pen = QPen(ink if mark.is_chosen or mark.is_spare else QColor(c.muted), weight)
        painter.setPen(pen)
        painter.setBrush(ink if mark.is_chosen else Qt.BrushStyle.NoBrush)
        if mark.state in {"early", "late"}:
            # It leans to where it is: to the left ahead of the beat, to the right behind it.
            painter.translate(box.center())
            painter.shear(_LEAN if mark.state == "early" else -_LEAN, 0.0)
            painter.translate(-box.center())
        painter.drawPath(_shape(box, mark.state))
        painter.restore()
        if mark.state == "clipped":
            painter.setPen(QPen(QColor(c.ceiling_edge), 2.4))
            x = box.right() - box.width() * 0.22
            painter.drawLine(QPointF(x, box.top() - 1.0), QPointF(x, box.bottom() + 1.0))
        painter.setPen(QPen(QColor(c.ink), 1.4))
        step = box.width() / 5.0
        for stroke in range(mark.rating):
            x = box.left() + (stroke + 0.5) * step
            painter.drawLine(QPointF(x, box.bottom() + 4.0), QPointF(x, box.bottom() + 9.0))


def _shape(box: QRectF, state: str) -> QPainterPath:
    path = QPainterPath()
    if state == "clipped":
        # Cut off on the right, where the ceiling is.
        cut = QPainterPath()
        cut.addRect(box.adjusted(-2.0, -2.0, -box.width() * 0.22, 2.0))
        path.addEllipse(box)
        return path.intersected(cut)
    if state == "noisy":
        # Open below: the floor comes in.
        path.arcMoveTo(box, -35.0)
        path.arcTo(box, -35.0, 250.0)
        return path
    if state == "silent":
        path.addEllipse(box.adjusted(*(s * box.width() * 0.3 for s in (1, 1, -1, -1))))
        return path
    path.addEllipse(box)
    return path


_HELP = (
    "Each mark is a take. Arrows move, Return chooses, P plays it in its place, 0 to 5 rate it, X puts it aside. "
    "Round is clean, cut off is clipped, open below is noisy, leaning is off the beat."
)
