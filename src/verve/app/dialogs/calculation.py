"""The whole calculation of a line, to be read and copied."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.labels import heading


class CalculationDialog(QDialog):
    """The whole calculation of a line, to be read and copied."""

    def __init__(self, title: str, words: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Full calculation")
        open_at(self, 980, 640)
        layout = QVBoxLayout(self)
        layout.addWidget(heading(f"Full calculation: {title}"))
        self.text = QPlainTextEdit(words)
        self.text.setReadOnly(True)
        self.text.setFont(theme.numbers(9.5))
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setAccessibleName("Full calculation")
        layout.addWidget(self.text, 1)
        copy = QPushButton("Copy")
        copy.setToolTip("Puts all of it on the clipboard, as plain text")
        copy.clicked.connect(self._copy)
        layout.addLayout(foot(self, left=[copy]))

    def _copy(self) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.text.toPlainText())
