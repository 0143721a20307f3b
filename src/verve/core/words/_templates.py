"""Sentences as templates with named places; what is written into a place is formatted here and nowhere else."""

from __future__ import annotations

import re
import string
from collections.abc import Callable, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import TypeAlias

from verve.core.words._format import article, capital, listed, number, ohm_text, plural

Place: TypeAlias = str | float | Sequence[str]
"""What a place of a template holds: words, names as people typed them, a number, or several names."""
Places: TypeAlias = Mapping[str, Place]
NO_PLACES: Places = MappingProxyType({})

_NUMBER = re.compile(r"(?P<sign>\+?)(?P<decimals>\.\d|g)(?P<percent>%?)(?P<unit>(?: .+)?)")


def _later(words: str) -> str:
    """The same as the later part of a sentence."""
    return words[:1].lower() + words[1:]


_WORDS: Mapping[str, Callable[[str], str]] = {"a": article, "capital": capital, "later": _later}
_PARSER = string.Formatter()


def _number_text(value: Place, spec: str) -> str:
    if not isinstance(value, int | float):
        raise TypeError(f"{value!r} is no number, as {spec!r} needs one")
    if spec.startswith("n "):
        one, _, many = spec[2:].partition("|")
        return plural(int(value), one, many)
    if spec == "ohm":
        return ohm_text(value)
    found = _NUMBER.fullmatch(spec)
    if found is None:
        raise ValueError(f"{spec!r}: is no way to write a number")
    decimals = None if found["decimals"] == "g" else int(found["decimals"][1:])
    if found["percent"]:
        return number(value * 100.0, decimals, sign=bool(found["sign"])) + "%"
    return number(value, decimals, sign=bool(found["sign"])) + found["unit"]


def _text(value: Place, spec: str) -> str:
    """One place, written; a number without a way to write it is a slip, as are words with one."""
    if spec == "list":
        if isinstance(value, str | float | int):
            raise TypeError(f"{value!r}: needs several names")
        return listed(value)
    if spec in _WORDS:
        return _WORDS[spec](str(value))
    if spec:
        return _number_text(value, spec)
    if isinstance(value, str) or (isinstance(value, int) and not isinstance(value, bool)):
        return str(value)
    raise TypeError(f"{value!r}: needs a way to write it")


def fill(template: str, places: Places = NO_PLACES, /, **more: Place) -> str:
    """A template with its places filled in: `fill("{peak_dbfs:+.1 dBFS} at {where}", …)`.

    A place says how it is written: `:+.1 dBFS` with sign, one decimal and unit, `:g dB` as short as it is
    exact, `:.0%` a share, `:ohm` an impedance, `:n line|lines` a count with its noun, `:list` several
    names, `:a` with its article, `:capital` and `:later` with a capital or a small first letter. What is
    filled in is never read as a template itself, whatever people call things.

    raises: KeyError for a place nothing is given for; TypeError, ValueError for a number without format
    """
    given = {**places, **more}
    return "".join(
        before if name is None else before + _text(given[name], spec or "")
        for before, name, spec, _ in _PARSER.parse(template)
    )


def places_of(template: str) -> Iterator[tuple[str, str]]:
    """The places of a template and how each is written."""
    for _, name, spec, _ in _PARSER.parse(template):
        if name is not None:
            yield name, spec or ""
