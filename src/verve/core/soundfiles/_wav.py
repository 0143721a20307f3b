"""Writing recordings: WAV at the session's rate and depth, of which nothing is lost whatever happens."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import re
import shutil
import struct
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import BinaryIO

import numpy as np
import soundfile

from verve.core.errors import FileError
from verve.core.files import cut_name, unwritable
from verve.core.units import FloatArray

_SUBTYPES = {16: "PCM_16", 24: "PCM_24"}
PART_SUFFIX = ".part"
_LONGEST_STEM_BYTES = 200
_NO_ROOM_BYTES = 1_000_000
_LARGEST_32 = 2**32 - 1
_WAVES = frozenset({b"RIFF", b"RF64", b"BW64"})
_SET_BROADCAST_INFO = 0x10F1
"""SFC_SET_BROADCAST_INFO of libsndfile."""


def file_stem(name: str) -> str:
    """A line's name as a file name: any script, no separators, never hidden, empty or too long for a disk."""
    cleaned = re.sub(r'[\x00-\x1f\ud800-\udfff/\\:*?"<>|]+', " ", name)
    stem = " ".join(cleaned.split()).lstrip(". ")[:80]
    return cut_name(stem, _LONGEST_STEM_BYTES).strip() or "line"


def part_of_wav(path: Path) -> Path:
    """What a file is called while it is being recorded."""
    return path.with_name(path.name + PART_SUFFIX)


def mend_wav(path: Path) -> int:
    """Make the header of a WAV file say how long it is, as a program that was killed could not.

    Gives back its frames; what is left of half a frame at its end is cut off.

    raises: FileError for a file that has no such header, or that cannot be changed
    """
    try:
        with path.open("r+b") as file:
            found = _data_of(file)
            if found is not None:
                begin, _, frame_bytes = found
                frames = (file.seek(0, os.SEEK_END) - begin) // frame_bytes
                file.truncate(begin + frames * frame_bytes)
                file.seek(begin - 4)
                file.write(struct.pack("<I", min(frames * frame_bytes, _LARGEST_32)))
                file.seek(4)
                file.write(struct.pack("<I", min(begin + frames * frame_bytes - 8, _LARGEST_32)))
                return frames
    except OSError as error:
        raise unwritable(path, error) from error
    raise FileError(path, "holds no sound", "It broke off before anything was recorded.")


def frames_said(path: Path) -> int | None:
    """How many frames the header of a WAV file says there are; None for another file."""
    with path.open("rb") as file:
        found = _data_of(file)
    # A length of everything is what writers put there that do not know it.
    return None if found is None or found[1] >= _LARGEST_32 - 1 else found[1] // found[2]


def recorded_at_of(path: Path) -> str | None:
    """When a WAV file says that it was recorded, as ISO 8601 without a zone; None where it does not say.

    source: EBU Tech 3285, the “bext” chunk: date at byte 320, time at 330, as its recorder's clock has them
    """
    with contextlib.suppress(OSError), path.open("rb") as file:
        head = file.read(12)
        if head[:4] not in _WAVES or head[8:12] != b"WAVE":
            return None
        while len(chunk := file.read(8)) == 8:
            name, length = struct.unpack("<4sI", chunk)
            if name == b"bext":
                body = file.read(min(length, 338))
                said = re.findall(rb"\d+", body[320:330]) + re.findall(rb"\d+", body[330:338])
                return _moment([int(part) for part in said])
            if name == b"data" and length >= _LARGEST_32 - 1:
                return None
            file.seek(length + length % 2, os.SEEK_CUR)
    return None


def _moment(parts: list[int]) -> str | None:
    """Year, month, day, hour, minute, second as text; None where they are no moment."""
    if len(parts) != 6:
        return None
    year, month, day, hour, minute, second = parts
    try:
        return datetime(year, month, day, hour, minute, second).isoformat(timespec="seconds")
    except (ValueError, OverflowError):
        return None


