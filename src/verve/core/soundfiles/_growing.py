"""Reading a WAV file that another program is still writing: what has come since the last look.

Recording software writes the length into the header when it is done: until then the size of the file tells.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO, Final

import numpy as np

from verve.core.errors import FileError
from verve.core.files import unwritable
from verve.core.units import FloatArray

_PCM, _FLOAT, _EXTENSIBLE = 1, 3, 0xFFFE
_MOST_HEADER: Final = 1_000_000
_MOST_FRAMES: Final = 2_000_000
"""So much at one look: who comes late to a long recording catches up in some looks."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Form:
    """Where the sound begins, and how its samples are written."""

    begin: int
    channels: int
    rate_hz: int
    bits: int
    is_float: bool

    @property
    def frame_bytes(self) -> int:
        return self.channels * self.bits // 8


class GrowingFile:
    """A WAV or RF64 file that may still grow."""

    def __init__(self, path: Path) -> None:
        """raises: FileError if it cannot be read, or is no such file; one without its header yet is no fault"""
        self.path = path
        self._form: _Form | None = None
        self.frames = 0
        """How many have been read."""
        self._look()

    @property
    def is_open(self) -> bool:
        """Whether its header is there already."""
        return self._form is not None

    @property
    def channels(self) -> int:
        """How many channels it has; 0 before its header is there."""
        return 0 if self._form is None else self._form.channels

    @property
    def rate_hz(self) -> int:
        """Its sample rate; 0 before its header is there."""
        return 0 if self._form is None else self._form.rate_hz

    def skip_to_end(self) -> None:
        """Only what comes from now on is of interest."""
        if self._form is not None:
            self.frames = self._there(self._form)

    def read_new(self) -> FloatArray:
        """What has come since.

        shape: (n_channels, n_frames), none of them if there is nothing new
        raises: FileError if it cannot be read any more
        """
        if self._form is None:
            self._look()
        form = self._form
        if form is None:
            return np.zeros((0, 0))
        count = min(self._there(form) - self.frames, _MOST_FRAMES)
        if count <= 0:
            return np.zeros((form.channels, 0))
        try:
            with self.path.open("rb") as file:
                file.seek(form.begin + self.frames * form.frame_bytes)
                content = file.read(count * form.frame_bytes)
        except OSError as error:
            raise unwritable(self.path, error) from error
        count = len(content) // form.frame_bytes
        self.frames += count
        return _samples(content[: count * form.frame_bytes], form)

    def _there(self, form: _Form) -> int:
        try:
            return max(0, (self.path.stat().st_size - form.begin) // form.frame_bytes)
        except OSError as error:
            raise FileError(
                self.path, "is gone", "Look whether the recording software has moved or deleted it."
            ) from error

    def _look(self) -> None:
        try:
            with self.path.open("rb") as file:
                self._form = _form_of(file, self.path)
        except OSError as error:
            raise unwritable(self.path, error) from error


def _form_of(file: BinaryIO, path: Path) -> _Form | None:
    """The form of a file; None while its header is not whole.

    source: RIFF, RF64 (EBU Tech 3306): chunks of a name and a length; fmt: kind, channels, rate, bits
    raises: FileError for another kind of file
    """
    head = file.read(12)
    if len(head) < 12:
        return None
    if head[:4] not in {b"RIFF", b"RF64"} or head[8:12] != b"WAVE":
        raise FileError(
            path, "is no WAV file", "Only WAV files can be listened to while they grow."
        )
    kind = channels = rate_hz = bits = 0
    while len(chunk := file.read(8)) == 8 and file.tell() < _MOST_HEADER:
        name, length = struct.unpack("<4sI", chunk)
        if name == b"fmt ":
            body = file.read(length)
            if len(body) < 16:
                return None
            kind, channels, rate_hz, _, _, bits = struct.unpack("<HHIIHH", body[:16])
            if kind == _EXTENSIBLE and len(body) >= 26:
                (kind,) = struct.unpack("<H", body[24:26])
        elif name == b"data":
            if (
                kind not in {_PCM, _FLOAT}
                or not channels
                or not rate_hz
                or bits not in {16, 24, 32, 64}
            ):
                raise FileError(
                    path,
                    f"has samples of another kind ({kind}, {bits} bit)",
                    "Record 16, 24 or 32 bit WAV.",
                )
            return _Form(
                begin=file.tell(),
                channels=channels,
                rate_hz=rate_hz,
                bits=bits,
                is_float=kind == _FLOAT,
            )
        else:
            file.seek(length + length % 2, 1)
    return None


def _samples(content: bytes, form: _Form) -> FloatArray:
    if form.is_float:
        values = np.frombuffer(content, dtype="<f4" if form.bits == 32 else "<f8").astype(
            np.float64
        )
    elif form.bits == 24:
        bytes_ = np.frombuffer(content, dtype=np.uint8).reshape(-1, 3)
        padded = np.zeros((len(bytes_), 4), dtype=np.uint8)
        padded[:, 1:] = bytes_
        values = padded.view("<i4")[:, 0].astype(np.float64) / 2.0**31
    else:
        whole = np.frombuffer(content, dtype="<i2" if form.bits == 16 else "<i4")
        values = whole.astype(np.float64) / 2.0 ** (form.bits - 1)
    # What is no number is no sound: a broken block must not stop the watch.
    values = np.nan_to_num(values, nan=0.0, posinf=1.0, neginf=-1.0)
    return np.asarray(values.reshape(-1, form.channels).T)
