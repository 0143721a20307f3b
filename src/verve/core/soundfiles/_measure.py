"""Measuring a sound file, block by block, with the reducer that a live recording uses too."""

from __future__ import annotations

import math
import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile
import soxr
from threadpoolctl import threadpool_limits

from verve.core.errors import CancelledError, FileError, VerveError
from verve.core.files import why
from verve.core.measure import Meter, Recording
from verve.core.soundfiles._foreign import as_wav, is_foreign
from verve.core.soundfiles._wav import frames_said
from verve.core.units import FloatArray

_DEPTHS = {"PCM_16": 16, "PCM_24": 24, "PCM_32": 32, "PCM_U8": 8, "PCM_S8": 8}
_BLOCK_SAMPLES = 1 << 19
_RATES_HZ = (1_000, 1_600_000)
_MOST_CHANNELS = 256
_LARGEST_SAMPLE = 1e3
"""60 dB above full scale: beyond that it is no sound (floating-point files may go a little above)."""
LONGEST_S = 900.0
"""Of what is compared as a whole, and not streamed."""
_REMEDY = "Choose a WAV, FLAC, AIFF, Ogg or MP3 file that is complete."

Progress = Callable[[float], bool]
"""Is told the share that has been read; answers whether to go on."""


def measure_file(
    path: Path, *, block_frames: int | None = None, progress: Progress | None = None
) -> Recording:
    """Everything that a sound file shows; memory does not grow with its length but for its course over time.

    raises: FileError if it cannot be read, is no sound file, holds no sound, or what it holds is none;
    CancelledError if `progress` has said so
    """
    with opened(path, lambda: progress is None or progress(0.0)) as file:
        return _measured(path, file, block_frames, progress)


