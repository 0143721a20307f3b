"""What is learnt from playing: a source as loud as it was measured, a knob as bent as two of its positions tell."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

from verve.core.assess import assess
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.gain import curve, dial_hour, fitted_bend
from verve.core.kind import Control, PlayingRange
from verve.core.session import Play, Session, Source, Take, find_control, learn_dial, set_playing

_CLOSE_DB = 0.02
_MOST_STEPS = 8
_LARGEST_DB = 90.0
_SILENT_DB = 100.0
_LEAST_SPREAD_DB, _MOST_SPREAD_DB = 1.0, 40.0
_LEAST_HOURS = 0.75
"""Positions nearer to each other than this teach nothing of a knob."""
_NEAR_FULL_SCALE_DBFS = -0.1


def source_of(session: Session, line_id: str) -> Source:
    """The source of a line.

    raises: EditError for a line without one
    """
    item = assess(session).line(line_id)
    if item is None or not item.route.has_source:
        raise EditError(f"{line_id}: must be a signal with a source")
    wanted = item.route.source.id
    return next(one for one in session.setup.sources if one.id == wanted)


def moved_playing(playing: PlayingRange, by_db: float) -> PlayingRange:
    """The same range, so much louder."""
    return PlayingRange(
        softest_db=round(playing.softest_db + by_db, 3),
        typical_db=round(playing.typical_db + by_db, 3),
        hardest_db=round(playing.hardest_db + by_db, 3),
    )


def alone(session: Session, sources: Collection[str]) -> Session:
    """The session in which all other acoustic sources are as good as silent: what a check of one player hears."""
    kept = tuple(
        one.model_copy(
            update={
                "figures": one.figures.model_copy(
                    update={
                        one.figures.level_figure: moved_playing(one.figures.playing(), -_SILENT_DB)
                    }
                )
            }
        )
        if one.figures.is_acoustic and one.id not in sources
        else one
        for one in session.setup.sources
    )
    return session.model_copy(update={"setup": session.setup.model_copy(update={"sources": kept})})


def louder_by_db(
    session: Session,
    line_id: str,
    measured_dbfs: float,
    play: Play,
    engine: Engine | None = None,
    *,
    is_alone: bool = False,
) -> float:
    """By how much the source of a line must be louder for its peak to be what was measured.

    It is looked for on the whole computation: what else reaches the input, and what clips on the way, counts. With
    `is_alone` nobody else played meanwhile.

    raises: EditError where no loudness of the source gives such a peak
    """
    engine = engine or Engine()
    source = source_of(session, line_id)
    if is_alone:
        session = alone(session, {source.id})

    def misses(by_db: float) -> float:
        there = set_playing(session, source.id, moved_playing(source.figures.playing(), by_db), "")
        item = assess(there, engine).line(line_id)
        found = None if item is None else item.predicted_peak_dbfs(play)
        if found is None:
            raise EditError(f"{source.name}: nothing of it arrives, as the session has it")
        return found - measured_dbfs

    low, high = -_LARGEST_DB, _LARGEST_DB
    by_db = max(low, min(high, -misses(0.0)))
    for _ in range(_MOST_STEPS):
        off = misses(by_db)
        if abs(off) <= _CLOSE_DB:
            return round(by_db, 3)
        low, high = (low, by_db) if off > 0.0 else (by_db, high)
        wish = by_db - off
        by_db = wish if low < wish < high else (low + high) / 2.0
    if abs(misses(by_db)) <= 10.0 * _CLOSE_DB:
        return round(by_db, 3)
    raise EditError(
        f"{source.name}: no loudness of it explains {measured_dbfs:.1f} dBFS: something else is louder, or clips"
    )


def calibrated(
    session: Session,
    line_id: str,
    measured_dbfs: float,
    play: Play,
    said: str,
    *,
    easy_below_db: float | None = None,
    engine: Engine | None = None,
) -> Session:
    """The session with the source of a line as loud as measured; `said` tells when and where it was.

    `easy_below_db` is how far an easy phrase was below the loudest passage: its usual playing, where that was heard.

    raises: EditError as `louder_by_db`
    """
    by_db = louder_by_db(session, line_id, measured_dbfs, play, engine)
    source = source_of(session, line_id)
    return set_playing(
        session, source.id, _playing(source.figures.playing(), by_db, easy_below_db), said
    )


def _playing(old: PlayingRange, by_db: float, easy_below_db: float | None) -> PlayingRange:
    new = moved_playing(old, by_db)
    if easy_below_db is None or not _LEAST_SPREAD_DB <= easy_below_db <= _MOST_SPREAD_DB:
        return new
    typical = round(new.hardest_db - easy_below_db, 3)
    return new.model_copy(
        update={"typical_db": typical, "softest_db": min(new.softest_db, typical)}
    )


def goes_over_db(session: Session, take: Take, line_id: str) -> float | None:
    """How far a player went over the hardest of their test in a take: measured less what was computed from the test.

    None where the source had not been measured before, or the take tells nothing: it clipped, or was not loud.
    """
    track = next((one for one in take.tracks if one.line == line_id), None)
    if (
        track is None
        or take.setup is None
        or track.clipped_frames
        or take.play not in {"hardest", "phrase"}
    ):
        return None
    measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
    if measured is None or predicted is None or predicted > _NEAR_FULL_SCALE_DBFS:
        return None
    source = source_of(session, line_id)
    then = next((one for one in take.setup.sources if one.id == source.id), None)
    if then is None or then.figures.origin_of(then.figures.level_figure) != "measured":
        return None
    return then.over_test_db + measured - predicted


def remember_over_test(session: Session, take: Take, line_id: str) -> Session:
    """Remember how far a player goes over their test: the most of it counts from now on, and their loudest is that.

    raises: EditError where the take tells nothing of it
    """
    over_db = goes_over_db(session, take, line_id)
    if over_db is None:
        raise EditError(f"{take.name}: tells nothing of how far they go over their test")
    source = source_of(session, line_id)
    by_db = max(0.0, over_db) - source.over_test_db
    return set_playing(
        session,
        source.id,
        moved_playing(source.figures.playing(), by_db),
        f"in the test, and {max(0.0, over_db):.0f} dB over it as in {take.name}",
        over_test_db=round(max(0.0, over_db), 3),
    )


# ── knobs ─────────────────────────────────────────────────────────────────────────────────────


@dataclass(frozen=True, slots=True, kw_only=True)
class KnobPoint:
    """A take with a knob at an hour that somebody has told, and what was measured against what was computed."""

    take: str
    hour: float
    gain_db: float
    """What the session took its gain for."""
    over_db: float
    """Measured less computed."""


def knob_points(session: Session, line_id: str, owner: str, channel: str) -> tuple[KnobPoint, ...]:
    """What the takes of a line tell of a gain knob on its path."""
    found = []
    for take in session.takes:
        track = next((one for one in take.tracks if one.line == line_id), None)
        setup = take.setup
        if track is None or setup is None or track.clipped_frames:
            continue
        measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
        if measured is None or predicted is None:
            continue
        try:
            control = find_control(setup, owner, channel, "gain_db")
        except EditError:
            continue
        if control.hour is not None:
            found.append(
                KnobPoint(
                    take=take.name,
                    hour=control.hour,
                    gain_db=float(control.value or 0.0),
                    over_db=measured - predicted,
                )
            )
    return tuple(found)


def _steps(points: Sequence[KnobPoint]) -> Iterator[tuple[float, float, float]]:
    """From hour to hour, so many dB more: the player is the same in all, and falls out of every difference."""
    for first, second in combinations(points, 2):
        if abs(second.hour - first.hour) >= _LEAST_HOURS:
            by_db = second.gain_db - first.gain_db + second.over_db - first.over_db
            yield first.hour, second.hour, by_db


def dial_from(
    control: Control, points: Sequence[KnobPoint]
) -> tuple[tuple[float, float], ...] | None:
    """The dial that takes at two positions or more tell; None for fewer, or a knob without a range."""
    span_db = control.maximum - control.minimum
    steps = list(_steps(points))
    if span_db <= 0.0 or not steps:
        return None
    return curve(control.minimum, control.maximum, fitted_bend(span_db, steps))


def with_learnt_dial(session: Session, line_id: str, owner: str, channel: str) -> Session:
    """Keep what the takes of a line tell of a knob.

    raises: EditError where they do not tell enough
    """
    control = find_control(session.setup, owner, channel, "gain_db")
    dial = dial_from(control, knob_points(session, line_id, owner, channel))
    if dial is None:
        raise EditError(
            f"{control.label}: takes at two positions that somebody has told are needed"
        )
    return learn_dial(session, owner, channel, dial)


def hour_now(control: Control) -> float:
    """Where a knob stands, as told, else as computed."""
    return (
        control.hour
        if control.hour is not None
        else dial_hour(control, float(control.value or 0.0))
    )
