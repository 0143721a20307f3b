"""Playing a sound file: from a place, over and over if wanted, at any rate and level, as blocks of two channels."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType

import numpy as np
import soxr

from verve.core.errors import InputError
from verve.core.soundfiles._measure import opened
from verve.core.units import FloatArray

_READ_FRAMES = 4096
_FADE_S = 0.005
"""A loop fades out and in at its joint, and a beginning in: a step of the wave there would sound like a fault."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlayRequest:
    """What is to be heard: of a file from `start_s` on, with `loop_s` over and over from when to when.

    `channel` is the one that is heard on both sides; None for the first two as left and right, and one channel on
    both. `gain_db` makes it louder or softer; what passes full scale is cut off.
    """

    path: Path
    start_s: float = 0.0
    loop_s: tuple[float, float] | None = None
    gain_db: float = 0.0
    channel: int | None = None

    def __post_init__(self) -> None:
        if self.loop_s is not None and not self.loop_s[0] + 2.0 * _FADE_S < self.loop_s[1]:
            raise InputError("loop_s", "must end after it begins", self.loop_s)


class Playback:
    """A file that is being played: gives blocks until its end, or for ever in a loop.

    raises: FileError if it cannot be read
    """

    def __init__(
        self, request: PlayRequest, rate_hz: int, goes_on: Callable[[], bool] = lambda: True
    ) -> None:
        """`rate_hz` is what blocks are asked at: another rate than the file's own is converted."""
        self._request, self.rate_hz = request, rate_hz
        self._stack = ExitStack()
        self._file = self._stack.enter_context(opened(request.path, goes_on))
        self.file_rate_hz: int = self._file.samplerate
        self._converter = (
            None
            if self.file_rate_hz == rate_hz
            else soxr.ResampleStream(self.file_rate_hz, rate_hz, 2, dtype="float32", quality="HQ")
        )
        length_s = float(self._file.frames / self.file_rate_hz)
        loop = request.loop_s
        self._loop: tuple[float, float] | None = None
        if loop is not None:
            self._loop = (max(0.0, loop[0]), min(loop[1], length_s))
        self._length_s: float = length_s
        first_s = request.start_s
        if self._loop is not None and not self._loop[0] <= first_s < self._loop[1]:
            first_s = self._loop[0]
        self._first_s: float = min(max(0.0, first_s), length_s)
        self._at = round(self._first_s * self.file_rate_hz)
        self._file.seek(self._at)
        self._since_joint = 0
        self._waiting: FloatArray = np.zeros((0, 2), dtype=np.float32)
        self._is_over = False

    def __enter__(self) -> Playback:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Let the file go."""
        self._stack.close()

    @property
    def is_converted(self) -> bool:
        """Whether the file has another rate than it is played at."""
        return self._converter is not None

    def place_s(self, given_frames: int) -> float:
        """Where in the file one is when so many frames have been heard since the beginning."""
        at_s = self._first_s + given_frames / self.rate_hz
        if self._loop is not None and at_s >= self._loop[1]:
            begin, end = self._loop
            return begin + (at_s - end) % (end - begin)
        return min(at_s, self._length_s)

    def read(self, frames: int) -> FloatArray:
        """The next frames, fewer at the end of the file and none behind it.

        shape: (n_frames, 2), single precision, within ±1
        raises: FileError if the file cannot be read any more
        """
        parts: list[FloatArray] = [self._waiting]
        count = len(self._waiting)
        while count < frames and not self._is_over:
            part = self._convert(self._next())
            parts.append(part)
            count += len(part)
        whole = np.concatenate(parts)
        self._waiting = whole[frames:]
        return np.asarray(whole[:frames])

    def _convert(self, block: FloatArray) -> FloatArray:
        if self._converter is None:
            return block
        found: FloatArray = self._converter.resample_chunk(block, last=self._is_over)
        return np.clip(found, -1.0, 1.0)

    def _next(self) -> FloatArray:
        """Some frames at the file's own rate."""
        wanted = _READ_FRAMES
        if self._loop is not None:
            wanted = min(wanted, max(0, round(self._loop[1] * self.file_rate_hz) - self._at))
        read = self._file.read(wanted, dtype="float32", always_2d=True)
        block = self._sides(read)
        self._fade(block)
        self._at += len(block)
        self._since_joint += len(block)
        if self._loop is not None and (len(read) < wanted or wanted < _READ_FRAMES or not wanted):
            self._at = round(self._loop[0] * self.file_rate_hz)
            self._file.seek(self._at)
            self._since_joint = 0
        elif len(read) < wanted:
            self._is_over = True
        return block

    def _sides(self, block: FloatArray) -> FloatArray:
        channel = self._request.channel
        count = block.shape[1]
        if channel is None and count > 1:
            sides = block[:, :2]
        else:
            one = block[:, min(channel or 0, count - 1)]
            sides = np.stack([one, one], axis=1)
        loud = sides * np.float32(10.0 ** (self._request.gain_db / 20.0))
        return np.asarray(np.clip(loud, -1.0, 1.0), dtype=np.float32)

    def _fade(self, block: FloatArray) -> None:
        """In at a beginning or joint, out before a joint."""
        frames = max(1, round(_FADE_S * self.file_rate_hz))
        if (self._at or self._loop) and self._since_joint < frames and len(block):
            at = self._since_joint + np.arange(len(block))
            block *= np.minimum(at / frames, 1.0)[:, None].astype(np.float32)
        if self._loop is not None and len(block):
            left = round(self._loop[1] * self.file_rate_hz) - self._at - np.arange(len(block))
            block *= np.clip(left / frames, 0.0, 1.0)[:, None].astype(np.float32)
