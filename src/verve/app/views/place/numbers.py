"""Where something stands in figures: for whoever would rather type, or does not see the plan."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QWidget

from verve.app import theme
from verve.app.widgets.labels import caption_of
from verve.app.widgets.number import NumberField
from verve.core.place import Number

_FIELDS: Mapping[Number, tuple[str, str, float, float, str]] = {
    "distance_m": (
        "Distance",
        "m",
        0.02,
        10.0,
        "From the microphone to what it records; half as far is 6 dB louder",
    ),
    "bearing_deg": (
        "Around the source",
        "°",
        -360.0,
        360.0,
        "0 is where the source faces, 90 to its left hand",
    ),
    "rise_deg": (
        "Above the source",
        "°",
        -90.0,
        90.0,
        "0 is level with what sounds, 90 straight above it",
    ),
    "turn_deg": (
        "Turned past it",
        "°",
        -180.0,
        180.0,
        "0 is straight at the source; minus is to the left",
    ),
    "x_m": ("From the left wall", "m", -200.0, 200.0, "Metres"),
    "y_m": (
        "From the front wall",
        "m",
        -200.0,
        200.0,
        "Metres; the front wall is at the foot of the plan",
    ),
    "height_m": ("Height", "m", 0.0, 30.0, "Of what sounds, above the floor"),
    "facing_deg": ("Faces", "°", -360.0, 360.0, "0 is away from the front wall, 90 to the right"),
    "level_dba": (
        "Level at 1 m",
        "dBA",
        0.0,
        140.0,
        "Typical for such a thing; measure it where it matters",
    ),
}


class Numbers(QWidget):
    """Fields for the figures of what is chosen."""

    typed = pyqtSignal(str, float)
    """Which figure, and what it shall be."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: dict[Number, float] = {}
        self._of = ""
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        self.fields: dict[Number, NumberField] = {}
        self._names = {}
        for row, (name, (label, unit, low, high, says)) in enumerate(_FIELDS.items()):
            field = NumberField(label, unit, low=low, high=high, says=says)
            field.setMaximumWidth(theme.px(110))
            field.editingFinished.connect(lambda name=name: self._finish(name))
            self.fields[name] = field
            self._names[name] = caption_of(field, label)
            grid.addWidget(self._names[name], row, 0)
            grid.addWidget(field, row, 1)
        grid.setColumnStretch(0, 1)

    def show_numbers(self, of: str, numbers: Mapping[Number, float]) -> None:
        """Draw the figures there are; the others are not to be seen.

        `of` is what they belong to: what was typed for something else, and is no number, goes.
        """
        if of != self._of:
            self._of = of
            for field in self.fields.values():
                field.setModified(False)
        self._shown = dict(numbers)
        for name, field in self.fields.items():
            is_there = name in numbers
            field.setVisible(is_there)
            self._names[name].setVisible(is_there)
            if is_there and not field.isModified():
                field.show_number(round(numbers[name], 2))

    def _finish(self, name: Number) -> None:
        taken = self.fields[name].taken() if name in self._shown else None
        if taken is not None and taken[0] is not None:
            self.typed.emit(name, taken[0])