def read_sound(path: Path, most_s: float = LONGEST_S) -> tuple[FloatArray, int]:
    """All of a sound file that is not too long, and its rate.

    shape: (n_channels, n_frames)
    raises: FileError as `measure_file`, and for one that is longer than `most_s`
    """
    with opened(path) as file:
        if file.frames > most_s * file.samplerate:
            said = f"is longer than {most_s / 60.0:.0f} minutes"
            raise FileError(path, said, "Cut out the part that matters.")
        blocks, done = [], 0
        for block in _blocks(file, max(1, _BLOCK_SAMPLES // file.channels)):
            _check_samples(path, block, done)
            blocks.append(block)
            done += block.shape[1]
        if not done:
            raise FileError(path, "holds no sound", "Record it again.")
        return np.concatenate(blocks, axis=1).astype(np.float64), file.samplerate


@contextmanager
def opened(path: Path, goes_on: Callable[[], bool] = lambda: True) -> Iterator[soundfile.SoundFile]:
    """A sound file that can be read; whatever goes wrong while it is open is told in words.

    `goes_on` is asked while a file that has to be written anew for it is.

    raises: FileError; CancelledError if it shall not go on
    """
    with ExitStack() as stack:
        try:
            if path.exists() and not path.is_file():
                raise FileError(path, "is no file", _REMEDY)
            file = stack.enter_context(_sound_file(path, goes_on, stack))
            _check(path, file)
            yield file
        except soundfile.LibsndfileError as error:
            if not path.exists():
                raise FileError(
                    path, "cannot be read: there is no such file", "Check the name."
                ) from error
            said = error.error_string.rstrip(".").lower()
            raise FileError(path, f"cannot be read as sound: {said}", _REMEDY) from error
        except OSError as error:
            raise FileError(path, f"cannot be read: {why(error)}", "Check the name.") from error
        except (TypeError, ValueError, RuntimeError) as error:
            if isinstance(error, VerveError):
                raise
            # The library asks for what a file without a header does not say.
            raise FileError(path, "says nothing of its rate and channels", _REMEDY) from error


def _sound_file(path: Path, goes_on: Callable[[], bool], stack: ExitStack) -> soundfile.SoundFile:
    try:
        return soundfile.SoundFile(path)
    except soundfile.LibsndfileError:
        if not is_foreign(path) or not path.exists() or not path.stat().st_size:
            raise
    return soundfile.SoundFile(stack.enter_context(as_wav(path, goes_on)))


def _measured(
    path: Path, file: soundfile.SoundFile, block_frames: int | None, progress: Progress | None
) -> Recording:
    size = block_frames or max(1, _BLOCK_SAMPLES // file.channels)
    # NumPy lets go of the interpreter while it computes: channels are read side by side. Threads of its own for
    # matrices would only stand in the way of these.
    workers = min(file.channels + 1, os.cpu_count() or 1)
    with ThreadPoolExecutor(workers) as pool, threadpool_limits(1, "blas"):
        meter = Meter(
            channels=file.channels,
            rate_hz=file.samplerate,
            bit_depth=_DEPTHS.get(file.subtype),
            pool=pool if workers > 1 else None,
        )
        state = meter.start()
        done = 0
        for block in _read_ahead(_blocks(file, size), pool):
            _check_samples(path, block, done)
            state = meter.fold(state, block)
            done += block.shape[1]
            if progress is not None and not progress(min(1.0, done / max(1, file.frames))):
                raise CancelledError
        if not done:
            raise FileError(path, "holds no sound", "Record it again.")
        found = meter.result(state)
    missing_s = max(0.0, (frames_said(path) or done) - done) / file.samplerate
    if not missing_s:
        return found
    return replace(
        found, channels=tuple(replace(one, missing_s=missing_s) for one in found.channels)
    )


def _check_samples(path: Path, block: FloatArray, done: int) -> None:
    """raises: FileError naming the first frame and channel that is no sound"""
    # What is not finite is neither under the one nor over the other.
    if block.min(initial=0.0) >= -_LARGEST_SAMPLE and block.max(initial=0.0) <= _LARGEST_SAMPLE:
        return
    is_none = ~(np.abs(block) <= _LARGEST_SAMPLE)
    frame = int(np.flatnonzero(is_none.any(axis=0))[0])
    channel = int(np.flatnonzero(is_none[:, frame])[0])
    value = float(block[channel, frame])
    said = "is not finite" if not np.isfinite(value) else "is over 60 dB above full scale"
    where = f"frame {done + frame}, channel {channel + 1}"
    raise FileError(
        path,
        f"holds no sound at {where}: the sample {said}",
        "Write it anew, or take another file.",
    )


def _check(path: Path, file: soundfile.SoundFile) -> None:
    """raises: FileError for what no recording has"""
    if file.frames == 0:
        raise FileError(path, "holds no sound", "Record it again.")
    low, high = _RATES_HZ
    if not low <= file.samplerate <= high:
        said = f"says {file.samplerate} samples a second, which no recording has"
        raise FileError(path, said, "Write it anew, or take another file.")
    if file.channels > _MOST_CHANNELS:
        said = f"has {file.channels} channels; {_MOST_CHANNELS} are the most"
        raise FileError(path, said, "Choose one with fewer.")


def _read_ahead(blocks: Iterator[FloatArray], pool: ThreadPoolExecutor) -> Iterator[FloatArray]:
    """The same blocks, of which the next one is read while the one before is worked on."""
    coming = pool.submit(next, blocks, None)
    while (block := coming.result()) is not None:
        coming = pool.submit(next, blocks, None)
        yield block


def _blocks(file: soundfile.SoundFile, block_frames: int) -> Iterator[FloatArray]:
    while True:
        block = file.read(block_frames, dtype="float32", always_2d=True)
        if len(block) == 0:
            return
        # One channel after the other: what follows reads each of them by itself.
        yield np.ascontiguousarray(block.T)


_CONTEXT_S = 0.1
"""What is read beside a stretch that has to be converted to another rate: its filter reaches no farther."""


def read_span(
    path: Path, start_frame: int, frames: int, rate_hz: int, channel: int | None = None
) -> FloatArray:
    """A stretch of a sound file at a rate, silent where the file has nothing.

    `start_frame` and `frames` count at `rate_hz`, from the beginning of the file; a stretch may begin before it.
    `channel` is one of it, None for all. Neighbouring stretches fit together, also where they are converted.

    shape: (n_channels, frames)
    raises: FileError if it cannot be read
    """
    with opened(path) as file:
        own_hz = int(file.samplerate)
        context = 0 if own_hz == rate_hz else round(_CONTEXT_S * rate_hz)
        # It begins where a frame of the file and one of ours are at the same time: so stretches fit together.
        step = rate_hz // math.gcd(own_hz, rate_hz)
        first = (start_frame - context) // step * step
        begin = first * own_hz // rate_hz
        end = -(-(start_frame + frames + context) * own_hz // rate_hz)
        low, high = max(0, begin), min(file.frames, end)
        count = file.channels if channel is None else 1
        found = np.zeros((count, max(0, end - begin)))
        if high > low:
            file.seek(low)
            read = file.read(high - low, dtype="float32", always_2d=True).T
            chosen = read if channel is None else read[[min(channel, file.channels - 1)]]
            found[:, low - begin : low - begin + chosen.shape[1]] = chosen
    if own_hz != rate_hz:
        found = np.stack([soxr.resample(one, own_hz, rate_hz, quality="HQ") for one in found])
    found = found[:, start_frame - first :]
    missing = frames - found.shape[1]
    return np.pad(found, ((0, 0), (0, missing))) if missing > 0 else found[:, :frames]
