"""Measuring: made sounds whose figures are known."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import numpy as np
import pytest
import soundfile

from verve.core.errors import FileError
from verve.core.sheets import measurement_text
from verve.core.soundfiles import WavWriter, file_stem, measure_file, mend_wav
from verve.core.units import FloatArray

RATE_HZ = 48000


def sine(level_dbfs: float, seconds: float = 1.0, hz: float = 997.0) -> FloatArray:
    t = np.arange(int(seconds * RATE_HZ)) / RATE_HZ
    return np.asarray(10.0 ** (level_dbfs / 20.0) * np.sin(2.0 * np.pi * hz * t))


def noise(level_dbfs_flat: float, seconds: float, seed: int = 1) -> FloatArray:
    """Flat to half the rate; 0 dBFS is the power of a full-scale sine."""
    rng = np.random.default_rng(seed)
    power = 0.5 * 10.0 ** (level_dbfs_flat / 10.0)
    return np.asarray(rng.standard_normal(int(seconds * RATE_HZ)) * np.sqrt(power))


def written(tmp_path: Path, samples: FloatArray, subtype: str = "PCM_24") -> Path:
    path = tmp_path / "sound.wav"
    soundfile.write(path, samples, RATE_HZ, subtype=subtype)
    return path


@pytest.mark.parametrize("level_dbfs", [0.0, -6.0, -20.0, -60.0])
def test_a_sine_has_its_level_as_peak_and_as_rms(tmp_path: Path, level_dbfs: float) -> None:
    (found,) = measure_file(written(tmp_path, sine(level_dbfs))).channels
    assert found.peak_dbfs == pytest.approx(level_dbfs, abs=0.01)
    assert found.rms_dbfs == pytest.approx(level_dbfs, abs=0.01)
    assert found.seconds == pytest.approx(1.0)
    assert (found.sample_rate_hz, found.bit_depth) == (RATE_HZ, 24)


def test_the_pauses_show_the_noise(tmp_path: Path) -> None:
    playing = np.concatenate([np.zeros(RATE_HZ), sine(-10.0, 3.0), np.zeros(RATE_HZ)])
    (found,) = measure_file(written(tmp_path, playing + noise(-70.0, 5.0))).channels
    # Of white noise to 24 kHz, the share below 20 kHz, then A-weighting's 2.05 dB.
    expected = -70.0 + 10.0 * np.log10(19_980 / 24_000) - 2.05
    assert found.noise_dbfs_a == pytest.approx(expected, abs=0.5)


def test_noise_alone_is_all_pause(tmp_path: Path) -> None:
    (found,) = measure_file(written(tmp_path, noise(-60.0, 3.0))).channels
    assert found.noise_dbfs_a == pytest.approx(-60.0 - 0.8 - 2.05, abs=0.4)


def test_playing_without_a_pause_shows_no_noise(tmp_path: Path) -> None:
    t = np.arange(3 * RATE_HZ) / RATE_HZ
    swelling = sine(-6.0, 3.0) * (0.1 + 0.9 * t / 3.0)
    (found,) = measure_file(written(tmp_path, swelling)).channels
    assert found.noise_dbfs_a is None


def test_digital_silence_has_no_level_at_all(tmp_path: Path) -> None:
    (found,) = measure_file(written(tmp_path, np.zeros(RATE_HZ))).channels
    assert found.peak_dbfs is None
    assert found.rms_dbfs is None
    assert found.noise_dbfs_a is None


@pytest.mark.parametrize("subtype", ["PCM_16", "PCM_24"])
def test_frames_at_the_end_of_the_scale_are_counted(tmp_path: Path, subtype: str) -> None:
    loud = np.clip(sine(6.0, 0.5), -1.0, 1.0)
    (found,) = measure_file(written(tmp_path, loud, subtype)).channels
    assert found.clipped_frames == pytest.approx(
        np.count_nonzero(np.abs(loud) >= 0.99998), rel=0.02
    )
    (clean,) = measure_file(written(tmp_path, sine(-0.5, 0.5), subtype)).channels
    assert clean.clipped_frames == 0


def test_a_steady_voltage_is_noticed(tmp_path: Path) -> None:
    (found,) = measure_file(written(tmp_path, sine(-20.0) + 0.05)).channels
    assert found.dc_share == pytest.approx(0.05, abs=1e-4)


def test_channels_are_measured_apart(tmp_path: Path) -> None:
    path = tmp_path / "two.wav"
    soundfile.write(path, np.stack([sine(-6.0), sine(-18.0)], axis=1), RATE_HZ)
    left, right = measure_file(path).channels
    assert left.peak_dbfs == pytest.approx(-6.0, abs=0.01)
    assert right.peak_dbfs == pytest.approx(-18.0, abs=0.01)
    assert (left.channel, right.channel) == (0, 1)


@pytest.mark.parametrize("sample", [float("nan"), float("inf"), -float("inf"), 1e30, -2e4])
def test_samples_that_are_no_sound_are_refused_with_their_place(
    tmp_path: Path, sample: float
) -> None:
    path = tmp_path / "sound.wav"
    samples = np.zeros(48_000)
    samples[24_000] = sample
    soundfile.write(path, samples, 48_000, subtype="DOUBLE")
    with pytest.raises(FileError, match="holds no sound at frame 24000, channel 1"):
        measure_file(path)


def test_a_float_file_may_go_a_little_above_full_scale(tmp_path: Path) -> None:
    path = tmp_path / "sound.wav"
    soundfile.write(path, np.full(48_000, 1.5), 48_000, subtype="FLOAT")
    (found,) = measure_file(path).channels
    assert found.peak_dbfs == pytest.approx(3.52, abs=0.01)


def test_a_file_that_breaks_off_is_measured_and_told(tmp_path: Path) -> None:
    path = tmp_path / "sound.wav"
    soundfile.write(path, np.full(96_000, 0.5), 48_000, subtype="PCM_16")
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) - 96_000])
    found = measure_file(path)
    assert found.channels[0].missing_s == pytest.approx(1.0)
    said = measurement_text(path, found)
    assert "breaks off: 1.00 s of what its header says are missing" in said
    path.write_bytes(whole)
    assert measure_file(path).channels[0].missing_s == 0.0


def _odd(tmp_path: Path, kind: str) -> Path:
    path = tmp_path / ("sound.raw" if kind == "raw" else "sound.wav")
    if kind == "pipe":
        os.mkfifo(path)
    elif kind == "folder":
        path.mkdir()
    elif kind == "zero":
        return Path("/dev/zero")
    elif kind == "rate":
        soundfile.write(path, np.zeros(10), 2**31 - 1)
    elif kind == "head":
        soundfile.write(path, np.zeros(0), 48_000)
    elif kind == "raw":
        path.write_bytes(bytes(1000))
    elif kind == "text":
        path.write_text("RIFF and more")
    return path


@pytest.mark.parametrize("kind", ["pipe", "folder", "zero", "rate", "head", "raw", "text", "none"])
def test_what_is_no_recording_is_refused_in_words(tmp_path: Path, kind: str) -> None:
    with pytest.raises(FileError) as told:
        measure_file(_odd(tmp_path, kind))
    assert "System error" not in str(told.value)
    assert "Errno" not in str(told.value)


def test_many_channels_are_measured_in_little_memory(tmp_path: Path) -> None:
    path = tmp_path / "sound.wav"
    soundfile.write(path, np.full((4_800, 255), 0.5), 48_000)
    found = measure_file(path).channels
    assert len(found) == 255
    assert found[254].peak_dbfs == pytest.approx(-6.02, abs=0.01)


@pytest.mark.parametrize("content", [b"", b"RIFF", b"not a sound at all", b"\x00" * 5000])
def test_what_is_no_sound_is_refused(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "x.wav"
    path.write_bytes(content)
    with pytest.raises(FileError, match=r"x\.wav: (cannot be read as sound|holds no sound)"):
        measure_file(path)


def test_an_empty_sound_and_a_missing_file_are_told(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="holds no sound"):
        measure_file(written(tmp_path, np.zeros(0)))
    with pytest.raises(FileError, match="cannot be read"):
        measure_file(tmp_path / "none.wav")


@pytest.mark.parametrize("bits", [16, 24])
def test_what_is_written_comes_back_bit_for_bit(tmp_path: Path, bits: int) -> None:
    steps = 2 ** (bits - 1)
    rng = np.random.default_rng(3)
    whole = rng.integers(-steps, steps, 4800)
    path = tmp_path / "a" / "b.wav"
    with WavWriter(path, rate_hz=RATE_HZ, bit_depth=bits) as writer:
        writer.write(whole[:2000] / steps)
        writer.write(whole[2000:] / steps)
    back, rate = soundfile.read(path, dtype="float64")
    assert rate == RATE_HZ
    assert np.array_equal(np.round(back * steps).astype(int), whole)


def test_a_recording_that_breaks_off_keeps_what_it_has(tmp_path: Path) -> None:
    path = tmp_path / "takes" / "b.wav"

    def broken_off() -> None:
        with WavWriter(path, rate_hz=RATE_HZ, bit_depth=24) as writer:
            writer.write(np.full(100, 0.25))
            raise RuntimeError

    with pytest.raises(RuntimeError):
        broken_off()
    assert list(path.parent.iterdir()) == [path]
    back, _ = soundfile.read(path)
    assert back == pytest.approx(np.full(100, 0.25))


def test_only_discarding_deletes(tmp_path: Path) -> None:
    path = tmp_path / "takes" / "b.wav"
    writer = WavWriter(path, rate_hz=RATE_HZ, bit_depth=24)
    writer.write(np.zeros(100))
    writer.discard()
    assert list(path.parent.iterdir()) == []


def test_what_was_recorded_outlives_its_folder(tmp_path: Path) -> None:
    path = tmp_path / "takes" / "b.wav"
    writer = WavWriter(path, rate_hz=RATE_HZ, bit_depth=24)
    writer.write(np.full(500, 0.5))
    shutil.rmtree(path.parent)
    writer.write(np.full(500, 0.5))
    writer.finish()
    back, _ = soundfile.read(path)
    assert back == pytest.approx(np.full(1000, 0.5))


@pytest.mark.parametrize("bits", [16, 24])
@pytest.mark.parametrize("cut", [0, 1, 2])
def test_the_header_of_a_file_that_broke_off_is_mended(tmp_path: Path, bits: int, cut: int) -> None:
    path = tmp_path / "b.wav"
    with WavWriter(path, rate_hz=RATE_HZ, bit_depth=bits) as writer:
        writer.write(np.full(1000, 0.5))
    whole = path.read_bytes()
    begin = whole.index(b"data") + 8
    # As a killed program leaves it: the lengths of nothing, and perhaps half a frame at the end.
    broken = (
        whole[:4] + bytes(4) + whole[8 : begin - 4] + bytes(4) + whole[begin : len(whole) - cut]
    )
    path.write_bytes(broken)
    frames = 1000 if cut == 0 else 999
    assert mend_wav(path) == frames
    back, rate = soundfile.read(path)
    assert rate == RATE_HZ
    assert len(back) == frames
    assert back == pytest.approx(np.full(frames, 0.5))


@pytest.mark.parametrize(
    "content", [b"", b"RIFF", b"x" * 100, b"RIFF0000WAVEfmt ", b"RIFF0000WAVE"]
)
def test_a_file_without_a_header_cannot_be_mended(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "b.wav"
    path.write_bytes(content)
    with pytest.raises(FileError, match="holds no sound"):
        mend_wav(path)
    assert path.read_bytes() == content


@pytest.mark.parametrize(
    ("name", "stem"),
    [
        ("Voice", "Voice"),
        ("a/b\\c:d", "a b c d"),
        ("../../etc", "etc"),
        ("...", "line"),
        ("", "line"),
        ("  ", "line"),
        ("声 *?", "声"),
        ("x" * 200, "x" * 80),
    ],
)
def test_a_name_becomes_a_file_name_that_cannot_lead_elsewhere(name: str, stem: str) -> None:
    assert file_stem(name) == stem
