"""A data sheet: its fields, read one by one, keeping what was understood, assumed and doubted."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Generic, TypeVar

from verve.core.errors import InputError
from verve.core.words import Origin

_T = TypeVar("_T")
_Made = TypeVar("_Made")


@dataclass(frozen=True, slots=True, kw_only=True)
class Understood:
    """A figure as it was understood: its value, how it is said, how it was converted, what was assumed."""

    value: float
    said: str
    how: str = ""
    assumed: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """One thing a data sheet may state. `choices` are (value, words); without, it is text."""

    key: str
    label: str
    example: str = ""
    says: str = ""
    is_needed: bool = False
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """What became of one field: understood, how converted, assumed, doubted, or refused.

    `error` names the field, `rule` alone says what would be right; `is_missing` is a field that was needed.
    """

    said: str = ""
    how: str = ""
    assumed: str = ""
    doubt: str = ""
    error: str = ""
    rule: str = ""
    is_missing: bool = False


class Reader:
    """Takes fields off a sheet; afterwards `rows`, `origins` and `wordings` tell what it met."""

    def __init__(self, fields: Mapping[str, Field], texts: Mapping[str, str]) -> None:
        self._fields = fields
        self._texts = texts
        self.rows: dict[str, Row] = {}
        self.origins: dict[str, Origin] = {}
        self.wordings: dict[str, str] = {}

    @property
    def is_whole(self) -> bool:
        """Whether no field was refused or is missing."""
        return not any(row.error for row in self.rows.values())

    def text(self, key: str) -> str:
        """What was typed, trimmed; empty for nothing."""
        return self._texts.get(key, "").strip()

    def label(self, key: str) -> str:
        """What the field is called."""
        return self._fields[key].label

    def choice(self, key: str) -> str:
        """The chosen value; the first where none was chosen or it is no choice."""
        values = [value for value, _ in self._fields[key].choices]
        return self.text(key) if self.text(key) in values else values[0]

    def read(
        self,
        key: str,
        how: Callable[[str, str], Understood],
        figure: str,
        *,
        otherwise: float | None = None,
        because: str = "",
        above: float | None = None,
    ) -> float | None:
        """A number; where none is stated the assumed one, and it says why.

        `above`: the figure must be greater than this to be possible at all.
        """
        found = self.take(key, how)
        if isinstance(found, Understood):
            if above is not None and found.value <= above:
                self.refuse(key, f"must be greater than {above:g}")
                return otherwise
            self.wordings[figure] = self.text(key)
            self.rows[key] = Row(said=found.said, how=found.how, assumed=found.assumed)
            return found.value
        if key not in self.rows:
            self.assume(key, figure if otherwise is not None else "", because)
        return otherwise

    def take(self, key: str, how: Callable[[str, str], _T]) -> _T | None:
        """A field in whatever form; None where it is empty or refused."""
        if not self.text(key):
            if self._fields[key].is_needed:
                self.miss(key)
            return None
        try:
            return how(self.label(key), self.text(key))
        except InputError as error:
            self.rows[key] = Row(error=str(error), rule=error.what)
            return None

    def miss(self, key: str) -> None:
        """Mark a field that is empty and must not be."""
        self.rows[key] = Row(error=f"{self.label(key)}: is needed", is_missing=True)

    def refuse(self, key: str, why: str) -> None:
        """Mark a field as one that cannot be; `why` is what would be right."""
        self.rows[key] = Row(error=f"{self.label(key)}: {why}", rule=why)

    def assume(self, key: str, figure: str, because: str) -> None:
        """Say what holds where nothing was stated."""
        self.rows[key] = Row(assumed=because)
        if figure:
            self.origins[figure] = "assumed"

    def doubt(self, key: str, why: str) -> None:
        """Warn of a figure that is possible but implausible."""
        row = self.rows.get(key, Row())
        if not row.error and not row.doubt:
            self.rows[key] = replace(row, doubt=why)


def _no_doubts(_: Reader, __: object) -> None:
    """Every figure of such a sheet is plausible."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetForm(Generic[_Made]):
    """One kind of data sheet: what it is called, what it is asked for, and what comes of it.

    `doubts` adds a warning to every row whose figure is implausible.
    """

    kind: str
    title: str
    fields: tuple[Field, ...]
    make: Callable[[Reader], _Made | None]
    doubts: Callable[[Reader, _Made], None] = _no_doubts


def numbers_of(label: str, text: str) -> tuple[int, ...]:
    """Input numbers from "1-2, 5": every number once, rising; none for "none".

    raises: InputError for anything else, or beyond 64
    """
    said = text.replace("\u2013", "-").replace("−", "-").strip().lower()
    if said in {"", "none", "no", "0"}:
        return ()
    found: set[int] = set()
    for item in re.split(r"[,;\s]+", re.sub(r"\s*-\s*", "-", said)):
        match = re.fullmatch(r"(\d{1,2})(?:-(\d{1,2}))?", item)
        if match is None:
            raise InputError(label, "must be numbers of inputs like 1-2 or 1, 3, 5-8", text)
        first, last = int(match[1]), int(match[2] or match[1])
        if not 1 <= first <= last <= 64:
            raise InputError(label, "must be numbers from 1 to 64", text)
        found |= set(range(first, last + 1))
    return tuple(sorted(found))
