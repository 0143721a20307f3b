"""A table of words and numbers: some cells to write in, every row to ask about."""

from __future__ import annotations

from collections.abc import Container, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from verve.app import theme

_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_EMPTY_MARGINS = (12, 10, -12, -4)
_WRAPPED = int(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignHCenter) | int(
    Qt.TextFlag.TextWordWrap
)
_CLEAR_PX = 10


class Table(QTableWidget):
    """Rows of text. A cell somebody wrote in is told, and drawn anew from what became of it.

    Without a row it says `empty`: what goes there, and how it gets there.
    """

    asked = pyqtSignal(int)
    """A row was pressed, or Return on it."""
    written = pyqtSignal(int, int, str)
    """Somebody wrote in a cell: row, column and the text."""

    def __init__(
        self,
        head: Sequence[str],
        name: str,
        *,
        empty: str,
        numbers: Container[int] = (),
        writable: Container[int] = (),
        stretched: Sequence[int] = (0,),
        wraps: bool = False,
    ) -> None:
        super().__init__(0, len(head))
        self._numbers, self._writable = numbers, writable
        self._drawing = False
        self.empty_words = empty
        self.setAccessibleDescription(empty)
        self.setHorizontalHeaderLabels(list(head))
        self.setAccessibleName(name)
        self.setToolTip(f"{name}; press a row to see where it comes from")
        self.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.setTabKeyNavigation(False)
        self.setShowGrid(False)
        self.setWordWrap(wraps)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        vertical, horizontal = self.verticalHeader(), self.horizontalHeader()
        assert vertical is not None
        assert horizontal is not None
        vertical.hide()
        vertical.setMinimumSectionSize(22)
        vertical.setDefaultSectionSize(26)
        self._header, self._stretched = horizontal, stretched
        self._let_columns_fit()
        if wraps:
            # How high a row is depends on how wide its columns have become.
            horizontal.sectionResized.connect(lambda *_: self.resizeRowsToContents())
        for column in range(len(head)):
            item = self.horizontalHeaderItem(column)
            assert item is not None
            item.setTextAlignment(_RIGHT if column in numbers else _LEFT)
            item.setToolTip(head[column])
        self.cellClicked.connect(lambda row, _: self.asked.emit(row))
        self.itemChanged.connect(self._on_changed)

    def sizeHintForColumn(self, column: int) -> int:
        """Figures stand clear of those of the column before."""
        wide = super().sizeHintForColumn(column)
        return wide + _CLEAR_PX if column in self._numbers and wide >= 0 else wide

    def _let_columns_fit(self) -> None:
        self._header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        for column in self._stretched:
            self._header.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)

    def show_rows(self, rows: Sequence[Sequence[str]]) -> None:
        """Draw other rows; the chosen one stays chosen where it is still there."""
        self._drawing = True
        # Columns that fit their words would be measured anew with each cell that is put in.
        self._header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        chosen = self.currentRow()
        self.setRowCount(len(rows))
        for row, cells in enumerate(rows):
            for column, words in enumerate(cells):
                item = self.item(row, column)
                if item is None:
                    item = QTableWidgetItem()
                    flags = Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsEnabled
                    if column in self._writable:
                        flags |= Qt.ItemFlag.ItemIsEditable
                    item.setFlags(flags)
                    if column in self._numbers:
                        item.setFont(theme.numbers(10.0))
                        item.setTextAlignment(_RIGHT)
                    self.setItem(row, column, item)
                if item.text() != words:
                    item.setText(words)
                item.setToolTip(words)
        self.setAccessibleDescription("" if rows else self.empty_words)
        if rows and 0 <= chosen < len(rows):
            self.setCurrentCell(chosen, 0)
        self._let_columns_fit()
        if self.wordWrap():
            self.resizeRowsToContents()
        self._drawing = False

    def _on_changed(self, item: QTableWidgetItem) -> None:
        if not self._drawing:
            self.written.emit(item.row(), item.column(), item.text())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        viewport = self.viewport()
        if self.rowCount() or viewport is None:
            return
        painter = QPainter(viewport)
        painter.setPen(QColor(theme.colours().muted))
        painter.setFont(self.font())
        painter.drawText(viewport.rect().adjusted(*_EMPTY_MARGINS), _WRAPPED, self.empty_words)

    def empty_height(self) -> int:
        """How high the table has to be for what it says while it is empty; 0 with rows."""
        viewport = self.viewport()
        if self.rowCount() or viewport is None:
            return 0
        room = viewport.rect().adjusted(*_EMPTY_MARGINS)
        room.setHeight(10_000)
        return self.fontMetrics().boundingRect(room, _WRAPPED, self.empty_words).height()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            if self.currentRow() >= 0 and self.currentColumn() not in self._writable:
                self.asked.emit(self.currentRow())
                return
            item = self.currentItem()
            if item is not None and self.state() != QTableWidget.State.EditingState:
                self.editItem(item)
                return
        super().keyPressEvent(event)
