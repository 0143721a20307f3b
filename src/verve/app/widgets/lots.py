"""A column of rows made a lot at a time: what a window shows at once now, the rest before anybody has scrolled."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QBoxLayout, QWidget

Row = TypeVar("Row", bound=QWidget)


class RowLots(Generic[Row]):
    """Rows at the head of a layout, made when first needed, kept, and hidden when there is nothing for them.

    Making a row takes half a millisecond, and a layout that is looked at after each of two hundred takes half a
    second: so a lot is made in one event, its layout is looked at once, and the next lot comes in the next event.
    """

    def __init__(self, layout: QBoxLayout, make: Callable[[int], Row], at_once: int) -> None:
        self.rows: list[Row] = []
        self._layout, self._make, self._at_once = layout, make, at_once
        self._count = 0
        self._fill: Callable[[Row, int], None] = lambda _row, _number: None
        self._timer = QTimer(layout)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(lambda: self._draw(len(self.rows)))

    def show(self, count: int, fill: Callable[[Row, int], None]) -> None:
        """Show so many rows, each filled with what its number stands for."""
        self._count, self._fill = count, fill
        self._draw(0)

    def _draw(self, first: int) -> None:
        self._layout.setEnabled(False)
        missing = self._count - len(self.rows)
        for _ in range(min(missing, self._at_once)):
            number = len(self.rows)
            self.rows.append(self._make(number))
            self._layout.insertWidget(number, self.rows[number])
        for number in range(first, len(self.rows)):
            row = self.rows[number]
            row.setVisible(number < self._count)
            if number < self._count:
                self._fill(row, number)
        self._layout.setEnabled(True)
        self._layout.activate()
        if missing > self._at_once:
            self._timer.start()
