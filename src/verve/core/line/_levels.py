"""The levels of one line as plain numbers, taken once from its reading."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.line._quantities import Reading, tightest
from verve.core.stages import Converter
from verve.core.units import v2_to_dbu


@dataclass(frozen=True, slots=True, kw_only=True)
class LineLevels:
    """A line at its loudest, one entry a stage; None behind a sound or without signal.

    unit: dBu; headroom dB; noise A-weighted; shares 0…1 of the noise at the end
    """

    peak_dbu: tuple[float | None, ...]
    open_peak_dbu: tuple[float | None, ...]
    noise_dba: tuple[float | None, ...]
    headroom_db: tuple[float | None, ...]
    noise_shares: tuple[float, ...]
    first_to_clip: int | None
    peak_dbfs: float | None
    noise_dbfs_a: float | None
    snr_db: float | None


def levels_of(reading: Reading) -> LineLevels:
    """Everything about the levels of a solved line."""
    powers = reading.powers
    stages = reading.solution.stages
    # Straight from the powers: this is done for every line in every frame of a drag.
    headrooms = tuple(reading.headroom_db(i) for i in range(len(stages)))
    peaks = tuple(None if p is None else v2_to_dbu(p) for p in powers.loaded_v2)
    noises = tuple(None if p is None else v2_to_dbu(p) for p in powers.noise_a_v2)
    ends_in_converter = isinstance(stages[-1], Converter)
    peak_dbfs = reading.peak_dbfs() if ends_in_converter else None
    noise_dbfs_a = reading.noise_dbfs_a() if ends_in_converter else None
    level, noise = (peak_dbfs, noise_dbfs_a) if ends_in_converter else (peaks[-1], noises[-1])
    return LineLevels(
        peak_dbu=peaks,
        open_peak_dbu=tuple(None if p is None else v2_to_dbu(p) for p in powers.open_v2),
        noise_dba=noises,
        headroom_db=headrooms,
        noise_shares=reading.noise_shares() or (0.0,) * len(stages),
        first_to_clip=tightest(headrooms),
        peak_dbfs=peak_dbfs,
        noise_dbfs_a=noise_dbfs_a,
        snr_db=None if level is None or noise is None else level - noise,
    )
