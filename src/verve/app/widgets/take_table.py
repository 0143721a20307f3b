"""The figures of a take as a table; a row pressed says where its numbers come from."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from verve.app import theme
from verve.core.assess import Assessment
from verve.core.session import Take
from verve.core.sheets import take_rows

_HEAD = ("Line", "Peak", "computed", "RMS", "Noise A", "computed", "Clipped", "What to change")
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


class TakeTable(QTableWidget):
    """One row for each recorded line: measured beside computed, and what to change."""

    asked = pyqtSignal(int)
    """A row was pressed, or Return on it: its number."""

    def __init__(self, *, with_advice: bool) -> None:
        super().__init__(0, len(_HEAD))
        self.setHorizontalHeaderLabels(_HEAD)
        self.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.setTabKeyNavigation(False)
        self.setAccessibleName("Measured figures of the take")
        self.setToolTip("Press a row to see where its numbers come from")
        vertical, horizontal = self.verticalHeader(), self.horizontalHeader()
        assert vertical is not None
        assert horizontal is not None
        vertical.hide()
        horizontal.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        last = len(_HEAD) - 1
        self.setColumnHidden(last, not with_advice)
        stretched = last if with_advice else 0
        horizontal.setSectionResizeMode(stretched, QHeaderView.ResizeMode.Stretch)
        if not with_advice:
            # The page it stands on scrolls; the table is as wide and as high as its numbers.
            self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for column in range(len(_HEAD)):
            item = self.horizontalHeaderItem(column)
            assert item is not None
            item.setTextAlignment(_RIGHT if 0 < column < len(_HEAD) - 1 else _LEFT)
        vertical.setMinimumSectionSize(22)
        vertical.setDefaultSectionSize(25)
        self.setShowGrid(False)
        self.setWordWrap(True)
        self.cellClicked.connect(lambda row, _: self.asked.emit(row))

    def show_take(self, take: Take | None, assessment: Assessment) -> None:
        """Draw a take; nothing without one."""
        rows = () if take is None else take_rows(take, assessment)
        self.setRowCount(len(rows))
        for row, cells in enumerate(rows):
            for column, words in enumerate(cells):
                cell = QTableWidgetItem(words)
                if 0 < column < len(cells) - 1:
                    cell.setFont(theme.numbers(10.0))
                    cell.setTextAlignment(_RIGHT)
                self.setItem(row, column, cell)
        self.resizeRowsToContents()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            if self.currentRow() >= 0:
                self.asked.emit(self.currentRow())
            return
        super().keyPressEvent(event)
