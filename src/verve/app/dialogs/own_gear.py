"""The user's own gear: a list to add to, change and take away from."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.data_sheet import DataSheetDialog
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.labels import heading, text
from verve.core.datasheet import (
    FORMS,
    OwnEntry,
    OwnGear,
    merged,
    read_gear,
    understand,
    with_entry,
    without_entry,
    write_gear,
)
from verve.core.errors import VerveError
from verve.core.kind import Row

_FILES = "Gear (*.json *.csv);;All files (*)"


class MyGearDialog(QDialog):
    """Every piece of one's own: added from a data sheet, changed, taken out, carried elsewhere."""

    def __init__(self, gear: OwnGear, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("My gear")
        open_at(self, 760, 540)
        self.gear = gear
        self._before: list[OwnGear] = []
        layout = QVBoxLayout(self)
        layout.addWidget(heading("My gear"))
        self._empty = text(
            "Nothing here yet. Add a microphone or an interface from its data sheet: it then stands "
            "first wherever gear is chosen, in every session."
        )
        layout.addWidget(self._empty)
        row = QHBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName("My gear")
        self.list.setSpacing(2)
        row.addWidget(self.list, 2)
        right = QVBoxLayout()
        self._says = text()
        right.addWidget(self._says, 1, Qt.AlignmentFlag.AlignTop)
        row.addLayout(right, 3)
        layout.addLayout(row, 1)
        self._message = QLabel()
        self._message.setTextFormat(Qt.TextFormat.PlainText)
        self._message.setWordWrap(True)
        self._message.setProperty("role", "small-heading")
        layout.addWidget(self._message)
        self.buttons: dict[str, QPushButton] = {}
        for name, says, slot in (
            ("From a data sheet…", "Enter a piece figure by figure", self.add),
            ("Change…", "Open its data sheet again", self.change),
            ("Remove", "Removes it from the list", self.remove),
            ("Undo", "Take the last change back. Shortcut: Ctrl+Z", self.undo),
            ("Import…", "Add all pieces of a JSON or CSV file", self.import_file),
            ("Export…", "Write all pieces to a JSON or CSV file", self.export_file),
        ):
            button = QPushButton(name)
            button.setToolTip(says)
            button.clicked.connect(slot)
            self.buttons[name] = button
        layout.addLayout(foot(self, left=list(self.buttons.values())))
        self.buttons["Undo"].setShortcut(QKeySequence("Ctrl+Z"))
        self.list.currentRowChanged.connect(lambda _: self._show_piece())
        self.list.itemDoubleClicked.connect(lambda _: self.change())
        self._show()

    def _put(self, gear: OwnGear, name: str = "") -> None:
        self._before.append(self.gear)
        self.gear = gear
        self._message.setText("")
        self._show(name)

    def undo(self) -> None:
        """Take the last change back."""
        if self._before:
            self.gear = self._before.pop()
            self._show()

    def _show(self, name: str = "") -> None:
        self.list.clear()
        self.list.addItems([entry.name for entry in self.gear.entries])
        names = [entry.name for entry in self.gear.entries]
        self.list.setCurrentRow(names.index(name) if name in names else len(names) - 1)
        self._empty.setVisible(not names)
        for key in ("Change…", "Remove", "Export…"):
            self.buttons[key].setEnabled(bool(names))
        self.buttons["Undo"].setEnabled(bool(self._before))
        self._show_piece()

    def _chosen(self) -> OwnEntry | None:
        row = self.list.currentRow()
        return self.gear.entries[row] if 0 <= row < len(self.gear.entries) else None

    def _show_piece(self) -> None:
        entry = self._chosen()
        if entry is None:
            self._says.setText("")
            return
        form, rows = (
            FORMS[entry.kind],
            understand(entry.kind, {**entry.sheet, "name": entry.name}).rows,
        )
        lines = [form.title]
        for field in form.fields:
            said = entry.sheet.get(field.key, "")
            if said and field.key != "name":
                words = dict(field.choices).get(said, said)
                row = rows.get(field.key, Row())
                means = f" = {row.said}" if row.said and row.said != words else ""
                lines.append(f"{field.label.removeprefix('… ')}: {words}{means}")
        self._says.setText("\n".join(lines))

    def add(self) -> None:
        """Enter a piece."""
        dialog = DataSheetDialog(None, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            gear = with_entry(self.gear, dialog.entry())
            self._put(gear, gear.entries[-1].name)
        dialog.deleteLater()

    def change(self) -> None:
        """Open the data sheet of the chosen piece."""
        entry = self._chosen()
        if entry is None:
            return
        dialog = DataSheetDialog(entry, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            changed = dialog.entry()
            self._put(with_entry(self.gear, changed, instead_of=entry.name), changed.name)
        dialog.deleteLater()

    def remove(self) -> None:
        """Take the chosen piece out."""
        entry = self._chosen()
        if entry is not None:
            self._put(without_entry(self.gear, entry.name))

    def import_file(self) -> None:
        """Ask for a file and add its pieces."""
        name, _ = QFileDialog.getOpenFileName(self, "Import gear", str(Path.home()), _FILES)
        if name:
            self.bring_in(Path(name))

    def bring_in(self, path: Path) -> None:
        """Add the pieces of a file; one that is no gear is told and nothing changes."""
        try:
            found = read_gear(path)
        except VerveError as error:
            self._message.setText(str(error))
            return
        before = len(self.gear.entries)
        self._put(merged(self.gear, found))
        came = len(self.gear.entries) - before
        there = len(found.entries) - came
        self._message.setText(
            f"{came} imported from {path.name}"
            + (f", {there} were here already." if there else ".")
        )

    def export_file(self) -> None:
        """Ask for a name and write all pieces."""
        start = str(Path.home() / "gear.csv")
        name, _ = QFileDialog.getSaveFileName(self, "Export gear", start, _FILES)
        if name:
            self.carry_out(Path(name))

    def carry_out(self, path: Path) -> None:
        """Write all pieces to a file."""
        try:
            write_gear(path, self.gear)
        except VerveError as error:
            self._message.setText(str(error))
            return
        self._message.setText(f"Wrote {len(self.gear.entries)} to {path}.")
