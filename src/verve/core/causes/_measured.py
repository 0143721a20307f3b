"""What would make a line arrive as it was measured: what the session says is not what is."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from verve.core.causes import _words as words
from verve.core.causes._causes import LEAST_DB, OFF_DB, Cause, Causes, cause_of
from verve.core.causes._slips import HALF_CABLE_DB, Slip, slips_of
from verve.core.causes._stand import FLOOR_DBFS, Stand, stand_of, state_of
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.session import Session, apply_changes
from verve.core.words import fill


def measured_causes(
    session: Session, line_id: str, peak_dbfs: float, engine: Engine | None = None
) -> Causes:
    """What would make a line arrive as it was measured: what the session says is not what is.

    Each control is put where it may be, each cable broken; what comes nearest to the measured peak stands first.
    """
    engine = engine or Engine()
    state = state_of(session, line_id, engine)
    if state is None:
        return Causes(deviations=(), causes=())
    now = stand_of(session, line_id, engine)
    by_db = max(peak_dbfs, FLOOR_DBFS) - now.peak_dbfs
    best: dict[tuple[str, ...], tuple[float, int, Cause]] = {}
    for slip, cause in _would_be(session, line_id, now, engine):
        assert cause.peak_by_db is not None
        misses = abs(cause.peak_by_db - by_db)
        found = (misses, slip.place, replace(cause, explains_db=round(abs(by_db) - misses, 2)))
        one = slip.candidate
        # Of the positions of one control that which comes nearest; all else counts by itself.
        key = (slip.kind, one.owner, one.channel, one.control, one.link, slip.other)
        if key not in best or misses < best[key][0]:
            best[key] = found
    rows = [row for row in best.values() if row[2].explains_db >= LEAST_DB]
    rows.sort(key=lambda row: (round(row[0], 1), row[1]))
    way = words.LOUDER if by_db > 0.0 else words.QUIETER
    said = (
        fill(words.MEASURED_OFF, line=state.line.name, by_db=abs(by_db), way=way)
        if abs(by_db) >= OFF_DB
        else fill(words.NOTHING_OFF, line=state.line.name)
    )
    return Causes(deviations=(said,), causes=tuple(cause for _, _, cause in rows))


def _would_be(
    session: Session, line_id: str, now: Stand, engine: Engine
) -> Iterator[tuple[Slip, Cause]]:
    """Everything that may be otherwise, with what it would do to the peak, where that is anything."""
    state = state_of(session, line_id, engine)
    assert state is not None
    for slip in slips_of(session, state, engine):
        cause = cause_of(slip.candidate, 0.0)
        match slip.kind:
            case "control":
                assert slip.change is not None
                try:
                    there = stand_of(apply_changes(session, (slip.change,)), line_id, engine)
                except EditError:
                    continue
                would_db = there.peak_dbfs - now.peak_dbfs
                if abs(would_db) < LEAST_DB:
                    continue
                noise_db = _apart_db(there.noise_dbfs_a, now.noise_dbfs_a)
                cause = replace(cause, noise_by_db=noise_db, is_looked_at=slip.is_forgotten)
            case "other_input":
                would_db = stand_of(session, slip.other, engine).peak_dbfs - now.peak_dbfs
            case "half_cable":
                would_db = HALF_CABLE_DB
            case "cable" | "no_input":
                would_db = FLOOR_DBFS - now.peak_dbfs
        yield slip, replace(cause, peak_by_db=would_db)


def _apart_db(there: float | None, now: float | None) -> float | None:
    return None if there is None or now is None else there - now
