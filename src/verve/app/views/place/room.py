"""The room in three presses."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from verve.app.widgets.beside import Beside, group
from verve.core.air import Size, size_of
from verve.core.session import Furnishing, Room

_SIZES: tuple[tuple[Size, str, str], ...] = (
    ("small", "Small", "A bedroom: about 4 × 3 m"),
    ("medium", "Medium", "A rehearsal room: about 7 × 5 m"),
    ("large", "Large", "A hall: about 16 × 10 m"),
)
_FURNISHINGS: tuple[tuple[Furnishing, str, str], ...] = (
    ("bare", "Bare", "Plaster, boards, glass: it rings long"),
    ("furnished", "Furnished", "Furniture, books, a carpet"),
    ("soft", "Soft", "Carpets, curtains, mattresses on the walls: it hardly rings"),
)


class RoomBar(QWidget):
    """Size and furnishing, each one of three; numbers for whoever has them."""

    size_chosen = pyqtSignal(str)
    furnishing_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.sizes, sizes = self._three(_SIZES, "Size of the room")
        self.furnishings, furnishings = self._three(_FURNISHINGS, "Furnishing of the room")
        self.numbers = QPushButton("In numbers…")
        self.numbers.setToolTip(
            "Length, width, height, volume, reverberation time and noise of the room"
        )
        row.addWidget(Beside(sizes, group(furnishings, self.numbers)))
        for key, button in self.sizes.items():
            button.clicked.connect(lambda _, key=key: self.size_chosen.emit(key))
        for key, button in self.furnishings.items():
            button.clicked.connect(lambda _, key=key: self.furnishing_chosen.emit(key))

    def _three(
        self, entries: tuple[tuple[str, str, str], ...], name: str
    ) -> tuple[dict[str, QPushButton], QWidget]:
        together = QButtonGroup(self)
        together.setExclusive(False)
        found = {}
        for key, label, says in entries:
            button = QPushButton(label)
            button.setCheckable(True)
            button.setToolTip(says)
            button.setAccessibleName(f"{name}: {label.lower()}")
            together.addButton(button)
            found[key] = button
        row = QWidget()
        inside = QHBoxLayout(row)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(4)
        for button in found.values():
            inside.addWidget(button)
        inside.addStretch(1)
        return found, row

    def show_room(self, room: Room) -> None:
        """Draw which of them the room is."""
        size = size_of(room)
        for key, button in self.sizes.items():
            button.setChecked(key == size)
        now = None if room.reverberation_s is not None else room.furnishing
        for key, button in self.furnishings.items():
            button.setChecked(key == now)
