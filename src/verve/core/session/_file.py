"""Session files: JSON with format and version, written whole or not at all."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from pydantic_core import to_json as to_json_bytes

from verve.core.errors import InputError, from_validation_error
from verve.core.files import path_text, read_text, write_atomically
from verve.core.forms import body_of
from verve.core.kind import Frozen
from verve.core.session._layers import LayerPatch
from verve.core.session._models import FORMAT, VERSION, Session, Take
from verve.core.session._setup import Device, Setup, Source
from verve.core.session._snapshot import PIECES, WHOLE, Shelf, Snapshot
from verve.core.session._sound_edits import for_folder, from_folder, told_from

SUFFIX = ".verve.json"
LARGEST_BYTES = 200_000_000
SHARED = ("setups", "pieces")
"""What the takes of a file share: setups by name, and the gear, cables, figures that those name."""


def to_json(session: Session, folder: Path | None = None) -> str:
    """The text of a session file; the same session always gives the same text.

    What takes and patches share stands once, each thing of it on a line of its own. For a file in `folder` it is told
    from there where the sounds of takes lie.
    """
    body = session.model_dump_json(indent=1, exclude_none=True, exclude={"takes", "patches"})
    text = f'{{\n "format": "{FORMAT}",\n "version": {VERSION},{body[1:]}'
    if not session.takes and not session.patches:
        return text + "\n"
    shared = _Shared(folder)
    lists = {
        "takes": [shared.take(take) for take in session.takes],
        "patches": [shared.patch(one) for one in session.patches],
    }
    listed = "".join(
        f' "{name}": [\n  {_LINES.join(found)}\n ],\n' for name, found in lists.items() if found
    )
    return (
        f"{text[:-2]},\n{listed}"
        f' "setups": {_one_a_line(shared.setups)},\n "pieces": {_one_a_line(shared.pieces)}\n}}\n'
    )


_LINES = ",\n  "


def _one_a_line(named: Mapping[str, str]) -> str:
    return "{\n  " + _LINES.join(f'"{name}": {text}' for name, text in named.items()) + "\n }"


def _compact(body: object) -> str:
    return to_json_bytes(body).decode()


class _Shared:
    """What the takes have had, each written once under a name made from what it says."""

    def __init__(self, place: Path | None = None) -> None:
        """`place` is the folder that the file is for."""
        self.setups: dict[str, str] = {}
        self.pieces: dict[str, str] = {}
        self._place = place
        self._told: dict[str, str] = {}
        self._known: dict[int, tuple[object, str]] = {}
        """By identity: most of what a take had, the next one had too."""

    def take(self, take: Take) -> str:
        """A take as JSON; one whose files lie in one folder, as most do, names that once."""
        text = take.model_dump_json(exclude_none=True, exclude={"snapshot"})
        rest: dict[str, object] = {"setup": self._setup(take.snapshot)}
        folders = {track.file.rpartition("/")[0] for track in take.tracks}
        if len(folders) == 1 and "" not in folders:
            (folder,) = folders
            # Within a text a quotation mark has a backslash before it: nothing else can look like this.
            begin = _compact(f"{folder}/")[:-1]
            text = text.replace(f'"file":{begin}', '"file":"')
            rest["folder"] = self._from_place(folder)
        else:
            for folder in sorted(folders, key=len, reverse=True):
                if folder and (told := self._from_place(folder)) != folder:
                    begin, other = (_compact(f"{one}/")[:-1] for one in (folder, told))
                    text = text.replace(f'"file":{begin}', f'"file":{other}')
        return f"{text[:-1]},{_compact(rest)[1:]}"

    def _from_place(self, folder: str) -> str:
        """Where a folder lies, told from that of the file."""
        if self._place is None:
            return folder
        if folder not in self._told:
            self._told[folder] = told_from(folder, self._place)
        return self._told[folder]

    def patch(self, one: LayerPatch) -> str:
        """The patch of a layer as JSON."""
        return _compact({"layer": one.layer, "setup": self._setup(one.snapshot)})

    def _setup(self, kept: Snapshot) -> object:
        said = kept.shelved
        known = self._known.get(id(said))
        if known is not None:
            return known[1]
        if isinstance(said, Setup):
            body = said.model_dump(mode="json", exclude_none=True, exclude=set(PIECES))
            lists: dict[str, Any] = {kind: getattr(said, kind) for kind in PIECES}
        elif isinstance(said, dict):
            body = {key: value for key, value in said.items() if key not in PIECES}
            lists = {kind: said[kind] for kind in PIECES if kind in said}
        else:
            return said
        body.update((kind, self._list(items, kept)) for kind, items in lists.items())
        for name in WHOLE:
            if isinstance(body.get(name), dict):
                whole = getattr(said, name) if isinstance(said, Setup) else body[name]
                body[name] = self._named(whole, _compact(body[name]), self.pieces)
        return self._named(said, _compact(body), self.setups)

    def _list(self, items: object, kept: Snapshot) -> object:
        known = self._known.get(id(items))
        if known is not None:
            return known[1]
        if not isinstance(items, list | tuple):
            return items
        found = [self._piece(one, kept) for one in items]
        return self._named(items, _compact(found), self.pieces) if found else found

    def _piece(self, piece: object, kept: Snapshot) -> object:
        known = self._known.get(id(piece))
        if known is not None:
            return known[1]
        if isinstance(piece, Source | Device):
            text = piece.model_dump_json(exclude_none=True, exclude={"figures"})
            text = f'{text[:-1]},"figures":"{self._figures(piece.figures)}"}}'
        elif isinstance(piece, Frozen):
            text = piece.model_dump_json(exclude_none=True)
        elif isinstance(piece, dict):
            body = dict(piece)
            if "figures" in body:
                body["figures"] = self._figures(kept.figures(body["figures"]))
            text = _compact(body)
        else:
            return piece
        return self._named(piece, text, self.pieces)

    def _figures(self, figures: object) -> object:
        known = self._known.get(id(figures))
        if known is not None:
            return known[1]
        if isinstance(figures, Frozen):
            return self._named(figures, figures.model_dump_json(exclude_none=True), self.pieces)
        if isinstance(figures, dict):
            return self._named(figures, _compact(figures), self.pieces)
        return figures

    def _named(self, said: object, text: str, place: dict[str, str]) -> str:
        digest = hashlib.blake2b(text.encode(), digest_size=32).hexdigest()
        # Eight letters tell apart what a session has; should two be alike, the second one gets more.
        length = next(n for n in range(8, 65) if place.get(digest[:n], text) == text)
        place[digest[:length]] = text
        # The thing is kept with its name: while it is there, nothing else has its identity.
        self._known[id(said)] = (said, digest[:length])
        return digest[:length]


def json_schema() -> dict[str, Any]:
    """JSON Schema of a session file (draft 2020-12)."""
    schema = Session.model_json_schema()
    schema["properties"] = {
        "format": {"const": FORMAT},
        "version": {"enum": list(range(1, VERSION + 1))},
        **schema["properties"],
        "setups": {
            "description": "What was set up for takes, by name; sources, devices, links, signals and "
            "performers can stand in it as names of `pieces`",
            "type": "object",
            "additionalProperties": {"type": "object"},
        },
        "pieces": {
            "description": "What such setups are made of, by name; figures can stand in it by name too",
            "type": "object",
            "additionalProperties": {"type": ["object", "array"]},
        },
    }
    schema["$defs"]["Take"]["properties"]["folder"] = {
        "description": "Where the files of its tracks lie, if in one folder",
        "type": "string",
    }
    schema["required"] = ["format", "version"]
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Verve session"
    return schema


def from_json(text: str, place: str, folder: Path | None = None) -> Session:
    """A session from the text of a file; `place` names the file in errors, `folder` is where it lies.

    raises: InputError naming place and remedy if it is not one, or of a newer version
    """
    body = body_of(text, place, form=FORMAT, newest=VERSION, what="a session file", later=SHARED)
    shelf = Shelf(*(_table(body.pop(name, {}), f"{place}: {name}") for name in SHARED))
    _folders_back(body.get("takes"), folder)
    try:
        return Session.model_validate_json(_again(body), context=shelf)
    except ValidationError as error:
        raise from_validation_error(error, f"{place}: session") from None


def _again(body: dict[str, Any]) -> bytes | str:
    """As JSON; what goes too deep for the quick way is refused by whoever reads it."""
    try:
        return to_json_bytes(body)
    except ValueError:
        return json.dumps(body)


def _folders_back(takes: object, place: Path | None) -> None:
    """Put each take's folder before its files again, told from `place` if it is; what is no take is left to whoever
    says so."""
    whole: dict[str, str] = {}
    for take in takes if isinstance(takes, list) else ():
        folder = take.get("folder") if isinstance(take, dict) else None
        tracks = take.get("tracks") if isinstance(take, dict) else None
        if not isinstance(tracks, list):
            continue
        if isinstance(folder, str):
            del take["folder"]
        for track in tracks:
            if not isinstance(track, dict) or not isinstance(track.get("file"), str):
                continue
            before, _, name = track["file"].rpartition("/")
            if isinstance(folder, str):
                before = f"{folder}/{before}" if before else folder
            if place is not None and before not in whole:
                whole[before] = os.path.normpath(place / before)
            before = whole.get(before, before)
            track["file"] = f"{before}/{name}" if before else name


def _table(found: object, place: str) -> dict[str, Any]:
    if not isinstance(found, dict):
        raise InputError(place, "must be an object")
    return found


def load(path: Path) -> Session:
    """Read a session file.

    raises: FileError if it cannot be read; InputError if it is not a session
    """
    text = read_text(path, largest_bytes=LARGEST_BYTES, what="a session")
    folder = path.absolute().parent
    return from_folder(_with_shared_pieces(from_json(text, path_text(path), folder)), folder)


def _with_shared_pieces(session: Session) -> Session:
    """The same session; what is set up now as for its last take is one value, seen at once to be unchanged."""
    then = session.takes[-1].setup if session.takes else None
    if then is None:
        return session
    had = {(kind, one.id): one for kind in PIECES for one in getattr(then, kind)}
    kept = {
        kind: tuple(
            had[kind, one.id] if had.get((kind, one.id)) == one else one
            for one in getattr(session.setup, kind)
        )
        for kind in PIECES
    }
    return session.model_copy(update={"setup": session.setup.model_copy(update=kept)})


def save(session: Session, path: Path) -> None:
    """Write a session file whole or not at all; the version before is kept once as `.bak`.

    raises: FileError if it cannot be written; the old file is then untouched
    """
    folder = path.absolute().parent
    text = to_json(for_folder(session, folder), folder)
    write_atomically(path, text, keep_backup=True)
