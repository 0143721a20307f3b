"""How large a dialog opens: as large as is good for it, and never larger than the window it belongs to."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog

from verve.app import theme

_MARGIN_PX = 24


def open_at(dialog: QDialog, width: int, height: int) -> None:
    """Give a dialog its size, for letters of the usual size; larger ones ask for more."""
    width, height = theme.px(width), theme.px(height)
    parent = dialog.parentWidget()
    if parent is not None:
        room = parent.window()
        if room is not None:
            width = min(width, room.width() - _MARGIN_PX)
            height = min(height, room.height() - _MARGIN_PX)
    dialog.resize(width, height)
