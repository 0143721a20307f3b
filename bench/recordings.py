"""Recordings: an hour of stereo measured, in turn with another program's loudness scan; the tuner's first answer."""

from __future__ import annotations

import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile

from verve.core.check import Levels
from verve.core.measure import LiveReader, Tuner, loopback_of
from verve.core.soundfiles import read_sound
from verve.core.units import FloatArray

RATE_HZ = 48_000
_PIECE_S, _HOUR_S = 60, 3600
_TURNS = 2
_MEASURE = """
import re, sys
from pathlib import Path
from verve.core.soundfiles import measure_file
measure_file(Path(sys.argv[1]))
# Not what the system says of resources used: that begins with those of whoever started this.
print(re.search(r"VmHWM:\\s*(\\d+)", Path("/proc/self/status").read_text())[1])
"""
_BLOCK_FRAMES = 480


def write_evening(path: Path, seconds: int) -> None:
    """Stereo of 24 bit: phrases over the noise of a room, with rests between them."""
    rng = np.random.default_rng(7)
    t = np.arange(_PIECE_S * RATE_HZ) / RATE_HZ
    playing = np.clip(np.sin(2.0 * np.pi * t / 12.0) * 1.6, 0.0, 1.0)
    tone = sum(np.sin(2.0 * np.pi * 196.0 * h * t + h) / h for h in range(1, 9))
    piece = np.stack([playing * tone, playing * np.roll(tone, 800)], axis=1) * 0.15
    piece += 2e-4 * rng.standard_normal(piece.shape)
    with soundfile.SoundFile(path, "w", RATE_HZ, 2, "PCM_24") as file:
        for _ in range(seconds // _PIECE_S):
            file.write(piece)


def an_hour(folder: Path) -> tuple[float | None, float]:
    """How long measuring everything takes beside a scan of loudness and true peak alone, in turn (None without
    ffmpeg), and the most memory it takes in MB, with all the program needs for it."""
    path = folder / "hour.wav"
    write_evening(path, _HOUR_S)
    scan = [
        "ffmpeg", "-nostdin", "-v", "quiet", "-i", str(path), "-af", "ebur128=peak=true:framelog=verbose",
        "-f", "null", "-",
    ]  # fmt: skip
    has_scan = shutil.which("ffmpeg") is not None
    ratios, most_mb = [], 0.0
    for _ in range(_TURNS):
        began = time.perf_counter()
        done = subprocess.run(
            [sys.executable, "-c", _MEASURE, str(path)], capture_output=True, text=True, check=True
        )
        ours_s = time.perf_counter() - began
        most_mb = max(most_mb, int(done.stdout) / 1024.0)
        if has_scan:
            began = time.perf_counter()
            subprocess.run(scan, stdout=subprocess.DEVNULL, check=True)
            ratios.append(ours_s / (time.perf_counter() - began))
    path.unlink()
    return (statistics.median(ratios) if ratios else None), most_mb


def _tone(hz: float, seconds: float) -> FloatArray:
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    partials = [
        np.sin(2.0 * np.pi * hz * h * t + h * h) * np.exp(-t * h / 2.0) / h for h in range(1, 13)
    ]
    return np.asarray(0.05 * np.sum(partials, axis=0))


def first_answer_ms(hz: float) -> float:
    """From the beginning of a plucked note until its reading is there: what must have been heard, and the work."""
    quiet = np.zeros(round(0.37 * RATE_HZ))
    sound = np.concatenate([quiet, _tone(hz, 0.6)])
    sound = sound + 1e-5 * np.random.default_rng(1).standard_normal(len(sound))
    tuner = Tuner(rate_hz=RATE_HZ)
    state = tuner.start()
    for at in range(0, len(sound), _BLOCK_FRAMES):
        began = time.perf_counter()
        state = tuner.fold(state, sound[at : at + _BLOCK_FRAMES])
        if state.reading is not None:
            worked_ms = (time.perf_counter() - began) * 1000.0
            return (at + _BLOCK_FRAMES - len(quiet)) / RATE_HZ * 1000.0 + worked_ms
    raise AssertionError(f"{hz} Hz was not heard")


def share_of_a_core() -> float:
    """What following one signal takes, in percent."""
    sound = _tone(146.8, 4.0)
    tuner = Tuner(rate_hz=RATE_HZ)
    shares = []
    for _ in range(3):
        state = tuner.start()
        began = time.process_time()
        for at in range(0, len(sound), _BLOCK_FRAMES):
            state = tuner.fold(state, sound[at : at + _BLOCK_FRAMES])
        shares.append((time.process_time() - began) / 4.0 * 100.0)
    return min(shares)


def live_share(lines: int = 16, seconds: float = 12.0) -> float:
    """What sixteen live lines take: levels, true peak, drop-outs of all, the pitch of one; in percent of a core."""
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    rng = np.random.default_rng(5)
    # Players with rests, each a little otherwise.
    sound = np.stack(
        [
            0.2
            * np.sin(2.0 * np.pi * (110.0 + 13.0 * k) * t)
            * np.clip(2.0 * np.sin(t + k) + 1.0, 0.0, 1.0)
            + 1e-4 * rng.standard_normal(len(t))
            for k in range(lines)
        ]
    )
    levels, tuner = Levels(channels=lines, rate_hz=RATE_HZ), Tuner(rate_hz=RATE_HZ)
    shares = []
    for _ in range(3):
        reader = LiveReader(channels=lines, rate_hz=RATE_HZ)
        heard, note = levels.start(), tuner.start()
        began = time.process_time()
        for at in range(0, sound.shape[1], 1024):
            block = sound[:, at : at + 1024]
            heard, _ = levels.fold(heard, block)
            reader.fold(block)
            note = tuner.fold(note, block[0])
        shares.append((time.process_time() - began) / seconds * 100.0)
    return min(shares)


def loop_ratio(folder: Path, seconds: int = 60, rate_hz: int = 96_000) -> float:
    """A loop-back of a long stereo file, read and found, beside only reading both files block by block, in turn."""
    rng = np.random.default_rng(3)
    sent = rng.standard_normal((seconds * rate_hz, 2)) * 0.05
    back = np.roll(sent, 4321, axis=0) * 0.5 + rng.standard_normal(sent.shape) * 0.002
    paths = [folder / "sent.wav", folder / "returned.wav"]
    for path, samples in zip(paths, (sent, back), strict=True):
        soundfile.write(path, samples, rate_hz, subtype="PCM_24")
    reads, loops = [], []
    for _ in range(3):
        began = time.perf_counter()
        for path in paths:
            for _block in soundfile.blocks(path, 65_536):
                pass
        reads.append(time.perf_counter() - began)
        began = time.perf_counter()
        found = loopback_of(read_sound(paths[0])[0], read_sound(paths[1])[0], rate_hz)
        loops.append(time.perf_counter() - began)
        if found.delay_frames is None or abs(found.delay_frames - 4321.0) > 0.1:
            raise RuntimeError("the loop-back was not found")
    return statistics.median(loops) / statistics.median(reads)


def figures() -> Iterator[tuple[str, float, str, float]]:
    """Name, value, unit and limit of each row."""
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        ratio, most_mb = an_hour(Path(folder))
        if ratio is None:
            print("an hour of stereo beside a loudness scan: not measured, ffmpeg is not here")
        else:
            yield "an hour of stereo, everything ÷ loudness scan", ratio, "×", 0.9
        yield "an hour of stereo: the most memory", most_mb, "MB", 200.0
    for hz in (31.0, 41.2, 82.4, 440.0):
        limit_ms = 100.0 if hz > 80.0 else 3000.0 / hz + 60.0
        found = statistics.median(first_answer_ms(hz) for _ in range(5))
        yield f"tuner: first answer at {hz:g} Hz", found, "ms", limit_ms
    with tempfile.TemporaryDirectory() as folder:
        ratio = loop_ratio(Path(folder))
        yield "loop-back, 60 s of stereo at 96 kHz ÷ reading both files", ratio, "×", 6.0
    yield "tuner: of one core", share_of_a_core(), "%", 20.0
    yield "16 live lines, pitch of one: of one core", live_share(), "%", 15.0
