"""Kit files: what somebody owns, with quantities, to be carried from session to session."""

from __future__ import annotations

import json
from pathlib import Path

from pydantic import ValidationError

from verve.core.errors import from_validation_error
from verve.core.files import path_text, read_text, write_atomically
from verve.core.forms import body_of
from verve.core.kind import Frozen
from verve.core.session._brief import KitItem

KIT_FORMAT = "verve-kit"
_VERSION = 1
_LARGEST_BYTES = 20_000_000


class _KitFile(Frozen):
    kit: tuple[KitItem, ...]


def kit_to_json(kit: tuple[KitItem, ...]) -> str:
    """The text of a kit file."""
    body = {
        "format": KIT_FORMAT,
        "version": _VERSION,
        "kit": [item.model_dump(mode="json", exclude_none=True) for item in kit],
    }
    return json.dumps(body, ensure_ascii=False, indent=1) + "\n"


def kit_from_json(text: str, place: str) -> tuple[KitItem, ...]:
    """raises: InputError naming place and remedy if it is not one, or of a newer version"""
    body = body_of(text, place, form=KIT_FORMAT, newest=_VERSION, what="a kit file")
    try:
        return _KitFile.model_validate_json(json.dumps(body)).kit
    except ValidationError as error:
        raise from_validation_error(error, f"{place}: kit file") from None


def read_kit(path: Path) -> tuple[KitItem, ...]:
    """raises: FileError if it cannot be read; InputError if it is no kit"""
    text = read_text(path, largest_bytes=_LARGEST_BYTES, what="a kit", encoding="utf-8-sig")
    return kit_from_json(text, path_text(path))


def write_kit(path: Path, kit: tuple[KitItem, ...]) -> None:
    """raises: FileError if it cannot be written"""
    write_atomically(path, kit_to_json(kit))
