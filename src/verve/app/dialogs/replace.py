"""Exchanging a piece of gear: what could stand there, and what each would give here."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption, heading, text
from verve.app.widgets.reason import FactList
from verve.core.catalogue import Searched, StandIn, search
from verve.core.connections import recabled_beside
from verve.core.errors import EditError
from verve.core.kind import is_device_figures
from verve.core.sensitivity import (
    Given,
    given,
    replaced,
    replacement_facts,
    replacement_verdict,
)
from verve.core.session import Session, insert_device, take_out_device

_REPLACE, _INPUTS, _INPUT = "replace", "inputs", "input"


class ReplaceDialog(QDialog):
    """Lists what fits, and computes for the chosen piece what this line would give with it."""

    def __init__(
        self,
        session: Session,
        *,
        line_id: str,
        owner: str,
        name: str,
        fitting: Sequence[StandIn],
        is_cable: bool = False,
        can_go: bool = False,
        parent: QWidget | None = None,
        tasks: Tasks | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add" if is_cable else "Replace")
        open_at(self, 820, 560)
        self._session, self._line_id, self._owner = session, line_id, owner
        self._fitting, self._is_cable, self.takes_out = fitting, is_cable, False
        self._tasks = tasks or Tasks(self, is_inline=True)
        self._before: Given | None = None
        layout = QVBoxLayout(self)
        layout.addWidget(
            heading(f"In the middle of {name}" if is_cable else f"In the place of {name}")
        )
        layout.addWidget(
            caption(
                "What is plugged in stays plugged in. Your own gear comes first; the rest are typical "
                "figures. The right side is computed for this signal, in this room.",
                wrap=True,
            )
        )
        row = QHBoxLayout()
        left = QVBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find")
        self.search.setAccessibleName("Find in the list")
        self.search.setClearButtonEnabled(True)
        left.addWidget(self.search)
        self.list = QListWidget()
        self.list.setAccessibleName("What could stand there")
        left.addWidget(self.list, 1)
        row.addLayout(left, 2)
        right = QVBoxLayout()
        self.verdict = text()
        right.addWidget(self.verdict)
        self._facts = FactList()
        right.addWidget(self._facts)
        right.addStretch(1)
        row.addLayout(right, 3)
        layout.addLayout(row, 1)
        self.take_out = QPushButton("Remove")
        self.take_out.setToolTip("Nothing in its place: the cable goes on without it")
        self.take_out.setVisible(can_go)
        self.take_out.clicked.connect(self._accept_nothing)
        self.put_in = QPushButton("Add" if is_cable else "Replace")
        layout.addLayout(foot(self, self.put_in, left=[self.take_out]))
        self._searched = tuple(
            Searched(
                name=item.label,
                key=item.figures.entry or "",
                kind_words=(*item.figures.search_words, *(("yours",) if item.is_own else ())),
            )
            for item in fitting
        )
        for index, item in enumerate(fitting):
            entry = QListWidgetItem(f"{item.label}  ·  yours" if item.is_own else item.label)
            entry.setData(Qt.ItemDataRole.UserRole, index)
            self.list.addItem(entry)
        # ── connections ──
        self.search.textChanged.connect(self._filter)
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.list.itemDoubleClicked.connect(lambda _: self._accept())
        self.put_in.clicked.connect(self._accept)
        self.list.setCurrentRow(0)
        self.search.setFocus()

    def chosen(self) -> StandIn | None:
        """What is chosen; None while nothing fits the search."""
        item = self.list.currentItem()
        if item is None or item.isHidden():
            return None
        index: int = item.data(Qt.ItemDataRole.UserRole)
        return self._fitting[index]

    def apply(self, session: Session) -> Session:
        """The session with the chosen piece in its place, and cables that fit its sockets.

        raises: EditError if it cannot stand there
        """
        return recabled_beside(self._changed(session), session)

    def _changed(self, session: Session) -> Session:
        if self.takes_out:
            return take_out_device(session, self._owner)
        item = self.chosen()
        if item is None:
            raise EditError("Nothing is chosen")
        if self._is_cable and is_device_figures(item.figures):
            return insert_device(session, self._owner, item.figures, item.name, item.out_port)
        return replaced(session, self._owner, item.figures, item.name)

    def _filter(self, words: str) -> None:
        found = search(words, self._searched)
        for row in range(self.list.count()):
            item = self.list.item(row)
            assert item is not None
            item.setHidden(row not in found)
        current = self.list.currentItem()
        if found and (words.strip() or current is None or current.isHidden()):
            # The likeliest.
            self.list.setCurrentRow(found[0])
        self._show()

    def _show(self) -> None:
        item = self.chosen()
        self.put_in.setEnabled(item is not None)
        self._facts.show_facts(())
        if item is None:
            self.verdict.setText("Nothing here is called so.")
            return
        try:
            changed = self.apply(self._session)
        except EditError as error:
            self._tasks.cancel(_REPLACE)
            self.verdict.setText(str(error))
            self.put_in.setEnabled(False)
            return
        session, line_id, before = self._session, self._line_id, self._before
        self.verdict.setText("Computing what it would give …")
        self._tasks.run(
            _REPLACE,
            lambda *_: (before or given(session, line_id), given(changed, line_id)),
            self._show_given,
            failed=self.verdict.setText,
        )

    def _show_given(self, found: tuple[Given | None, Given | None]) -> None:
        self._before, after = found
        if after is None or self._before is None:
            self.verdict.setText("")
            return
        self.verdict.setText(replacement_verdict(self._before, after))
        self._facts.show_facts(replacement_facts(self._before, after))

    def done(self, result: int) -> None:
        self._tasks.cancel(_REPLACE)
        super().done(result)

    def _accept_nothing(self) -> None:
        self.takes_out = True
        self.accept()

    def _accept(self) -> None:
        if self.put_in.isEnabled():
            self.accept()
