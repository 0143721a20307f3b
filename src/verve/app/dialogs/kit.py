"""Putting things into the kit: the whole catalogue and one's own gear, each with how many."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QDialog,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.labels import caption, heading
from verve.app.widgets.table import Table
from verve.core.catalogue import Searched, kit_choices, search
from verve.core.datasheet import OwnGear
from verve.core.kind import is_device_figures
from verve.core.session import KitItem


def _searched(item: KitItem) -> Searched:
    figures = item.device or item.cable
    key = item.accessory or (None if figures is None else figures.entry) or ""
    words = () if item.device is None else item.device.search_words
    return Searched(name=item.name, key=key, kind_words=words)


class KitDialog(QDialog):
    """A long list with a search; a number written beside a thing puts so many of it in."""

    def __init__(self, own: OwnGear, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add to the kit")
        open_at(self, 620, 620)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("What do you have?"))
        layout.addWidget(
            caption(
                "Find it, and press + for each you have. Your own gear comes first; the rest are "
                "typical figures.",
                wrap=True,
            )
        )
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find")
        self.search.setAccessibleName("Find in the list")
        self.search.setClearButtonEnabled(True)
        layout.addWidget(self.search)
        self.table = Table(
            ("Item", "how many"),
            "Items to add",
            numbers=(1,),
            writable=(1,),
            empty="Nothing has these letters.",
        )
        layout.addWidget(self.table, 1)
        mine = [(e.name, e.figures) for e in own.entries if is_device_figures(e.figures)]
        self._all = kit_choices(mine)
        self._searched = tuple(_searched(item) for item in self._all)
        self._counts = [0] * len(self._all)
        self._shown: list[int] = []
        self.more = QPushButton("+")
        self.more.setToolTip("Adds one of the chosen item. Shortcut: Ctrl++")
        self.more.setShortcut("Ctrl++")
        self.more.setAutoDefault(False)
        self.put_in = QPushButton("Add")
        # Enter in the field adds one more of what is chosen.
        layout.addLayout(foot(self, self.put_in, left=[self.more], is_default=False))
        # ── connections ──
        self.search.textChanged.connect(lambda _: self._show())
        self.search.returnPressed.connect(self._one_more)
        self.more.clicked.connect(self._one_more)
        self.table.written.connect(self._write)
        self.put_in.clicked.connect(self.accept)
        self._show()
        self.search.setFocus()

    def items(self) -> tuple[KitItem, ...]:
        """Everything with a number."""
        return tuple(
            item.model_copy(update={"quantity": count})
            for item, count in zip(self._all, self._counts, strict=True)
            if count
        )

    def _show(self) -> None:
        self._shown = list(search(self.search.text(), self._searched))
        self.table.show_rows([(self._all[i].name, str(self._counts[i] or "")) for i in self._shown])
        if self._shown and self.table.currentRow() < 0:
            self.table.setCurrentCell(0, 0)
        total = sum(self._counts)
        self.put_in.setText(f"Add {total}" if total else "Add")

    def _one_more(self) -> None:
        row = max(0, self.table.currentRow())
        if row < len(self._shown):
            self._counts[self._shown[row]] += 1
            self._show()

    def _write(self, row: int, _: int, words: str) -> None:
        if row < len(self._shown):
            digits = words.strip()
            is_number = digits.isdigit() and len(digits) <= 3
            self._counts[self._shown[row]] = int(digits) if is_number else 0
            self._show()
