"""The lines of the session, always in sight: name, how it stands, its corridor in small."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import (
    QEvent,
    QModelIndex,
    QObject,
    QPointF,
    QRectF,
    QSize,
    QSizeF,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.widgets.corridor_shape import shape_of, shared_scale
from verve.app.widgets.marks import paint_mark
from verve.app.widgets.thumbnail import paint_small

if TYPE_CHECKING:
    from verve.core.assess import Assessment, LineAssessment
    from verve.core.session import Line


_ROW_HEIGHT = 70
_MOST_THUMBNAILS = 200


def wrapped(words: str, metrics: QFontMetricsF, room: QRectF) -> str:
    """The words as far as they fit, wrapped, in so much room; an ellipsis for the rest, which is in the tooltip."""
    flags = int(Qt.TextFlag.TextWordWrap)
    left = words.split()
    said = words
    while len(left) > 1 and metrics.boundingRect(room, flags, said).height() > room.height() + 1:
        left.pop()
        said = f"{' '.join(left)} …"
    return said


class _LineDelegate(QStyledItemDelegate):
    def __init__(self, panel: LinesPanel) -> None:
        super().__init__(panel)
        self._panel = panel

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(180, theme.px(_ROW_HEIGHT))

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        c = theme.colours()
        if not self._panel.is_assessed(index.row()):
            painter.setPen(QColor(c.ink))
            painter.setFont(theme.words(11.0, weight=QFont.Weight.DemiBold))
            name = index.data(Qt.ItemDataRole.DisplayRole)
            painter.drawText(option.rect.adjusted(19, 7, -4, 0), Qt.AlignmentFlag.AlignTop, name)
            return
        item = self._panel.assessed(index.row())
        rect = QRectF(option.rect).adjusted(2, 2, -2, -2)
        colour = c.line(item.line.colour)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(QColor(c.muted), 1.0))
            painter.setBrush(QColor(c.card))
            painter.drawRoundedRect(rect, 7, 7)
        painter.fillRect(QRectF(rect.left() + 5, rect.top() + 9, 4, rect.height() - 18), colour)
        px, across = theme.px, rect.width() / theme.scale()
        wide = 70.0 if across > 215 else 50.0 if across > 190 else 36.0
        small = QRectF(rect.right() - wide - 6, rect.top() + 9, wide, rect.height() - 18)
        painter.drawPixmap(small.topLeft(), self._panel.thumbnail(item, small.size()))
        left = rect.left() + 17
        width = small.left() - left - 8
        painter.setPen(QColor(c.ink))
        painter.setFont(theme.words(11.0, weight=QFont.Weight.DemiBold))
        metrics = QFontMetricsF(painter.font())
        name = metrics.elidedText(item.line.name, Qt.TextElideMode.ElideMiddle, width)
        painter.drawText(
            QRectF(left, rect.top() + 5, width, px(20)), Qt.AlignmentFlag.AlignVCenter, name
        )
        worst = item.worst
        paint_mark(
            painter, QRectF(left, rect.top() + px(28), 12, 12), worst.severity if worst else None
        )
        painter.setFont(theme.words(9.5))
        painter.setPen(QColor(c.muted))
        wrap = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
        room = QRectF(left + 17, rect.top() + px(26), width - 17, px(38))
        verdict = wrapped(item.verdict, QFontMetricsF(painter.font()), room)
        painter.drawText(room, int(wrap), verdict)
        painter.restore()


class LinesPanel(QWidget):
    """Chooses the line that all steps look at."""

    line_chosen = pyqtSignal(str)
    add_pressed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._items: tuple[LineAssessment, ...] = ()
        self.scale = (-140.0, 30.0)
        self._thumbnails: dict[tuple[object, ...], QPixmap] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        self.list = QListWidget()
        self.list.setAccessibleName("Signals of the session")
        self.list.setItemDelegate(_LineDelegate(self))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setStyleSheet(
            "QListWidget { background: transparent; border: none; padding: 0; }"
        )
        self.list.currentRowChanged.connect(self._row_changed)
        self.list.installEventFilter(self)
        layout.addWidget(self.list, 1)
        self.add_button = QPushButton("Add a signal")
        self.add_button.setToolTip(
            "Puts in a whole chain, from source to interface. Shortcut: Ctrl+L"
        )
        self.add_button.clicked.connect(self.add_pressed)
        layout.addWidget(self.add_button)
        self._drawing = False

    def show_names(self, lines: Sequence[Line]) -> None:
        """The lines by name alone, until they are worked out."""
        self._drawing = True
        self.list.clear()
        self.list.addItems([line.name for line in lines])
        self._drawing = False

    def assessed(self, row: int) -> LineAssessment:
        """The line a row stands for."""
        return self._items[row]

    def is_assessed(self, row: int) -> bool:
        """Whether there is more to draw of a row than its name."""
        return row < len(self._items)

    def show_lines(self, assessment: Assessment, selected: str) -> None:
        """Draw the lines as they are assessed."""
        self._drawing = True
        self._items = assessment.lines
        self.scale = shared_scale(assessment)
        while self.list.count() > len(self._items):
            self.list.takeItem(self.list.count() - 1)
        while self.list.count() < len(self._items):
            self.list.addItem(QListWidgetItem())
        for row, item in enumerate(self._items):
            entry = self.list.item(row)
            assert entry is not None
            entry.setText("")
            said = f"{item.line.name}: {item.verdict}"
            if entry.data(Qt.ItemDataRole.AccessibleTextRole) != said:
                entry.setData(Qt.ItemDataRole.AccessibleTextRole, said)
                entry.setToolTip(said)
            if item.line.id == selected:
                self.list.setCurrentRow(row)
        self._drawing = False
        viewport = self.list.viewport()
        assert viewport is not None
        viewport.update()

    def thumbnail(self, item: LineAssessment, size: QSizeF) -> QPixmap:
        """The corridor in small; one that has not changed is not drawn again."""
        ratio = self.devicePixelRatioF()
        colour = theme.colours().line(item.line.colour)
        key = (shape_of(item), self.scale, colour.name(), size.width(), size.height(), ratio)
        found = self._thumbnails.get(key)
        if found is None:
            found = QPixmap((size * ratio).toSize())
            found.setDevicePixelRatio(ratio)
            painter = QPainter(found)
            paint_small(painter, QRectF(QPointF(0, 0), size), key[0], self.scale, colour)
            painter.end()
            if len(self._thumbnails) > _MOST_THUMBNAILS:
                self._thumbnails.clear()
            self._thumbnails[key] = found
        return found

    def _row_changed(self, row: int) -> None:
        if not self._drawing and 0 <= row < len(self._items):
            self.line_chosen.emit(self._items[row].line.id)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in {QEvent.Type.FocusIn, QEvent.Type.FocusOut}:
            self.list.setStyleSheet(
                "QListWidget { background: transparent; padding: 0; border: "
                + (
                    "2px solid palette(text); border-radius: 6px; }"
                    if self.list.hasFocus()
                    else "none; }"
                )
            )
        return super().eventFilter(watched, event)
