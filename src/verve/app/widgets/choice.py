"""A choice among a few: what is too long for it stands whole in its tooltip, and is elided, not cut."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QSize, Qt
from PyQt6.QtGui import QHelpEvent, QPaintEvent
from PyQt6.QtWidgets import QComboBox, QStyle, QStyleOptionComboBox, QStylePainter, QToolTip


class Choice(QComboBox):
    """A combo box that gives way: it may be narrower than its longest entry."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.setMinimumContentsLength(8)
        # The list below it is as wide as its words, however narrow the box is.
        self.view().setTextElideMode(Qt.TextElideMode.ElideNone)  # type: ignore[union-attr]

    def show_entries(self, entries: Sequence[tuple[str, str]]) -> None:
        """Draw entries, each with its key; what was chosen stays chosen where it is still there."""
        if [(self.itemText(i), self.itemData(i)) for i in range(self.count())] == list(entries):
            return
        kept = self.currentData()
        self.clear()
        for words, key in entries:
            self.addItem(words, key)
        self.setCurrentIndex(max(0, self.findData(kept)))

    def _shown(self) -> tuple[QStyleOptionComboBox, int]:
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        style = self.style()
        assert style is not None
        field = style.subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        )
        return option, field.width() - 4

    def sizeHint(self) -> QSize:
        # The style leaves no room for what the field itself keeps free beside its words.
        return super().sizeHint() + QSize(8, 0)

    def is_cut(self) -> bool:
        """Whether what is chosen is longer than there is room for."""
        _, room = self._shown()
        return self.fontMetrics().horizontalAdvance(self.currentText()) > room

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QStylePainter(self)
        option, room = self._shown()
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        option.currentText = self.fontMetrics().elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, room
        )
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and self.is_cut():
            QToolTip.showText(
                event.globalPos(), f"{self.currentText()}\n{self.toolTip()}".strip(), self
            )
            return True
        return super().event(event)
