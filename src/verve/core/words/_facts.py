"""A number that reaches a person: its unit, its origin, and how it came about."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Origin = Literal["data_sheet", "typical", "measured", "assumed", "yours"]
"""Where a figure comes from; `typical` is the catalogue's."""
FactOrigin = Literal["data_sheet", "typical", "measured", "assumed", "yours", "computed", "set"]

ORIGIN_WORDS: Mapping[str, str] = {
    "data_sheet": "data sheet",
    "typical": "typical figure",
    "measured": "measured",
    "assumed": "assumed",
    "yours": "your figure",
    "computed": "computed",
    "set": "as set",
}
"""Where a number comes from, as a person is told."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact:
    """A number that reaches a person, with its unit, where it comes from and how it came about."""

    label: str
    text: str
    origin: FactOrigin
    how: str = ""
