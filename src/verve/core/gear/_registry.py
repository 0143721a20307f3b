"""Every kind of gear there is: a module in this package that defines one is found by being there."""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from pathlib import Path
from typing import Any

from verve.core.kind import DeviceFigures, SheetForm, SourceFigures

for _file in sorted(Path(__file__).parent.glob("_[a-z]*.py")):
    # The one place where modules are found by looking: a new kind is its module, and nobody lists it.
    import_module(f"verve.core.gear.{_file.stem}")

DEVICE_KINDS: Mapping[str, type[DeviceFigures]] = dict(DeviceFigures.kinds)
SOURCE_KINDS: Mapping[str, type[SourceFigures]] = dict(SourceFigures.kinds)

_SHEET_ORDER = ("microphone", "interface", "preamp", "active_di", "passive_di")
"""What people look for most stands first in a list of data sheets; the rest follows by its title."""


def sheet_forms() -> Mapping[str, SheetForm[Any]]:
    """The data sheets of all kinds that have one, by kind."""
    kinds: list[type[DeviceFigures] | type[SourceFigures]] = [
        *DEVICE_KINDS.values(),
        *SOURCE_KINDS.values(),
    ]
    forms = [kind.sheet for kind in kinds if kind.sheet is not None]

    def place(form: SheetForm[Any]) -> tuple[int, bool, str]:
        known = form.kind in _SHEET_ORDER
        rank = _SHEET_ORDER.index(form.kind) if known else len(_SHEET_ORDER)
        return rank, form.kind in SOURCE_KINDS, form.title

    return {form.kind: form for form in sorted(forms, key=place)}
