"""Reading and writing files: whole or not at all, on any file system, and told in words when not."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from verve.core.errors import FileError, VerveError

BACKUP_SUFFIX = ".bak"
_TEMPORARY = ".verve-writing-"
_STALE_S = 3600.0
"""A temporary file this old belongs to a program that was killed while it wrote."""
LONGEST_NAME_BYTES = 255
"""What file systems take for one name."""

_WHY = {
    errno.ENOENT: "there is no such file",
    errno.ENOTDIR: "a part of its path is no folder",
    errno.EISDIR: "it is a folder",
    errno.EEXIST: "another file is in its way",
    errno.EACCES: "you may not do that there",
    errno.EPERM: "you may not do that there",
    errno.EROFS: "the disk can only be read",
    errno.ENOSPC: "the disk is full",
    errno.EDQUOT: "your share of the disk is used up",
    errno.EFBIG: "the disk takes no file so large",
    errno.ENAMETOOLONG: "its name is too long",
    errno.ELOOP: "its links go round in a circle",
    errno.EIO: "the disk does not answer as it should",
    errno.ESTALE: "the shared folder is no longer there",
    errno.ENODEV: "the disk is no longer there",
    errno.ENXIO: "the disk is no longer there",
    errno.EBUSY: "something else is using it",
    errno.ETIMEDOUT: "the shared folder does not answer",
    errno.EINVAL: "the disk does not take such a name",
    errno.EILSEQ: "the disk does not take such a name",
}
_FULL = frozenset({errno.ENOSPC, errno.EDQUOT, errno.EFBIG})


def why(error: OSError) -> str:
    """What went wrong with a file, in words."""
    known = _WHY.get(error.errno or 0)
    return known or (error.strerror or "it did not work").lower()


def path_text(path: Path) -> str:
    """A path as it can be shown and written anywhere: what is no text in it is replaced."""
    return os.fsencode(path).decode("utf-8", errors="replace")


def free_text(path: Path) -> str:
    """How much room there is where a path lies: "12 MB free"; empty where nobody can tell."""
    # Imported here, as below: it loads more than a start needs.
    import shutil

    place = path
    while not place.exists() and place != place.parent:
        place = place.parent
    try:
        free_mb = shutil.disk_usage(place).free / 1e6
    except OSError:
        return ""
    return f"{free_mb / 1000.0:.1f} GB free" if free_mb >= 1000.0 else f"{free_mb:.0f} MB free"


def unwritable(path: Path, error: OSError) -> FileError:
    """The error of a file that cannot be written; of a full disk with the room there is."""
    said = why(error)
    if error.errno in _FULL:
        free = free_text(path)
        said += f" ({free} in {path_text(path.parent)})" if free else ""
        return FileError(
            path, f"cannot be written: {said}", "Make room there, or save under another name."
        )
    remedy = "Check the name and the rights there, or save under another name."
    return FileError(path, f"cannot be written: {said}", remedy)


def read_text(path: Path, *, largest_bytes: int, what: str, encoding: str = "utf-8") -> str:
    """The text of a file.

    raises: FileError for none, one that is no text, no file at all, or larger than `what` can be
    """
    remedy = "Check the name and that you may read it."
    try:
        if path.exists() and not path.is_file():
            raise FileError(path, "is no file", f"Choose a file with {what}.")
        # One byte more than allowed is read, whatever its size claims to be.
        with path.open("rb") as file:
            found = file.read(largest_bytes + 1)
    except OSError as error:
        raise FileError(path, f"cannot be read: {why(error)}", remedy) from error
    except ValueError as error:
        raise FileError(path, "cannot be read: no file has such a name", remedy) from error
    if len(found) > largest_bytes:
        raise FileError(path, f"is too large to be {what}", "Choose another file.")
    try:
        return found.decode(encoding)
    except UnicodeDecodeError as error:
        raise FileError(path, "is not text", f"Choose a file with {what}.") from error


@dataclass(frozen=True, slots=True)
class Stamp:
    """What a file was when it was looked at: two equal ones are of one version."""

    inode: int
    size: int
    modified_ns: int


def stamp_of(path: Path) -> Stamp | None:
    """The stamp of a file, links followed; None where there is none."""
    try:
        found = path.stat()
    except (OSError, ValueError):
        return None
    return Stamp(inode=found.st_ino, size=found.st_size, modified_ns=found.st_mtime_ns)


def is_locked(path: Path) -> bool:
    """Whether a program that is running holds a file: the system frees its lock however the program ends."""
    try:
        handle = os.open(path, os.O_RDONLY)
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    except OSError:
        return False
    finally:
        os.close(handle)
    return False


def cut_name(name: str, most_bytes: int) -> str:
    """A name cut to so many bytes, never within a letter."""
    return os.fsencode(name)[:most_bytes].decode("utf-8", errors="ignore")


def backup_of(path: Path) -> Path:
    """Where the version before is kept."""
    stem = path.name
    if len(os.fsencode(stem + BACKUP_SUFFIX)) > LONGEST_NAME_BYTES:
        stem = cut_name(stem, LONGEST_NAME_BYTES - len(BACKUP_SUFFIX))
    return path.with_name(stem + BACKUP_SUFFIX)


def write_atomically(path: Path, text: str, *, keep_backup: bool = False) -> None:
    """A text, written whole or not at all: temporary file in the same folder, fsync, rename.

    A link is written through. With `keep_backup` the version before stays beside it as `.bak`.

    raises: FileError if it cannot be written; what was there is then untouched
    """
    with whole_file(path, keep_backup=keep_backup) as temporary:
        try:
            with temporary.open("w", encoding="utf-8", newline="") as file:
                file.write(text)
                file.flush()
                os.fsync(file.fileno())
        except UnicodeEncodeError as error:
            raise FileError(
                path, "cannot be written: it has letters that are none", "Type them anew."
            ) from error


@contextlib.contextmanager
def whole_file(path: Path, *, keep_backup: bool = False) -> Iterator[Path]:
    """A temporary file that takes the place of `path` when the block ends well, and is gone otherwise.

    raises: FileError if it cannot be written; what was there is then untouched
    """
    temporary: Path | None = None
    try:
        # Who follows a link to a file means the file: replacing the link would leave two.
        path = Path(os.path.realpath(path))
        path.parent.mkdir(parents=True, exist_ok=True)
        _sweep(path.parent)
        temporary = _temporary_in(path.parent)
        yield temporary
        if path.exists():
            # Some disks have no rights.
            with contextlib.suppress(OSError):
                temporary.chmod(path.stat().st_mode & 0o777)
            if keep_backup:
                _back_up(path)
        temporary.replace(path)
        temporary = None
        _settle(path.parent)
    except OSError as error:
        raise unwritable(path, error) from error
    except VerveError:
        raise
    except ValueError as error:
        remedy = "Choose another name."
        raise FileError(path, "cannot be written: no file has such a name", remedy) from error
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink()


def _temporary_in(folder: Path) -> Path:
    """A new empty file with the rights that a new file has there."""
    for number in range(10_000):
        place = folder / f"{_TEMPORARY}{os.getpid()}-{time.monotonic_ns():x}-{number}"
        try:
            os.close(os.open(place, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666))
        except FileExistsError:
            continue
        return place
    raise OSError(errno.EEXIST, os.strerror(errno.EEXIST))


def _back_up(path: Path) -> None:
    """The version before, beside the file: by a link where the disk has links, else as a copy."""
    backup = backup_of(path)
    between = _temporary_in(path.parent)
    try:
        between.unlink()
        try:
            os.link(path, between)
        except OSError:
            import shutil

            shutil.copy2(path, between)
        between.replace(backup)
    finally:
        with contextlib.suppress(OSError):
            between.unlink(missing_ok=True)


def _settle(folder: Path) -> None:
    """See to it that the new name is on the disk; some shares cannot, and that is no reason to fail."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _sweep(folder: Path, now_s: Callable[[], float] = time.time) -> None:
    """Clear what programs have left that were killed while they wrote here."""
    with contextlib.suppress(OSError):
        for left in folder.glob(f"{_TEMPORARY}*"):
            with contextlib.suppress(OSError):
                if now_s() - left.stat().st_mtime > _STALE_S:
                    left.unlink()
