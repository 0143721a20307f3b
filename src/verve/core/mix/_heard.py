"""Which take is heard when: what was chosen for a section, else for the song, else the newest good one."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace

from verve.core.session import Session, Sound, Take, TakeTrack, last_good_take_of, line_of

MOST_MATCHED_DB = 6.0
"""Takes of one signal are matched in level by at most so much: more is another way of playing (a choice)."""
_LEAST_S = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """A stretch of a signal: from when to when in the song it is heard, and where in a file it lies.

    `offset_s` is when in the song the file begins; `gain_db` is what matches it with the other takes of the signal.
    `has_before` and `has_after` tell whether the file has sound beyond its ends, to fade across.
    """

    line: str
    take: str
    file: str
    channel: int
    offset_s: float
    from_s: float
    until_s: float
    gain_db: float = 0.0
    has_before: bool = False
    has_after: bool = False


def start_of(take: Take) -> float:
    """When in the song a take begins; one that was not recorded to the song begins with it."""
    return take.start_s or 0.0


def track_of(take: Take, line_id: str) -> TakeTrack | None:
    """What a take has of a signal."""
    return next((track for track in take.tracks if track.line == line_id), None)


def section_begins_s(session: Session, take: Take, track: TakeTrack) -> float:
    """Where in the file of a track the section of its take begins, in seconds; the take itself where it has none."""
    section = session.song.section(take.section)
    lead_s = 0.0 if section is None else max(0.0, section.start_s - start_of(take))
    return (track.begin_frame or 0) / session.setup.audio.sample_rate_hz + lead_s


def takes_of(session: Session, line_id: str, section: str | None) -> tuple[Take, ...]:
    """The takes of a signal that hold a section, false starts left out, the oldest first."""
    wanted = session.song.section(section)
    found = []
    for take in session.takes:
        if take.aside or track_of(take, line_id) is None:
            continue
        if wanted is None:
            # A section that is gone leaves its takes to the song.
            if session.song.section(take.section) is None:
                found.append(take)
        elif take.section == section:
            found.append(take)
        elif take.section is None:
            start = start_of(take)
            if start <= wanted.start_s and start + take.seconds >= wanted.end_s - _LEAST_S:
                found.append(take)
    return tuple(found)


def chosen_take(session: Session, line_id: str, section: str | None) -> Take | None:
    """The take of a signal that is heard in a section: the chosen one, else the newest good, else the newest."""
    holding = takes_of(session, line_id, section)
    by_id = {take.id: take for take in holding}
    for one in session.chosen:
        if one.line == line_id and one.section == section and one.take in by_id:
            return by_id[one.take]
    if section is not None:
        whole = next(
            (x.take for x in session.chosen if x.line == line_id and x.section is None), None
        )
        if whole in by_id:
            return by_id[whole or ""]
    good = last_good_take_of(session, line_id)
    if good is not None and good.id in by_id:
        return good
    return holding[-1] if holding else None


def _spans(session: Session) -> Iterator[tuple[str | None, float, float | None]]:
    """The song from its beginning to its end: sections, and what lies between them. None is no end."""
    at = 0.0
    for section in session.song.sections:
        start = max(at, section.start_s)
        if section.end_s <= start:
            continue
        if start > at:
            yield None, at, start
        yield section.id, start, section.end_s
        at = section.end_s
    yield None, at, None


def heard_of(session: Session, line_id: str) -> tuple[Heard, ...]:
    """What is heard of a signal from the beginning to the end of the song, one stretch after the other."""
    found: list[Heard] = []
    for section, start_s, end_s in _spans(session):
        take = chosen_take(session, line_id, section)
        track = None if take is None else track_of(take, line_id)
        if take is None or track is None:
            continue
        rate_hz = _rate_of(session, take)
        offset_s = start_of(take) - (track.begin_frame or 0) / rate_hz
        first = start_of(take)
        if section is None and take.section is not None:
            # Between sections nothing is heard of a take of one of them, but for its own beginning and end.
            continue
        last = first + take.seconds
        begin, end = max(start_s, first), last if end_s is None else min(end_s, last)
        if begin >= end - _LEAST_S:
            continue
        found.append(
            Heard(
                line=line_id,
                take=take.id,
                file=track.file,
                channel=track.channel,
                offset_s=offset_s,
                from_s=begin,
                until_s=end,
                gain_db=0.0,
                has_before=first < begin - _LEAST_S,
                has_after=end < last - _LEAST_S,
            )
        )
    joined = _joined(found)
    return _matched(session, joined)


def _joined(found: Sequence[Heard]) -> list[Heard]:
    """The same, stretches of one take that follow each other as one."""
    joined: list[Heard] = []
    for one in found:
        before = joined[-1] if joined else None
        if before is not None and before.take == one.take and before.until_s == one.from_s:
            joined[-1] = replace(before, until_s=one.until_s, has_after=one.has_after)
        else:
            joined.append(one)
    return joined


def _matched(session: Session, found: Sequence[Heard]) -> tuple[Heard, ...]:
    """The same, each take brought to the level of the one that is heard longest."""
    takes = {take.id: take for take in session.takes}
    levels = {
        one.take: track.rms_dbfs
        for one in found
        if (track := track_of(takes[one.take], one.line)) is not None
    }
    lengths: dict[str, float] = {}
    for one in found:
        lengths[one.take] = lengths.get(one.take, 0.0) + one.until_s - one.from_s
    longest = max(lengths, key=lambda key: lengths[key], default="")
    target = levels.get(longest)
    return tuple(replace(one, gain_db=_match_db(levels.get(one.take), target)) for one in found)


def _match_db(own: float | None, target: float | None) -> float:
    if own is None or target is None:
        return 0.0
    return max(-MOST_MATCHED_DB, min(MOST_MATCHED_DB, target - own))


def _rate_of(session: Session, take: Take) -> int:
    """The sample rate that a take was recorded at."""
    setup = take.setup
    return (session.setup if setup is None else setup).audio.sample_rate_hz


def recorded_lines(session: Session) -> tuple[str, ...]:
    """Every signal that has a take which is no false start, in the order in which they were first recorded."""
    found = (track.line for take in session.takes if not take.aside for track in take.tracks)
    return tuple(dict.fromkeys(found))


def backings(session: Session) -> tuple[Sound, ...]:
    """The backing track, or its stems, but for what is muted."""
    return tuple(one for one in session.sounds if one.role == "backing" and not one.is_muted)


def heard_under(session: Session, layers: Collection[str]) -> tuple[str, ...]:
    """The signals of some layers that have takes: what is heard while another one is played over them."""
    own = {
        track.line
        for take in session.takes
        if take.layer in layers and not take.aside
        for track in take.tracks
    }
    return tuple(line for line in recorded_lines(session) if line in own)


def name_of(session: Session, line_id: str) -> str:
    """What a signal is called: as it is now, else as in its newest take."""
    line = line_of(session, line_id)
    if line is not None:
        return line.name
    for take in reversed(session.takes):
        track = track_of(take, line_id)
        if track is not None:
            return track.name
    return line_id
