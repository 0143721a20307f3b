"""The one field for a number that somebody types: both decimal marks, the unit or none, wrong text kept."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit

from verve.app import theme
from verve.app.widgets.labels import restyle
from verve.core.errors import InputError
from verve.core.quantities import amount, metres
from verve.core.words import number

_MINUS_SIGNS = ("-", "−", "–")
_SPELLINGS = {"m³": ("m3", "m^3", "cbm"), "dBA": ("db(a)", "db a", "db"), "s": ("sec", "seconds")}
"""How people write units that a keyboard lacks, or write otherwise."""


class NumberField(QLineEdit):
    """A number with its unit, or nothing for what is not known.

    A text that is none stays as it was typed, framed, with the rule as its tooltip.
    """

    def __init__(
        self,
        label: str,
        unit: str,
        *,
        low: float,
        high: float,
        says: str = "",
        is_needed: bool = True,
    ) -> None:
        super().__init__()
        self._label, self._unit, self._says = label, unit, says
        self._low, self._high, self._is_needed = low, high, is_needed
        self.setAccessibleName(label)
        self.setFont(theme.numbers(10.0))
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        if not is_needed:
            self.setPlaceholderText("not known")
        self.textChanged.connect(lambda _: self._mark())
        self._mark()

    def show_number(self, value: float | None) -> None:
        """Draw a value; None is nothing."""
        text = "" if value is None else f"{number(value)} {self._unit}".rstrip()
        self.setText(text)

    def taken(self) -> tuple[float | None] | None:
        """What was typed since it was drawn, once; None where nothing was, or no number."""
        if not self.isModified():
            return None
        try:
            value = self.number()
        except InputError:
            return None
        self.setModified(False)
        return (value,)

    def number(self) -> float | None:
        """What was typed; None for nothing.

        raises: InputError for anything else, or out of range
        """
        value = metres(self._label, self.text()) if self._unit == "m" else self._amount()
        if value is None:
            if self._is_needed and not self.text().strip():
                raise InputError(self._label, self._rule(), self.text())
            return None
        if not math.isfinite(value) or not self._low <= value <= self._high:
            raise InputError(self._label, self._rule(), self.text())
        return value

    def _amount(self) -> float | None:
        """What was typed, without its unit and with its sign."""
        said = self.text().strip().casefold()
        for unit in (self._unit, *_SPELLINGS.get(self._unit, ())):
            said = said.removesuffix(unit.casefold()).strip() if unit else said
        is_below = self._low < 0.0 and said[:1] in _MINUS_SIGNS
        value = amount(self._label, said[1:] if is_below else said)
        return -value if value is not None and is_below else value

    def is_wrong(self) -> bool:
        """Whether what stands there is no such number."""
        return bool(self.property("wrong") == "true")

    def _rule(self) -> str:
        return f"must be {number(self._low)} to {number(self._high)} {self._unit}".rstrip()

    def _mark(self) -> None:
        try:
            self.number()
            wrong = ""
        except InputError as error:
            wrong = str(error)
        restyle(self, "wrong", "true" if wrong else "false")
        self.setToolTip(wrong or self._says or f"{self._label}: {self._rule()}")
