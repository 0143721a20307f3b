"""Measuring a sound file, block by block, with the analysers that a live recording uses too."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile

from verve.core.errors import FileError
from verve.core.sound._analyse import LevelAnalyser, Measurement
from verve.core.units import FloatArray

_DEPTHS = {"PCM_16": 16, "PCM_24": 24, "PCM_32": 32, "PCM_U8": 8, "PCM_S8": 8}
_BLOCK_FRAMES = 1 << 18


def measure_wav(path: Path, block_frames: int = _BLOCK_FRAMES) -> tuple[Measurement, ...]:
    """Every channel of a sound file.

    raises: FileError if it cannot be read, is no sound file, or holds no sound
    """
    try:
        with soundfile.SoundFile(path) as file:
            if file.frames == 0:
                raise FileError(path, "holds no sound", "Record it again.")
            analyser = LevelAnalyser(
                channels=file.channels,
                rate_hz=file.samplerate,
                bit_depth=_DEPTHS.get(file.subtype),
            )
            state = analyser.start()
            for block in _blocks(file, block_frames):
                state = analyser.fold(state, block)
    except soundfile.LibsndfileError as error:
        remedy = "Choose a WAV or FLAC file that is complete."
        raise FileError(path, f"cannot be read as sound: {error.error_string}", remedy) from error
    except OSError as error:
        raise FileError(path, f"cannot be read: {error.strerror}", "Check the name.") from error
    return analyser.result(state)


def _blocks(file: soundfile.SoundFile, block_frames: int) -> Iterator[FloatArray]:
    while True:
        block = file.read(block_frames, dtype="float64", always_2d=True)
        if len(block) == 0:
            return
        yield np.nan_to_num(block, nan=0.0, posinf=1.0, neginf=-1.0).T
