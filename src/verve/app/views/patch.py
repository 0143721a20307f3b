"""Patch: the selected line as its stages, in the order the signal takes, with what is set on each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont, QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.patch_page import PatchPage
from verve.app.widgets.controls import ControlEditor
from verve.app.widgets.labels import Pressable, caption, card, heading, number, text
from verve.core.kind import Control, ControlValue
from verve.core.patch import StageText, stage_texts
from verve.core.session import remove_line, rename_line

if TYPE_CHECKING:
    from verve.core.connections import WayIn


@dataclass(frozen=True, slots=True)
class _RowKey:
    owner: str
    role: str
    controls: tuple[tuple[str, str, str, str], ...]


_NARROW = 570


class StageRow(QFrame):
    """One stage: a number, what it is, what can be set on it."""

    exchange_pressed = pyqtSignal(str)

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
        self._says.pressed.connect(self._ask)
        self._number.setFixedWidth(22)
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
        self.exchange = QPushButton("Put in…" if stage.is_cable else "Exchange…")
        self.exchange.setProperty("plain", "true")
        self.exchange.setToolTip(
            "A box in the middle of this cable: inline preamp, DI box, splitter"
            if stage.is_cable
            else "Another piece in its place; what is plugged in stays plugged in"
        )
        word = "Put a box into" if stage.is_cable else "Exchange"
        self.exchange.setAccessibleName(f"{word} {stage.name}")
        self.exchange.clicked.connect(lambda: self.exchange_pressed.emit(self._owner))
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
        grid.addWidget(self.exchange, 0, 3, top)

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


def _key(stage: StageText) -> _RowKey:
    controls = tuple((c.owner, c.channel, c.name, c.kind) for c in stage.controls)
    return _RowKey(stage.owner, stage.role, controls)


class PatchView(QWidget):
    """One line, stage by stage; lines are added, renamed and removed here."""

    add_pressed = pyqtSignal()
    exchange_pressed = pyqtSignal(str)
    """Another piece is wanted in the place of a source or device: its id."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document = document
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        outer.addWidget(frame)
        self._empty = self._make_empty()
        layout.addWidget(self._empty, 1)
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("One line, or all")
        self.tabs.setToolTip("The selected line stage by stage, or the whole patch to plug from")
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        for name in ("This line", "All lines on one page"):
            self.tabs.addTab(name)
        layout.addWidget(self.tabs)
        self.page = PatchPage(document, tasks)
        layout.addWidget(self.page, 1)
        self._full = QWidget()
        layout.addWidget(self._full, 1)
        inside = QVBoxLayout(self._full)
        inside.setContentsMargins(0, 0, 0, 0)
        top = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the line")
        self.name.setToolTip("The name under which the line is listed and recorded")
        self.name.setMaxLength(80)
        self.name.setMinimumWidth(180)
        self.remove = QPushButton("Remove this line")
        self.remove.setToolTip("Takes the line and what only it uses out; undo brings it back")
        top.addWidget(caption("Line"))
        top.addWidget(self.name, 1)
        top.addStretch(1)
        top.addWidget(self.remove)
        inside.addLayout(top)
        self._summary = caption(wrap=True)
        inside.addWidget(self._summary)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        holder = QWidget()
        self._rows_layout = QVBoxLayout(holder)
        self._rows_layout.setContentsMargins(0, 0, 6, 0)
        self._rows_layout.setSpacing(0)
        self._rows_layout.addStretch(1)
        area.setWidget(holder)
        inside.addWidget(area, 1)
        self.rows: list[StageRow] = []
        self._keys: list[_RowKey] = []
        # ── connections ──
        self.tabs.currentChanged.connect(lambda _: self.refresh())
        self.name.editingFinished.connect(self._rename)
        self.remove.clicked.connect(self._remove)

    def _make_empty(self) -> QWidget:
        widget = QWidget()
        layout = QVBoxLayout(widget)
        layout.addStretch(1)
        layout.addWidget(heading("Every signal gets a way in"))
        layout.addWidget(
            text(
                "A line is one signal followed from its source to the recorder: a voice through a "
                "microphone, a guitar through a DI box, a keyboard straight in. Put the first one in "
                "as a whole chain; everything on it can be changed afterwards."
            )
        )
        button = QPushButton("Add a line")
        button.setProperty("strong", "true")
        button.setToolTip("Puts in a whole chain, from source to recorder. Shortcut: Ctrl+L")
        button.clicked.connect(self.add_pressed)
        layout.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addStretch(2)
        return widget

    def refresh(self) -> None:
        """Draw the document as it is now."""
        item = self._document.line
        is_whole = self.tabs.currentIndex() == 1
        self._empty.setVisible(item is None)
        self.tabs.setVisible(item is not None)
        self._full.setVisible(item is not None and not is_whole)
        self.page.setVisible(item is not None and is_whole)
        if item is None:
            return
        if is_whole:
            self.page.refresh()
            return
        if not self.name.isModified() or not self.name.hasFocus():
            self.name.setText(item.line.name)
        stages = stage_texts(item.state, self._document.session.setup)
        self._summary.setText(f"{item.verdict[:1].upper()}{item.verdict[1:]}.")
        self._show_rows(stages)

    def _show_rows(self, stages: Sequence[StageText]) -> None:
        keys = [_key(stage) for stage in stages]
        if keys != self._keys:
            for row in self.rows:
                self._rows_layout.removeWidget(row)
                row.deleteLater()
            self.rows = [StageRow(self._document, stage) for stage in stages]
            for index, row in enumerate(self.rows):
                self._rows_layout.insertWidget(index, row)
                row.exchange_pressed.connect(self.exchange_pressed)
            self._keys = keys
        position = 0
        for row, stage in zip(self.rows, stages, strict=True):
            position += not stage.is_cable
            row.show_stage(position, stage)

    def show_way(self, way: WayIn) -> None:
        """Turn to the whole page, with the reasons of a way that was just found."""
        self.tabs.setCurrentIndex(1)
        self.page.show_way(way)

    def _rename(self) -> None:
        item = self._document.line
        if item is None or not self.name.isModified():
            return
        self.name.setModified(False)
        name, line_id = self.name.text(), item.line.id
        label = f"name of {item.line.name}"
        if not self._document.edit(label, lambda session: rename_line(session, line_id, name)):
            self.name.setText(item.line.name)

    def _remove(self) -> None:
        item = self._document.line
        if item is not None:
            line_id = item.line.id
            label = f"removal of {item.line.name}"
            self._document.edit(label, lambda session: remove_line(session, line_id))
