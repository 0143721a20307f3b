"""From when to when in the song a recording goes, what is counted in before it, and the rounds of a loop."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.errors import InputError
from verve.core.session import Session, Song

FALSE_START_S = 5.0
"""What is begun anew within so many seconds was a false start: kept, and put aside (a choice)."""
SHORTEST_ROUND_S = 1.0
LONGEST_S = 4 * 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordPlan:
    """One recording in the song: it begins at `start_s`, is wanted from `from_s` until `until_s`, and goes on for
    `tail_s`. None is until it is stopped. It `loops` from `until_s` to `from_s` without a gap.

    `clicks_s` are the beats that are counted in, in seconds of the song; negative where they come before it.
    """

    section: str | None
    start_s: float
    from_s: float
    until_s: float | None
    tail_s: float
    loops: bool
    count_in_s: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        if self.until_s is not None and self.until_s <= self.from_s:
            raise InputError("until_s", "must be after the beginning", self.until_s)
        if self.loops and self.until_s is None:
            raise InputError("loops", "must be a section with an end")

    @property
    def lead_s(self) -> float:
        """How long it goes before what is wanted begins."""
        return self.from_s - self.start_s

    @property
    def seconds(self) -> float | None:
        """After so long it is over; None where somebody stops it."""
        if self.loops or self.until_s is None:
            return None
        return self.until_s - self.start_s + self.tail_s

    @property
    def round_s(self) -> float | None:
        """How long one round is; None where it does not loop."""
        return self.until_s - self.from_s if self.loops and self.until_s is not None else None

    def song_s(self, seconds: float) -> float:
        """Where in the song one is, so long after the recording began."""
        round_s = self.round_s
        at = self.start_s + seconds
        if round_s is None or at < self.from_s + round_s:
            return at
        return self.from_s + (at - self.from_s) % round_s

    def round(self, seconds: float) -> int:
        """Which round one is in, from 1; 0 before the first one begins."""
        round_s = self.round_s
        if round_s is None or seconds < self.lead_s:
            return 0
        return int((seconds - self.lead_s) / round_s + 1e-9) + 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Round:
    """A stretch of a recording that is a take of its own: where in the file, and when in the song.

    `begin_s` and `seconds` include what is kept before and after it; `wanted_s` is from when to when, in seconds of
    the file, it is measured.
    """

    begin_s: float
    seconds: float
    start_s: float
    wanted_s: tuple[float, float]


def plan_of(session: Session, section_id: str | None, *, loops: bool = False) -> RecordPlan:
    """A recording of a section, or of the whole song from its beginning, with lead-in and count-in.

    raises: InputError for a loop over the whole song
    """
    song = session.song
    section = song.section(section_id)
    if section is None:
        from_s, until_s = 0.0, None
        if loops:
            raise InputError("loop", "must be over a section: add one, with its beginning and end")
    else:
        from_s, until_s = section.start_s, section.end_s
    counted = count_in(song, from_s)
    lead_s = song.lead_in_s if from_s > 0.0 else 0.0
    start_s = min([from_s - lead_s, *counted])
    return RecordPlan(
        section=None if section is None else section.id,
        start_s=start_s,
        from_s=from_s,
        until_s=until_s,
        tail_s=song.tail_s,
        loops=loops,
        count_in_s=counted,
    )


def count_in(song: Song, from_s: float) -> tuple[float, ...]:
    """The beats before a place in the song that are counted in; none without a tempo."""
    if song.tempo_bpm is None or not song.count_in_bars:
        return ()
    beat_s = 60.0 / song.tempo_bpm
    count = song.count_in_bars * song.beats
    return tuple(from_s - beat_s * (count - number) for number in range(count))


def clicks(song: Song, from_s: float, until_s: float) -> tuple[tuple[float, bool], ...]:
    """The beats of a stretch of the song, each with whether a bar begins there."""
    if song.tempo_bpm is None:
        return ()
    beat_s = 60.0 / song.tempo_bpm
    first = -int((song.first_beat_s - from_s) / beat_s + 1e-9) - 1
    found = []
    number = first
    while (at := song.first_beat_s + number * beat_s) < until_s:
        if at >= from_s - 1e-9:
            found.append((at, number % song.beats == 0))
        number += 1
    return tuple(found)


def rounds_of(plan: RecordPlan, seconds: float) -> tuple[Round, ...]:
    """The takes in a recording of so many seconds: one, or of a loop all rounds, the last one as far as it goes."""
    round_s = plan.round_s
    if round_s is None:
        until = seconds if plan.until_s is None else min(seconds, plan.until_s - plan.start_s)
        wanted = (min(plan.lead_s, until), until)
        if wanted[1] - wanted[0] < SHORTEST_ROUND_S:
            wanted = (0.0, seconds)
        return (Round(begin_s=0.0, seconds=seconds, start_s=plan.start_s, wanted_s=wanted),)
    found = []
    number = 0
    while (begin := plan.lead_s + number * round_s) + SHORTEST_ROUND_S <= seconds:
        end = min(seconds, begin + round_s)
        before = min(begin, plan.lead_s)
        after = min(seconds - end, plan.tail_s)
        found.append(
            Round(
                begin_s=begin - before,
                seconds=before + end - begin + after,
                start_s=plan.from_s - before,
                wanted_s=(begin, end),
            )
        )
        number += 1
    if not found:
        wanted = (0.0, seconds)
        return (Round(begin_s=0.0, seconds=seconds, start_s=plan.start_s, wanted_s=wanted),)
    return tuple(found)
