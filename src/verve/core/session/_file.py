"""Session files: JSON with format and version, written whole or not at all."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from verve.core.errors import from_validation_error
from verve.core.files import path_text, read_text, write_atomically
from verve.core.forms import body_of
from verve.core.session._models import FORMAT, VERSION, Session

SUFFIX = ".verve.json"
LARGEST_BYTES = 200_000_000


def to_json(session: Session) -> str:
    """The text of a session file; the same session always gives the same text."""
    body = {
        "format": FORMAT,
        "version": VERSION,
        **session.model_dump(mode="json", exclude_none=True),
    }
    return json.dumps(body, ensure_ascii=False, indent=1) + "\n"


def json_schema() -> dict[str, Any]:
    """JSON Schema of a session file (draft 2020-12)."""
    schema = Session.model_json_schema()
    schema["properties"] = {
        "format": {"const": FORMAT},
        "version": {"enum": list(range(1, VERSION + 1))},
        **schema["properties"],
    }
    schema["required"] = ["format", "version"]
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Verve session"
    return schema


def from_json(text: str, place: str) -> Session:
    """A session from the text of a file; `place` names the file in errors.

    raises: InputError naming place and remedy if it is not one, or of a newer version
    """
    body = body_of(text, place, form=FORMAT, newest=VERSION, what="a session file")
    try:
        return Session.model_validate_json(body)
    except ValidationError as error:
        raise from_validation_error(error, f"{place}: session") from None


def load(path: Path) -> Session:
    """Read a session file.

    raises: FileError if it cannot be read; InputError if it is not a session
    """
    text = read_text(path, largest_bytes=LARGEST_BYTES, what="a session")
    return from_json(text, path_text(path))


def save(session: Session, path: Path) -> None:
    """Write a session file whole or not at all; the version before is kept once as `.bak`.

    raises: FileError if it cannot be written; the old file is then untouched
    """
    write_atomically(path, to_json(session), keep_backup=True)
