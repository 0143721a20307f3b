"""Playing a file: from a place, over and over, at any rate and level; known again by what it holds."""

from __future__ import annotations

import itertools
import os
import shutil
import stat
import sys
from pathlib import Path

import numpy as np
import pytest
import soundfile

from verve.core.errors import CancelledError, FileError, InputError
from verve.core.soundfiles import (
    Playback,
    PlayRequest,
    content_of,
    found_again,
    measure_file,
    silence_at_head_s,
)
from verve.core.units import FloatArray

RATE_HZ = 48_000


def written(path: Path, samples: FloatArray, rate_hz: int = RATE_HZ) -> Path:
    soundfile.write(path, samples, rate_hz, subtype="FLOAT" if path.suffix == ".wav" else None)
    return path


@pytest.fixture
def counting(tmp_path: Path) -> Path:
    """A second of stereo of which every sample says where it is, and its side by its sign."""
    at = np.arange(RATE_HZ) / RATE_HZ
    return written(tmp_path / "counting.wav", np.stack([at, -at], axis=1))


def all_of(playback: Playback, block: int = 1000) -> FloatArray:
    with playback:
        parts = list(itertools.takewhile(len, (playback.read(block) for _ in range(10_000))))
    return np.concatenate(parts)


def test_a_file_is_played_as_it_is(counting: Path) -> None:
    whole, _ = soundfile.read(counting, dtype="float32")
    heard = all_of(Playback(PlayRequest(path=counting), RATE_HZ))
    assert np.array_equal(heard, whole)


def test_it_is_played_from_a_place_and_says_where_it_is(counting: Path) -> None:
    playback = Playback(PlayRequest(path=counting, start_s=0.25), RATE_HZ)
    assert playback.place_s(0) == 0.25
    assert playback.place_s(RATE_HZ // 2) == 0.75
    heard = all_of(playback)
    assert len(heard) == RATE_HZ * 3 // 4
    # Behind the fade that keeps it from clicking.
    assert heard[1000, 0] == pytest.approx(0.25 + 1000 / RATE_HZ, abs=1e-6)
    assert playback.place_s(10 * RATE_HZ) == 1.0


def test_a_stretch_is_looped_without_a_click(counting: Path) -> None:
    playback = Playback(PlayRequest(path=counting, loop_s=(0.2, 0.5)), RATE_HZ)
    with playback:
        heard = np.concatenate([playback.read(777) for _ in range(100)])
    left, length = heard[:, 0], round(0.3 * RATE_HZ)
    assert np.array_equal(left[:length], left[length : 2 * length])
    assert left.max() < 0.5
    assert left[length // 2] == pytest.approx(0.35, abs=1e-4)
    assert float(np.abs(np.diff(left)).max()) < 0.01
    assert playback.place_s(round(0.4 * RATE_HZ)) == pytest.approx(0.3)


def test_a_loop_that_begins_elsewhere_goes_there_at_its_end(counting: Path) -> None:
    playback = Playback(PlayRequest(path=counting, start_s=0.4, loop_s=(0.2, 0.5)), RATE_HZ)
    assert playback.place_s(0) == 0.4
    assert playback.place_s(round(0.2 * RATE_HZ)) == pytest.approx(0.3)
    outside = Playback(PlayRequest(path=counting, start_s=0.9, loop_s=(0.2, 0.5)), RATE_HZ)
    assert outside.place_s(0) == pytest.approx(0.2)
    playback.close()
    outside.close()


def test_a_loop_that_ends_before_it_begins_is_refused(counting: Path) -> None:
    with pytest.raises(InputError, match="must end after it begins"):
        PlayRequest(path=counting, loop_s=(0.5, 0.5))


@pytest.mark.parametrize(
    ("file_hz", "out_hz"), [(44_100, 48_000), (96_000, 48_000), (48_000, 44_100)]
)
def test_another_rate_is_converted_in_pitch_length_and_level(
    tmp_path: Path, file_hz: int, out_hz: int
) -> None:
    t = np.arange(2 * file_hz) / file_hz
    path = written(tmp_path / "tone.wav", 0.5 * np.sin(2.0 * np.pi * 1000.0 * t), file_hz)
    playback = Playback(PlayRequest(path=path), out_hz)
    assert playback.is_converted
    heard = all_of(playback)
    assert len(heard) == pytest.approx(2 * out_hz, abs=2)
    middle = heard[out_hz // 2 : -out_hz // 2, 0].astype(np.float64)
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle))))
    assert np.argmax(spectrum) * out_hz / len(middle) == pytest.approx(1000.0, abs=1.5)
    assert np.abs(middle).max() == pytest.approx(0.5, abs=0.003)


def test_gain_and_channel_are_what_is_asked_for(tmp_path: Path) -> None:
    path = written(tmp_path / "four.wav", np.full((4800, 4), (0.1, 0.2, 0.3, 0.4)))
    third = all_of(Playback(PlayRequest(path=path, channel=2, gain_db=-6.0), RATE_HZ))
    assert third[2000] == pytest.approx([0.3 * 10 ** (-0.3)] * 2, rel=1e-5)
    first_two = all_of(Playback(PlayRequest(path=path), RATE_HZ))
    assert first_two[2000] == pytest.approx([0.1, 0.2])
    loud = all_of(Playback(PlayRequest(path=path, channel=3, gain_db=24.0), RATE_HZ))
    assert loud.max() == 1.0, "what passes full scale is cut off, not turned round"


