"""Measured recordings for a terminal and as JSON data."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

from verve.core.sheets._tables import level, table

if TYPE_CHECKING:
    # The sound library takes a while to load, and a sheet only reads what was measured.
    from verve.core.sound import Measurement


def measurement_text(path: Path, measured: Sequence[Measurement]) -> str:
    """One row a channel; levels in dBFS, the noise of the pauses A-weighted."""
    first = measured[0]
    depth = f", {first.bit_depth} bit" if first.bit_depth else ""
    head = ["channel", "peak", "RMS", "noise A", "clipped samples"]
    rows = [
        [
            str(m.channel + 1),
            level(m.peak_dbfs),
            level(m.rms_dbfs),
            level(m.noise_dbfs_a),
            str(m.clipped_frames),
        ]
        for m in measured
    ]
    title = f"{path}: {first.seconds:.2f} s, {first.sample_rate_hz} Hz{depth}; levels in dBFS"
    if first.missing_s:
        title += (
            f"\nThe file breaks off: {first.missing_s:.2f} s of what its header says are missing."
        )
    return title + "\n" + table(head, rows, numbers=range(5))


def measurement_data(path: Path, measured: Sequence[Measurement]) -> dict[str, Any]:
    """The same as data."""
    return {"file": str(path), "channels": [asdict(m) for m in measured]}
