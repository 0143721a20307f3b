"""A sound file read whole: every figure, its digest, the silence at its head; and what the session keeps of that."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from verve.core.errors import CancelledError, FileError
from verve.core.files import why
from verve.core.measure import Recording
from verve.core.session import (
    ChannelFigures,
    Session,
    Sound,
    SoundFigures,
    free_key,
    free_name,
)
from verve.core.soundfiles import (
    content_of,
    file_stem,
    measure_file,
    recorded_at_of,
    silence_at_head_s,
)
from verve.core.units import to_thousandth

_LONGEST_NAME = 80


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Analysed:
    """What was found in a file."""

    path: Path
    recording: Recording
    content: str
    size_bytes: int
    silence_s: float
    recorded_at: str = ""


def analyse(
    path: Path,
    report: Callable[[float], None] = lambda _: None,
    is_stopped: Callable[[], bool] = lambda: False,
) -> Analysed:
    """Measure a file; `report` is told the share that has been read.

    raises: FileError if it cannot be read, changes meanwhile, or holds no sound; CancelledError if it is stopped
    """
    if os.fsencode(path).decode("utf-8", errors="replace") != str(path):
        raise FileError(path, "has a name that is no text", "Rename it, then import it.")
    before = _size_and_time(path)

    def progress(share: float) -> bool:
        report(share)
        return not is_stopped()

    def goes_on() -> bool:
        return not is_stopped()

    recording = measure_file(path, progress=progress)
    peaks = [one.peak_dbfs for one in recording.channels if one.peak_dbfs is not None]
    silence_s = silence_at_head_s(path, max(peaks, default=None), goes_on)
    content = content_of(path, goes_on)
    if is_stopped():
        raise CancelledError
    if _size_and_time(path) != before:
        raise FileError(path, "was changed while it was read", "Import it when it is finished.")
    return Analysed(
        path=path,
        recording=recording,
        content=content,
        size_bytes=before[0],
        silence_s=silence_s,
        recorded_at=recorded_at_of(path) or "",
    )


def _size_and_time(path: Path) -> tuple[int, int]:
    try:
        found = path.stat()
    except OSError as error:
        raise FileError(path, f"cannot be read: {why(error)}", "Check the name.") from error
    return found.st_size, found.st_mtime_ns


def sound_of(found: Analysed, session: Session, added_at: str = "") -> Sound:
    """What a session keeps of an analysed file, under a free name, assigned to nothing yet."""
    recording = found.recording
    programme = recording.programme
    peaks = [c.true_peak_dbtp for c in recording.channels if c.true_peak_dbtp is not None]
    stem = (" ".join(found.path.stem.split()) or file_stem(found.path.name))[: _LONGEST_NAME - 4]
    name = free_name(stem, {sound.name for sound in session.sounds})
    return Sound(
        id=free_key(name, {sound.id for sound in session.sounds}),
        name=name,
        file=str(found.path.absolute()),
        content=found.content,
        size_bytes=found.size_bytes,
        role="measurement",
        sample_rate_hz=recording.sample_rate_hz,
        frames=recording.frames,
        bit_depth=recording.bit_depth,
        added_at=added_at,
        recorded_at=found.recorded_at,
        figures=SoundFigures(
            channels=tuple(
                ChannelFigures(
                    peak_dbfs=to_thousandth(one.peak_dbfs),
                    true_peak_dbtp=to_thousandth(one.true_peak_dbtp),
                    rms_dbfs=to_thousandth(one.rms_dbfs),
                    noise_dbfs_a=to_thousandth(one.noise_dbfs_a),
                    clipped_frames=one.clipped_frames,
                )
                for one in recording.channels
            ),
            integrated_lufs=None if programme is None else to_thousandth(programme.integrated_lufs),
            lra_lu=None if programme is None else to_thousandth(programme.lra_lu),
            true_peak_dbtp=to_thousandth(max(peaks, default=None)),
            silence_s=round(found.silence_s, 6),
        ),
    )