def test_silence_at_the_head_is_measured_to_the_sample(tmp_path: Path) -> None:
    sound = np.zeros((RATE_HZ, 2))
    sound[12_345:, 1] = 0.5 * np.sin(np.arange(RATE_HZ - 12_345) * 0.1 + 1.0)
    path = written(tmp_path / "late.wav", sound)
    peak = measure_file(path).channels[1].peak_dbfs
    assert silence_at_head_s(path, peak) == 12_345 / RATE_HZ
    assert silence_at_head_s(path, None) == 0.0


@pytest.mark.parametrize("suffix", [".flac", ".mp3", ".ogg", ".aiff"])
def test_silence_that_a_coder_leaves_is_measured(tmp_path: Path, suffix: str) -> None:
    """Whatever the coder puts there is what is heard, and so what is told: within 2 ms of the sound itself."""
    sound = np.zeros(RATE_HZ)
    sound[RATE_HZ // 4 :] = 0.5 * np.sin(np.arange(RATE_HZ * 3 // 4) * 0.13 + 1.0)
    path = tmp_path / f"late{suffix}"
    soundfile.write(path, sound, RATE_HZ)
    decoded, _ = soundfile.read(path)
    peak = measure_file(path).channels[0].peak_dbfs
    assert peak is not None
    heard = np.flatnonzero(np.abs(decoded) >= 10.0 ** ((peak - 60.0) / 20.0))
    assert silence_at_head_s(path, peak) == pytest.approx(heard[0] / RATE_HZ)
    assert silence_at_head_s(path, peak) == pytest.approx(0.25, abs=0.03)


def test_a_file_is_known_again_by_what_it_holds(tmp_path: Path) -> None:
    first = written(tmp_path / "a.wav", np.zeros(1000) + 0.1)
    other = written(tmp_path / "b.wav", np.zeros(1000) + 0.2)
    assert first.stat().st_size == other.stat().st_size
    content = content_of(first)
    assert content != content_of(other)
    place = tmp_path / "deep" / "er"
    place.mkdir(parents=True)
    moved = first.rename(place / "renamed.wav")
    size = moved.stat().st_size
    assert found_again(content, size, [tmp_path]) == moved
    assert found_again(content, size + 1, [tmp_path]) is None
    assert found_again("0" * 32, size, [tmp_path, tmp_path / "none"]) is None
    assert found_again(content, size, [tmp_path], lambda: False) is None


def test_reading_can_be_called_off(tmp_path: Path) -> None:
    path = written(tmp_path / "a.wav", np.zeros(RATE_HZ) + 0.1)
    with pytest.raises(CancelledError):
        content_of(path, lambda: False)
    with pytest.raises(CancelledError):
        measure_file(path, progress=lambda _: False)


# ── what takes ffmpeg to read ─────────────────────────────────────────────────────────────────
STAND_IN = """#!{python}
import sys, time
import numpy as np, soundfile
source = sys.argv[sys.argv.index("-i") + 1].removeprefix("file:")
text = open(source, "rb").read()
if b"broken" in text:
    print("no sound in there", file=sys.stderr)
    sys.exit(1)
if b"endless" in text:
    time.sleep(60)
soundfile.write(sys.argv[-1].removeprefix("file:"), np.full((4410, 2), 0.25), 44100, subtype="FLOAT")
"""


@pytest.fixture
def stand_in(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A program that is called as ffmpeg is, and writes what it would."""
    folder = tmp_path / "bin"
    folder.mkdir()
    program = folder / "ffmpeg"
    program.write_text(STAND_IN.format(python=sys.executable), encoding="utf-8")
    program.chmod(program.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setenv("PATH", f"{folder}{os.pathsep}{os.environ['PATH']}")
    return tmp_path


def test_what_the_library_cannot_read_is_read_through_ffmpeg(stand_in: Path) -> None:
    path = stand_in / "song.m4a"
    path.write_bytes(b"\0\0\0 ftypM4A good")
    found = measure_file(path)
    assert (found.sample_rate_hz, found.frames, len(found.channels)) == (44_100, 4410, 2)
    assert found.channels[0].peak_dbfs == pytest.approx(20.0 * np.log10(0.25), abs=0.01)
    assert path.read_bytes() == b"\0\0\0 ftypM4A good"


def test_what_ffmpeg_cannot_read_is_told_in_its_words(stand_in: Path) -> None:
    path = stand_in / "song.m4a"
    path.write_bytes(b"broken")
    with pytest.raises(FileError, match=r"song\.m4a.*no sound in there"):
        measure_file(path)


def test_waiting_for_ffmpeg_can_be_called_off(stand_in: Path) -> None:
    path = stand_in / "song.m4a"
    path.write_bytes(b"endless")
    with pytest.raises(CancelledError):
        measure_file(path, progress=lambda _: False)


def test_without_ffmpeg_it_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PATH", str(tmp_path))
    path = tmp_path / "song.m4a"
    path.write_bytes(b"\0\0\0 ftypM4A good")
    with pytest.raises(FileError, match="takes ffmpeg to read; that is not installed") as told:
        measure_file(path)
    assert "save it as WAV or FLAC" in str(told.value)


@pytest.mark.skipif(shutil.which("ffmpeg") is None, reason="ffmpeg is not installed here")
def test_a_real_m4a_is_read_as_what_went_in(tmp_path: Path) -> None:
    import subprocess

    t = np.arange(3 * RATE_HZ) / RATE_HZ
    wav = written(tmp_path / "song.wav", 0.3 * np.sin(2.0 * np.pi * 440.0 * t))
    m4a = tmp_path / "song.m4a"
    subprocess.run(["ffmpeg", "-v", "error", "-i", wav, m4a], check=True)
    was, found = measure_file(wav).channels[0], measure_file(m4a).channels[0]
    assert found.rms_dbfs == pytest.approx(was.rms_dbfs, abs=0.2)
    assert found.seconds == pytest.approx(was.seconds, abs=0.1)
