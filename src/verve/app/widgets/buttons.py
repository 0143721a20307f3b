"""Buttons, each with what it does to the sound or the safety."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QPushButton


def push(
    words: str, says: str, slot: Callable[[], object] | None = None, *, strong: bool = False
) -> QPushButton:
    """A button with its tooltip; `slot` is done when it is pressed, `strong` is the one that is meant most."""
    button = QPushButton(words)
    button.setToolTip(says)
    if strong:
        button.setProperty("strong", "true")
    if slot is not None:
        button.clicked.connect(lambda _: slot())
    return button
