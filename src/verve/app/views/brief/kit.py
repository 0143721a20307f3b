"""Kit: what is owned, borrowed or wished for, with how many of each."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.kit import KitDialog
from verve.app.document import Document
from verve.app.widgets.table import Table
from verve.core.datasheet import OwnGear
from verve.core.errors import InputError, VerveError
from verve.core.needs import Answered, parse_until
from verve.core.session import KitItem, Session, add_kit, read_kit, set_kit, write_kit

_FILES = "Kits (*.json);;All files (*)"
_UNTIL = 4
_STATUS = {"owned": "owned", "borrowed": "borrowed", "wished": "to be bought"}


class KitPage(QWidget):
    """A table of everything there is; quantities are written into it."""

    def __init__(self, document: Document, own_gear: Callable[[], OwnGear]) -> None:
        super().__init__()
        self._document, self._own_gear = document, own_gear
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        self.table = Table(
            ("Item", "how many", "kind", "whose", "until"),
            "The kit; what is borrowed or on approval can have a date",
            empty="Nothing here yet. Add what you own: microphones, boxes, interface, cables, stands. Only "
            "what is here is used for suggested connections.",
            numbers=(1,),
            writable=(1, _UNTIL),
        )
        layout.addWidget(self.table, 1)
        row = QHBoxLayout()
        self.add, self.remove = QPushButton("Add…"), QPushButton("Remove")
        self.bring, self.carry = QPushButton("Import…"), QPushButton("Export…")
        for button, says in (
            (self.add, "From the catalogue or your own gear, as many as you have"),
            (self.remove, "Removes the chosen item from the kit; undo brings it back"),
            (self.bring, "Adds everything of a kit file"),
            (self.carry, "Writes the kit to a file, for other sessions"),
        ):
            button.setToolTip(says)
            row.addWidget(button)
        row.addStretch(1)
        self._message = QLabel()
        row.addWidget(self._message)
        layout.addLayout(row)
        # ── connections ──
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        self.bring.clicked.connect(self._bring)
        self.carry.clicked.connect(self._carry)
        self.table.written.connect(self._write)

    def show_answer(self, _: Answered | None) -> None:
        """Draw the kit."""
        kit = self._document.session.kit
        rows = []
        for item in kit:
            kind = "Cable" if item.cable is not None else "Accessory"
            if item.device is not None:
                kind = item.device.title
            rows.append(
                (item.name, str(item.quantity), kind, _STATUS[item.status], item.until or "")
            )
        self.table.show_rows(rows)

    def _add(self) -> None:
        dialog = KitDialog(self._own_gear(), self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            items = dialog.items()

            def change(session: Session) -> Session:
                for item in items:
                    session, _ = add_kit(session, item)
                return session

            if items:
                self._document.edit("kit", change)
        dialog.deleteLater()

    def _remove(self) -> None:
        row, kit = self.table.currentRow(), self._document.session.kit
        if 0 <= row < len(kit):
            left = (*kit[:row], *kit[row + 1 :])
            self._document.edit(
                f"removal of {kit[row].name}", lambda session: set_kit(session, left)
            )

    def _write(self, row: int, column: int, words: str) -> None:
        kit = self._document.session.kit
        if row >= len(kit):
            return
        if column == _UNTIL:
            self._write_until(kit[row], words)
            return
        if column != 1:
            return
        try:
            quantity = int(words.strip())
        except ValueError:
            self._document.refused.emit(f"How many: must be a whole number from 0; got {words!r}")
            self.show_answer(None)
            return
        changed = kit[row].model_copy(update={"quantity": quantity})
        fresh = (*kit[:row], changed, *kit[row + 1 :])
        if not self._document.edit(f"how many of {changed.name}", lambda s: set_kit(s, fresh)):
            self.show_answer(None)

    def _write_until(self, item: KitItem, words: str) -> None:
        kit = self._document.session.kit
        try:
            until = parse_until(words)
        except InputError as error:
            self._document.refused.emit(str(error))
            self.show_answer(None)
            return
        status = "borrowed" if until is not None and item.status == "owned" else item.status
        changed = item.model_copy(update={"until": until, "status": status})
        fresh = tuple(changed if one is item else one for one in kit)
        self._document.edit(f"until when {item.name} is there", lambda s: set_kit(s, fresh))

    def _bring(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Import a kit", str(Path.home()), _FILES)
        if name:
            self.bring_in(Path(name))

    def bring_in(self, path: Path) -> None:
        """Add a kit file; one that is no kit is told, and nothing changes."""

        def change(session: Session) -> Session:
            for item in read_kit(path):
                session, _ = add_kit(session, item)
            return session

        self._document.edit(f"kit of {path.name}", change)

    def _carry(self) -> None:
        start = str(Path.home() / "kit.json")
        name, _ = QFileDialog.getSaveFileName(self, "Export the kit", start, _FILES)
        if name:
            self.carry_out(Path(name))

    def carry_out(self, path: Path) -> None:
        """Write the kit to a file."""
        try:
            write_kit(path, self._document.session.kit)
        except VerveError as error:
            self._document.refused.emit(str(error))
            return
        self._message.setText(f"Wrote {path.name}")
