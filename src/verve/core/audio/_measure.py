"""Measuring a recording: peak, RMS, the noise in its pauses, what has clipped."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from verve.core.errors import FileError
from verve.core.units import FloatArray, a_weighting_power, power_to_db, ratio_to_db

WINDOW_S = 0.1
_ALIKE_DB = 2.0
"""Windows of steady noise differ by less than this; playing differs by more."""
_LEAST_WINDOWS = 3
_BELOW_LOUDEST_DB = 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Measurement:
    """What a recording shows. Levels are None where there is none; a full-scale sine is 0 dBFS."""

    channel: int
    seconds: float
    sample_rate_hz: int
    bit_depth: int | None
    peak_dbfs: float | None
    rms_dbfs: float | None
    noise_dbfs_a: float | None
    clipped_frames: int
    dc_share: float


_DEPTHS = {"PCM_16": 16, "PCM_24": 24, "PCM_32": 32, "PCM_U8": 8, "PCM_S8": 8}


def measure_wav(path: Path) -> tuple[Measurement, ...]:
    """Every channel of a sound file.

    raises: FileError if it cannot be read, is no sound file, or holds no sound
    """
    try:
        with soundfile.SoundFile(path) as file:
            rate, channels, depth = file.samplerate, file.channels, _DEPTHS.get(file.subtype)
            if file.frames == 0:
                raise FileError(path, "holds no sound", "Record it again.")
            window = max(1, int(WINDOW_S * rate))
            blocks = _blocks(file, window)
            gathered = [_Gathered(depth, rate, window) for _ in range(channels)]
            for block in blocks:
                for channel in range(channels):
                    gathered[channel].add(block[:, channel])
    except soundfile.LibsndfileError as error:
        remedy = "Choose a WAV or FLAC file that is complete."
        raise FileError(path, f"cannot be read as sound: {error.error_string}", remedy) from error
    except OSError as error:
        raise FileError(path, f"cannot be read: {error.strerror}", "Check the name.") from error
    return tuple(one.result(channel) for channel, one in enumerate(gathered))


def _blocks(file: soundfile.SoundFile, window: int) -> Iterator[FloatArray]:
    while True:
        block = file.read(window * 64, dtype="float64", always_2d=True)
        if len(block) == 0:
            return
        yield np.nan_to_num(block, nan=0.0, posinf=1.0, neginf=-1.0)


class _Gathered:
    """Running figures of one channel; windows are kept as powers only."""

    def __init__(self, depth: int | None, rate: int, window: int) -> None:
        self._depth, self._rate, self._window = depth, rate, window
        self._peak = 0.0
        self._frames = 0
        self._power = 0.0
        self._sum = 0.0
        self._clipped = 0
        self._a_powers: list[FloatArray] = []
        self._loudest = 0.0
        hz = np.fft.rfftfreq(window, 1.0 / rate)
        in_band = (hz >= 20.0) & (hz <= 20_000.0)
        self._a_weights = np.where(in_band, a_weighting_power(np.maximum(hz, 1.0)), 0.0)

    def add(self, samples: FloatArray) -> None:
        magnitude = np.abs(samples)
        self._peak = max(self._peak, float(magnitude.max()))
        self._frames += len(samples)
        self._power += float(samples @ samples)
        self._sum += float(samples.sum())
        top = 1.0 if self._depth is None else 1.0 - 1.5 / 2.0 ** (self._depth - 1)
        self._clipped += int(np.count_nonzero(magnitude >= top))
        whole = len(samples) // self._window * self._window
        if whole:
            windows = samples[:whole].reshape(-1, self._window)
            # A Hann window keeps a note that just ends out of its neighbours' bins (its power is 3/8).
            shape = np.hanning(self._window)
            spectra = np.abs(np.fft.rfft(windows * shape, axis=1)) ** 2
            scale = 2.0 / (self._window * float(shape @ shape))
            self._a_powers.append(spectra @ self._a_weights * scale)

    def result(self, channel: int) -> Measurement:
        rms = float(np.sqrt(self._power / self._frames))
        return Measurement(
            channel=channel,
            seconds=self._frames / self._rate,
            sample_rate_hz=self._rate,
            bit_depth=self._depth,
            peak_dbfs=ratio_to_db(self._peak),
            rms_dbfs=ratio_to_db(rms * np.sqrt(2.0)),
            noise_dbfs_a=self._pause_noise_dbfs(),
            clipped_frames=self._clipped,
            dc_share=self._sum / self._frames,
        )

    def _pause_noise_dbfs(self) -> float | None:
        """A-weighted level of the pauses: the quiet windows that are all alike; None without any.

        The quietest single window is quieter than the noise by chance, so the median of those
        alike is taken.
        """
        if not self._a_powers:
            return None
        powers = np.concatenate(self._a_powers)
        powers = powers[powers > 0.0]
        if len(powers) < _LEAST_WINDOWS:
            return None
        levels = 10.0 * np.log10(powers)
        start = float(np.sort(levels)[_LEAST_WINDOWS // 2])
        alike = levels[np.abs(levels - start) <= _ALIKE_DB]
        if len(alike) < _LEAST_WINDOWS:
            return None
        stands_out = levels.max() - np.median(alike) >= _BELOW_LOUDEST_DB
        if not stands_out and len(alike) < len(levels):
            return None
        # A full-scale sine has a mean square of 1/2 and is 0 dBFS.
        return power_to_db(2.0 * float(np.median(10.0 ** (alike / 10.0))))
