"""A take as rows: measured beside computed, and what to change."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from pathlib import Path
from typing import Literal

from verve.core.assess import Assessment
from verve.core.session import Take, TakeTrack
from verve.core.sheets._tables import level
from verve.core.takes import track_advice
from verve.core.words import Fact

NOT_YET = "…"
"""Stands for advice that is still to be worked out."""


def advice_after(take: Take, track: TakeTrack, assessment: Assessment) -> str:
    """What to change after a take of a line, from how it stands now; nothing for a line that is gone."""
    item = assessment.line(track.line)
    if item is None:
        return ""
    return track_advice(
        track, item.worst, is_whole=take.ended == "whole", beside_db=-item.state.own_db
    )


def _advice_at_hand(take: Take, track: TakeTrack, assessment: Assessment) -> str:
    item = assessment.line(track.line)
    worst = None if item is None else item.worst
    if worst is not None and not worst.is_worked_out:
        return NOT_YET
    return advice_after(take, track, assessment)


def take_rows(
    take: Take, assessment: Assessment | None, *, at_hand: bool = False
) -> tuple[tuple[str, ...], ...]:
    """One row a track: name, peak, computed, RMS, noise, computed, clipped frames, what to change.

    Without an assessment nothing is said of what to change; `at_hand` says only what has been worked out.
    """
    advise = _advice_at_hand if at_hand else advice_after
    rows = []
    for track in take.tracks:
        advice = "" if assessment is None else advise(take, track, assessment)
        rows.append(
            (
                track.name,
                level(track.peak_dbfs.measured),
                level(track.peak_dbfs.predicted),
                level(track.rms_dbfs),
                level(track.noise_dbfs_a.measured),
                level(track.noise_dbfs_a.predicted),
                str(track.clipped_frames),
                advice,
            )
        )
    return tuple(rows)


def track_facts(take: Take, track: TakeTrack) -> tuple[Fact, ...]:
    """Every number of a recorded line: measured from its file, or computed before it was recorded."""
    measured = f"from {Path(track.file).name}"
    beforehand = f"from the settings {take.name} was made with, played {_PLAYED[take.play]}"
    rows: tuple[tuple[str, str, Literal["measured", "computed"], str], ...] = (
        (
            "Peak",
            f"{level(track.peak_dbfs.measured)} dBFS",
            "measured",
            f"the largest sample {measured}; 0 dBFS is a full-scale sine",
        ),
        (
            "Peak beforehand",
            f"{level(track.peak_dbfs.predicted)} dBFS",
            "computed",
            f"{beforehand}: see the steps below, which hold for now",
        ),
        (
            "RMS",
            f"{level(track.rms_dbfs)} dBFS",
            "measured",
            f"root of the mean square {measured}; a full-scale sine is 0 dBFS",
        ),
        (
            "Noise",
            f"{level(track.noise_dbfs_a.measured)} dBFS A",
            "measured",
            f"A-weighted level in the pauses {measured}",
        ),
        (
            "Noise beforehand",
            f"{level(track.noise_dbfs_a.predicted)} dBFS A",
            "computed",
            f"A-weighted, 20 Hz to 20 kHz, {beforehand}",
        ),
        (
            "Clipped",
            f"{track.clipped_frames} samples",
            "measured",
            f"samples at full scale {measured}",
        ),
    )
    return tuple(
        Fact(label=label, text=text, origin=origin, how=how) for label, text, origin, how in rows
    )


_PLAYED = {
    "softest": "at its quietest",
    "typical": "as usual",
    "hardest": "at its loudest",
    "phrase": "from quiet to loud",
}


def seconds_text(take: Take) -> str:
    """How long a take is, and how it ended where that was before its time."""
    ending = ending_text(take)
    return ending[:1].lower() + ending[1:] if ending else f"{take.seconds:g} s"


def ending_text(take: Take) -> str:
    """How a take ended before its time, as a sentence; empty for one that is whole."""
    if take.ended == "whole":
        return ""
    if take.ended == "stopped":
        return f"Stopped after {take.seconds:.1f} s"
    return f"Cut off after {take.seconds:.1f} s: {take.reason or 'nobody knows why'}"


def unreadable_text(take: Take) -> str:
    """Why nobody can say what was set for a take, as sentences; empty for one that can be read."""
    fault = take.snapshot.fault
    if fault is None:
        return ""
    return (
        f"What was set for {take.name} cannot be read from the file ({fault}). Its sound, figures and notes "
        "are as they were, and the file keeps what stands there."
    )


def unreadable_takes_text(takes: Iterable[Take]) -> str:
    """What to say of the takes of a file that has just been opened; empty where all can be read."""
    broken = [take for take in takes if take.snapshot.fault is not None]
    if not broken:
        return ""
    others = ", ".join(take.name for take in broken[1:4])
    more = " and others" if broken[4:] else ""
    return unreadable_text(broken[0]) + (f" The same is true of {others}{more}." if others else "")


def take_path(take: Take) -> str:
    """The folder that holds a take's sound files; empty for a take without any."""
    return str(Path(take.tracks[0].file).parent) if take.tracks else ""


def place_text(path: str) -> str:
    """A place as a person says it: below their own folder it begins with ~."""
    try:
        return f"~/{Path(path).relative_to(Path.home())}"
    except ValueError:
        return path


def moment_text(iso: str) -> str:
    """A recorded time as day and hour; an unreadable one as it stands."""
    try:
        moment = datetime.fromisoformat(iso)
    except ValueError:
        return iso
    return f"{moment.day} {moment:%b %Y, %H:%M}"