def _data_of(file: BinaryIO) -> tuple[int, int, int] | None:
    """Where the sound of a WAV file begins, how many bytes its header says it has, and those of a frame.

    source: RIFF: chunks of a name of four letters and a length of four bytes, little endian
    """
    frame_bytes = 0
    head = file.read(12)
    if head[:4] != b"RIFF" or head[8:12] != b"WAVE":
        return None
    while len(chunk := file.read(8)) == 8:
        name, length = struct.unpack("<4sI", chunk)
        if name == b"fmt ":
            body = file.read(length)
            frame_bytes = int.from_bytes(body[12:14], "little")
        elif name == b"data":
            return (file.tell(), length, frame_bytes) if frame_bytes else None
        else:
            file.seek(length + length % 2, os.SEEK_CUR)
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What a broadcast wave file says of itself: what it is, and when its first frame was recorded (ISO 8601)."""

    description: str
    at: str


def _broadcast(said: Said, rate_hz: int) -> bytes:
    """As libsndfile takes it.

    source: EBU Tech 3285: texts, date, time, frames since midnight, version 1; the order of SF_BROADCAST_INFO
    """
    date, _, clock = said.at.partition("T")
    parts = clock[:8].split(":")
    is_time = len(parts) == 3 and all(part.isdigit() for part in parts)
    hours, minutes, seconds = (int(part) for part in parts) if is_time else (0, 0, 0)
    since_midnight = (hours * 3600 + minutes * 60 + seconds) * rate_hz
    return struct.pack(
        "<256s32s32s10s8sxxIIh64s5h180sI256s",
        cut_name(said.description, 250).encode("utf-8")[:256], b"Verve", b"",
        date[:10].encode("ascii", "replace"), clock[:8].encode("ascii", "replace"),
        since_midnight & 0xFFFFFFFF, since_midnight >> 32, 1, b"", 0, 0, 0, 0, 0, b"", 0, b"",
    )  # fmt: skip


def _say(file: soundfile.SoundFile, said: Said, rate_hz: int) -> None:
    """Before the first frame. The call has no name in Python: where it cannot be reached, the file is a plain WAV."""
    with contextlib.suppress(AttributeError, TypeError):
        chunk = soundfile._ffi.from_buffer(_broadcast(said, rate_hz))
        soundfile._snd.sf_command(file._file, _SET_BROADCAST_INFO, chunk, len(chunk))


class WavWriter:
    """A mono broadcast wave file that grows under a name of its own until it is finished.

    Left by an error it is finished too: what was recorded is kept. Only `discard` deletes.
    """

    def __init__(
        self, path: Path, *, rate_hz: int, bit_depth: int, said: Said | None = None
    ) -> None:
        """raises: FileError if it cannot be written"""
        self.path = path
        self._part = part_of_wav(path)
        self._bits = bit_depth
        self._is_broken = False
        self._handle: int | None = None
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._file = soundfile.SoundFile(
                self._part, "w", rate_hz, 1, _SUBTYPES[bit_depth], format="WAV"
            )
            if said is not None:
                _say(self._file, said, rate_hz)
            self._handle = os.open(self._part, os.O_RDONLY)
            # Whoever looks for unfinished recordings sees that this one is going on.
            with contextlib.suppress(OSError):
                fcntl.flock(self._handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            raise unwritable(path, error) from error
        except soundfile.LibsndfileError as error:
            raise self._refused(path, error.error_string) from error

    @staticmethod
    def _refused(path: Path, said: str) -> FileError:
        """What the sound library says of no file system; a full disk is known by its room."""
        place = path.parent
        while not place.exists():
            place = place.parent
        with contextlib.suppress(OSError):
            if shutil.disk_usage(place).free < _NO_ROOM_BYTES:
                return unwritable(path, OSError(errno.ENOSPC, ""))
        if not os.access(place, os.W_OK) or not place.is_dir():
            return unwritable(path, OSError(errno.EACCES, ""))
        said = said.removeprefix("Error : ").rstrip(".").lower()
        return FileError(path, f"cannot be written: {said}", "Make room there.")

    def write(self, samples: FloatArray) -> None:
        """Append samples, 1.0 is full scale. They are already rounded: written bit for bit.

        raises: FileError if the disk is full
        """
        steps = float(2 ** (self._bits - 1))
        whole = np.clip(np.round(samples * steps), -steps, steps - 1.0).astype(np.int32)
        try:
            self._file.write(whole << (32 - self._bits))
        except OSError as error:
            self._is_broken = True
            raise unwritable(self.path, error) from error
        except (soundfile.LibsndfileError, AssertionError) as error:
            # The library checks by assertion whether all of it was written.
            self._is_broken = True
            said = getattr(error, "error_string", "not all of it was taken")
            raise self._refused(self.path, said) from error

    def finish(self) -> None:
        """Give it its name. Where its folder is gone meanwhile, the folder is made anew.

        raises: FileError if what was recorded cannot be kept
        """
        with contextlib.suppress(OSError, soundfile.LibsndfileError):
            self._file.close()
        try:
            if not self._part.exists():
                self._write_again()
            if self._is_broken:
                mend_wav(self._part)
            self._part.replace(self.path)
        except OSError as error:
            raise unwritable(self.path, error) from error
        finally:
            self._release()

    def _write_again(self) -> None:
        """Its name is gone, its content is not, as long as it is held open."""
        if self._handle is None:
            return
        self._part.parent.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.dup(self._handle), "rb") as old, self._part.open("wb") as new:
            old.seek(0)
            shutil.copyfileobj(old, new)

    def discard(self) -> None:
        """Delete what was recorded: somebody has said so."""
        with contextlib.suppress(OSError, soundfile.LibsndfileError):
            self._file.close()
        with contextlib.suppress(OSError):
            self._part.unlink(missing_ok=True)
        self._release()

    def _release(self) -> None:
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None

    def __enter__(self) -> WavWriter:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        if self._handle is not None:
            self.finish()
