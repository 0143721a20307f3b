"""Sessions with takes whose sound is known, and a measurement of loudness by another route."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile
from scipy.signal import lfilter, resample_poly

from verve.core.demo import demo_session
from verve.core.session import (
    Figure,
    Session,
    Snapshot,
    Take,
    TakeTrack,
    add_double,
    add_section,
    add_take,
    layer_of,
    set_song,
    turn_to_layer,
)
from verve.core.units import FloatArray

RATE_HZ = 48_000


def tone(hz: float, seconds: float, level: float = 0.1) -> FloatArray:
    """A steady sine."""
    return np.asarray(
        level * np.sin(2.0 * np.pi * hz * np.arange(round(seconds * RATE_HZ)) / RATE_HZ)
    )


def sung(seconds: float, seed: int = 1, level: float = 0.3) -> FloatArray:
    """Something like a voice: bursts of noise with a fundamental, and pauses between."""
    rng = np.random.default_rng(seed)
    at = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    phrases = (np.sin(2.0 * np.pi * 0.4 * at) > -0.3) * np.abs(np.sin(2.0 * np.pi * 1.7 * at)) ** 2
    buzz = np.sin(2.0 * np.pi * 220.0 * at) + 0.5 * rng.standard_normal(len(at))
    found = phrases * buzz
    return np.asarray(level * found / np.abs(found).max())


def write(path: Path, samples: FloatArray, rate_hz: int = RATE_HZ) -> Path:
    """Into a WAV file of 24 bits."""
    path.parent.mkdir(parents=True, exist_ok=True)
    soundfile.write(path, samples.T, rate_hz, subtype="PCM_24")
    return path


def with_take(
    session: Session,
    folder: Path,
    number: int,
    sounds: dict[str, FloatArray],
    *,
    start_s: float = 0.0,
    section: str | None = None,
    rating: int = 0,
) -> Session:
    """One more take of the layer that is set up, with these sounds by signal."""
    layer = layer_of(session)
    tracks, seconds = [], 0.0
    names = {line.id: line.name for line in session.setup.lines}
    for line, samples in sounds.items():
        path = write(folder / f"Take {number}" / f"{line}.wav", samples)
        seconds = samples.shape[-1] / RATE_HZ
        rms = float(np.sqrt(np.mean(samples**2)))
        tracks.append(
            TakeTrack(
                line=line,
                name=names.get(line, line),
                file=str(path),
                peak_dbfs=Figure(measured=float(20.0 * np.log10(np.abs(samples).max() + 1e-12))),
                noise_dbfs_a=Figure(),
                rms_dbfs=float(20.0 * np.log10(rms * np.sqrt(2.0) + 1e-12)),
                clipped_frames=0,
            )
        )
    take = Take(
        id=f"take_{number}",
        name=f"Take {number}",
        recorded_at="2026-05-04T20:15:00+02:00",
        seconds=seconds,
        play="phrase",
        tracks=tuple(tracks),
        setup=Snapshot.of(session.setup),
        layer=None if layer is None else layer.id,
        section=section,
        start_s=start_s,
        rating=rating,
    )
    return add_take(session, take)


def song_of_two_sections() -> Session:
    """The demo with a song of two sections of four seconds each."""
    session = set_song(demo_session(), demo_session().song.model_copy(update={"tempo_bpm": 120.0}))
    session, _ = add_section(session, "Verse", 0.0, 4.0)
    return add_section(session, "Chorus", 4.0, 8.0)[0]


def sung_with_a_double(folder: Path) -> Session:
    """A voice over a harp, both eight seconds long, and a double of the voice."""
    session = song_of_two_sections()
    session = with_take(
        session,
        folder,
        1,
        {"voice": sung(8.0), "harp_left": tone(330.0, 8.0), "harp_right": tone(440.0, 8.0)},
    )
    doubled = add_double(session, "voice")
    line = doubled.setup.lines[0].id
    doubled = with_take(doubled, folder, 2, {line: sung(8.0, seed=2)})
    return turn_to_layer(doubled, "evening")


def loudness_lufs(samples: FloatArray) -> float:
    """Integrated loudness at 48 kHz with the numbers of the standard, block by block.

    source: BS.1770-5, Annex 1, tables 1 and 2, and the gates of its section 2
    """
    weighted = lfilter(
        [1.53512485958697, -2.69169618940638, 1.19839281085285],
        [1.0, -1.69065929318241, 0.73248077421585],
        samples,
    )
    weighted = lfilter([1.0, -2.0, 1.0], [1.0, -1.99004745483398, 0.99007225036621], weighted)
    size, step = 19_200, 4_800
    powers = np.array(
        [
            np.sum(np.mean(weighted[:, at : at + size] ** 2, axis=1))
            for at in range(0, weighted.shape[1] - size + 1, step)
        ]
    )
    levels = -0.691 + 10.0 * np.log10(np.maximum(powers, 1e-12))
    loud = powers[levels > -70.0]
    gate = -0.691 + 10.0 * np.log10(loud.mean()) - 10.0
    kept = powers[(levels > -70.0) & (levels > gate)]
    return float(-0.691 + 10.0 * np.log10(kept.mean()))


def true_peak_dbtp(samples: FloatArray) -> float:
    """The highest magnitude at sixteen times the rate."""
    return float(20.0 * np.log10(np.abs(resample_poly(samples, 16, 1, axis=1)).max()))
