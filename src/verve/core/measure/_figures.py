"""What a recording shows, in figures; every one is defined in docs/recordings.md."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from verve.core.measure._bands import Spectrum
from verve.core.measure._blasts import Blast
from verve.core.measure._clipping import ClippedRun
from verve.core.measure._dropouts import Dropout
from verve.core.measure._hum import NO_HUM, Hum
from verve.core.measure._pair import Pair
from verve.core.units import FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Measurement:
    """What one channel shows. Levels are None where there is none; a full-scale sine is 0 dBFS, peak and RMS."""

    channel: int
    seconds: float
    sample_rate_hz: int
    bit_depth: int | None
    peak_dbfs: float | None
    rms_dbfs: float | None
    noise_dbfs_a: float | None
    clipped_frames: int
    dc_share: float
    missing_s: float = 0.0
    """What a file that breaks off lacks of what its header says."""
    true_peak_dbtp: float | None = None
    crest_db: float | None = None
    noise_dbfs: float | None = None
    clipped_runs: tuple[ClippedRun, ...] = ()
    clip_level_dbfs: float | None = None
    hum: Hum = NO_HUM
    dropouts: tuple[Dropout, ...] = ()
    blasts: tuple[Blast, ...] = ()
    is_digital_zero: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Programme:
    """Loudness of a mono or stereo recording, and the highest true peak of its channels."""

    integrated_lufs: float | None
    max_momentary_lufs: float | None
    max_short_term_lufs: float | None
    lra_lu: float | None
    true_peak_dbtp: float | None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Course:
    """The recording over time, for pictures: a window of 50 ms every 25 ms, and loudness every 10 ms.

    `a_weighted` are mean squares, `peaks` largest magnitudes; loudness is told from where its window begins.

    shape: a_weighted, peaks (n_channels, n), momentary_lufs, short_term_lufs (m,)
    """

    window_s: float = 0.025
    hop_s: float = 0.01
    a_weighted: FloatArray = field(default_factory=lambda: np.zeros((0, 0)))
    peaks: FloatArray = field(default_factory=lambda: np.zeros((0, 0)))
    pauses_s: tuple[tuple[tuple[float, float], ...], ...] = ()
    """By channel, from when to when nobody plays."""
    spectra: tuple[Spectrum, ...] = ()
    """By channel, what the pauses sound like."""
    momentary_lufs: FloatArray = field(default_factory=lambda: np.zeros(0))
    short_term_lufs: FloatArray = field(default_factory=lambda: np.zeros(0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Recording:
    """Everything that is measured of a recording."""

    sample_rate_hz: int
    frames: int
    seconds: float
    bit_depth: int | None
    channels: tuple[Measurement, ...]
    programme: Programme | None
    pair: Pair | None
    course: Course = field(default_factory=Course, compare=False, repr=False)
