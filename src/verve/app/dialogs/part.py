"""Adding a part: who, what they play, how it is taken."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.widgets.labels import caption, heading
from verve.core.catalogue import TAKES, Catalogue, part_of, takes_for
from verve.core.session import Part

_GROUPS = {
    "acoustic": "in the air",
    "pickup": "with a pickup",
    "piezo": "with a pickup",
    "line_output": "with an output",
}


class PartDialog(QDialog):
    """Finds a source by a few letters; Return adds it."""

    def __init__(self, entries: Catalogue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add a part")
        self.resize(560, 560)
        self._entries = entries
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Who plays what?"))
        layout.addWidget(caption("Type a few letters of what is played, and choose.", wrap=True))
        self.search = QLineEdit()
        self.search.setPlaceholderText("voice, violin, bass, keyboard …")
        self.search.setAccessibleName("What is played")
        self.search.setClearButtonEnabled(True)
        layout.addWidget(self.search)
        self.list = QListWidget()
        self.list.setAccessibleName("Sources")
        keys = sorted(entries.sources, key=lambda k: entries.sources[k].name.casefold())
        for key in keys:
            entry = entries.sources[key]
            item = QListWidgetItem(f"{entry.name}  ·  {_GROUPS[entry.figures.kind]}")
            item.setData(Qt.ItemDataRole.UserRole, key)
            self.list.addItem(item)
        layout.addWidget(self.list, 1)
        form = QFormLayout()
        self.take = QComboBox()
        self.take.setAccessibleName("How it is taken")
        self.performer, self.name = QLineEdit(), QLineEdit()
        for field, words in (
            (self.performer, "Who plays it"),
            (self.name, "What the line is called"),
        ):
            field.setMaxLength(80)
            field.setAccessibleName(words)
        form.addRow("Taken by", self.take)
        form.addRow("Who", self.performer)
        form.addRow("Call it", self.name)
        layout.addLayout(form)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        leave, self.add = QPushButton("Leave it"), QPushButton("Add it")
        self.add.setProperty("strong", "true")
        self.add.setDefault(True)
        buttons.addWidget(leave)
        buttons.addWidget(self.add)
        layout.addLayout(buttons)
        # ── connections ──
        self.search.textChanged.connect(self._filter)
        self.list.currentItemChanged.connect(lambda *_: self._show_source())
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        leave.clicked.connect(self.reject)
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

    def _filter(self, words: str) -> None:
        wanted = words.casefold().split()
        shown = []
        for row in range(self.list.count()):
            item = self.list.item(row)
            assert item is not None
            fits = all(word in item.text().casefold() for word in wanted)
            item.setHidden(not fits)
            if fits:
                shown.append(item)
        # What begins with the letters comes before what only has them somewhere.
        first = next((i for i in shown if i.text().casefold().startswith(words.casefold())), None)
        if shown:
            self.list.setCurrentItem(first or shown[0])
        self._show_source()

    def _show_source(self) -> None:
        key = self.key()
        self.add.setEnabled(key is not None)
        if key is None:
            return
        entry = self._entries.sources[key]
        self.take.clear()
        for take in takes_for(entry.figures):
            self.take.addItem(TAKES[take], take)
        if not self.name.isModified():
            self.name.setText(entry.name)
