"""The title of a session and the room it is recorded in."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QDialog,
    QDoubleSpinBox,
    QFormLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import buttons
from verve.app.widgets.labels import heading
from verve.core.session import Room, Session, rename_session, set_room


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
        layout.addWidget(buttons(self, "Keep it"))

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
