"""What is not saved yet is kept aside, so that a crash loses nothing."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from verve.core.errors import VerveError
from verve.core.files import Stamp, is_locked, read_text, stamp_of, write_atomically
from verve.core.session import LARGEST_BYTES, SUFFIX, Session, from_json, to_json

_PREFIX, _ORIGIN, _LOCK = "unsaved-", ".origin", ".lock"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rescued:
    """A session that a crash left behind: when it was kept, and the file it belonged to as it was then."""

    session: Session
    path: Path | None
    stamp: Stamp | None
    kept: Path = field(compare=False)
    kept_at: datetime

    def file_changed_at(self) -> datetime | None:
        """When its file was changed by something else; None where the file is what it was."""
        if self.path is None:
            return None
        now = stamp_of(self.path)
        if now is None or now == self.stamp:
            return None
        changed = datetime.fromtimestamp(now.modified_ns / 1e9).astimezone()
        # Older versions kept no stamp: there only a later time tells.
        return changed if self.stamp is not None or changed > self.kept_at else None


class Recovery:
    """One kept copy for this run; copies of runs that ended badly can be taken up.

    Whoever keeps a copy holds its lock, which the system frees however the program ends.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._stem = f"{_PREFIX}{os.urandom(16).hex()}"
        self._lock: int | None = None

    @property
    def copy(self) -> Path:
        """The file of this run's copy."""
        return self._folder / f"{self._stem}{SUFFIX}"

    def write(self, session: Session, path: Path | None, stamp: Stamp | None = None) -> None:
        """Keep a copy of an unsaved session; a disk can be slow, so this is no work for the window's thread.

        raises: FileError if it cannot be written
        """
        place = "" if path is None else os.fsencode(path).hex()
        was = None if stamp is None else [stamp.inode, stamp.size, stamp.modified_ns]
        # What it belongs to first: a copy without that would be one of a session without a file.
        write_atomically(
            self.copy.with_name(self._stem + _ORIGIN), json.dumps({"file": place, "stamp": was})
        )
        self._hold()
        write_atomically(self.copy, to_json(session))

    def _hold(self) -> None:
        """Hold the lock of this run's copy. Some shares have no locks: there a copy is kept without one."""
        if self._lock is None:
            with contextlib.suppress(OSError):
                lock = os.open(self._folder / f"{self._stem}{_LOCK}", os.O_CREAT | os.O_RDWR, 0o600)
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                self._lock = lock

    def forget(self) -> None:
        """There is nothing unsaved any more."""
        _remove(self.copy)
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def left_behind(self) -> tuple[Rescued, ...]:
        """Copies whose program is no longer running, the newest first; unreadable ones are left alone."""
        found = []
        try:
            copies = sorted(self._folder.glob(f"{_PREFIX}*{SUFFIX}"))
        except OSError:
            return ()
        for copy in copies:
            if copy != self.copy and not is_locked(_beside(copy, _LOCK)):
                with contextlib.suppress(OSError, VerveError):
                    found.append(_rescued(copy))
        return tuple(sorted(found, key=lambda one: one.kept_at, reverse=True))

    @staticmethod
    def discard(rescued: Rescued) -> None:
        """A left copy has been taken up: this run keeps its own."""
        _remove(rescued.kept)


def _beside(copy: Path, ending: str) -> Path:
    return copy.with_name(copy.name.removesuffix(SUFFIX) + ending)


def _remove(copy: Path) -> None:
    for file in (copy, _beside(copy, _ORIGIN), _beside(copy, _LOCK)):
        with contextlib.suppress(OSError):
            file.unlink()


def _rescued(copy: Path) -> Rescued:
    """raises: OSError or VerveError for a copy that cannot be read"""
    kept_at = datetime.fromtimestamp(copy.stat().st_mtime).astimezone()
    session = from_json(read_text(copy, largest_bytes=LARGEST_BYTES, what="a session"), str(copy))
    path, stamp = _origin(_beside(copy, _ORIGIN))
    return Rescued(session=session, path=path, stamp=stamp, kept=copy, kept_at=kept_at)


def _origin(file: Path) -> tuple[Path | None, Stamp | None]:
    """The file a copy belongs to, and its stamp; None for none, or where nobody can read it any more."""
    try:
        text = read_text(file, largest_bytes=100_000, what="a path")
    except VerveError:
        return None, None
    try:
        data = json.loads(text)
        place, was = os.fsdecode(bytes.fromhex(str(data["file"]))), data["stamp"]
    except (ValueError, KeyError, TypeError):
        # Versions before kept the bare path.
        place, was = text, None
    if not place or "\0" in place:
        return None, None
    is_stamp = isinstance(was, list) and len(was) == 3 and all(type(n) is int for n in was)
    return Path(place), Stamp(*was) if is_stamp else None
