"""The few windows beside the main one: add a line, the session and its room, the shortcuts."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.widgets.labels import caption, heading, number, text
from verve.core.catalogue import Catalogue, Chain
from verve.core.session import Room, Session, rename_session, set_room


def _buttons(dialog: QDialog, accept_text: str) -> QDialogButtonBox:
    buttons = QDialogButtonBox()
    accept = QPushButton(accept_text)
    accept.setProperty("strong", "true")
    accept.setDefault(True)
    buttons.addButton(accept, QDialogButtonBox.ButtonRole.AcceptRole)
    buttons.addButton(QPushButton("Leave it"), QDialogButtonBox.ButtonRole.RejectRole)
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    return buttons


class AddLineDialog(QDialog):
    """Chooses a whole chain and a name for its line."""

    def __init__(self, entries: Catalogue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add a line")
        self.resize(560, 460)
        self._entries = entries
        layout = QVBoxLayout(self)
        layout.setSpacing(8)
        layout.addWidget(heading("Add a line"))
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
        self.name.setAccessibleName("Name of the new line")
        form = QFormLayout()
        form.addRow("Call it", self.name)
        layout.addLayout(form)
        layout.addWidget(_buttons(self, "Add it"))
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
        side = f"{len(chain.lines)} lines: " if len(chain.lines) > 1 else ""
        self._parts.setText(f"{side}{' → '.join(names)} → {first.mode} input")
        if not self.name.isModified():
            self.name.setText(chain.line_name)


class SessionDialog(QDialog):
    """The session's title and the room it is recorded in."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Session and room")
        self._session = session
        room = session.setup.room
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Session and room"))
        form = QFormLayout()
        self.title = QLineEdit(session.title)
        self.title.setMaxLength(80)
        self.room_name = QLineEdit(room.name)
        self.noise_dba = _box(room.noise_dba, 0.0, 90.0, " dBA")
        self.noise_dba.setToolTip(
            "Background noise with everybody silent: 20 a quiet studio, 30 a quiet room, 45 a street side"
        )
        self.volume_m3 = _box(room.volume_m3 or 0.0, 0.0, 100_000.0, " m³")
        self.volume_m3.setSpecialValueText("not known")
        self.reverberation_s = _box(room.reverberation_s or 0.0, 0.0, 20.0, " s")
        self.reverberation_s.setSpecialValueText("not known")
        form.addRow("Title", self.title)
        form.addRow("Room", self.room_name)
        form.addRow("Background noise", self.noise_dba)
        form.addRow("Size", self.volume_m3)
        form.addRow("Reverberation", self.reverberation_s)
        layout.addLayout(form)
        layout.addWidget(_buttons(self, "Keep it"))

    def apply(self, session: Session) -> Session:
        """The session with what was entered.

        raises: EditError for an empty title
        """
        room = Room(
            name=self.room_name.text().strip(),
            noise_dba=self.noise_dba.value(),
            volume_m3=self.volume_m3.value() or None,
            reverberation_s=self.reverberation_s.value() or None,
        )
        return set_room(rename_session(session, self.title.text()), room)


def _box(value: float, low: float, high: float, unit: str) -> QDoubleSpinBox:
    box = QDoubleSpinBox()
    box.setRange(low, high)
    box.setDecimals(1)
    box.setSuffix(unit)
    box.setValue(value)
    return box


class CalculationDialog(QDialog):
    """The whole calculation of a line, to be read and copied."""

    def __init__(self, title: str, words: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("The whole calculation")
        self.resize(980, 640)
        layout = QVBoxLayout(self)
        layout.addWidget(heading(f"The whole calculation: {title}"))
        self.text = QPlainTextEdit(words)
        self.text.setReadOnly(True)
        self.text.setFont(theme.numbers(9.5))
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setAccessibleName("The whole calculation")
        layout.addWidget(self.text, 1)
        row = QHBoxLayout()
        copy = QPushButton("Copy it")
        copy.setToolTip("Puts all of it on the clipboard, as plain text")
        copy.clicked.connect(self._copy)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        row.addWidget(copy)
        row.addStretch(1)
        row.addWidget(close)
        layout.addLayout(row)

    def _copy(self) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.text.toPlainText())


class ShortcutsDialog(QDialog):
    """Every key on one page."""

    def __init__(
        self, groups: Sequence[tuple[str, Sequence[tuple[str, str]]]], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.resize(620, 560)
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
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        layout.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
