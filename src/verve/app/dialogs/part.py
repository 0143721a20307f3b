"""Adding a part: who, what they play, how it is taken."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, heading
from verve.core.catalogue import TAKES, Catalogue, Searched, part_of, search, takes_for
from verve.core.session import Part


class PartDialog(QDialog):
    """Finds a source by a few letters; Return adds it."""

    def __init__(self, entries: Catalogue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add a part")
        open_at(self, 560, 560)
        self._entries = entries
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Who plays what?"))
        layout.addWidget(caption("Type a few letters of what is played, and choose.", wrap=True))
        self.search = QLineEdit()
        self.search.setPlaceholderText("singer, electric guitar, drums, keys …")
        self.search.setAccessibleName("What is played")
        self.search.setClearButtonEnabled(True)
        layout.addWidget(self.search)
        self.list = QListWidget()
        self.list.setAccessibleName("Sources")
        # In the order of the catalogue: what is usual stands first.
        self._played = entries.played()
        self._keys = tuple(self._played)
        self._searched = tuple(
            Searched(name=entry.name, key=key, kind_words=entry.figures.search_words)
            for key, entry in self._played.items()
        )
        self._list(sorted(self._keys, key=lambda k: self._played[k].name.casefold()))
        layout.addWidget(self.list, 1)
        form = QFormLayout()
        self.take = Choice()
        self.take.setAccessibleName("How it is recorded")
        self.performer, self.name = QLineEdit(), QLineEdit()
        for field, words in (
            (self.performer, "Who plays it"),
            (self.name, "What the signal is called"),
        ):
            field.setMaxLength(80)
            field.setAccessibleName(words)
        form.addRow("Recorded with", self.take)
        form.addRow("Who", self.performer)
        form.addRow("Call it", self.name)
        layout.addLayout(form)
        self.add = QPushButton("Add")
        layout.addLayout(foot(self, self.add))
        # ── connections ──
        self.search.textChanged.connect(self._filter)
        self.list.currentItemChanged.connect(lambda *_: self._show_source())
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        self.add.clicked.connect(self.accept)
        self.list.setCurrentRow(0)
        self.search.setFocus()

    def key(self) -> str | None:
        """The chosen source."""
        item = self.list.currentItem()
        return None if item is None or item.isHidden() else str(item.data(Qt.ItemDataRole.UserRole))

    def accept(self) -> None:
        """Close with what is chosen; with nothing chosen it stays open."""
        if self.key() is not None:
            super().accept()

    def part(self) -> Part:
        """The part as entered."""
        key = self.key()
        assert key is not None
        return part_of(
            self._entries,
            key,
            self.take.currentData(),
            name=self.name.text(),
            performer=self.performer.text(),
        )

    def _list(self, keys: Sequence[str]) -> None:
        self.list.clear()
        for key in keys:
            entry = self._played[key]
            item = QListWidgetItem(f"{entry.name}  ·  {entry.figures.found_as}")
            item.setData(Qt.ItemDataRole.UserRole, key)
            self.list.addItem(item)

    def _filter(self, words: str) -> None:
        if words.strip():
            # The likeliest first.
            self._list([self._keys[at] for at in search(words, self._searched)])
        else:
            names = self._played
            self._list(sorted(self._keys, key=lambda key: names[key].name.casefold()))
        self.list.setCurrentRow(0)
        self._show_source()

    def _show_source(self) -> None:
        key = self.key()
        self.add.setEnabled(key is not None)
        if key is None:
            return
        entry = self._played[key]
        self.take.clear()
        for take in takes_for(self._entries, entry.figures):
            self.take.addItem(TAKES[take], take)
        if not self.name.isModified():
            self.name.setText(entry.name)
