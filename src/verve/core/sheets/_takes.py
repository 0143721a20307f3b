"""A take as rows: measured beside computed, and what to change."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from verve.core.assess import Assessment
from verve.core.session import Take
from verve.core.sheets._tables import level, table
from verve.core.takes import track_advice


def take_rows(take: Take, assessment: Assessment) -> tuple[tuple[str, ...], ...]:
    """One row a track: name, peak, computed, RMS, noise, computed, clipped frames, what to change.

    What to change is said from how the line stands now; for one that is gone, nothing is.
    """
    rows = []
    for track in take.tracks:
        item = assessment.line(track.line)
        advice = "" if item is None else track_advice(track, item.worst)
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


def take_summary(take: Take) -> str:
    """The tracks of a take as a table of text."""
    head = ["line", "peak", "computed", "RMS", "noise A", "computed", "clipped"]
    rows = [
        [
            track.name,
            level(track.peak_dbfs.measured),
            level(track.peak_dbfs.predicted),
            level(track.rms_dbfs),
            level(track.noise_dbfs_a.measured),
            level(track.noise_dbfs_a.predicted),
            str(track.clipped_frames),
        ]
        for track in take.tracks
    ]
    return table(head, rows, numbers=range(1, 7))


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
