"""The user's own gear: a data sheet entered in its own words, the list of all pieces, exchanging one."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.widgets.labels import caption, heading, restyle, text
from verve.core.datasheet import (
    FORMS,
    OwnEntry,
    OwnGear,
    Sheet,
    SheetKind,
    entry_of,
    merged,
    read_gear,
    understand,
    with_entry,
    without_entry,
    write_gear,
)
from verve.core.errors import VerveError
from verve.core.kind import Field, Row

_FILES = "Gear (*.json *.csv);;All files (*)"


class _FieldRow:
    """One figure: its name, what the sheet says, what was understood."""

    def __init__(
        self, grid: QGridLayout, row: int, field: Field, on_change: Callable[[], None]
    ) -> None:
        self.key, self._name = field.key, field.label
        self.label = text(field.label, wrap=False)
        self.label.setContentsMargins(0, 5, 0, 0)
        self.edit: QLineEdit | None = None
        self.choice: QComboBox | None = None
        self._values = [value for value, _ in field.choices]
        widget: QWidget
        if field.choices:
            self.choice = QComboBox()
            self.choice.addItems([words for _, words in field.choices])
            self.choice.currentIndexChanged.connect(lambda _: on_change())
            widget = self.choice
        else:
            self.edit = QLineEdit()
            self.edit.setPlaceholderText(field.example)
            self.edit.setMaxLength(200)
            self.edit.textChanged.connect(lambda _: on_change())
            widget = self.edit
        spoken = field.label.removeprefix("… ")
        widget.setAccessibleName(spoken)
        widget.setToolTip(f"{spoken}: {field.says}" if field.says else spoken)
        widget.setFixedWidth(250)
        self.field_widget = widget
        self.said = text()
        self.more = caption(wrap=True)
        right = QVBoxLayout()
        right.setSpacing(0)
        right.addWidget(self.said)
        right.addWidget(self.more)
        top = Qt.AlignmentFlag.AlignTop
        grid.addWidget(self.label, row, 0, top)
        grid.addWidget(widget, row, 1, top)
        grid.addLayout(right, row, 2)

    def value(self) -> str:
        """What stands in the field."""
        if self.edit is not None:
            return self.edit.text()
        assert self.choice is not None
        return self._values[max(0, self.choice.currentIndex())]

    def set_value(self, value: str) -> None:
        """Put something into the field."""
        if self.edit is not None:
            self.edit.setText(value)
        elif self.choice is not None and value in self._values:
            self.choice.setCurrentIndex(self._values.index(value))

    def show_row(self, row: Row, *, is_asked: bool) -> None:
        """Draw what became of it; a missing figure is not held against anybody before it is asked for."""
        is_missing = row.error == "is needed"
        wrong = bool(row.error) and (is_asked or not is_missing)
        restyle(self.field_widget, "wrong", "true" if wrong else "false")
        if row.error:
            said, more = (
                ("needed", "")
                if is_missing
                else ("not understood", row.error.removeprefix(f"{self._name}: "))
            )
        elif row.said:
            more = row.how
            if row.assumed:
                more += ("; " if more else "") + f"assumed: {row.assumed}"
            said = row.said
        else:
            said, more = "", f"assumed: {row.assumed}" if row.assumed else ""
        if row.doubt:
            more = f"Hardly true: {row.doubt}" + (f" ({more})" if more else "")
        restyle(self.said, "role", "muted" if row.error and not wrong else "")
        restyle(self.more, "role", "" if row.doubt or wrong else "muted")
        self.said.setText(said)
        self.said.setVisible(bool(said))
        self.more.setText(more)
        self.more.setVisible(bool(more))
        self.field_widget.setAccessibleDescription(" ".join(filter(None, (said, more))))


class DataSheetDialog(QDialog):
    """Takes figures as a data sheet words them, and shows at once what it understood."""

    def __init__(self, entry: OwnEntry | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("A data sheet")
        self.resize(900, 720)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("From a data sheet"))
        layout.addWidget(
            caption(
                "Type each figure as it is printed, unit and all. The right side says what was "
                "understood and what is assumed where the sheet says nothing.",
                wrap=True,
            )
        )
        top = QHBoxLayout()
        self.kind = QComboBox()
        self.kind.setAccessibleName("Kind of gear")
        self.kind.addItems([form.title for form in FORMS.values()])
        top.addWidget(text("It is a", wrap=False))
        top.addWidget(self.kind)
        top.addStretch(1)
        layout.addLayout(top)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout.addWidget(self._area, 1)
        self.verdict = text()
        layout.addWidget(self.verdict)
        row = QHBoxLayout()
        row.addStretch(1)
        leave = QPushButton("Leave it")
        self.keep = QPushButton("Keep it")
        self.keep.setProperty("strong", "true")
        self.keep.setDefault(True)
        row.addWidget(leave)
        row.addWidget(self.keep)
        layout.addLayout(row)
        self.rows: dict[str, _FieldRow] = {}
        self._is_asked = False
        if entry is not None:
            self.kind.setCurrentIndex(list(FORMS).index(entry.kind))
        self._show_form({} if entry is None else {**entry.sheet, "name": entry.name})
        # ── connections ──
        self.kind.currentIndexChanged.connect(lambda _: self._show_form(self.texts()))
        leave.clicked.connect(self.reject)
        self.keep.clicked.connect(self._try_keep)

    @property
    def sheet_kind(self) -> SheetKind:
        """The kind that is chosen."""
        return list(FORMS)[max(0, self.kind.currentIndex())]

    def texts(self) -> dict[str, str]:
        """What stands in all fields."""
        return {key: row.value() for key, row in self.rows.items()}

    def sheet(self) -> Sheet:
        """What it means."""
        return understand(self.sheet_kind, self.texts())

    def entry(self) -> OwnEntry:
        """The piece as entered.

        raises: InputError for one that is not whole
        """
        return entry_of(self.sheet_kind, self.texts())

    def _show_form(self, values: Mapping[str, str]) -> None:
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(2, 1)
        self.rows = {}
        for number, field in enumerate(FORMS[self.sheet_kind].fields):
            row = _FieldRow(grid, number, field, self._refresh)
            self.rows[field.key] = row
        for key, row in self.rows.items():
            if key in values:
                row.set_value(values[key])
        grid.setRowStretch(len(self.rows), 1)
        self._area.setWidget(inside)
        self._refresh()
        first = self.rows["name"].edit
        if first is not None:
            first.setFocus()

    def _refresh(self) -> None:
        if len(self.rows) < len(FORMS[self.sheet_kind].fields):
            return
        sheet = self.sheet()
        for key, row in self.rows.items():
            row.show_row(sheet.rows.get(key, Row()), is_asked=self._is_asked)
        self.verdict.setText(_verdict(sheet))

    def _try_keep(self) -> None:
        if self.sheet().figures is not None:
            self.accept()
            return
        self._is_asked = True
        self._refresh()
        sheet = self.sheet()
        for key, row in self.rows.items():
            if sheet.rows.get(key, Row()).error:
                row.field_widget.setFocus()
                self._area.ensureWidgetVisible(row.field_widget)
                break


def _verdict(sheet: Sheet) -> str:
    missing = sum(row.error == "is needed" for row in sheet.rows.values())
    wrong = sheet.errors - missing
    parts = []
    if wrong:
        parts.append(f"{wrong} not understood")
    if missing:
        parts.append(f"{missing} still needed")
    if sheet.doubts:
        parts.append(f"{sheet.doubts} hardly true")
    assumed = sum(bool(row.assumed) for row in sheet.rows.values())
    if assumed:
        parts.append(f"{assumed} with something assumed")
    return ("; ".join(parts) + ".").capitalize() if parts else "Everything is stated."


class MyGearDialog(QDialog):
    """Every piece of one's own: added from a data sheet, changed, taken out, carried elsewhere."""

    def __init__(self, gear: OwnGear, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("My gear")
        self.resize(760, 540)
        self.gear = gear
        self._before: list[OwnGear] = []
        layout = QVBoxLayout(self)
        layout.addWidget(heading("My gear"))
        self._empty = text(
            "Nothing here yet. Put in a microphone or an interface from its data sheet: it then stands "
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
        buttons = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for name, says, slot in (
            ("From a data sheet…", "Enter a piece figure by figure", self.add),
            ("Change…", "Open its data sheet again", self.change),
            ("Take out", "Take it off the list", self.remove),
            ("Undo", "Take the last change back. Shortcut: Ctrl+Z", self.undo),
            ("Bring in…", "Add all pieces of a JSON or CSV file", self.import_file),
            ("Carry out…", "Write all pieces to a JSON or CSV file", self.export_file),
        ):
            button = QPushButton(name)
            button.setToolTip(says)
            button.clicked.connect(slot)
            buttons.addWidget(button)
            self.buttons[name] = button
        buttons.addStretch(1)
        done = QPushButton("Done")
        done.setProperty("strong", "true")
        done.clicked.connect(self.accept)
        buttons.addWidget(done)
        layout.addLayout(buttons)
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
        for key in ("Change…", "Take out", "Carry out…"):
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
        name, _ = QFileDialog.getOpenFileName(self, "Bring gear in", str(Path.home()), _FILES)
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
            f"{came} brought in from {path.name}"
            + (f", {there} were here already." if there else ".")
        )

    def export_file(self) -> None:
        """Ask for a name and write all pieces."""
        start = str(Path.home() / "gear.csv")
        name, _ = QFileDialog.getSaveFileName(self, "Carry gear out", start, _FILES)
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
