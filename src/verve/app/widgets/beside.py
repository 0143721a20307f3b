"""Two groups of controls beside each other; one above the other where the window is too narrow for both."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QHBoxLayout, QLayout, QWidget


def group(*widgets: QWidget) -> QWidget:
    """Controls in a row that stay together; what is left over goes behind the first."""
    made = QWidget()
    row = QHBoxLayout(made)
    row.setContentsMargins(0, 0, 0, 0)
    for index, widget in enumerate(widgets):
        row.addWidget(widget)
        if index == 0:
            row.addStretch(1)
    return made


class Beside(QWidget):
    """The groups, in the direction there is room for."""

    def __init__(self, first: QWidget, second: QWidget) -> None:
        super().__init__()
        self._groups = (first, second)
        self._row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._row.setContentsMargins(0, 0, 0, 0)
        # It may be narrower than both beside each other: that is when it turns.
        self._row.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        self._row.addWidget(first, 1)
        self._row.addWidget(second)

    def minimumSizeHint(self) -> QSize:
        widest = max(one.minimumSizeHint().width() for one in self._groups)
        return QSize(widest, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        needed = sum(one.minimumSizeHint().width() for one in self._groups) + self._row.spacing()
        way = QBoxLayout.Direction
        self._row.setDirection(way.LeftToRight if self.width() >= needed else way.TopToBottom)
