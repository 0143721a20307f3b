"""A person's own gear from its data sheet: figures as sheets word them, understood and doubted."""

from verve.core.datasheet._own import (
    OwnEntry,
    OwnGear,
    entry_of,
    gear_from_csv,
    gear_from_json,
    gear_to_csv,
    gear_to_json,
    merged,
    read_gear,
    with_entry,
    without_entry,
    write_gear,
)
from verve.core.datasheet._sheets import FORMS, Made, Sheet, SheetKind, understand

__all__ = [
    "FORMS",
    "Made",
    "OwnEntry",
    "OwnGear",
    "Sheet",
    "SheetKind",
    "entry_of",
    "gear_from_csv",
    "gear_from_json",
    "gear_to_csv",
    "gear_to_json",
    "merged",
    "read_gear",
    "understand",
    "with_entry",
    "without_entry",
    "write_gear",
]
