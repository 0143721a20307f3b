"""Patch: a line stage by stage, and the whole patch beside it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.patch.page import PatchPage
from verve.app.views.patch.stage_row import RowKey, StageRow, key_of
from verve.app.widgets.labels import caption, caption_of, card, heading, text
from verve.core.patch import StageText, stage_texts
from verve.core.session import remove_line, rename_line

if TYPE_CHECKING:
    from verve.core.connections import Suggestion

_BOTH_PX = 1500
"""From this width on the signal and the whole page stand side by side."""


class PatchView(QWidget):
    """One line, stage by stage; lines are added, renamed and removed here."""

    add_pressed = pyqtSignal()
    replace_pressed = pyqtSignal(str)
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
        self.tabs.setAccessibleName("One signal, or all")
        self.tabs.setToolTip("The selected signal stage by stage, or the whole patch to plug from")
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        for name in ("This signal", "All signals on one page"):
            self.tabs.addTab(name)
        layout.addWidget(self.tabs)
        self._full, self.page = QWidget(), PatchPage(document, tasks)
        beside = QHBoxLayout()
        beside.setSpacing(24)
        beside.addWidget(self._full, 1)
        beside.addWidget(self.page, 1)
        layout.addLayout(beside, 1)
        inside = QVBoxLayout(self._full)
        inside.setContentsMargins(0, 0, 0, 0)
        top = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the signal")
        self.name.setToolTip("The name under which the signal is listed and recorded")
        self.name.setMaxLength(80)
        self.name.setMinimumWidth(180)
        self.remove = QPushButton("Remove this signal")
        self.remove.setToolTip("Takes the signal and what only it uses out; undo brings it back")
        top.addWidget(caption_of(self.name, "Signal"))
        top.addWidget(self.name, 1)
        top.addStretch(1)
        top.addWidget(self.remove)
        inside.addLayout(top)
        self._summary = caption(wrap=True)
        inside.addWidget(self._summary)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        holder = QWidget()
        self._rows_layout = QVBoxLayout(holder)
        self._rows_layout.setContentsMargins(0, 0, 6, 0)
        self._rows_layout.setSpacing(0)
        self._rows_layout.addStretch(1)
        area.setWidget(holder)
        inside.addWidget(area, 1)
        self.rows: list[StageRow] = []
        self._keys: list[RowKey] = []
        # ── connections ──
        self.tabs.currentChanged.connect(lambda _: self.refresh())
        self.name.editingFinished.connect(self._rename)
        self.remove.clicked.connect(self._remove)

    def _make_empty(self) -> QWidget:
        widget = QWidget()
        layout = QVBoxLayout(widget)
        layout.addStretch(1)
        layout.addWidget(heading("Connect every signal"))
        layout.addWidget(
            text(
                "A signal is followed from its source to the interface: a voice through a "
                "microphone, a guitar through a DI box, a keyboard straight in. Put the first one in "
                "as a whole chain; everything on it can be changed afterwards."
            )
        )
        button = QPushButton("Add a signal")
        button.setProperty("strong", "true")
        button.setToolTip("Puts in a whole chain, from source to interface. Shortcut: Ctrl+L")
        button.clicked.connect(self.add_pressed)
        layout.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addStretch(2)
        return widget

    def refresh(self) -> None:
        """Draw the document as it is now."""
        item = self._document.line
        is_page, is_full = self._shows()
        self._empty.setVisible(item is None)
        self.tabs.setVisible(item is not None and is_page != is_full)
        self._full.setVisible(item is not None and is_full)
        self.page.setVisible(item is not None and is_page)
        if item is None:
            return
        if is_page:
            self.page.refresh()
        if not is_full:
            return
        if not self.name.isModified() or not self.name.hasFocus():
            self.name.setText(item.line.name)
        stages = stage_texts(item.state, self._document.session.setup)
        self._summary.setText(f"{item.verdict[:1].upper()}{item.verdict[1:]}.")
        self._show_rows(stages)

    def _shows(self) -> tuple[bool, bool]:
        """Whether the whole page is seen, and whether the one signal: both where there is space for both."""
        if self.width() >= theme.px(_BOTH_PX):
            return True, True
        is_page = self.tabs.currentIndex() == 1
        return is_page, not is_page

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self._shows() != (not self.page.isHidden(), not self._full.isHidden()):
            self.refresh()

    def _show_rows(self, stages: Sequence[StageText]) -> None:
        keys = [key_of(stage) for stage in stages]
        if keys != self._keys:
            for row in self.rows:
                self._rows_layout.removeWidget(row)
                row.deleteLater()
            self.rows = [StageRow(self._document, stage) for stage in stages]
            for index, row in enumerate(self.rows):
                self._rows_layout.insertWidget(index, row)
                row.replace_pressed.connect(self.replace_pressed)
            self._keys = keys
        position = 0
        for row, stage in zip(self.rows, stages, strict=True):
            position += not stage.is_cable
            row.show_stage(position, stage)

    def show_connections(self, way: Suggestion) -> None:
        """Turn to the whole page, with the reasons of a way that was just found."""
        self.tabs.setCurrentIndex(1)
        self.page.show_connections(way)

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
