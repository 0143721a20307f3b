"""The log of a recording beside its files: what a killed program leaves can be made a take again."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass, replace
from pathlib import Path

from pydantic import ValidationError

from verve.core.errors import FileError, VerveError
from verve.core.files import is_locked, read_text, write_atomically
from verve.core.measure import Measurement
from verve.core.session import Take, TakeTrack
from verve.core.soundfiles import measure_file, mend_wav, part_of_wav
from verve.core.units import to_thousandth

LOG_NAME = ".verve-take.json"
_LARGEST_BYTES = 20_000_000


def write_log(take: Take) -> None:
    """Keep what is known of a take beside its files.

    raises: FileError if it cannot be written
    """
    write_atomically(
        _folder(take) / LOG_NAME, take.model_dump_json(exclude_none=True, by_alias=True)
    )


def forget_log(take: Take) -> None:
    """The take is in a session that is kept: its log has done its work."""
    with contextlib.suppress(OSError):
        (_folder(take) / LOG_NAME).unlink()


def _folder(take: Take) -> Path:
    return Path(take.tracks[0].file).parent


@dataclass(frozen=True, slots=True, kw_only=True)
class Unfinished:
    """A recording that no session knows of: its log, and the folder it lies in."""

    folder: Path
    take: Take


def unfinished(base: Path) -> tuple[Unfinished, ...]:
    """Recordings below a folder that nobody is making any more, the oldest first."""
    found = []
    try:
        logs = sorted(base.glob(f"*/{LOG_NAME}"))
    except OSError:
        return ()
    for log in logs:
        try:
            text = read_text(log, largest_bytes=_LARGEST_BYTES, what="a take")
            take = Take.model_validate_json(text)
        except (VerveError, ValidationError):
            continue
        files = [log.parent / Path(track.file).name for track in take.tracks]
        if not any(is_locked(part_of_wav(file)) for file in files):
            found.append(Unfinished(folder=log.parent, take=take))
    return tuple(sorted(found, key=lambda one: one.take.recorded_at))


def taken_up(found: Unfinished, reason: str) -> Take:
    """The take that was being recorded, with all that reached the disk; `reason` says why it ended.

    raises: FileError if nothing did
    """
    tracks, seconds = [], 0.0
    for track in found.take.tracks:
        file = found.folder / Path(track.file).name
        part = part_of_wav(file)
        try:
            if part.exists() and not file.exists():
                mend_wav(part)
                part.replace(file)
            track, length_s = measured(track, file)
        except (VerveError, OSError):
            # Of this line nothing reached the disk.
            continue
        seconds = max(seconds, length_s)
        tracks.append(track)
    if not tracks:
        raise FileError(found.folder, "holds no sound", "Nothing of this take reached the disk.")
    ended = found.take.ended if found.take.ended != "whole" else "cut_off"
    take = found.take.model_copy(
        update={"tracks": tuple(tracks), "seconds": seconds, "ended": ended, "reason": reason}
    )
    write_log(take)
    return take


def measured(track: TakeTrack, file: Path) -> tuple[TakeTrack, float]:
    """A track as its file says it is, and how many seconds it has.

    raises: FileError if it cannot be read
    """
    found = measure_file(file).channels[0]
    return with_measured(replace(track, file=str(file)), found), found.seconds


def with_measured(track: TakeTrack, found: Measurement) -> TakeTrack:
    """A track with what was measured in its file."""
    peak_dbfs, noise_dbfs_a = to_thousandth(found.peak_dbfs), to_thousandth(found.noise_dbfs_a)
    return replace(
        track,
        peak_dbfs=replace(track.peak_dbfs, measured=peak_dbfs),
        noise_dbfs_a=replace(track.noise_dbfs_a, measured=noise_dbfs_a),
        rms_dbfs=to_thousandth(found.rms_dbfs),
        clipped_frames=found.clipped_frames,
    )
