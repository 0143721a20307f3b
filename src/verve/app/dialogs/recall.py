"""A take dialled in again by hand: every setting with a tick where it is as it was, and the level that proves it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.widgets.buttons import push
from verve.app.widgets.labels import caption, heading, scrolling_rest, small_heading, text
from verve.app.widgets.lots import RowLots
from verve.core.session import Take, apply_changes, restore_take
from verve.core.sheets import RecallItem, moment_text, recall_csv, recall_html, recall_items

_AT_ONCE = 24
_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"


class RecallRow(QWidget):
    """One thing to set, under the name of its signal where that begins."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 1, 0, 1)
        column.setSpacing(0)
        self._group = small_heading()
        self.box, self._now = QCheckBox(), caption()
        line = QHBoxLayout()
        line.addWidget(self.box, 1)
        line.addWidget(self._now)
        column.addWidget(self._group)
        column.addLayout(line)

    def show_item(self, item: RecallItem, *, is_first: bool) -> None:
        """Draw another one."""
        self._group.setText(item.group)
        self._group.setVisible(is_first)
        self.box.setText(item.words.replace("&", "&&"))
        self.box.setChecked(item.is_same)
        self.box.setEnabled(item.change is not None)
        self.box.setToolTip(
            "Sets it in the session as it was; turn the knob itself too"
            if item.change is not None
            else "As it was"
            if item.is_same
            else "This is done by hand"
        )
        self._now.setText(item.now)


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
        holder = QWidget()
        self._list = QVBoxLayout(holder)
        self._list.setSpacing(0)
        self._list.addStretch(1)
        layout.addWidget(scrolling_rest(holder), 1)
        self.items: tuple[RecallItem, ...] = ()
        self._rows: RowLots[RecallRow] = RowLots(self._list, self._make_row, _AT_ONCE)
        self.all = push(
            "Set everything as it was", "All of it as one step that can be undone", self._restore
        )
        self.paper = push("Print or export…", "The sheet with a box to tick for each", self._paper)
        layout.addLayout(foot(self, left=(self.all, self.paper)))
        document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Draw what differs now."""
        items = self.items = recall_items(self._take, self._document.session)

        def fill(row: RecallRow, number: int) -> None:
            before = items[number - 1].group if number else ""
            row.show_item(items[number], is_first=items[number].group != before)

        self._rows.show(len(items), fill)
        left = sum(not item.is_same for item in self.items)
        self._said.setText(
            "Everything is as it was: play the phrase, and the level will say so."
            if not left
            else f"{left} of {len(self.items)} still differ."
        )
        self.all.setEnabled(any(item.change is not None for item in self.items))

    @property
    def boxes(self) -> list[QCheckBox]:
        """The box of each item."""
        return [row.box for row in self._rows.rows]

    def _make_row(self, number: int) -> RecallRow:
        row = RecallRow()
        row.box.clicked.connect(lambda _: self._put(number))
        return row

    def _put(self, number: int) -> None:
        change = self.items[number].change
        if change is not None:
            label = self.items[number].words
            self._document.edit(label, lambda now: apply_changes(now, (change,)))

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
