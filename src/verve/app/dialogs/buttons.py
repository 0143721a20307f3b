"""The two buttons at the foot of a dialog that asks something."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QPushButton


def buttons(dialog: QDialog, accept_text: str) -> QDialogButtonBox:
    """A button that does it, named for what it does, and one that leaves everything as it is."""
    box = QDialogButtonBox()
    accept = QPushButton(accept_text)
    accept.setProperty("strong", "true")
    accept.setDefault(True)
    box.addButton(accept, QDialogButtonBox.ButtonRole.AcceptRole)
    box.addButton(QPushButton("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
    box.accepted.connect(dialog.accept)
    box.rejected.connect(dialog.reject)
    return box
