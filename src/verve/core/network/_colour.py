"""How a line's level is spread over the octaves, and how far its colour is from another's."""

from __future__ import annotations

import statistics
from dataclasses import dataclass

import numpy as np

from verve.core.line import OCTAVE_BANDS_HZ, octave_weights
from verve.core.network._state import LineState
from verve.core.units import v2_to_dbu

_QUIET_DB = -30.0
"""An octave so far below the loudest one is no part of how something sounds."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tilt:
    """The octave that is furthest off against the rest; `by_db` below 0 where it is weaker."""

    hz: float
    by_db: float


def octaves_dbu(state: LineState) -> tuple[float | None, ...] | None:
    """Level of a line's own signal at its end by octave; None for a line that cannot be computed.

    shape: as OCTAVE_BANDS_HZ
    unit: dBu, the hardest peak; None in an octave without anything
    """
    reading, staged = state.reading, state.staged
    if reading is None or staged is None:
        return None

    def work_out() -> tuple[float | None, ...]:
        wire = np.asarray(reading.junction(len(reading.solution.stages) - 1).v_rms)
        points = len(reading.band.hz)
        flat = np.broadcast_to(wire, wire.shape or (points,))[:points]
        weights = octave_weights(staged.response.octave_bands_db, reading.band)[:, 0]
        power_v2 = np.bincount(
            reading.band.octave, weights * np.abs(flat) ** 2, minlength=len(OCTAVE_BANDS_HZ)
        )
        return tuple(v2_to_dbu(float(v2)) for v2 in power_v2)

    return state.once("octaves", work_out)


def tilt(
    now_db: tuple[float | None, ...] | None, usual_db: tuple[float | None, ...] | None
) -> Tilt | None:
    """What is furthest from the usual colour, levels apart; None where there is nothing to compare.

    The middle of all differences is the level's, what an octave is off beyond it is the colour's.
    """
    known = [db for db in usual_db or () if db is not None]
    if now_db is None or usual_db is None or not known:
        return None
    loudest = max(known)
    off_db = {
        hz: now - usual
        for hz, now, usual in zip(OCTAVE_BANDS_HZ, now_db, usual_db, strict=True)
        if now is not None and usual is not None and usual - loudest >= _QUIET_DB
    }
    if not off_db:
        return None
    level_db = statistics.median(off_db.values())
    hz = max(off_db, key=lambda at: abs(off_db[at] - level_db))
    return Tilt(hz=hz, by_db=off_db[hz] - level_db)
