"""What figures can be, by the unit in their name: far beyond all gear, near enough that sums stay finite.

Names carry units in all of Verve; so one table bounds every figure there is, and those of kinds to come.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from verve.core.errors import InputError
from verve.core.words import number

_DECIBELS: Final = (-300.0, 300.0)

_BOUNDS: Final[Mapping[str, tuple[float, float]]] = {
    "db": _DECIBELS,
    "dbu": _DECIBELS,
    "dbv": _DECIBELS,
    "dbfs": _DECIBELS,
    "dba": _DECIBELS,
    "dbfs_a": _DECIBELS,
    "gain_max_db": (-200.0, 200.0),
    "gain_min_db": (-200.0, 200.0),
    "gain_step_db": (0.0, 100.0),
    "ohm": (0.0, 1e12),
    "f": (0.0, 1.0),
    "f_per_m": (0.0, 1e-3),
    "ohm_per_m": (0.0, 1e6),
    "h": (0.0, 1e6),
    "m": (0.0, 1e5),
    "hz": (0.0, 1e7),
    "v": (-1e4, 1e4),
    "ma": (0.0, 1e5),
    "mv_per_pa": (0.0, 1e5),
    "a_per_rthz": (0.0, 1.0),
    "deg": (-360.0, 360.0),
    "s": (-1e4, 1e4),
    "seconds": (0.0, 1e6),
    "ratio": (0.0, 1e4),
    "m3": (0.0, 1e7),
    "gb": (0.0, 1e9),
    "quantity": (0.0, 10_000.0),
    "frames": (0.0, 1e12),
    "price": (0.0, 1e12),
    "w": (0.0, 1e6),
}
_LEAST: Final[Mapping[str, float]] = {
    "ohm": 1e-6,
    "gain_step_db": 1e-2,
    "f": 1e-18,
    "h": 1e-12,
    "m": 1e-4,
    "hz": 1e-6,
    "mv_per_pa": 1e-6,
    "ratio": 1e-4,
    "m3": 1e-3,
}
"""The least that is not nothing: smaller ones are slips, and make infinities of quotients."""
_ELSE: Final = (-1e15, 1e15)
MOST_ENTRIES: Final = 5000
"""How many things of a kind a file may have: beyond that it is no session."""


def bounds_of(name: str) -> tuple[float, float]:
    """From lowest to highest, for a figure of this name."""
    unit = _unit(name)
    return _ELSE if unit is None else _BOUNDS[unit]


def _unit(name: str) -> str | None:
    """The longest end of a name that is a unit."""
    parts = name.split("_")
    for begin in range(len(parts)):
        end = "_".join(parts[begin:])
        if end in _BOUNDS:
            return end
    return None


def check_bounds(data: object, place: str) -> None:
    """Look at every figure of what was read from a file, and at how much there is.

    raises: InputError naming the first one that cannot be
    """
    waiting: list[tuple[str, str, Any]] = [(place, "", data)]
    while waiting:
        where, name, value = waiting.pop()
        if value.__class__ is dict:
            waiting += [(f"{where}.{key}", key, one) for key, one in value.items()]
        elif value.__class__ is list:
            if len(value) > MOST_ENTRIES:
                raise InputError(where, f"must have at most {MOST_ENTRIES} entries", len(value))
            waiting += [(f"{where}[{at}]", name, one) for at, one in enumerate(value)]
        elif value.__class__ is float or value.__class__ is int:
            _check(where, name, value)


def _check(where: str, name: str, value: float) -> None:
    unit = _unit(name)
    low, high = _ELSE if unit is None else _BOUNDS[unit]
    if not low <= value <= high:
        raise InputError(where, f"must be {number(low)} to {number(high)}", value)
    least = _LEAST.get(unit or "", 0.0)
    if value and abs(value) < least:
        raise InputError(where, f"must be 0 or at least {number(least)}", value)
