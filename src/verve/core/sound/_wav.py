"""Writing recordings: WAV at the session's rate and depth, complete or not there."""

from __future__ import annotations

import re
from pathlib import Path
from types import TracebackType

import numpy as np
import soundfile

from verve.core.errors import FileError
from verve.core.units import FloatArray

_SUBTYPES = {16: "PCM_16", 24: "PCM_24"}


def file_stem(name: str) -> str:
    """A line's name as a file name: any script, no separators, never hidden, never empty."""
    cleaned = re.sub(r'[\x00-\x1f/\\:*?"<>|]+', " ", name)
    return " ".join(cleaned.split()).lstrip(". ")[:80].strip() or "line"


class WavWriter:
    """A mono WAV file that appears under its name only when it is complete."""

    def __init__(self, path: Path, *, rate_hz: int, bit_depth: int) -> None:
        self.path = path
        self._part = path.with_name(path.name + ".part")
        self._bits = bit_depth
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._file = soundfile.SoundFile(
                self._part, "w", rate_hz, 1, _SUBTYPES[bit_depth], format="WAV"
            )
        except (OSError, soundfile.LibsndfileError) as error:
            raise FileError(
                path, f"cannot be written: {error}", "Check the space there."
            ) from error

    def write(self, samples: FloatArray) -> None:
        """Append samples, 1.0 is full scale. They are already rounded: written bit for bit.

        raises: FileError if the disk is full
        """
        steps = float(2 ** (self._bits - 1))
        whole = np.clip(np.round(samples * steps), -steps, steps - 1.0).astype(np.int32)
        try:
            self._file.write(whole << (32 - self._bits))
        except (OSError, soundfile.LibsndfileError) as error:
            raise FileError(self.path, f"cannot be written: {error}", "Make room there.") from error

    def __enter__(self) -> WavWriter:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._file.close()
        if kind is None:
            self._part.replace(self.path)
        else:
            self._part.unlink(missing_ok=True)
