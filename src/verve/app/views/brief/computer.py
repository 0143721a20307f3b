"""The computer: what it has, and whether it keeps up."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.widgets.labels import caption_of
from verve.app.widgets.number import NumberField
from verve.app.widgets.table import Table
from verve.core.errors import InputError
from verve.core.needs import Answered
from verve.core.session import Computer, set_computer


class ComputerPage(QWidget):
    """What the computer has, and whether it keeps up."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        row = QHBoxLayout()
        self.usb_a, self.usb_c = QCheckBox("USB A"), QCheckBox("USB C")
        self.usb_a.setAccessibleName("USB-A port")
        self.usb_c.setAccessibleName("USB-C port")
        row.addWidget(self.usb_a)
        row.addWidget(self.usb_c)
        self.fields: dict[str, NumberField] = {}
        for key, label, unit in (
            ("memory_gb", "memory", "GB"),
            ("free_disk_gb", "free disk", "GB"),
            ("write_mb_per_s", "disk speed", "MB/s"),
        ):
            field = NumberField(label, unit, low=0.0, high=1e6, is_needed=False)
            field.setFixedWidth(theme.px(84))
            field.editingFinished.connect(self._keep)
            row.addWidget(caption_of(field, label))
            row.addWidget(field)
            self.fields[key] = field
        row.addStretch(1)
        layout.addLayout(row)
        self.table = Table(
            ("Question", "answer", "result", "how"),
            "The computer",
            empty="What is known of the computer is listed here.",
            numbers=(1,),
            stretched=(3,),
            wraps=True,
        )
        layout.addWidget(self.table, 1)
        for box in (self.usb_a, self.usb_c):
            box.clicked.connect(lambda _: self._keep())

    def show_answer(self, answered: Answered | None) -> None:
        """Draw what is known of it."""
        computer = self._document.session.computer
        self.usb_a.setChecked("usb_a" in computer.sockets)
        self.usb_c.setChecked("usb_c" in computer.sockets)
        for key, field in self.fields.items():
            value = getattr(computer, key)
            if not field.hasFocus() and not field.is_wrong():
                field.show_number(value)
        words = {True: "yes", False: "no", None: "not known"}
        self.table.show_rows(
            []
            if answered is None
            else [(c.label, c.text, words[c.is_well], c.how) for c in answered.checks]
        )

    def _keep(self) -> None:
        values: dict[str, object] = {}
        for key, field in self.fields.items():
            try:
                values[key] = field.number() or None
            except InputError as error:
                # What was typed stays, framed, to be mended; everything else counts.
                values[key] = getattr(self._document.session.computer, key)
                self._document.refused.emit(str(error))
        names = (("usb_a", self.usb_a), ("usb_c", self.usb_c))
        sockets = tuple(key for key, box in names if box.isChecked())
        computer = Computer.model_validate({"sockets": sockets, **values})
        if computer != self._document.session.computer:
            self._document.edit("the computer", lambda session: set_computer(session, computer))
