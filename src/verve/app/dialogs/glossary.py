"""The glossary: a few letters find a term."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.labels import caption, heading, small_heading, text
from verve.core.glossary import GLOSSARY


class GlossaryDialog(QDialog):
    """Every term in two sentences, and where it matters."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Glossary")
        open_at(self, 620, 560)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Glossary"))
        self.search = QLineEdit()
        self.search.setPlaceholderText("phantom power, headroom, DI box …")
        self.search.setAccessibleName("Find a term")
        self.search.setToolTip("A few letters of a term, or of what is said of it")
        self.search.setClearButtonEnabled(True)
        layout.addWidget(self.search)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setAccessibleName("Terms")
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setSpacing(2)
        self.entries: list[tuple[str, tuple[QWidget, ...]]] = []
        for term in GLOSSARY:
            rows = (
                small_heading(term.name),
                text(term.says),
                caption(f"In Verve: {term.where}", wrap=True),
            )
            for row in rows:
                column.addWidget(row)
            self.entries.append((f"{term.name} {term.says}".casefold(), rows))
        self.nothing = caption("No term has these letters.")
        self.nothing.hide()
        column.addWidget(self.nothing)
        column.addStretch(1)
        area.setWidget(holder)
        layout.addWidget(area, 1)
        layout.addLayout(foot(self))
        self.search.textChanged.connect(self._filter)

    def _filter(self, words: str) -> None:
        wanted = words.strip().casefold()
        for said, rows in self.entries:
            for row in rows:
                row.setVisible(wanted in said)
        self.nothing.setVisible(not any(wanted in said for said, _ in self.entries))
