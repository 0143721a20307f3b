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
from verve.core.session import Room, Session, rename_session, set_room


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
        self._numbers = (self.noise_dba, self.volume_m3, self.reverberation_s)
        for field, value in zip(
            self._numbers, (room.noise_dba, room.volume_m3, room.reverberation_s), strict=True
        ):
            field.show_number(value)
        form.addRow("Title", self.title)
        form.addRow("Room", self.room_name)
        form.addRow("Background noise", self.noise_dba)
        form.addRow("Size", self.volume_m3)
        form.addRow("Reverberation", self.reverberation_s)
        layout.addLayout(form)
        accept = QPushButton("Apply")
        accept.clicked.connect(self.accept)
        layout.addLayout(foot(self, accept))

    def apply(self, session: Session) -> Session:
        """The session with what was entered.

        raises: EditError for an empty title; InputError for a number that is none
        """
        room = Room(
            name=self.room_name.text().strip(),
            noise_dba=self.noise_dba.number() or 0.0,
            volume_m3=self.volume_m3.number(),
            reverberation_s=self.reverberation_s.number(),
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
