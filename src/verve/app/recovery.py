"""What is not saved yet is kept aside, so that a crash loses nothing."""

from __future__ import annotations

import contextlib
import os
from dataclasses import dataclass
from pathlib import Path

from verve.core.errors import VerveError
from verve.core.files import write_atomically
from verve.core.session import SUFFIX, Session, from_json, to_json


@dataclass(frozen=True, slots=True, kw_only=True)
class Rescued:
    """A session that a crash left behind, and the file it belonged to."""

    session: Session
    path: Path | None
    kept: Path


class Recovery:
    """One kept copy for this run; copies of runs that ended badly can be taken up."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._copy = folder / f"unsaved-{os.getpid()}{SUFFIX}"
        self._origin = folder / f"unsaved-{os.getpid()}.origin"

    def write(self, session: Session, path: Path | None) -> None:
        """Keep a copy of an unsaved session; a disk can be slow, so this is no work for the window's thread.

        raises: FileError if it cannot be written
        """
        write_atomically(self._copy, to_json(session))
        write_atomically(self._origin, "" if path is None else str(path))

    def forget(self) -> None:
        """There is nothing unsaved any more."""
        for file in (self._copy, self._origin):
            with contextlib.suppress(OSError):
                file.unlink()

    def left_behind(self) -> Rescued | None:
        """The newest copy whose program is no longer running; unreadable ones are left alone."""
        try:
            copies = sorted(
                self._folder.glob(f"unsaved-*{SUFFIX}"),
                key=lambda p: p.stat().st_mtime,
                reverse=True,
            )
        except OSError:
            return None
        for copy in copies:
            number = copy.name.removesuffix(SUFFIX).removeprefix("unsaved-")
            if not number.isdigit() or _is_running(int(number)):
                continue
            origin = copy.with_name(f"unsaved-{number}.origin")
            try:
                session = from_json(copy.read_text(encoding="utf-8"), str(copy))
                place = origin.read_text(encoding="utf-8") if origin.exists() else ""
            except (OSError, UnicodeDecodeError, VerveError):
                continue
            return Rescued(session=session, path=Path(place) if place else None, kept=copy)
        return None

    @staticmethod
    def discard(rescued: Rescued) -> None:
        """A left copy has been taken up: this run keeps its own."""
        number = rescued.kept.name.removesuffix(SUFFIX)
        for file in (rescued.kept, rescued.kept.with_name(f"{number}.origin")):
            with contextlib.suppress(OSError):
                file.unlink()


def _is_running(number: int) -> bool:
    if number == os.getpid():
        return True
    try:
        os.kill(number, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
