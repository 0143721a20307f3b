"""One stage under the corridor: its controls and what it has."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import (
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.widgets.controls import ControlEditor
from verve.app.widgets.labels import caption, text
from verve.core.explain import Span
from verve.core.gain import dial_short
from verve.core.kind import Control, ControlValue
from verve.core.session import lock_control


class StageColumn(QWidget):
    """What stands under one stage of the corridor: its name, what it is, what can be set."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(3, 2, 3, 2)
        layout.setSpacing(2)
        self._title, self._notes = text(), caption(wrap=True)
        font = self._title.font()
        font.setWeight(QFont.Weight.DemiBold)
        self._title.setFont(font)
        for label in (self._title, self._notes):
            label.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
            layout.addWidget(label)
        self._editors: list[ControlEditor] = []
        self._layout = layout
        layout.addStretch(1)

    def show_span(self, span: Span) -> None:
        """Draw another stage, or the same with other settings."""
        self._title.setText(span.title)
        notes = list(span.notes)
        if span.gain is not None and span.gain.is_dial:
            notes.append(dial_short(span.gain, float(span.gain.value or 0.0)))
        self._notes.setText(" · ".join(notes))
        wanted = [(c.owner, c.channel, c.name, c.kind) for c in span.controls]
        if [editor.kind_key for editor in self._editors] != wanted:
            for editor in self._editors:
                self._layout.removeWidget(editor)
                editor.deleteLater()
            self._editors = [
                ControlEditor(c, self._send, stacked=True, keep=self._keep) for c in span.controls
            ]
            for index, editor in enumerate(self._editors):
                self._layout.insertWidget(2 + index, editor)
        for editor, control in zip(self._editors, span.controls, strict=True):
            editor.show_control(control)

    def _send(self, control: Control, value: ControlValue) -> None:
        self._document.set_control(f"{control.said} of {self._title.text()}", control, value)

    def _keep(self, control: Control, on: bool) -> None:
        what = f"{control.said} of {self._title.text()}"
        self._document.edit(
            f"locking the {what}" if on else f"unlocking the {what}",
            lambda now: lock_control(
                now, control.owner, control.channel, control.name, is_locked=on
            ),
        )
