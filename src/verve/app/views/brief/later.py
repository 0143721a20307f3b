"""What comes later: another room, another kit, kept in mind."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.widgets.labels import text
from verve.app.widgets.table import Table
from verve.core.needs import Answered
from verve.core.session import set_later


class LaterPage(QWidget):
    """What is wanted later, beside what is wanted now."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        self._says = text()
        layout.addWidget(self._says)
        row = QHBoxLayout()
        self.keep, self.swap = QPushButton("Keep this brief as later"), QPushButton("Swap the two")
        self.drop = QPushButton("Forget later")
        for button, says, slot in (
            (self.keep, "What stands above becomes what is wanted later", self._keep),
            (self.swap, "To write in the other one", self._swap),
            (self.drop, "Only what is wanted now stays", self._drop),
        ):
            button.setToolTip(says)
            button.clicked.connect(slot)
            row.addWidget(button)
        row.addStretch(1)
        layout.addLayout(row)
        self.table = Table(
            ("Needed", "now", "later", "missing later"), "Now and later", numbers=(1, 2, 3)
        )
        layout.addWidget(self.table, 1)

    def show_answer(self, answered: Answered | None) -> None:
        """Draw both side by side."""
        later = self._document.session.later
        self._says.setText(
            "In a year, perhaps the whole band at once? Write that brief, keep it as later, and go back "
            "by undo or swap: both are counted side by side, so that nothing is bought only for today."
            if later is None
            else f"Later: {', '.join(part.name for part in later.parts) or 'nothing yet'}."
        )
        for button in (self.swap, self.drop):
            button.setEnabled(later is not None)
        self.keep.setEnabled(bool(self._document.session.brief.parts))
        rows = () if answered is None else answered.later
        self.table.show_rows(
            [(label, str(a), str(b), str(m) if m else "") for label, a, b, m in rows]
        )

    def _keep(self) -> None:
        brief = self._document.session.brief
        self._document.edit("what is wanted later", lambda session: set_later(session, brief))

    def _swap(self) -> None:
        later = self._document.session.later
        if later is not None:
            self._document.edit(
                "now and later",
                lambda s: set_later(s.model_copy(update={"brief": later}), s.brief),
            )

    def _drop(self) -> None:
        self._document.edit("what is wanted later", lambda session: set_later(session, None))
