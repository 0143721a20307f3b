"""The door: the fields of a kind in, what they mean out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.datasheet import _boxes, _fields, _makers, _sources
from verve.core.datasheet._doubts import doubts
from verve.core.datasheet._makers import Made, Maker
from verve.core.datasheet._reader import Field, Reader, Row

SheetKind = Literal[
    "microphone",
    "interface",
    "preamp",
    "active_di",
    "passive_di",
    "splitter",
    "mixer",
    "pickup",
    "line_output",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetForm:
    """One kind of data sheet: what it is called and what it is asked for."""

    kind: SheetKind
    title: str
    fields: tuple[Field, ...]
    make: Maker


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
        """Fields that are hardly true."""
        return sum(bool(row.doubt) for row in self.rows.values())


FORMS: Final[Mapping[SheetKind, SheetForm]] = {
    form.kind: form
    for form in (
        SheetForm(
            kind="microphone",
            title="Microphone",
            fields=_fields.MICROPHONE,
            make=_makers.microphone,
        ),
        SheetForm(
            kind="interface", title="Interface", fields=_fields.INTERFACE, make=_boxes.interface
        ),
        SheetForm(kind="preamp", title="Preamp", fields=_fields.PREAMP, make=_makers.preamp),
        SheetForm(
            kind="active_di",
            title="Active DI box",
            fields=_fields.ACTIVE_DI,
            make=_makers.active_di,
        ),
        SheetForm(
            kind="passive_di",
            title="Passive DI box",
            fields=_fields.PASSIVE_DI,
            make=_makers.passive_di,
        ),
        SheetForm(
            kind="splitter",
            title="Microphone splitter",
            fields=_fields.SPLITTER,
            make=_makers.splitter,
        ),
        SheetForm(kind="mixer", title="Mixer", fields=_fields.MIXER, make=_boxes.mixer),
        SheetForm(kind="pickup", title="Coil pickup", fields=_fields.PICKUP, make=_sources.pickup),
        SheetForm(
            kind="line_output",
            title="Electronic output",
            fields=_fields.LINE_OUTPUT,
            make=_sources.line_output,
        ),
    )
}


def understand(kind: SheetKind, texts: Mapping[str, str]) -> Sheet:
    """What the fields of a data sheet mean; every field gets a row, whatever it holds."""
    form = FORMS[kind]
    reader = Reader({field.key: field for field in form.fields}, texts)
    name = " ".join(reader.text("name").split())
    if not name:
        reader.refuse("name", "is needed")
    figures = form.make(reader)
    if figures is not None:
        doubts(reader, figures)
    return Sheet(
        kind=kind,
        name=name,
        figures=figures if reader.is_whole else None,
        rows=dict(reader.rows),
    )
