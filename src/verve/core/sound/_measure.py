"""Measuring a sound file, block by block, with the analysers that a live recording uses too."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile

from verve.core.errors import FileError, VerveError
from verve.core.files import why
from verve.core.sound._analyse import LevelAnalyser, Measurement
from verve.core.sound._wav import frames_said
from verve.core.units import FloatArray

_DEPTHS = {"PCM_16": 16, "PCM_24": 24, "PCM_32": 32, "PCM_U8": 8, "PCM_S8": 8}
_BLOCK_FRAMES = 1 << 18
_RATES_HZ = (1_000, 1_600_000)
_MOST_CHANNELS = 256
_LARGEST_SAMPLE = 1e4
"""80 dB above full scale: beyond that it is no sound (floating-point files may go a little above)."""


def measure_wav(path: Path, block_frames: int = _BLOCK_FRAMES) -> tuple[Measurement, ...]:
    """Every channel of a sound file.

    raises: FileError if it cannot be read, is no sound file, holds no sound, or what it holds is none
    """
    remedy = "Choose a WAV or FLAC file that is complete."
    try:
        if path.exists() and not path.is_file():
            raise FileError(path, "is no file", remedy)
        with soundfile.SoundFile(path) as file:
            _check(path, file)
            analyser = LevelAnalyser(
                channels=file.channels,
                rate_hz=file.samplerate,
                bit_depth=_DEPTHS.get(file.subtype),
            )
            state = analyser.start()
            done = 0
            for block in _blocks(file, max(1, block_frames // file.channels)):
                if not (np.abs(block) <= _LARGEST_SAMPLE).all():
                    at_s = done / file.samplerate
                    why_not = f"holds samples that are no sound, from about {at_s:.1f} s on"
                    raise FileError(path, why_not, "Write it anew, or take another file.")
                state = analyser.fold(state, block)
                done += block.shape[1]
            missing_s = max(0.0, (frames_said(path) or done) - done) / file.samplerate
    except soundfile.LibsndfileError as error:
        if not path.exists():
            raise FileError(
                path, "cannot be read: there is no such file", "Check the name."
            ) from error
        said = error.error_string.rstrip(".").lower()
        raise FileError(path, f"cannot be read as sound: {said}", remedy) from error
    except OSError as error:
        raise FileError(path, f"cannot be read: {why(error)}", "Check the name.") from error
    except (TypeError, ValueError, RuntimeError) as error:
        if isinstance(error, VerveError):
            raise
        # The library asks for what a file without a header does not say.
        raise FileError(path, "says nothing of its rate and channels", remedy) from error
    found = analyser.result(state)
    return tuple(replace(one, missing_s=missing_s) for one in found) if missing_s else found


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


def _blocks(file: soundfile.SoundFile, block_frames: int) -> Iterator[FloatArray]:
    while True:
        block = file.read(block_frames, dtype="float64", always_2d=True)
        if len(block) == 0:
            return
        yield np.asarray(block.T)
