"""Lengths as people measure them: metres, centimetres, feet and inches."""

from __future__ import annotations

import re

from verve.core.errors import InputError
from verve.core.units import METRES_PER_FOOT

_UNITS_M = {
    "m": 1.0, "cm": 0.01, "mm": 0.001, "ft": METRES_PER_FOOT, "feet": METRES_PER_FOOT,
    "foot": METRES_PER_FOOT, "'": METRES_PER_FOOT, "′": METRES_PER_FOOT, "in": METRES_PER_FOOT / 12.0,
    "inch": METRES_PER_FOOT / 12.0, "inches": METRES_PER_FOOT / 12.0, '"': METRES_PER_FOOT / 12.0,
    "″": METRES_PER_FOOT / 12.0,
}  # fmt: skip
_NUMBER = r"\d+(?:[.,]\d+)?|[.,]\d+"
_PART = re.compile(rf"({_NUMBER})\s*([a-z'′\"″]+)?")


def metres(label: str, text: str) -> float | None:
    """A length that somebody typed: "60 cm", "0,6", "2 ft 3 in", "2'3\\""; metres without a unit. None for nothing.

    raises: InputError for what is no length
    """
    said = text.strip().casefold().replace("−", "-").replace("–", "-")
    if not said:
        return None
    is_below, said = said.startswith("-"), said.removeprefix("-").strip()
    total, at, parts = 0.0, 0, 0
    while at < len(said) or not parts:
        found = _PART.match(said, at)
        unit = "m" if found is not None and found[2] is None else found[2] if found else None
        if (
            found is None
            or unit not in _UNITS_M
            or (found[2] is None and (parts or found.end() < len(said)))
        ):
            raise InputError(label, "must be a length: 0.6 m, 60 cm, 2 ft 3 in", text)
        total += float(found[1].replace(",", ".")) * _UNITS_M[unit]
        at, parts = found.end(), parts + 1
        while at < len(said) and said[at] == " ":
            at += 1
    return -total if is_below else total
