"""Editors for the things that can be set: a field for a range, a choice, a switch."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, restyle
from verve.core.errors import InputError
from verve.core.kind import Control, ControlValue, control_text, parse_control

Send = Callable[[Control, ControlValue], object]
Keep = Callable[[Control, bool], object]
_NAME_WIDTH = 40
_KEPT = frozenset({"gain_db", "pad_db", "fader_db"})
"""What is set by itself on request, and so may be kept out of it."""
_FINE_SHARE = 0.1


class RangeField(QLineEdit):
    """A number with its unit. A wrong text stays, framed, with the rule; up and down nudge it."""

    sent = pyqtSignal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self._control: Control | None = None
        self.setFont(theme.numbers(10.0))
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setMinimumWidth(56)
        self.setMaximumWidth(theme.px(110))
        self.editingFinished.connect(self._finish)
        self.textEdited.connect(lambda _: self._mark_wrong(""))

    def show_control(self, control: Control) -> None:
        """Draw a control's value, unless the person is just typing another."""
        changed = self._control is None or self._control.value != control.value
        self._control = control
        self.setAccessibleName(control.label)
        if changed or not self.isModified():
            self.setText(control_text(control, control.value))
            self._mark_wrong("")

    def _mark_wrong(self, rule: str) -> None:
        control = self._control
        restyle(self, "wrong", "true" if rule else "false")
        if control is not None:
            self.setToolTip(rule or f"{control.effect}. It {control.rule()}.")

    def _finish(self) -> None:
        control = self._control
        if control is None or not self.isModified():
            return
        try:
            value = parse_control(control, self.text())
        except InputError as error:
            self._mark_wrong(str(error))
            return
        self.setModified(False)
        if value == control.value:
            self.setText(control_text(control, value))
        else:
            self.sent.emit(control, value)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        control = self._control
        if event is None or control is None:
            return
        ways = {Qt.Key.Key_Up: 1.0, Qt.Key.Key_Down: -1.0}
        way = ways.get(Qt.Key(event.key()))
        if way is not None:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            step = control.step * (_FINE_SHARE if fine else 1.0)
            value = control.clamped(round(float(control.value or 0.0) + way * step, 4))
            self.setModified(False)
            if value != control.value:
                self.sent.emit(control, value)
        elif event.key() == Qt.Key.Key_Escape and self.isModified():
            self.setModified(False)
            self.show_control(control)
        else:
            super().keyPressEvent(event)


class ControlEditor(QWidget):
    """One control with its name; what it becomes depends on what kind it is.

    With `keep` a gain, pad or fader has a toggle beside its name that keeps it where it is.
    """

    def __init__(
        self, control: Control, send: Send, *, stacked: bool = False, keep: Keep | None = None
    ) -> None:
        super().__init__()
        self._send = send
        self._control = control
        layout: QVBoxLayout | QHBoxLayout = QVBoxLayout(self) if stacked else QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1 if stacked else 8)
        self._field: RangeField | None = None
        self._choice: QComboBox | None = None
        self._switch: QCheckBox | None = None
        self._is_stacked = stacked
        self.keep: QPushButton | None = None
        self._name_row: QHBoxLayout | None = None
        if control.kind == "switch" and stacked:
            layout.addWidget(caption(control.label, wrap=True))
        if control.kind == "switch":
            self._switch = QCheckBox(control.label)
            self._switch.clicked.connect(lambda on: self._send(self._control, on))
            layout.addWidget(self._switch)
        else:
            if control.kind == "choice":
                self._choice = Choice()
                self._choice.setAccessibleName(control.label)
                self._choice.activated.connect(self._chosen)
            else:
                self._field = RangeField()
                self._field.sent.connect(self._send)
            editor = self._field if self._choice is None else self._choice
            assert editor is not None
            name = caption_of(editor, control.label, wrap=stacked)
            if keep is not None and control.name in _KEPT:
                self.keep = QPushButton()
                self.keep.setProperty("small", "true")
                self.keep.setCheckable(True)
                self.keep.clicked.connect(lambda on: keep(self._control, on))
                self._name_row = QHBoxLayout()
                self._name_row.setSpacing(2)
                # Beside its name, however wide the stage is: the room beyond goes to neither.
                name.setMaximumWidth(theme.px(150))
                self._name_row.addWidget(name, 100)
                self._name_row.addWidget(self.keep)
                self._name_row.addStretch(1)
                layout.addLayout(self._name_row)
            else:
                layout.addWidget(name)
            layout.addWidget(editor)
        layout.addStretch(1)
        self.show_control(control)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self._name_row is not None and self.keep is not None:
            # In a narrow column name and toggle stand one above the other.
            is_narrow = self.width() < self.keep.sizeHint().width() + _NAME_WIDTH
            ways = QBoxLayout.Direction
            self._name_row.setDirection(ways.TopToBottom if is_narrow else ways.LeftToRight)

    @property
    def kind_key(self) -> tuple[str, str, str, str]:
        """What this editor can stand for without being made anew."""
        c = self._control
        return (c.owner, c.channel, c.name, c.kind)

    def show_control(self, control: Control) -> None:
        """Draw another value of the same control."""
        self._control = control
        if self.keep is not None:
            self.keep.setChecked(control.is_locked)
            self.keep.setText("locked" if control.is_locked else "lock")
            self.keep.setAccessibleName(f"Lock {control.said}")
            self.keep.setToolTip(
                "Locked: setting gains leaves it where it is. Press to unlock"
                if control.is_locked
                else "Lock it: setting gains works around it"
            )
        if self._field is not None:
            self._field.show_control(control)
        elif self._switch is not None:
            state = control_text(control, control.value)
            said = f"{control.label}: {state}"
            self._switch.setText(state if self._is_stacked else said)
            self._switch.setAccessibleName(said)
            self._switch.setChecked(bool(control.value))
            self._switch.setToolTip(control.effect)
        elif self._choice is not None:
            texts = [control_text(control, value) for value in control.choices]
            if [self._choice.itemText(i) for i in range(self._choice.count())] != texts:
                self._choice.clear()
                self._choice.addItems(texts)
            self._choice.setCurrentIndex(control.choices.index(control.value))
            self._choice.setToolTip(control.effect)

    def _chosen(self, index: int) -> None:
        value = self._control.choices[index]
        if value != self._control.value:
            self._send(self._control, value)
