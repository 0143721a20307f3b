"""What a sound file is, beside its sound: a digest to know it again by, and how long nothing is heard at its head."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Iterable
from pathlib import Path

import numpy as np

from verve.core.errors import CancelledError, FileError
from verve.core.files import why
from verve.core.soundfiles._measure import opened

_CHUNK_BYTES = 1 << 20
_DIGEST_BYTES = 16
HEARD_BELOW_PEAK_DB = 60.0
"""The sound begins where it first comes within so many decibels of the file's peak."""
_BLOCK_FRAMES = 1 << 15
_MOST_LOOKED_AT = 50_000


def content_of(path: Path, goes_on: Callable[[], bool] = lambda: True) -> str:
    """A digest of all bytes of a file (BLAKE2b, 128 bit), as 32 hexadecimal digits.

    raises: FileError if it cannot be read; CancelledError if it shall not go on
    """
    digest = hashlib.blake2b(digest_size=_DIGEST_BYTES)
    try:
        with path.open("rb") as file:
            while chunk := file.read(_CHUNK_BYTES):
                digest.update(chunk)
                if not goes_on():
                    raise CancelledError
    except OSError as error:
        raise FileError(path, f"cannot be read: {why(error)}", "Check the name.") from error
    return digest.hexdigest()


def silence_at_head_s(
    path: Path, peak_dbfs: float | None, goes_on: Callable[[], bool] = lambda: True
) -> float:
    """How long it takes until a sample of any channel comes within 60 dB of the file's peak; 0 for a silent file.

    raises: FileError if it cannot be read
    """
    if peak_dbfs is None:
        return 0.0
    threshold = 10.0 ** ((peak_dbfs - HEARD_BELOW_PEAK_DB) / 20.0)
    with opened(path, goes_on) as file:
        done = 0
        while len(block := file.read(_BLOCK_FRAMES, dtype="float32", always_2d=True)):
            heard = np.flatnonzero(np.abs(block).max(axis=1) >= threshold)
            if len(heard):
                return float((done + int(heard[0])) / file.samplerate)
            done += len(block)
            if not goes_on():
                raise CancelledError
        return 0.0


def found_again(
    content: str,
    size_bytes: int,
    folders: Iterable[Path],
    goes_on: Callable[[], bool] = lambda: True,
) -> Path | None:
    """A file with just this content in some folders or below them; None where there is none.

    Only files of the very same size are read, and not more than some ten thousand are looked at.
    """
    seen: set[Path] = set()
    looked_at = 0
    for folder in folders:
        for place in _files_below(folder):
            looked_at += 1
            if looked_at > _MOST_LOOKED_AT or not goes_on():
                return None
            if place in seen:
                continue
            seen.add(place)
            try:
                if place.stat().st_size == size_bytes and content_of(place, goes_on) == content:
                    return place
            except (OSError, FileError):
                # Whatever cannot be read is not it.
                continue
    return None


def _files_below(folder: Path) -> Iterable[Path]:
    for root, folders, names in os.walk(folder):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        for name in sorted(names):
            yield Path(root) / name
