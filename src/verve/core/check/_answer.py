"""What a check answers: one word and one number, the reason, and what to turn by how much."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from verve.core.assess import Assessment, LineAssessment, assess
from verve.core.check import words
from verve.core.check._guide import Guide
from verve.core.check._learn import alone, louder_by_db, moved_playing, source_of
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.kind import PlayingRange
from verve.core.measure import Hum
from verve.core.session import Change, Session, set_playing
from verve.core.stage import GainJudge, deeds_of
from verve.core.words import fill

Verdict = Literal["right", "loud", "quiet", "clips", "silent"]
TURN_FIRST_DB = 6.0
"""So far off an easy phrase must be for something to be turned before the loudest passage."""
_TOLD_DB = 0.5
_CLIPPED_DOWN_DB = 10.0
"""How much louder than full scale what clipped is taken to be: nobody knows."""
_WORDS: dict[Verdict, str] = {
    "right": words.RIGHT,
    "loud": words.TOO_LOUD,
    "quiet": words.TOO_QUIET,
    "clips": words.CLIPS,
    "silent": words.NOT_HEARD,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Silence:
    """What a signal shows when nobody plays."""

    noise_dbfs_a: float | None = None
    hum: Hum | None = None
    was_quiet: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """How one signal did: the word, the number beside it, the reason, and what to turn.

    `expected_dbfs` is the peak that counts: that of the test, with what its player goes over it in a take.
    """

    line: str
    verdict: Verdict
    peak_dbfs: float | None
    expected_dbfs: float | None
    off_db: float
    number: str
    reason: str
    deeds: str
    changes: tuple[Change, ...] = ()

    @property
    def word(self) -> str:
        """The one word."""
        return _WORDS[self.verdict]


def measured_session(
    session: Session,
    lines: Sequence[str],
    peaks_dbfs: Sequence[float],
    easy_dbfs: Sequence[float] | None,
    said: str,
    engine: Engine,
) -> Session:
    """The session with the source of these signals as loud as was measured, and what its player goes over a test.

    Of several signals of one source the one counts that came out loudest against what was computed of it.

    raises: EditError where nothing of them arrives as the session has it
    """
    of_source: dict[str, list[int]] = {}
    for number, line in enumerate(lines):
        of_source.setdefault(source_of(session, line).id, []).append(number)
    for numbers in of_source.values():
        session = _with_one_source(session, lines, numbers, peaks_dbfs, easy_dbfs, said, engine)
    return session


def _with_one_source(
    session: Session,
    lines: Sequence[str],
    numbers: Sequence[int],
    peaks_dbfs: Sequence[float],
    easy_dbfs: Sequence[float] | None,
    said: str,
    engine: Engine,
) -> Session:
    source = source_of(session, lines[numbers[0]])
    plain = _without_habit(session, source.id)
    by_db, number = max(
        (
            louder_by_db(
                plain, lines[number], peaks_dbfs[number], "hardest", engine, is_alone=True
            ),
            number,
        )
        for number in numbers
    )
    old = source_of(plain, lines[number]).figures.playing()
    below = peaks_dbfs[number] - easy_dbfs[number] if easy_dbfs else None
    spread = old.hardest_db - old.typical_db if below is None or not 1.0 <= below <= 40.0 else below
    hardest = old.hardest_db + by_db
    new = PlayingRange(
        softest_db=round(min(old.softest_db + by_db, hardest - spread), 3),
        typical_db=round(hardest - spread, 3),
        hardest_db=round(hardest + max(0.0, source.over_test_db), 3),
    )
    return set_playing(session, source.id, new, said)


def _without_habit(session: Session, source_id: str) -> Session:
    """A test is no take: of what is computed for it, what the player goes over it is taken off."""
    source = next(one for one in session.setup.sources if one.id == source_id)
    if source.over_test_db <= 0.0:
        return session
    old = source.figures.playing()
    hardest = max(old.typical_db, old.hardest_db - source.over_test_db)
    return set_playing(session, source_id, old.model_copy(update={"hardest_db": hardest}), "")


def answers_of(
    session: Session,
    guide: Guide,
    silences: Sequence[Silence],
    said: str,
    engine: Engine | None = None,
) -> tuple[Session, tuple[Answer, ...]]:
    """What the check of the selected signals answers, and the session as it is known then; gains are not moved."""
    engine = engine or Engine()
    numbers = [n for n in guide.selected if guide.hardest_dbfs(n) is not None]
    if not numbers:
        return session, ()
    lines = [guide.signals[n].line for n in numbers]
    peaks = [guide.hardest_dbfs(n) or 0.0 for n in numbers]
    clipped = [guide.is_clipped(n) for n in numbers]
    known = session
    counts = [
        peak + (_CLIPPED_DOWN_DB if c else 0.0) for peak, c in zip(peaks, clipped, strict=True)
    ]
    easy = None if guide.easy is None else [guide.easy.peaks_dbfs[n] for n in numbers]
    try:
        known = _measured_or_beyond(session, lines, counts, any(clipped), easy, said, engine)
    except EditError:
        # Something else stands in the way of it: what can be said is said of the levels alone.
        known = session
    assessment = assess(known, engine)
    judge = GainJudge(known, engine)
    others_db = _others_db(known, lines, engine)
    found = [
        _answer(assessment, judge, line, peak, is_clipped, silences[n], others_db[line])
        for n, line, peak, is_clipped in zip(numbers, lines, peaks, clipped, strict=True)
    ]
    # What clipped is only known to be too loud: nothing is kept of it.
    return (session if any(clipped) else known), tuple(found)


def _measured_or_beyond(
    session: Session,
    lines: Sequence[str],
    peaks_dbfs: Sequence[float],
    is_beyond: bool,
    easy_dbfs: Sequence[float] | None,
    said: str,
    engine: Engine,
) -> Session:
    """As `measured_session`; what clipped is taken to be louder than full scale by what it may be."""
    if not is_beyond:
        return measured_session(session, lines, peaks_dbfs, easy_dbfs, said, engine)
    assessment, by_source = assess(session, engine), dict[str, float]()
    for line, peak in zip(lines, peaks_dbfs, strict=True):
        source, item = source_of(session, line), assessment.line(line)
        linear = None if item is None else item.state.peak_dbfs
        if linear is None:
            raise EditError(f"{source.name}: nothing of it arrives, as the session has it")
        by_source[source.id] = max(by_source.get(source.id, -1e3), peak - linear)
    for one in session.setup.sources:
        if one.id in by_source:
            playing = moved_playing(one.figures.playing(), by_source[one.id])
            session = set_playing(session, one.id, playing, said)
    return session


def _answer(
    assessment: Assessment,
    judge: GainJudge,
    line: str,
    peak: float,
    is_clipped: bool,
    silence: Silence,
    others_db: float,
) -> Answer:
    item = assessment.line(line)
    assert item is not None
    window = item.target
    over_db = max(0.0, _over_test_db(assessment, item))
    expected = min(0.0, peak + over_db + others_db) if not is_clipped else peak
    off = expected - window.target_dbfs
    is_right = window.lowest_dbfs <= expected <= window.highest_dbfs and not is_clipped
    verdict: Verdict = (
        "right" if is_right else "clips" if is_clipped else "loud" if off > 0.0 else "quiet"
    )
    changes = () if is_right else judge.changes(line)
    deeds = deeds_of(item.state, changes) if changes else ""
    if not is_right and not deeds:
        worst = item.worst
        deeds = worst.advice.rstrip(".") if worst is not None else ""
    return Answer(
        line=line,
        verdict=verdict,
        peak_dbfs=peak,
        expected_dbfs=expected,
        off_db=off,
        number=fill(words.ON_TARGET, peak_dbfs=peak)
        if is_right
        else fill(words.BY, by_db=abs(off)),
        reason=_reason(item, peak, expected, over_db, others_db, verdict)
        + _silence_words(peak, silence),
        deeds=words.NOTHING_TO_TURN
        if is_right
        else fill(words.THEN_AGAIN, deeds=deeds)
        if deeds
        else "",
        changes=changes,
    )


def _over_test_db(assessment: Assessment, item: LineAssessment) -> float:
    wanted = item.route.source.id
    return next(s.over_test_db for s in assessment.session.setup.sources if s.id == wanted)


def _others_db(session: Session, lines: Sequence[str], engine: Engine) -> dict[str, float]:
    """By how much everybody else raises the peaks of these signals, who were played alone."""
    sources = {source_of(session, line).id for line in lines}
    both = [assess(one, engine) for one in (session, alone(session, sources))]
    found = {}
    for line in lines:
        peaks = [
            None if (item := one.line(line)) is None else item.predicted_peak_dbfs("hardest")
            for one in both
        ]
        apart = 0.0 if peaks[0] is None or peaks[1] is None else peaks[0] - peaks[1]
        found[line] = max(0.0, apart)
    return found


def _reason(
    item: LineAssessment,
    peak: float,
    expected: float,
    over_db: float,
    others_db: float,
    verdict: Verdict,
) -> str:
    window = item.target
    if verdict == "clips":
        return words.CLIPPED_BECAUSE
    why = [fill(words.OVER_THEIR_TEST, over_db=over_db)] if over_db >= _TOLD_DB else []
    why += [fill(words.WITH_OTHERS, others_db=others_db)] if others_db >= _TOLD_DB else []
    habit = fill(words.EXPECTED, why=", ".join(why), expected_dbfs=expected) if why else ""
    if verdict == "right":
        said = fill(
            words.RIGHT_BECAUSE,
            peak_dbfs=peak,
            lowest_dbfs=window.lowest_dbfs,
            highest_dbfs=window.highest_dbfs,
        )
        return said + habit
    by_db = expected - window.target_dbfs
    return fill(
        words.OFF_BECAUSE, peak_dbfs=peak, habit=habit, by_db=abs(by_db),
        way=words.ABOVE if by_db > 0.0 else words.BELOW, target_dbfs=window.target_dbfs,
    )  # fmt: skip


def _silence_words(peak: float, silence: Silence) -> str:
    noise = silence.noise_dbfs_a
    if noise is None:
        return ""
    said = " " + fill(words.QUIET_ROOM, noise_dbfs_a=noise, snr_db=peak - noise)
    hum = silence.hum
    if hum is not None and hum.mains_hz is not None and hum.level_dbfs is not None:
        said += fill(words.HUM, mains_hz=float(hum.mains_hz), level_dbfs=hum.level_dbfs)
    return said if silence.was_quiet else said + words.NOT_QUIET


def turn_first(
    session: Session, guide: Guide, engine: Engine | None = None
) -> tuple[str, tuple[Change, ...]]:
    """What to turn after the easy phrase, before anybody plays their loudest: a first setting from a low gain.

    The loudest is taken to be as far above the easy phrase as is usual for them. Empty where it will do.
    """
    engine = engine or Engine()
    easy = guide.easy
    if easy is None:
        return "", ()
    numbers = guide.selected
    lines = [guide.signals[n].line for n in numbers]
    clips = [easy.is_clipped[n] for n in numbers]
    loudest = [
        easy.peaks_dbfs[n] + guide.signals[n].spread_db + (_CLIPPED_DOWN_DB if clips[i] else 0.0)
        for i, n in enumerate(numbers)
    ]
    try:
        known = _measured_or_beyond(session, lines, loudest, True, None, "", engine)
    except EditError:
        return "", ()
    assessment = assess(known, engine)
    judge = GainJudge(known, engine)
    others_db = _others_db(known, lines, engine)
    for line, peak in zip(lines, loudest, strict=True):
        item = assessment.line(line)
        if item is None or abs(peak + others_db[line] - item.target.target_dbfs) < TURN_FIRST_DB:
            continue
        changes = judge.changes(line)
        if changes:
            return deeds_of(item.state, changes), changes
    return "", ()
