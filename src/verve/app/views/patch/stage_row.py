"""One stage of a line: what it is, what goes in and out, what can be exchanged."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont, QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QPushButton,
    QVBoxLayout,
)

from verve.app.document import Document
from verve.app.widgets.controls import ControlEditor
from verve.app.widgets.labels import Pressable, number, text
from verve.core.kind import Control, ControlValue
from verve.core.patch import StageText

if TYPE_CHECKING:
    pass


@dataclass(frozen=True, slots=True)
class RowKey:
    owner: str
    role: str
    controls: tuple[tuple[str, str, str, str], ...]


_NARROW = 570


class StageRow(QFrame):
    """One stage: a number, what it is, what can be set on it."""

    replace_pressed = pyqtSignal(str)

    def __init__(self, document: Document, stage: StageText) -> None:
        super().__init__()
        self._document = document
        self._subject = stage.name
        grid = QGridLayout(self)
        grid.setContentsMargins(4, 7, 4, 7)
        grid.setHorizontalSpacing(12)
        grid.setColumnStretch(1, 2)
        grid.setColumnStretch(2, 3)
        self._number, self._name, self._says = number(), text(), Pressable()
        self._owner, self._role = stage.owner, stage.role
        self._says.clicked.connect(self._ask)
        self._number.setFixedWidth(22)
        # Level with the words below it, which keep a margin for their focus ring.
        self._name.setContentsMargins(4, 0, 0, 0)
        font = self._name.font()
        font.setWeight(QFont.Weight.Normal if stage.is_cable else QFont.Weight.DemiBold)
        self._name.setFont(font)
        top = Qt.AlignmentFlag.AlignTop
        grid.addWidget(self._number, 0, 0, top)
        names = QVBoxLayout()
        names.setSpacing(1)
        names.addWidget(self._name)
        names.addWidget(self._says)
        names.addStretch(1)
        self.replace = QPushButton("Add…" if stage.is_cable else "Replace…")
        self.replace.setProperty("plain", "true")
        self.replace.setToolTip(
            "A box in the middle of this cable: inline preamp, DI box, splitter"
            if stage.is_cable
            else "Puts other gear in its place; everything plugged in stays plugged in"
        )
        word = "Add a box to" if stage.is_cable else "Replace"
        self.replace.setAccessibleName(f"{word} {stage.name}")
        self.replace.clicked.connect(lambda: self.replace_pressed.emit(self._owner))
        # Without an alignment, or wrapped words would get the height of their first line.
        grid.addLayout(names, 0, 1)
        controls = QGridLayout()
        controls.setHorizontalSpacing(18)
        controls.setVerticalSpacing(4)
        self.editors = [ControlEditor(c, self._send) for c in stage.controls]
        self._controls, self._columns = controls, 0
        self._place(2)
        controls.setColumnStretch(2, 1)
        grid.addLayout(controls, 0, 2, top)
        grid.addWidget(self.replace, 0, 3, top)

    def _place(self, columns: int) -> None:
        """Controls beside each other, or below each other where the window is narrow."""
        if columns != self._columns:
            self._columns = columns
            for index, editor in enumerate(self.editors):
                self._controls.addWidget(editor, index // columns, index % columns)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        # The row may be wider than what is seen of it, as long as its controls do not give way.
        holder = self.parentWidget()
        seen = None if holder is None else holder.parentWidget()
        self._place(1 if seen is not None and seen.width() < _NARROW else 2)

    def show_stage(self, position: int, stage: StageText) -> None:
        """Draw it with other settings."""
        self._subject = stage.name
        self._number.setText("" if stage.is_cable else str(position))
        self._name.setText(stage.name)
        self._says.setText(stage.says)
        self._says.setVisible(bool(stage.says))
        self._says.setAccessibleName(f"{stage.name}: {stage.says}")
        for editor, control in zip(self.editors, stage.controls, strict=True):
            editor.show_control(control)

    def _ask(self) -> None:
        item = self._document.line
        if item is not None:
            self._document.ask(self._subject, item.facts_at(self._owner, self._role))

    def _send(self, control: Control, value: ControlValue) -> None:
        self._document.set_control(f"{control.said} of {self._subject}", control, value)


def key_of(stage: StageText) -> RowKey:
    controls = tuple((c.owner, c.channel, c.name, c.kind) for c in stage.controls)
    return RowKey(stage.owner, stage.role, controls)
