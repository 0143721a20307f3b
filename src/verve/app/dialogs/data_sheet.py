"""A data sheet typed in as it is printed, understood figure by figure."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, heading, restyle, text
from verve.core.datasheet import (
    FORMS,
    OwnEntry,
    Sheet,
    SheetKind,
    entry_of,
    understand,
)
from verve.core.kind import Field, Row
from verve.core.words import capital


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
            self.choice = Choice()
            self.choice.addItems([words for _, words in field.choices])
            self.choice.currentIndexChanged.connect(lambda _: on_change())
            widget = self.choice
        else:
            self.edit = QLineEdit()
            self.edit.setPlaceholderText(field.example)
            self.edit.setMaxLength(200)
            self.edit.textChanged.connect(lambda _: on_change())
            widget = self.edit
        self.label.setBuddy(widget)
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
        is_missing = row.is_missing
        wrong = bool(row.error) and (is_asked or not is_missing)
        restyle(self.field_widget, "wrong", "true" if wrong else "false")
        if row.error:
            said, more = ("needed", "") if is_missing else ("not understood", row.rule)
        elif row.said:
            more = row.how
            if row.assumed:
                more += ("; " if more else "") + f"assumed: {row.assumed}"
            said = row.said
        else:
            said, more = "", f"assumed: {row.assumed}" if row.assumed else ""
        if row.doubt:
            more = f"Implausible: {row.doubt}" + (f" ({more})" if more else "")
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
        open_at(self, 900, 720)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("From a data sheet"))
        self._kept: OwnEntry | None = None
        layout.addWidget(
            caption(
                "Type each figure as it is printed, unit and all. The right side says what was "
                "understood and what is assumed where the sheet says nothing.",
                wrap=True,
            )
        )
        top = QHBoxLayout()
        self.kind = Choice()
        self.kind.setAccessibleName("Kind of gear")
        self.kind.addItems([form.title for form in FORMS.values()])
        top.addWidget(caption_of(self.kind, "It is a"))
        top.addWidget(self.kind)
        top.addStretch(1)
        layout.addLayout(top)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        layout.addWidget(self._area, 1)
        self.verdict = text()
        layout.addWidget(self.verdict)
        self.keep = QPushButton("Save")
        layout.addLayout(foot(self, self.keep))
        self.rows: dict[str, _FieldRow] = {}
        self._is_asked = False
        if entry is not None:
            self.kind.setCurrentIndex(list(FORMS).index(entry.kind))
        self._show_form({} if entry is None else {**entry.sheet, "name": entry.name})
        # ── connections ──
        self.kind.currentIndexChanged.connect(lambda _: self._show_form(self.texts()))
        self.keep.clicked.connect(self.accept)

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
        """The piece as it was entered when it was kept, whatever the form shows since; before that as it is now.

        raises: InputError for one that is not whole
        """
        return self._kept or entry_of(self.sheet_kind, self.texts())

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

    def accept(self) -> None:
        """Close it, unless something is missing or refused: that is shown, and stays."""
        if self.sheet().figures is not None:
            self._kept = self.entry()
            super().accept()
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
    missing = sum(row.is_missing for row in sheet.rows.values())
    wrong = sheet.errors - missing
    parts = []
    if wrong:
        parts.append(f"{wrong} not understood")
    if missing:
        parts.append(f"{missing} still needed")
    if sheet.doubts:
        parts.append(f"{sheet.doubts} implausible")
    assumed = sum(bool(row.assumed) for row in sheet.rows.values())
    if assumed:
        parts.append(f"{assumed} with something assumed")
    return capital("; ".join(parts)) + "." if parts else "Everything is stated."
