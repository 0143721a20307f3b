"""The levels of one line as plain numbers, taken once from its reading."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.errors import InputError
from verve.core.line._quantities import Reading
from verve.core.line._stages import Converter, Sound


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
    stages = reading.solution.stages
    wires = [not isinstance(stage, Sound) for stage in stages]
    ends_in_converter = isinstance(stages[-1], Converter)
    count = range(len(stages))
    try:
        snr_db = reading.snr_db(len(stages) - 1)
    except InputError:
        snr_db = None
    return LineLevels(
        peak_dbu=tuple(reading.peak_dbu(i) if wires[i] else None for i in count),
        open_peak_dbu=tuple(reading.open_peak_dbu(i) if wires[i] else None for i in count),
        noise_dba=tuple(reading.noise_dba(i) if wires[i] else None for i in count),
        headroom_db=tuple(reading.headroom_db(i) for i in count),
        noise_shares=reading.noise_shares() or (0.0,) * len(stages),
        first_to_clip=reading.first_to_clip(),
        peak_dbfs=reading.peak_dbfs() if ends_in_converter else None,
        noise_dbfs_a=reading.noise_dbfs_a() if ends_in_converter else None,
        snr_db=snr_db,
    )
