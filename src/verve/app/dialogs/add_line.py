"""Adding a line: a whole chain and its name."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QDialog,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.labels import caption, heading, text
from verve.core.catalogue import Catalogue, Chain


class AddLineDialog(QDialog):
    """Chooses a whole chain and a name for its line."""

    def __init__(self, entries: Catalogue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add a signal")
        open_at(self, 560, 460)
        self._entries = entries
        layout = QVBoxLayout(self)
        layout.setSpacing(8)
        layout.addWidget(heading("Add a signal"))
        layout.addWidget(caption("A whole chain, from the source to a free input of an interface."))
        self.list = QListWidget()
        self.list.setAccessibleName("Chains")
        self.list.setSpacing(3)
        for chain in entries.chains:
            self.list.addItem(chain.name)
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        layout.addWidget(self.list, 1)
        self._says = text()
        self._parts = caption(wrap=True)
        layout.addWidget(self._says)
        layout.addWidget(self._parts)
        self.name = QLineEdit()
        self.name.setMaxLength(60)
        self.name.setAccessibleName("Name of the new signal")
        form = QFormLayout()
        form.addRow("Call it", self.name)
        layout.addLayout(form)
        accept = QPushButton("Add")
        accept.clicked.connect(self.accept)
        layout.addLayout(foot(self, accept))
        self.list.currentRowChanged.connect(self._show_chain)
        self.list.setCurrentRow(0)
        self.list.setFocus()

    def chain(self) -> Chain:
        """What was chosen."""
        return self._entries.chains[max(0, self.list.currentRow())]

    def line_name(self) -> str:
        """What it shall be called."""
        return self.name.text().strip() or self.chain().line_name

    def _show_chain(self, _: int) -> None:
        chain = self.chain()
        self._says.setText(chain.says)
        first = chain.lines[0]
        names = [self._entries.sources[first.source].name]
        names += [self._entries.devices[key].name for key in first.devices]
        side = f"{len(chain.lines)} signals: " if len(chain.lines) > 1 else ""
        self._parts.setText(f"{side}{' → '.join(names)} → {first.mode} input")
        if not self.name.isModified():
            self.name.setText(chain.line_name)
