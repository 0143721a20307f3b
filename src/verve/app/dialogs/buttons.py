"""The row at the foot of a dialog, alike in all of them: what is done stands last, and leaving it before that."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPushButton


def foot(
    dialog: QDialog,
    last: QPushButton | None = None,
    *,
    left: Sequence[QPushButton] = (),
    also: Sequence[QPushButton] = (),
    is_default: bool = True,
) -> QHBoxLayout:
    """Other deeds at the left; then Cancel, what else could be done, and `last`, which Enter presses.

    Without `last` the dialog decides nothing and has Close alone. With `is_default` false Enter belongs to a field.
    """
    row = QHBoxLayout()
    for button in left:
        row.addWidget(button)
    row.addStretch(1)
    if last is None:
        last = QPushButton("Close")
        last.clicked.connect(dialog.accept)
    else:
        leave = QPushButton("Cancel")
        leave.setToolTip("Leaves everything as it is")
        leave.clicked.connect(dialog.reject)
        leave.setAutoDefault(is_default)
        row.addWidget(leave)
    for button in (*also, last):
        row.addWidget(button)
    last.setProperty("strong", "true")
    last.setAutoDefault(is_default)
    last.setDefault(is_default)
    return row
