"""Measured recordings for a terminal and as JSON data."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

from verve.core.sheets._tables import level, table

if TYPE_CHECKING:
    # The sound library takes a while to load, and a sheet only reads what was measured.
    from verve.core.measure import Measurement, Recording


def measurement_text(path: Path, found: Recording) -> str:
    """One row a channel, levels in dBFS, the noise of the pauses A-weighted; below it what else was found."""
    depth = f", {found.bit_depth} bit" if found.bit_depth else ""
    head = ["channel", "peak", "true peak", "RMS", "noise A", "clipped samples"]
    rows = [
        [
            str(m.channel + 1),
            level(m.peak_dbfs),
            level(m.true_peak_dbtp),
            level(m.rms_dbfs),
            level(m.noise_dbfs_a),
            str(m.clipped_frames),
        ]
        for m in found.channels
    ]
    title = f"{path}: {found.seconds:.2f} s, {found.sample_rate_hz} Hz{depth}; levels in dBFS"
    if missing_s := found.channels[0].missing_s:
        title += f"\nThe file breaks off: {missing_s:.2f} s of what its header says are missing."
    said = [line for m in found.channels for line in _said_of(m, found.sample_rate_hz)]
    return "\n".join([title, table(head, rows, numbers=range(6)), *_said_of_all(found), *said])


def _said_of_all(found: Recording) -> list[str]:
    said = []
    if (programme := found.programme) is not None:
        loudness = (
            ("Loudness", programme.integrated_lufs, "LUFS"),
            ("loudest 400 ms", programme.max_momentary_lufs, "LUFS"),
            ("loudest 3 s", programme.max_short_term_lufs, "LUFS"),
            ("range", programme.lra_lu, "LU"),
        )
        parts = [
            f"{name} {level(value)} {unit}" for name, value, unit in loudness if value is not None
        ]
        said += [", ".join(parts) + "."] if parts else []
    if (pair := found.pair) is not None:
        if pair.is_mono:
            said.append("Left and right are the same.")
        elif pair.polarity_inverted:
            said.append("Left and right have opposite polarity.")
        if pair.one_sided is not None:
            said.append(f"Only the {pair.one_sided} side has sound.")
    return said


def _said_of(m: Measurement, rate_hz: int) -> list[str]:
    """Sentences on what is wrong with a channel, each with its place in seconds."""
    name = f"Channel {m.channel + 1}"
    said = []
    if m.is_digital_zero:
        said.append(f"{name}: digital silence from beginning to end.")
    if m.clipped_runs:
        first_s = m.clipped_runs[0].start_frame / rate_hz
        count = len(m.clipped_runs)
        said.append(
            f"{name}: clipped {count} {'time' if count == 1 else 'times'} at {level(m.clip_level_dbfs)} dBFS, "
            f"first at {first_s:.2f} s."
        )
    if m.hum.mains_hz is not None:
        hz = m.hum.mains_hz if m.hum.hz is None else round(m.hum.hz, 2)
        said.append(f"{name}: hum of {hz:g} Hz at {level(m.hum.level_dbfs)} dBFS in the pauses.")
    for one in m.dropouts[:_TOLD]:
        at_s = one.start_frame / rate_hz
        said.append(f"{name}: {_DROPOUTS[one.kind]} at {at_s:.3f} s.")
    for blast in m.blasts[:_TOLD]:
        said.append(f"{name}: burst of air (plosive) at {blast.start_frame / rate_hz:.2f} s.")
    return said


_TOLD = 10
_DROPOUTS = {
    "gap": "drop-out, a gap",
    "repeat": "drop-out, a block twice",
    "skip": "drop-out, samples missing",
}


def measurement_data(path: Path, found: Recording) -> dict[str, Any]:
    """The same as data; keys as in docs/recordings.md."""
    return {
        "file": str(path),
        "sample_rate_hz": found.sample_rate_hz,
        "frames": found.frames,
        "seconds": found.seconds,
        "bit_depth": found.bit_depth,
        "channels": [asdict(m) for m in found.channels],
        "programme": None if found.programme is None else asdict(found.programme),
        "pair": None if found.pair is None else asdict(found.pair),
    }
