"""The door: the fields of a kind in, what they mean out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from verve.core.gear import sheet_forms
from verve.core.kind import DeviceFigures, Reader, Row, SheetForm, SourceFigures

Made = DeviceFigures | SourceFigures
SheetKind = str
"""The name of a kind that has a data sheet."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A data sheet as it was understood; `figures` is None while something is missing or refused."""

    kind: SheetKind
    name: str
    figures: Made | None
    rows: Mapping[str, Row]

    @property
    def errors(self) -> int:
        """Fields that are missing or refused."""
        return sum(bool(row.error) for row in self.rows.values())

    @property
    def doubts(self) -> int:
        """Fields that are implausible."""
        return sum(bool(row.doubt) for row in self.rows.values())


FORMS: Mapping[SheetKind, SheetForm[Any]] = sheet_forms()


def understand(kind: SheetKind, texts: Mapping[str, str]) -> Sheet:
    """What the fields of a data sheet mean; every field gets a row, whatever it holds."""
    form = FORMS[kind]
    reader = Reader({field.key: field for field in form.fields}, texts)
    name = " ".join(reader.text("name").split())
    if not name:
        reader.miss("name")
    figures = form.make(reader)
    if figures is not None:
        form.doubts(reader, figures)
    return Sheet(
        kind=kind,
        name=name,
        figures=figures if reader.is_whole else None,
        rows=dict(reader.rows),
    )
