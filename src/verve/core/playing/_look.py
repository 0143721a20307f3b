"""Takes looked at as playing: read from their files, held against the song, told in sentences."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from verve.core.errors import CancelledError
from verve.core.measure import onsets_of
from verve.core.mix import backings, start_of, track_of
from verve.core.playing import _words as words
from verve.core.playing._doubles import Tolerance, WorthHearing, worth_hearing
from verve.core.playing._intonation import (
    HeldNote,
    PhrasePitch,
    held_notes,
    overall_cents,
    pitch_by_phrase,
)
from verve.core.playing._timing import PAUSE_S, PhraseTiming, overall_ms, played_against
from verve.core.session import Session, Take, every_setup
from verve.core.soundfiles import read_span
from verve.core.units import FloatArray
from verve.core.words import fill

TELL_MS, TELL_CENTS = 20.0, 15.0
"""Less than this is how people play."""
_LONGEST_S = 600.0
_BEFORE_S = 0.1
"""A note on the first beat of a section begins before it as often as after it."""
GoesOn = Callable[[], bool]


@dataclass(frozen=True, slots=True, kw_only=True)
class Playing:
    """How a signal was played in a take: by phrase, and in all. None where it cannot be told."""

    take: str
    line: str
    phrases: tuple[PhraseTiming, ...]
    pitches: tuple[PhrasePitch, ...]
    late_ms: float | None
    off_cents: float | None

    @property
    def text(self) -> str:
        """The same in a sentence; empty where there is nothing to say."""
        said = [_timing_text(self.phrases, self.late_ms), _pitch_text(self.pitches)]
        return " ".join(one for one in said if one)


def section_samples(
    session: Session, take: Take, line_id: str
) -> tuple[FloatArray, int, float] | None:
    """What was played of a section itself, without what is kept around it; its rate, and when in the song it begins.

    raises: FileError if it cannot be read
    """
    track = track_of(take, line_id)
    if track is None:
        return None
    setup = take.setup
    rate_hz: int = (session.setup if setup is None else setup).audio.sample_rate_hz
    section = session.song.section(take.section)
    start, end = start_of(take), start_of(take) + take.seconds
    if section is not None:
        start, end = max(start, section.start_s - _BEFORE_S), min(end, section.end_s)
    elif take.start_s is not None:
        # What is counted in before the song is no playing.
        start = max(start, min(0.0, end))
    end = min(end, start + _LONGEST_S)
    begin = (track.begin_frame or 0) + round((start - start_of(take)) * rate_hz)
    frames = max(0, round((end - start) * rate_hz))
    samples = read_span(Path(track.file), begin, frames, rate_hz, track.channel)[0]
    return samples, rate_hz, start


def look(
    session: Session, take: Take, line_id: str, goes_on: GoesOn = lambda: True
) -> Playing | None:
    """How a signal was played in a take, against the click or the backing, and on its notes if it plays single ones.

    None for a take that does not hold it.

    raises: FileError if it cannot be read; CancelledError
    """
    found = section_samples(session, take, line_id)
    if found is None:
        return None
    samples, rate_hz, start_s = found
    others = None
    if session.song.tempo_bpm is None:
        others = _backing_onsets(session, start_s, len(samples) / rate_hz, rate_hz)
    phrases = played_against(samples, rate_hz, start_s, session.song, others)
    if not goes_on():
        raise CancelledError
    notes: tuple[HeldNote, ...] = ()
    if plays_single_notes(session, line_id):
        notes = held_notes(samples, rate_hz, start_s, session.a4_hz)
    return Playing(
        take=take.id,
        line=line_id,
        phrases=phrases,
        pitches=pitch_by_phrase(notes, PAUSE_S),
        late_ms=overall_ms(phrases),
        off_cents=overall_cents(notes),
    )


def _backing_onsets(
    session: Session, start_s: float, seconds: float, rate_hz: int
) -> FloatArray | None:
    """When notes of the backing begin in a stretch of the song; None where there is none."""
    tracks = backings(session)
    if not tracks:
        return None
    whole = np.zeros(round(seconds * rate_hz))
    for sound in tracks:
        begin = round((start_s - sound.offset_s) * rate_hz)
        whole += read_span(Path(sound.file), begin, len(whole), rate_hz).mean(axis=0)
    return onsets_of(whole, rate_hz) + start_s


def plays_single_notes(session: Session, line_id: str) -> bool:
    """Whether a pitch can be told of it: a voice, and what plays one note after the other; chords are found out."""
    for setup in every_setup(session):
        sources = {one.id: one for one in setup.sources}
        links = {one.id: one for one in setup.links}
        for line in setup.lines:
            if line.id == line_id:
                source = sources.get(links[line.first_link].start.partition(":")[0])
                return source is not None and source.figures.player not in _NO_PITCH
    return False


_NO_PITCH = {"keys", "struck"}
"""What somebody else has tuned is not sung sharp."""


def compare_double(
    session: Session,
    first: tuple[Take, str],
    double: tuple[Take, str],
    tolerance: Tolerance,
    goes_on: GoesOn = lambda: True,
) -> tuple[WorthHearing, ...]:
    """The places of a double that are most worth hearing beside its first: takes, each with its signal.

    raises: FileError if a take cannot be read; CancelledError
    """
    onsets, notes = [], []
    for take, line in (first, double):
        found = section_samples(session, take, line)
        if found is None or not goes_on():
            raise CancelledError
        samples, rate_hz, start_s = found
        onsets.append(onsets_of(samples, rate_hz) + start_s)
        notes.append(
            held_notes(samples, rate_hz, start_s, session.a4_hz)
            if plays_single_notes(session, line)
            else ()
        )
    return worth_hearing(onsets[0], onsets[1], notes[0], notes[1], tolerance)


def place_text(place: WorthHearing) -> str:
    """A place in a sentence: where, and what is heard there."""
    where = _at(place.at_s)
    if place.late_ms is not None:
        said = words.BEHIND if place.late_ms > 0.0 else words.AHEAD
        return fill(said, at=where, by_ms=abs(place.late_ms))
    cents = place.off_cents or 0.0
    return fill(words.SHARP if cents > 0.0 else words.FLAT, at=where, by_cents=abs(cents))


def _at(seconds: float) -> str:
    minutes, rest = divmod(max(0.0, seconds), 60.0)
    return f"{int(minutes)}:{rest:04.1f}"


def _timing_text(phrases: tuple[PhraseTiming, ...], late_ms: float | None) -> str:
    if late_ms is None:
        return ""
    off = [one for one in phrases if abs(one.late_ms) >= TELL_MS]
    if not off:
        return words.IN_TIME
    worst = max(off, key=lambda one: abs(one.late_ms))
    said = words.BEHIND_BEAT if worst.late_ms > 0.0 else words.AHEAD_OF_BEAT
    count = fill(words.OF_PHRASES, count=len(off), all=len(phrases))
    return fill(said, by_ms=abs(worst.late_ms), at=_at(worst.start_s), count=count)


def _pitch_text(pitches: tuple[PhrasePitch, ...]) -> str:
    off = [one for one in pitches if abs(one.off_cents) >= TELL_CENTS]
    if not off:
        return ""
    worst = max(off, key=lambda one: abs(one.off_cents))
    said = words.SHARP_PHRASE if worst.off_cents > 0.0 else words.FLAT_PHRASE
    return fill(said, by_cents=abs(worst.off_cents), at=_at(worst.start_s), note=worst.worst.note)
