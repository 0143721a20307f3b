"""Predicted against measured: what explains the difference, the likeliest first, and what accepting it would keep.

Everything is weighed alike: how near it comes to the measured level and the measured noise, and how usual it is. A
source that is louder leaves the noise where it is; a gain that is not where it is written moves both.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

from verve.core.assess import LineAssessment, assess
from verve.core.causes import measured_causes
from verve.core.check import words
from verve.core.check._learn import calibrated, goes_over_db, remember_over_test, source_of
from verve.core.engine import Engine
from verve.core.errors import EditError, VerveError
from verve.core.explain import ROUNDING
from verve.core.gain import dial_hours
from verve.core.kind import Control
from verve.core.measure import Hum
from verve.core.session import Play, Session, Take, TakeTrack, set_playing
from verve.core.soundfiles import measure_file
from verve.core.words import fill

Kind = Literal["source", "habit", "gain", "setting", "room", "hum", "preamp"]
CLOSE_DB = 1.0
"""What is nearer to its prediction than this needs no explanation."""
_LEVEL_DB, _NOISE_DB = 1.0, 2.0
"""How well a level, and a noise, is known at all: deviations."""
_TYPICAL_SOURCE_DB, _MEASURED_SOURCE_DB = 5.0, 2.0
_UNMARKED_KNOB_DB, _STEPPED_KNOB_DB = 4.0, 1.0
_ROOM_DB, _PREAMP_DB = 8.0, 3.0
_PRIOR = {
    "source": 0.0, "gain": 0.7, "looked_at": 2.0, "setting": 3.5, "hum": 0.5, "room": 0.5, "preamp": 2.0,
}  # fmt: skip
"""How seldom each is, as −ln of its share against the most usual one."""
_MOST_COST = 30.0
_MOST_MORE_DB = 40.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """What a take, or a check, shows of a signal."""

    line: str
    play: Play
    peak_dbfs: float
    predicted_dbfs: float
    noise_dbfs_a: float | None = None
    predicted_noise_dbfs_a: float | None = None
    hum: Hum | None = None

    @property
    def by_db(self) -> float:
        """How much louder it came out than computed."""
        return self.peak_dbfs - self.predicted_dbfs

    @property
    def noise_by_db(self) -> float | None:
        """How much noisier; None where either is not known."""
        if self.noise_dbfs_a is None or self.predicted_noise_dbfs_a is None:
            return None
        return self.noise_dbfs_a - self.predicted_noise_dbfs_a

    @staticmethod
    def of_track(take: Take, track: TakeTrack) -> Measured | None:
        """That of a recorded line; None where there is nothing to compare."""
        measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
        if measured is None or predicted is None:
            return None
        return Measured(
            line=track.line,
            play=take.play,
            peak_dbfs=measured,
            predicted_dbfs=predicted,
            noise_dbfs_a=track.noise_dbfs_a.measured,
            predicted_noise_dbfs_a=track.noise_dbfs_a.predicted,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Explanation:
    """One thing that may be the reason: how much of the level and of the noise it explains, and how to find out.

    `share` is how likely it is among all that are told.
    """

    kind: Kind
    sentence: str
    test: str
    explains_db: float
    share: float
    can_be_accepted: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class _Candidate:
    kind: Kind
    sentence: str
    test: str
    level_by_db: float
    noise_by_db: float | None
    cost: float
    can_be_accepted: bool = False


def with_hum(measured: Measured, path: Path, channel: int) -> Measured:
    """The same with the hum that the file itself shows; as it is where the file cannot be read any more."""
    try:
        found = measure_file(path).channels[channel]
    except (VerveError, IndexError):
        return measured
    return replace(measured, hum=found.hum)


def explanations(
    session: Session, measured: Measured, engine: Engine | None = None
) -> tuple[Explanation, ...]:
    """What may explain a measurement, the likeliest first; empty where it is as computed.

    `session` is as it was set when it was measured.
    """
    engine = engine or Engine()
    item = assess(session, engine).line(measured.line)
    noise_by_db = measured.noise_by_db
    is_close = abs(measured.by_db) < CLOSE_DB
    is_quiet = noise_by_db is None or noise_by_db < 3.0 * CLOSE_DB
    if item is None or not item.route.has_source or (is_close and is_quiet):
        return ()
    found = []
    if not is_close:
        found += [*_source(item, measured), *_gains(item, measured)]
        found += _settings(session, measured, engine)
    if not is_quiet:
        found += _noises(session, item, measured)
    weighed = sorted(((_cost(one, measured), one) for one in found), key=lambda row: row[0])
    weighed = [(cost, one) for cost, one in weighed if cost - weighed[0][0] < _MOST_COST]
    weights = [math.exp(weighed[0][0] - cost) for cost, _ in weighed]
    total = sum(weights)
    return tuple(
        Explanation(
            kind=one.kind,
            sentence=one.sentence,
            test=one.test,
            explains_db=_explains(one, measured),
            share=weight / total,
            can_be_accepted=one.can_be_accepted,
        )
        for weight, (_, one) in zip(weights, weighed, strict=True)
    )


def _explains(one: _Candidate, measured: Measured) -> float:
    if one.kind in {"room", "hum", "preamp"}:
        return round(one.noise_by_db or 0.0, 2)
    return round(abs(measured.by_db) - abs(measured.by_db - one.level_by_db), 2)


def _cost(one: _Candidate, measured: Measured) -> float:
    level = (measured.by_db - one.level_by_db) / _LEVEL_DB
    cost = one.cost + min(0.5 * level * level, _MOST_COST)
    noise_by_db = measured.noise_by_db
    if noise_by_db is not None and one.noise_by_db is not None:
        noise = (noise_by_db - one.noise_by_db) / _NOISE_DB
        cost += min(0.5 * noise * noise, _MOST_COST / 2.0)
    return cost


def _source(item: LineAssessment, measured: Measured) -> Iterator[_Candidate]:
    figures, name = item.route.source.figures, item.route.source.name
    is_measured = figures.origin_of(figures.level_figure) == "measured"
    by_db = measured.by_db
    # Many go over their test when it counts; hardly anybody stays far under what was measured of them.
    is_habit = is_measured and by_db > 0.0
    spread_db = _TYPICAL_SOURCE_DB if is_habit or not is_measured else _MEASURED_SOURCE_DB
    said = words.SOURCE_LOUDER if by_db > 0.0 else words.SOURCE_QUIETER
    if is_habit:
        said = words.OVER_TEST
    yield _Candidate(
        kind="habit" if is_habit else "source",
        sentence=fill(
            said,
            source=name,
            by_db=abs(by_db),
            origin=words.MEASURED if is_measured else words.TYPICAL,
        ),
        test=words.SOURCE_TEST,
        level_by_db=by_db,
        noise_by_db=0.0,
        cost=_PRIOR["source"] + 0.5 * (by_db / spread_db) ** 2,
        can_be_accepted=True,
    )


def _gains(item: LineAssessment, measured: Measured) -> Iterator[_Candidate]:
    """Each gain knob of the path gives more or less than the session says: noise in front of it moves along."""
    by_db = measured.by_db
    for step in item.route.steps:
        control = step.controls.get("gain_db")
        if control is None or not control.is_dial:
            continue
        value = float(control.value or 0.0)
        if not control.minimum - 0.5 <= value + by_db <= control.maximum + 0.5:
            continue
        yield _Candidate(
            kind="gain",
            sentence=fill(
                words.GAIN_NOT_THERE, where=step.name, by_db=abs(by_db),
                way=words.MORE if by_db > 0.0 else words.LESS,
            ),
            test=fill(words.GAIN_TEST, hours=dial_hours(control, value)),
            level_by_db=by_db,
            noise_by_db=by_db,
            cost=_PRIOR["gain"] + 0.5 * (by_db / _knob_db(control)) ** 2,
        )  # fmt: skip


def _knob_db(control: Control) -> float:
    is_known = control.gain_step_db > 0.0 or control.dial is not None
    return _STEPPED_KNOB_DB if is_known else _UNMARKED_KNOB_DB


def _settings(session: Session, measured: Measured, engine: Engine) -> Iterator[_Candidate]:
    """Settings, cables and tracks that are not as the session says."""
    # The counterfactuals are of the hardest playing; the difference is the same for every way of playing.
    item = assess(session, engine).line(measured.line)
    hardest = None if item is None else item.state.peak_dbfs
    if hardest is None:
        return
    for cause in measured_causes(session, measured.line, hardest + measured.by_db, engine).causes:
        if cause.peak_by_db is None or cause.control == "gain_db":
            continue
        is_mode = cause.control == "mode" and measured.by_db < 0.0
        yield _Candidate(
            kind="setting",
            sentence=(words.LOADED if is_mode else "") + cause.sentence,
            test=cause.test,
            level_by_db=cause.peak_by_db,
            noise_by_db=cause.noise_by_db,
            cost=_PRIOR["looked_at" if cause.is_looked_at else "setting"],
        )


def _noises(session: Session, item: LineAssessment, measured: Measured) -> Iterator[_Candidate]:
    """What may hiss or hum more than it should."""
    noise_by_db = measured.noise_by_db
    hum = measured.hum
    if noise_by_db is None or measured.noise_dbfs_a is None:
        return
    if hum is not None and hum.mains_hz is not None:
        yield _Candidate(
            kind="hum",
            sentence=fill(words.HUM_FITS, mains_hz=float(hum.mains_hz)),
            test=words.HUM_TEST,
            level_by_db=0.0,
            noise_by_db=noise_by_db,
            cost=_PRIOR["hum"],
        )
    for part in item.noise_parts():
        more_db = _more_db(part.level_dbfs_a, measured)
        if part.name == ROUNDING or more_db > _MOST_MORE_DB:
            continue
        is_room = part.is_room
        spread_db = _ROOM_DB if is_room else _PREAMP_DB
        prior = _PRIOR["room" if is_room else "preamp"]
        said = (
            fill(words.FAN_FITS, by_db=more_db, noise_dba=session.setup.room.noise_dba)
            if is_room
            else fill(words.PREAMP_FITS, where=part.name, by_db=more_db)
        )
        yield _Candidate(
            kind="room" if is_room else "preamp",
            sentence=said,
            test=words.FAN_TEST if is_room else words.PREAMP_TEST,
            level_by_db=0.0,
            noise_by_db=noise_by_db,
            cost=prior + 0.5 * (more_db / spread_db) ** 2,
        )


def _more_db(part_dbfs_a: float, measured: Measured) -> float:
    """By how much one part must grow for all of them together to be the noise that was measured.

    source: derivation, independent noises add as powers
    """
    assert measured.noise_dbfs_a is not None
    assert measured.predicted_noise_dbfs_a is not None
    part = 10.0 ** (part_dbfs_a / 10.0)
    rest = 10.0 ** (measured.predicted_noise_dbfs_a / 10.0) - part
    grown = 10.0 ** (measured.noise_dbfs_a / 10.0) - max(0.0, rest)
    return 10.0 * math.log10(max(grown, part) / part)


def accepted(
    session: Session, take: Take, line_id: str, said: str, engine: Engine | None = None
) -> Session:
    """The session that has learnt from a take: the source of a line is as loud as it was there.

    Where it had been measured in a test, how far its player goes over that is remembered as well.

    raises: EditError where the take tells nothing of it
    """
    track = next((one for one in take.tracks if one.line == line_id), None)
    measured = None if track is None else track.peak_dbfs.measured
    if track is None or measured is None or take.setup is None:
        raise EditError(f"{take.name}: holds nothing that was measured of this signal")
    if track.clipped_frames:
        raise EditError(f"{take.name}: it clipped, so nobody knows how loud it was")
    over_db = goes_over_db(session, take, line_id)
    if over_db is not None and over_db > 0.0:
        return remember_over_test(session, take, line_id)
    then = calibrated(
        session.model_copy(update={"setup": take.setup}),
        line_id,
        measured,
        take.play,
        said,
        engine=engine,
    )
    source = source_of(then, line_id)
    return set_playing(session, source.id, source.figures.playing(), said)
