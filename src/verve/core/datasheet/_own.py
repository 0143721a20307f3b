"""A person's own gear: kept in one file of theirs, carried as JSON or CSV."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Annotated, Literal

from pydantic import AfterValidator, ValidationError
from pydantic import Field as Limited

from verve.core.datasheet._sheets import FORMS, Made, SheetKind, understand
from verve.core.errors import InputError, from_validation_error
from verve.core.files import read_text, write_atomically
from verve.core.forms import body_of
from verve.core.kind import (
    DeviceFigures,
    Frozen,
    FrozenMap,
    SourceFigures,
    is_device_figures,
)
from verve.core.session import free_name

FORMAT = "verve-gear"
VERSION = 1
_HEADER = ("name", "kind", "field", "as printed", "understood")
_LARGEST_BYTES = 20_000_000


def _known_kind(kind: str) -> str:
    """raises: InputError for a kind that has no data sheet"""
    if kind not in FORMS:
        raise InputError("kind", f"must be one of {', '.join(FORMS)}", kind)
    return kind


class OwnEntry(Frozen):
    """One piece: its name, what its data sheet says in the sheet's words, and the figures of it."""

    name: Annotated[str, Limited(min_length=1, max_length=80)]
    kind: Annotated[str, AfterValidator(_known_kind)]
    sheet: FrozenMap[str, str]
    device: DeviceFigures | None = None
    source: SourceFigures | None = None

    @property
    def figures(self) -> Made:
        """Its figures, whichever it is."""
        found = self.device if self.device is not None else self.source
        assert found is not None
        return found


class OwnGear(Frozen):
    """All of it; no two pieces have one name."""

    format: Literal["verve-gear"] = "verve-gear"
    version: Literal[1] = 1
    entries: tuple[OwnEntry, ...] = ()

    def find(self, name: str) -> OwnEntry | None:
        """A piece by its name."""
        return next((entry for entry in self.entries if entry.name == name), None)


def entry_of(kind: SheetKind, texts: Mapping[str, str]) -> OwnEntry:
    """A piece from its data sheet.

    raises: InputError naming the field that is missing or refused
    """
    sheet = understand(kind, texts)
    if sheet.figures is None:
        key = next(key for key, row in sheet.rows.items() if row.error)
        label = next(field.label for field in FORMS[kind].fields if field.key == key)
        rule = sheet.rows[key].rule or "is needed"
        raise InputError(f"{sheet.name or FORMS[kind].title}, {label}", rule)
    kept = {key: text.strip() for key, text in texts.items() if text.strip()}
    role = "device" if is_device_figures(sheet.figures) else "source"
    try:
        entry = {"name": sheet.name[:80], "kind": kind, "sheet": kept, role: sheet.figures}
        return OwnEntry.model_validate(entry)
    except ValidationError as error:
        raise from_validation_error(error, FORMS[kind].title) from None


def with_entry(gear: OwnGear, entry: OwnEntry, *, instead_of: str = "") -> OwnGear:
    """The gear with one more piece, or with one in the place of another; a taken name gets a number."""
    others = tuple(e for e in gear.entries if e.name != instead_of)
    name = free_name(entry.name, {e.name for e in others})
    fresh = entry.model_copy(update={"name": name})
    place = next((i for i, e in enumerate(gear.entries) if e.name == instead_of), len(others))
    return gear.model_copy(update={"entries": (*others[:place], fresh, *others[place:])})


def without_entry(gear: OwnGear, name: str) -> OwnGear:
    """The gear without one piece."""
    return gear.model_copy(update={"entries": tuple(e for e in gear.entries if e.name != name)})


def merged(gear: OwnGear, other: OwnGear) -> OwnGear:
    """Both together: what is there already comes once, another of the same name gets a number."""
    for entry in other.entries:
        if entry not in gear.entries:
            gear = with_entry(gear, entry)
    return gear


def gear_to_json(gear: OwnGear) -> str:
    """The text of a gear file."""
    return json.dumps(gear.model_dump(mode="json", exclude_none=True), ensure_ascii=False, indent=1)


