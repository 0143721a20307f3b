"""A take dialled in again by hand: every setting with a tick where it is as it was, and the level that proves it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.widgets.buttons import push
from verve.app.widgets.labels import caption, heading, small_heading, text
from verve.core.session import Take, apply_changes, restore_take
from verve.core.sheets import RecallItem, moment_text, recall_csv, recall_html, recall_items

_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"


class RecallDialog(QDialog):
    """Ticks are settings that are as they were; a tick sets one, and undo takes it back."""

    def __init__(
        self, document: Document, tasks: Tasks, take: Take, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._document, self._tasks, self._take = document, tasks, take
        self.setWindowTitle(f"Recall {take.name}")
        open_at(self, 760, 620)
        layout = QVBoxLayout(self)
        layout.addWidget(heading(f"{take.name}, {moment_text(take.recorded_at)}"))
        self._said = text()
        layout.addWidget(self._said)
        area = QScrollArea()
        area.setWidgetResizable(True)
        self._holder = QWidget()
        self._grid = QGridLayout(self._holder)
        self._grid.setColumnStretch(0, 1)
        self._grid.setVerticalSpacing(2)
        area.setWidget(self._holder)
        layout.addWidget(area, 1)
        self.boxes: list[QCheckBox] = []
        self.items: tuple[RecallItem, ...] = ()
        self.all = push(
            "Set everything as it was", "All of it as one step that can be undone", self._restore
        )
        self.paper = push("Print or export…", "The sheet with a box to tick for each", self._paper)
        layout.addLayout(foot(self, left=(self.all, self.paper)))
        document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Draw what differs now."""
        while (taken := self._grid.takeAt(0)) is not None:
            widget = taken.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.items = recall_items(self._take, self._document.session)
        self.boxes = []
        group, row = "", 0
        for item in self.items:
            if item.group != group:
                group = item.group
                self._grid.addWidget(small_heading(group), row, 0, 1, 2)
                row += 1
            box = QCheckBox(item.words.replace("&", "&&"))
            box.setChecked(item.is_same)
            box.setEnabled(item.change is not None)
            box.setToolTip(
                "Sets it in the session as it was; turn the knob itself too"
                if item.change is not None
                else "As it was"
                if item.is_same
                else "This is done by hand"
            )
            box.clicked.connect(self._setter(item))
            self._grid.addWidget(box, row, 0)
            self._grid.addWidget(caption(item.now), row, 1, Qt.AlignmentFlag.AlignRight)
            self.boxes.append(box)
            row += 1
        self._grid.setRowStretch(row, 1)
        left = sum(not item.is_same for item in self.items)
        self._said.setText(
            "Everything is as it was: play the phrase, and the level will say so."
            if not left
            else f"{left} of {len(self.items)} still differ."
        )
        self.all.setEnabled(any(item.change is not None for item in self.items))

    def _setter(self, item: RecallItem) -> Callable[[bool], None]:
        def put(_: bool) -> None:
            change = item.change
            if change is not None:
                self._document.edit(item.words, lambda now: apply_changes(now, (change,)))

        return put

    def _restore(self) -> None:
        take_id = self._take.id
        self._document.edit(
            f"settings of {self._take.name}", lambda now: restore_take(now, take_id)
        )

    def _paper(self) -> None:
        start = str(Path.home() / f"{self._take.name}.pdf")
        name, _ = QFileDialog.getSaveFileName(
            self, "Print or export the recall sheet", start, _FILES
        )
        if name:
            self.put_on_paper(Path(name))

    def put_on_paper(self, path: Path) -> None:
        """Write the sheet as PDF, web page or table, by the ending of the name."""
        take, session = self._take, self._document.session
        put_on_paper(
            self._tasks,
            path,
            html=lambda: recall_html(take, session),
            csv=lambda: recall_csv(take, session),
            failed=self._document.refused.emit,
        )
