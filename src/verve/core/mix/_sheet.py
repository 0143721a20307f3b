"""The take sheet: sections down the page, each with its takes, what matters of them, and which one is heard."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from verve.core.mix import _words as words
from verve.core.mix._heard import chosen_take, recorded_lines, takes_of, track_of
from verve.core.session import Session, Take, TakeTrack, every_setup
from verve.core.words import fill

State = Literal["clean", "clipped", "noisy", "silent", "early", "late"]
NOISE_DB = 6.0
"""Noise so far over what was computed was not there before."""
SILENT_DBFS = -60.0
"""What never comes above this was not played, or does not arrive."""
_PAUSE_DB = 30.0
"""What is nearer to the mean level than this is playing, not a pause."""
LOOSE_MS = 35.0
"""So far off the beat somebody hears it (a choice between what is tight and what is loose)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetMark:
    """A take of a section: how it was in one word for its shape, and in a sentence for who asks."""

    take: str
    name: str
    state: State
    says: str
    rating: int
    is_chosen: bool
    is_spare: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetRow:
    """A line of the sheet: a section, or the whole song where there are none."""

    section: str | None
    name: str
    start_s: float
    end_s: float | None
    marks: tuple[SheetMark, ...]


def take_sheet(session: Session, line_id: str) -> tuple[SheetRow, ...]:
    """Every section of the song with all takes of a signal that hold it, the oldest first."""
    sections = session.song.sections
    rows: list[tuple[str | None, str, float, float | None]] = [
        (one.id, one.name, one.start_s, one.end_s) for one in sections
    ]
    if not sections or any(
        take.section is None and track_of(take, line_id) and not take.aside
        for take in session.takes
    ):
        rows.insert(0, (None, words.WHOLE_SONG, 0.0, None))
    return tuple(
        SheetRow(
            section=section,
            name=name,
            start_s=start_s,
            end_s=end_s,
            marks=_marks(session, line_id, section),
        )
        for section, name, start_s, end_s in rows
    )


def _marks(session: Session, line_id: str, section: str | None) -> tuple[SheetMark, ...]:
    chosen = chosen_take(session, line_id, section)
    spares = {
        take
        for one in session.chosen
        if one.line == line_id and one.section == section
        for take in one.spares
    }
    found = []
    for take in takes_of(session, line_id, section):
        track = track_of(take, line_id)
        assert track is not None
        state = state_of(track)
        found.append(
            SheetMark(
                take=take.id,
                name=take.name,
                state=state,
                says=_says(take, track, state),
                rating=take.rating,
                is_chosen=chosen is not None and chosen.id == take.id,
                is_spare=take.id in spares,
            )
        )
    return tuple(found)


def first_line_of(session: Session, line_id: str) -> str | None:
    """The signal that another one doubles or harmonises with; None for one that does neither, or without takes.

    Of a stereo pair it is the same side.
    """
    parts = {part.id: part for part in session.brief.parts}
    own = _part_of(session, line_id)
    root = None if own is None or own[0] not in parts else parts[own[0]].doubles
    if own is None or root is None:
        return None
    for line in recorded_lines(session):
        other = _part_of(session, line)
        if other is not None and other[0] == root and other[1] == own[1]:
            return line
    return None


def _part_of(session: Session, line_id: str) -> tuple[str, int] | None:
    """The part that a signal is of, and which of its signals it is."""
    for setup in every_setup(session):
        links = {link.id: link for link in setup.links}
        sources = {source.id: source.part for source in setup.sources}
        counts: dict[str, int] = {}
        for line in setup.lines:
            part = sources.get(links[line.first_link].start.partition(":")[0])
            if part is None:
                continue
            number = counts[part] = counts.get(part, -1) + 1
            if line.id == line_id:
                return part, number
    return None


def state_of(track: TakeTrack) -> State:
    """What matters most of a recorded signal."""
    peak = track.peak_dbfs.measured
    if track.clipped_frames:
        return "clipped"
    if peak is None or peak < SILENT_DBFS:
        return "silent"
    if noise_over_db(track) is not None:
        return "noisy"
    if track.late_ms is not None and abs(track.late_ms) > LOOSE_MS:
        return "late" if track.late_ms > 0.0 else "early"
    return "clean"


def noise_over_db(track: TakeTrack) -> float | None:
    """By how much a recorded signal has more noise than was computed; None where that is not so, or cannot be told:
    who plays without a rest leaves no pause to hear it in."""
    noise, rms_dbfs = track.noise_dbfs_a, track.rms_dbfs
    if noise.measured is None or noise.predicted is None:
        return None
    if rms_dbfs is None or noise.measured > rms_dbfs - _PAUSE_DB:
        return None
    over_db = noise.measured - noise.predicted
    return over_db if over_db > NOISE_DB else None


def _says(take: Take, track: TakeTrack, state: State) -> str:
    match state:
        case "clipped":
            said = fill(words.CLIPPED, count=track.clipped_frames)
        case "silent":
            said = words.SILENT
        case "noisy":
            said = fill(words.NOISY, by_db=noise_over_db(track) or 0.0)
        case "early" | "late":
            late = words.LATE if state == "late" else words.EARLY
            said = fill(late, by_ms=abs(track.late_ms or 0.0))
        case _:
            said = words.CLEAN
    peak = track.peak_dbfs.measured
    level = "" if peak is None else fill(words.PEAK, peak_dbfs=peak)
    rated = fill(words.RATED, rating=take.rating) if take.rating else ""
    pitch = "" if track.off_cents is None else fill(words.PITCH, cents=track.off_cents)
    return f"{take.name}: {said}{level}{pitch}{rated}."