def gear_from_json(text: str, place: str) -> OwnGear:
    """raises: InputError naming place and remedy if it is not one, or of a newer version"""
    body = body_of(text, place, form=FORMAT, newest=VERSION, what="a gear file")
    try:
        return OwnGear.model_validate_json(json.dumps(body))
    except ValidationError as error:
        raise from_validation_error(error, f"{place}: gear") from None


def gear_to_csv(gear: OwnGear) -> str:
    """One row for each field of each sheet, as printed there and as understood."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(_HEADER)
    for entry in gear.entries:
        rows = understand(entry.kind, entry.sheet).rows
        for field in FORMS[entry.kind].fields:
            text = entry.name if field.key == "name" else entry.sheet.get(field.key, "")
            if text:
                row = rows.get(field.key)
                writer.writerow((entry.name, entry.kind, field.key, text, row.said if row else ""))
    return out.getvalue()


def gear_from_csv(text: str, place: str) -> OwnGear:
    """The gear of a table with the columns name, kind, field and "as printed".

    Semicolons or tabs between the columns are understood as well; what "understood" says is not read.

    raises: InputError naming line and column
    """
    lines = text.lstrip("\ufeff").splitlines()
    mark = max(",;\t", key=lines[0].count) if lines else ","
    sheets: dict[str, tuple[str, dict[str, str], int]] = {}
    reader = csv.DictReader(lines, delimiter=mark)
    missing = [column for column in _HEADER[:4] if column not in _columns(reader, place)]
    if missing:
        raise InputError(f"{place}: line 1", f"must have the columns {', '.join(_HEADER[:4])}")
    for number, row in enumerate(_rows(reader, place), 2):
        name, kind = (row["name"] or "").strip(), (row["kind"] or "").strip()
        key, said = (row["field"] or "").strip(), (row["as printed"] or "").strip()
        if not any((name, kind, key, said)):
            continue
        where = f"{place}: line {number}"
        if kind not in FORMS:
            raise InputError(f"{where}, kind", f"must be one of {', '.join(FORMS)}", kind)
        if not name:
            raise InputError(f"{where}, name", "must name the piece the row is about")
        fields = {field.key for field in FORMS[kind].fields}
        if key not in fields:
            raise InputError(f"{where}, field", f"must be one of {', '.join(sorted(fields))}", key)
        known = sheets.setdefault(name, (kind, {"name": name}, number))
        if known[0] != kind:
            raise InputError(f"{where}, kind", f"must be {known[0]} as above for {name}", kind)
        if key != "name":
            known[1][key] = said
    gear = OwnGear()
    for kind, texts, number in sheets.values():
        try:
            gear = with_entry(gear, entry_of(kind, texts))
        except InputError as error:
            raise InputError(f"{place}: from line {number}, {error.place}", error.rule) from None
    return gear


def _columns(reader: csv.DictReader[str], place: str) -> Sequence[str]:
    """raises: InputError for a first line that is none of a table"""
    try:
        return reader.fieldnames or ()
    except csv.Error as error:
        raise InputError(f"{place}: line 1", f"is no line of a table ({error})") from None


def _rows(reader: csv.DictReader[str], place: str) -> Iterator[dict[str, str]]:
    """raises: InputError naming the line that is none of a table"""
    try:
        yield from reader
    except csv.Error as error:
        raise InputError(
            f"{place}: line {reader.line_num}", f"is no line of a table ({error})"
        ) from None


def read_gear(path: Path) -> OwnGear:
    """Gear from a JSON or CSV file; none at all from a file that is not there.

    raises: FileError if it cannot be read; InputError if it is not gear
    """
    if not path.exists():
        return OwnGear()
    text = read_text(path, largest_bytes=_LARGEST_BYTES, what="gear", encoding="utf-8-sig")
    if path.suffix.lower() in {".csv", ".tsv", ".txt"}:
        return gear_from_csv(text, path.name)
    return gear_from_json(text, path.name)


def write_gear(path: Path, gear: OwnGear) -> None:
    """Write gear whole or not at all; CSV where the name ends so, else JSON.

    raises: FileError if it cannot be written
    """
    is_csv = path.suffix.lower() == ".csv"
    write_atomically(path, gear_to_csv(gear) if is_csv else gear_to_json(gear) + "\n")
