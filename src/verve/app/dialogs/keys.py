"""Every key on one page."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QGridLayout,
    QLabel,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.labels import heading, number, text


class ShortcutsDialog(QDialog):
    """Every key on one page."""

    def __init__(
        self, groups: Sequence[tuple[str, Sequence[tuple[str, str]]]], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        open_at(self, 620, 560)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Keys"))
        area = QScrollArea()
        area.setWidgetResizable(True)
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setColumnStretch(1, 1)
        grid.setHorizontalSpacing(18)
        row = 0
        for title, entries in groups:
            label = QLabel(title)
            label.setProperty("role", "small-heading")
            grid.addWidget(label, row, 0, 1, 2)
            row += 1
            for keys, does in entries:
                key = number(keys)
                key.setAlignment(Qt.AlignmentFlag.AlignLeft)
                grid.addWidget(key, row, 0)
                grid.addWidget(text(does), row, 1)
                row += 1
        grid.setRowStretch(row, 1)
        area.setWidget(holder)
        layout.addWidget(area, 1)
        layout.addLayout(foot(self))
