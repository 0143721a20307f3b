"""The bleed table: what every microphone hears of every source, the bad ones marked in shape and word."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QKeyEvent, QPainter, QPolygonF
from PyQt6.QtWidgets import QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView

from verve.app import theme
from verve.core.air import Hearing
from verve.core.place import BAD, Cell, cell_of

_MOST_ROWS = 4
_GRADE = Qt.ItemDataRole.UserRole
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_WIDEST = "38 dB, strong"
_NOWHERE = QModelIndex()


class BleedModel(QAbstractTableModel):
    """The cells of a hearing; each is worded when somebody sees it."""

    def __init__(self) -> None:
        super().__init__()
        self._hearing: Hearing | None = None
        self._microphone: int | None = None
        self._cells: dict[tuple[int, int], Cell] = {}
        weights = (QFont.Weight.Normal, QFont.Weight.DemiBold)
        self._fonts = tuple(theme.numbers(10.0, weight) for weight in weights)

    def show_hearing(self, hearing: Hearing, microphone: int | None) -> bool:
        """Another hearing; whether it has other rows or columns, or other names."""
        old = self._hearing
        is_other = old is None or self._names(old) != self._names(hearing)
        if is_other:
            self.beginResetModel()
        rows = {one for one in (self._microphone, microphone) if one is not None}
        self._hearing, self._microphone = hearing, microphone
        if is_other or old is None:
            self._cells.clear()
            self.endResetModel()
            return True
        # A microphone that is dragged changes its own row alone.
        for row in range(self.rowCount()):
            if (hearing.total_power[row] != old.total_power[row]).any():
                self._cells = {at: cell for at, cell in self._cells.items() if at[0] != row}
                rows.add(row)
        for row in rows:
            self.dataChanged.emit(self.index(row, 0), self.index(row, self.columnCount() - 1))
        return False

    @staticmethod
    def _names(hearing: Hearing) -> tuple[list[str], list[str]]:
        positions = hearing.positions
        return [one.name for one in positions.microphones], [one.name for one in positions.sources]

    def rowCount(self, parent: QModelIndex = _NOWHERE) -> int:
        if parent.isValid() or self._hearing is None:
            return 0
        return len(self._hearing.positions.microphones)

    def columnCount(self, parent: QModelIndex = _NOWHERE) -> int:
        if parent.isValid() or self._hearing is None:
            return 0
        return len(self._hearing.positions.sources)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if self._hearing is None or role not in (
            Qt.ItemDataRole.DisplayRole,
            Qt.ItemDataRole.ToolTipRole,
        ):
            return None
        names = self._names(self._hearing)[0 if orientation == Qt.Orientation.Vertical else 1]
        return names[section] if section < len(names) else None

    def cell(self, row: int, column: int) -> Cell:
        """One cell, worded."""
        assert self._hearing is not None
        if (row, column) not in self._cells:
            self._cells[row, column] = cell_of(self._hearing, row, column)
        return self._cells[row, column]

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or self._hearing is None:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _RIGHT
        if role == Qt.ItemDataRole.BackgroundRole:
            c = theme.colours()
            return QColor(c.raised if index.row() == self._microphone else c.card)
        cell = self.cell(index.row(), index.column())
        if role == Qt.ItemDataRole.DisplayRole:
            return cell.text
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole):
            return cell.said
        if role == _GRADE:
            return cell.grade
        if role == Qt.ItemDataRole.FontRole:
            return self._fonts[cell.grade in BAD]
        return None


class _Marks(QStyledItemDelegate):
    """A wedge in the corner of a cell that is bad, a double one where the other source is louder."""

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        super().paint(painter, option, index)
        grade = index.data(_GRADE)
        if painter is None or grade not in BAD:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.colours().ceiling_edge))
        corner = QPointF(option.rect.left() + 1.0, option.rect.top() + 1.0)
        for number in range(2 if grade == "louder" else 1):
            at, size = corner + QPointF(9.0 * number, 0.0), 8.0
            painter.drawPolygon(QPolygonF([at, at + QPointF(size, 0.0), at + QPointF(0.0, size)]))
        painter.restore()


class BleedTable(QTableView):
    """Microphones down, sources across; a cell that is pressed says where it comes from."""

    asked = pyqtSignal(int, int)
    """A microphone and a source, by their numbers."""

    def __init__(self) -> None:
        super().__init__()
        self.cells = BleedModel()
        self.setModel(self.cells)
        self.setAccessibleName("Bleed: every microphone and every source")
        self.setToolTip(
            "How far each source is below the one a microphone is there for. Wedges mark what is too loud. Press a "
            "cell to see where it comes from."
        )
        self.setSelectionMode(QTableView.SelectionMode.SingleSelection)
        self.setTabKeyNavigation(False)
        self.setEditTriggers(QTableView.EditTrigger.NoEditTriggers)
        self.setItemDelegate(_Marks(self))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        across, down = self.horizontalHeader(), self.verticalHeader()
        assert across is not None
        assert down is not None
        self._across, self._down = across, down
        down.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.clicked.connect(lambda index: self.asked.emit(index.row(), index.column()))

    def sizeHint(self) -> QSize:
        """As high as a few microphones need; more of them scroll."""
        rows = min(self.cells.rowCount(), _MOST_ROWS)
        high = self._across.sizeHint().height() + rows * self._down.defaultSectionSize()
        return QSize(super().sizeHint().width(), high + 2 * self.frameWidth() + 2)

    def show_hearing(self, hearing: Hearing, microphone: int | None) -> None:
        """Draw the table; the row of the microphone whose ears are on the plan is told apart."""
        if not self.cells.show_hearing(hearing, microphone):
            return
        # What stands in the cells may be as wide as that; the names above them are what they are.
        metrics = self.fontMetrics()
        self._down.setDefaultSectionSize(metrics.height() + theme.px(9))
        least = metrics.horizontalAdvance(_WIDEST) + theme.px(34)
        for column in range(self.cells.columnCount()):
            self.setColumnWidth(column, max(least, self._across.sectionSizeHint(column)))
        self.updateGeometry()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            index = self.currentIndex()
            if index.isValid():
                self.asked.emit(index.row(), index.column())
            return
        super().keyPressEvent(event)
