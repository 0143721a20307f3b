"""A session with two takes of noise, short enough to be bounced over and over."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

from verve.core.demo import demo_session
from verve.core.session import Figure, Session, Snapshot, Take, TakeTrack, add_take

MIXED_S = 0.5
_RATE_HZ = 48_000


def mixed_session(folder: Path) -> Session:
    """The demo with one take of its voice and its harp, whose sound lies in a folder."""
    session = demo_session()
    folder.mkdir(parents=True, exist_ok=True)
    tracks = []
    for number, line in enumerate(("voice", "harp_left")):
        rng = np.random.default_rng(number)
        path = folder / f"{line}.wav"
        soundfile.write(path, rng.uniform(-0.2, 0.2, round(MIXED_S * _RATE_HZ)), _RATE_HZ, "PCM_24")
        tracks.append(
            TakeTrack(
                line=line,
                name=line,
                file=str(path),
                peak_dbfs=Figure(measured=-14.0),
                noise_dbfs_a=Figure(),
                rms_dbfs=-16.0,
                clipped_frames=0,
            )
        )
    take = Take(
        id="take_1",
        name="Take 1",
        recorded_at="2026-05-04T20:15:00+02:00",
        seconds=MIXED_S,
        play="phrase",
        tracks=tuple(tracks),
        setup=Snapshot.of(session.setup),
    )
    return add_take(session, take)
