"""What figures can be, by the unit in their name: far beyond all gear, near enough that sums stay finite.

Names carry units in all of Verve; so one table bounds every figure there is, and those of kinds to come.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final, NoReturn

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
    # Paths are written only for what is wrong: a file has thousands of figures, and nearly all are right.
    known: dict[str, tuple[float, float, float]] = {}
    waiting: list[tuple[_Path, str, Any]] = [((place, None), "", data)]
    while waiting:
        path, name, value = waiting.pop()
        if value.__class__ is dict:
            items: Any = value.items()
        elif value.__class__ is list:
            if len(value) > MOST_ENTRIES:
                rule = f"must have at most {MOST_ENTRIES} entries"
                raise InputError(_text(path), rule, len(value))
            items = enumerate(value)
        else:
            items = ((None, value),)
        for key, one in items:
            kind = one.__class__
            if kind is float or kind is int:
                own = key if key.__class__ is str else name
                limits = known.get(own)
                if limits is None:
                    limits = known[own] = _limits(own)
                low, high, least = limits
                if not low <= one <= high or (one and -least < one < least):
                    _refuse(path if key is None else (path, key), limits, one)
            elif kind is dict or kind is list:
                waiting.append(((path, key), key if key.__class__ is str else name, one))


_Path = tuple[Any, Any]


def _text(path: _Path) -> str:
    parts: list[str] = []
    while path[1] is not None:
        path, key = path
        parts.append(f"[{key}]" if isinstance(key, int) else f".{key}")
    return "".join((str(path[0]), *reversed(parts)))


def _limits(name: str) -> tuple[float, float, float]:
    unit = _unit(name)
    low, high = _ELSE if unit is None else _BOUNDS[unit]
    return low, high, _LEAST.get(unit or "", 0.0)


def _refuse(path: _Path, limits: tuple[float, float, float], value: float) -> NoReturn:
    low, high, least = limits
    if not low <= value <= high:
        raise InputError(_text(path), f"must be {number(low)} to {number(high)}", value)
    raise InputError(_text(path), f"must be 0 or at least {number(least)}", value)
