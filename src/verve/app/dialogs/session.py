"""The title of a session and the room it is recorded in."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QDialog,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.widgets.labels import heading
from verve.app.widgets.number import NumberField
from verve.core.errors import InputError
from verve.core.session import Session, rename_session, set_room


class SessionDialog(QDialog):
    """The session's title and the room it is recorded in."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Session and room")
        self.setMinimumWidth(420)
        self._session = session
        room = session.setup.room
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Session and room"))
        form = QFormLayout()
        self.title = QLineEdit(session.title)
        self.title.setMaxLength(80)
        self.room_name = QLineEdit(room.name)
        self.noise_dba = NumberField(
            "Background noise",
            "dBA",
            low=0.0,
            high=90.0,
            says="With everybody silent: 20 a quiet studio, 30 a quiet room, 45 a street side",
        )
        self.volume_m3 = NumberField("Size", "m³", low=1.0, high=100_000.0, is_needed=False)
        self.reverberation_s = NumberField(
            "Reverberation", "s", low=0.05, high=20.0, is_needed=False
        )
        self.length_m, self.width_m, self.height_m = (
            NumberField(name, "m", low=1.0, high=200.0, is_needed=False, says=says)
            for name, says in (
                ("Length", "From the left wall to the right one on the plan"),
                ("Width", "From the front wall to the back one on the plan"),
                ("Height", "From floor to ceiling"),
            )
        )
        self.floor, self.ceiling, self.walls = (
            NumberField(f"{name}", "%", low=1.0, high=99.0, is_needed=False, says=says)
            for name, says in (
                ("Floor", "Of the sound that meets it: stone 2, boards 8, carpet 30; empty: as furnished"),
                ("Ceiling", "Plaster 5, boards 10, acoustic tiles 60; empty: as furnished"),
                ("Walls", "Stone 2, plaster 5, full shelves 30, heavy curtains 50; empty: as furnished"),
            )
        )  # fmt: skip
        shown = (
            (self.noise_dba, room.noise_dba),
            (self.length_m, room.length_m),
            (self.width_m, room.width_m),
            (self.height_m, room.height_m),
            (self.volume_m3, room.volume_m3),
            (self.reverberation_s, room.reverberation_s),
            *(
                (field, None if share is None else round(100.0 * share, 1))
                for field, share in (
                    (self.floor, room.floor_absorption),
                    (self.ceiling, room.ceiling_absorption),
                    (self.walls, room.walls_absorption),
                )
            ),
        )
        self._numbers = tuple(field for field, _ in shown)
        for field, value in shown:
            field.show_number(value)
        form.addRow("Title", self.title)
        form.addRow("Room", self.room_name)
        form.addRow("Background noise", self.noise_dba)
        form.addRow("Length", self.length_m)
        form.addRow("Width", self.width_m)
        form.addRow("Height", self.height_m)
        form.addRow("Size", self.volume_m3)
        form.addRow("Reverberation", self.reverberation_s)
        form.addRow("Floor absorbs", self.floor)
        form.addRow("Ceiling absorbs", self.ceiling)
        form.addRow("Walls absorb", self.walls)
        layout.addLayout(form)
        accept = QPushButton("Apply")
        accept.clicked.connect(self.accept)
        layout.addLayout(foot(self, accept))

    def apply(self, session: Session) -> Session:
        """The session with what was entered.

        raises: EditError for an empty title; InputError for a number that is none
        """
        room = session.setup.room.model_copy(
            update={
                "name": self.room_name.text().strip(),
                "noise_dba": self.noise_dba.number() or 0.0,
                "length_m": self.length_m.number(),
                "width_m": self.width_m.number(),
                "height_m": self.height_m.number(),
                "volume_m3": self.volume_m3.number(),
                "reverberation_s": self.reverberation_s.number(),
                "floor_absorption": _share(self.floor),
                "ceiling_absorption": _share(self.ceiling),
                "walls_absorption": _share(self.walls),
            }
        )
        return set_room(rename_session(session, self.title.text()), room)

    def accept(self) -> None:
        """Close it, unless a number is none: that one is shown, and stays."""
        for field in self._numbers:
            try:
                field.number()
            except InputError:
                field.setFocus()
                field.selectAll()
                return
        super().accept()


def _share(field: NumberField) -> float | None:
    percent = field.number()
    return None if percent is None else percent / 100.0
