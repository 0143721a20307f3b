"""Later: what is wanted in a year, written here and counted beside what is wanted now."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.widgets.labels import text
from verve.app.widgets.table import Table
from verve.core.catalogue import TAKES, catalogue, take_of
from verve.core.needs import Answered
from verve.core.session import (
    Brief,
    Part,
    Session,
    add_part,
    change_later,
    remove_part,
    set_brief,
    set_later,
)

_LEAST_HEIGHT = 100
"""The parts above keep their room where the window is low."""


class LaterPage(QWidget):
    """The parts that are wanted later on the left, the counts of now and later on the right."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        self._says = text()
        layout.addWidget(self._says)
        row = QHBoxLayout()
        self.copy, self.add = QPushButton("Begin with the brief above"), QPushButton("Add a part…")
        self.remove, self.use = QPushButton("Remove"), QPushButton("Record this now")
        self.drop = QPushButton("Remove all")
        for button, says, slot in (
            (self.copy, "What stands above is wanted later too: add to it from there", self._copy),
            (self.add, "Who else plays by then, and what", self._ask_part),
            (self.remove, "Takes the chosen part off what is wanted later", self._remove),
            (self.use, "It becomes the brief above; undo brings the old one back", self._use),
            (self.drop, "Nothing is wanted later", self._drop),
        ):
            button.setToolTip(says)
            button.clicked.connect(slot)
            row.addWidget(button)
        self.remove.setAccessibleName("Remove the chosen part of later")
        self.drop.setAccessibleName("Remove everything wanted later")
        row.addStretch(1)
        layout.addLayout(row)
        tables = QHBoxLayout()
        self.parts = Table(
            ("Wanted later", "recorded with"),
            "Parts that are wanted later",
            empty="Nothing is wanted later yet. Press “Add a part…”.",
        )
        self.table = Table(
            ("Needed", "now", "later", "missing later"),
            "Now and later",
            numbers=(1, 2, 3),
            empty="What is needed later is listed here, beside what is needed now.",
        )
        for table, share in ((self.parts, 4), (self.table, 5)):
            table.setMinimumHeight(_LEAST_HEIGHT)
            tables.addWidget(table, share)
        layout.addLayout(tables, 1)
        self.parts.currentCellChanged.connect(lambda *_: self._show_buttons())

    def _later(self) -> Sequence[Part]:
        later = self._document.session.later
        return () if later is None else later.parts

    def show_answer(self, answered: Answered | None) -> None:
        """Draw both side by side."""
        parts = self._later()
        self._says.setText(
            "Both are counted side by side, so that nothing is bought only for today. Suggested kits has "
            "answers for both."
            if parts
            else "In a year, perhaps the whole band at once? Begin with the brief above or with nothing, and "
            "add who will play then."
        )
        self.parts.show_rows([(part.name, TAKES[take_of(part)]) for part in parts])
        rows = () if answered is None else answered.later
        self.table.show_rows(
            [(label, str(a), str(b), str(m) if m else "") for label, a, b, m in rows]
        )
        self._show_buttons()

    def _show_buttons(self) -> None:
        session, has_later = self._document.session, bool(self._later())
        self.copy.setEnabled(bool(session.brief.parts) and session.later != session.brief)
        self.remove.setEnabled(0 <= self.parts.currentRow() < len(self._later()))
        self.use.setEnabled(has_later)
        self.drop.setEnabled(session.later is not None)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _edit(self, later: Brief | None) -> None:
        self._document.edit("what is wanted later", lambda session: set_later(session, later))

    def _copy(self) -> None:
        self._edit(self._document.session.brief)

    def _drop(self) -> None:
        self._edit(None)

    def _ask_part(self) -> None:
        from verve.app.dialogs.part import PartDialog

        dialog = PartDialog(catalogue(), self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.add_part(dialog.part())
        dialog.deleteLater()

    def add_part(self, part: Part) -> None:
        """One more part that is wanted later, in the largest of its passes."""

        def more(session: Session) -> Session:
            item = max(session.brief.passes, key=lambda one: len(one.parts))
            return add_part(session, item.id, part)[0]

        self._document.edit("what is wanted later", lambda s: change_later(s, more))

    def _remove(self) -> None:
        row, parts = self.parts.currentRow(), self._later()
        if 0 <= row < len(parts):
            key = parts[row].id
            self._document.edit(
                "what is wanted later", lambda s: change_later(s, lambda x: remove_part(x, key))
            )

    def _use(self) -> None:
        later = self._document.session.later
        if later is not None:
            self._document.edit("now what was wanted later", lambda s: set_brief(s, later))
