"""How a line stands, and how far that is from how it would stand with everything as usual."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.engine import Engine
from verve.core.network import LineState, is_alive, line_states, octaves_dbu, tilt
from verve.core.session import Session

SILENCE_DB = 100.0
"""A line that gives nothing counts as so far off."""
FLOOR_DBFS = -110.0
_NOISE_WEIGHT = _COLOUR_WEIGHT = 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """How a line stands: its peak in dBFS, how far above its noise, and by octave."""

    peak_dbfs: float
    snr_db: float
    is_silent: bool
    octaves_dbu: tuple[float | None, ...] | None = None
    noise_dbfs_a: float | None = None


def stand_of(session: Session, line_id: str, engine: Engine, *, is_powered: bool = False) -> Stand:
    """With `is_powered` as if everything had the power it needs: a level can be judged without it."""
    state = state_of(session, line_id, engine)
    peak = None if state is None else state.peak_dbfs
    levels = None if state is None else state.levels
    if state is None or peak is None or levels is None:
        return Stand(peak_dbfs=FLOOR_DBFS, snr_db=0.0, is_silent=True)
    if not is_powered and not is_alive(state.route):
        return Stand(peak_dbfs=FLOOR_DBFS, snr_db=0.0, is_silent=True)
    return Stand(
        peak_dbfs=max(peak, FLOOR_DBFS),
        snr_db=levels.snr_db or 0.0,
        is_silent=peak < FLOOR_DBFS,
        octaves_dbu=octaves_dbu(state),
        noise_dbfs_a=levels.noise_dbfs_a,
    )


def state_of(session: Session, line_id: str, engine: Engine) -> LineState | None:
    """A line of a session; None for one that it has not."""
    return next((s for s in line_states(session.setup, engine) if s.line.id == line_id), None)


def off_db(stand: Stand, usual: Stand) -> float:
    """How far a line is from how it would stand with everything as usual."""
    if stand.is_silent != usual.is_silent:
        return SILENCE_DB
    level = min(abs(stand.peak_dbfs - usual.peak_dbfs), SILENCE_DB)
    colour = tilt(stand.octaves_dbu, usual.octaves_dbu)
    return (
        level
        + _NOISE_WEIGHT * max(0.0, usual.snr_db - stand.snr_db)
        + _COLOUR_WEIGHT * (0.0 if colour is None else abs(colour.by_db))
    )
