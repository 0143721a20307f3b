"""Session files: JSON with format and version, written whole or not at all."""

from __future__ import annotations

import contextlib
import json
import os
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from verve.core.errors import FileError, InputError, from_validation_error
from verve.core.session._models import FORMAT, VERSION, Session

SUFFIX = ".verve.json"
BACKUP_SUFFIX = ".bak"
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
        "version": {"const": VERSION},
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
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise InputError(
            place, f"is not a session file, its JSON breaks off ({error}); open its .bak copy"
        ) from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise InputError(f"{place}: format", f'must be "{FORMAT}"; choose a session file')
    version = data.get("version")
    if type(version) is not int or version < 1:
        raise InputError(f"{place}: version", "must be a whole number from 1", version)
    if version > VERSION:
        rule = f"is newer than this Verve reads (up to {VERSION}); open it with a newer Verve"
        raise InputError(f"{place}: version", rule, version)
    body = {key: value for key, value in data.items() if key not in {"format", "version"}}
    try:
        return Session.model_validate_json(json.dumps(body))
    except ValidationError as error:
        raise from_validation_error(error, f"{place}: session") from None


def load(path: Path) -> Session:
    """Read a session file.

    raises: FileError if it cannot be read; InputError if it is not a session
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise FileError(path, "is too large to be a session", "Choose another file.")
        text = path.read_text(encoding="utf-8")
    except UnicodeDecodeError as error:
        raise FileError(path, "is not text", f"Choose a file ending in {SUFFIX}.") from error
    except OSError as error:
        remedy = "Check the name and that you may read it."
        raise FileError(path, f"cannot be read: {error.strerror}", remedy) from error
    return from_json(text, str(path))


def save(session: Session, path: Path) -> None:
    """Write a session file whole or not at all; the version before is kept once as `.bak`.

    raises: FileError if it cannot be written; the old file is then untouched
    """
    write_atomically(path, to_json(session), keep_backup=True)


def write_atomically(path: Path, text: str, *, keep_backup: bool = False) -> None:
    """Temporary file in the same folder, fsync, rename.

    raises: FileError if it cannot be written
    """
    # Imported here: nothing is written before the first paint.
    import tempfile

    temporary: str | None = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            Path(temporary).chmod(path.stat().st_mode & 0o777)
            if keep_backup:
                backup = path.with_name(path.name + BACKUP_SUFFIX)
                backup.unlink(missing_ok=True)
                os.link(path, backup)
        else:
            umask = os.umask(0)
            os.umask(umask)
            Path(temporary).chmod(0o666 & ~umask)
        Path(temporary).replace(path)
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as error:
        if temporary is not None:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()
        remedy = "Check the space and rights there, or save under another name."
        raise FileError(path, f"cannot be written: {error.strerror}", remedy) from error
