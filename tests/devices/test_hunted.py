"""What is heard in a hunt is what its signs say: peaks, hum, noise, ears, pitch, from rendered sound."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
import pytest
import soundfile

from verve.core.demo import demo_session
from verve.core.engine import Engine
from verve.core.errors import CancelledError
from verve.core.hunt import Case, World, cases_of, practice_session, signs_of
from verve.core.measure import Meter
from verve.devices import hunted_sound, write_hunted


@cache
def cases() -> dict[str, Case]:
    return {one.line: one for one in cases_of(practice_session(demo_session()), Engine())}


def world(line: str, kind: str = "") -> World:
    case = cases()[line]
    faults = [one for one in case.faults if one.kind == kind]
    assert faults or not kind, kind
    return case.world(faults[-1:] if kind else ())


def peak_dbfs(samples: np.ndarray) -> float:
    return float(20.0 * np.log10(np.abs(samples).max()))


@pytest.mark.parametrize(
    "kind", ["", "pad_in", "gain_from_talking", "volume_down", "cable_half", "soft_test"]
)
def test_the_peak_that_is_heard_is_the_one_that_the_meter_shows(kind: str) -> None:
    there = world("baritone_line", kind)
    samples, _ = hunted_sound(there, "back")
    shown = signs_of(there).meter_dbfs
    assert shown is not None
    assert peak_dbfs(samples) == pytest.approx(shown, abs=1.0)


@pytest.mark.parametrize("kind", ["cable_dead", "not_armed", "track_empty_input"])
def test_where_nothing_is_recorded_nothing_is_heard(kind: str) -> None:
    samples, _ = hunted_sound(world("baritone_line", kind), "back")
    assert not samples.any()


def test_one_ear_is_one_ear() -> None:
    samples, _ = hunted_sound(world("baritone_line", "one_ear"), "live")
    assert samples[0].any()
    assert not samples[1].any()


def test_hum_of_a_charger_is_of_50_hz_and_as_strong_as_its_signs_say() -> None:
    there = world("baritone_line", "charger")
    samples, rate_hz = hunted_sound(there, "pause")
    meter = Meter(channels=2, rate_hz=rate_hz, bit_depth=None)
    hum = meter.result(meter.fold(meter.start(), samples)).channels[0].hum
    assert hum.mains_hz == 50
    assert hum.level_dbfs is not None
    wanted = signs_of(there).pause_dbfs
    assert wanted is not None
    # The level is that of its first harmonic; all of them together are a little stronger.
    assert hum.level_dbfs == pytest.approx(wanted + 2.0, abs=2.5)


def test_a_fan_is_as_far_above_the_noise_as_its_signs_say() -> None:
    for kind in ("", "fan", "window"):
        there = world("voice", kind)
        samples, rate_hz = hunted_sound(there, "pause")
        meter = Meter(channels=2, rate_hz=rate_hz, bit_depth=None)
        found = meter.result(meter.fold(meter.start(), samples)).channels[0]
        assert found.noise_dbfs_a == pytest.approx(signs_of(there).pause_dbfs, abs=1.0)


def test_a_wrong_rate_is_lower_and_slower() -> None:
    right, rate_hz = hunted_sound(world("voice"), "back")
    wrong, _ = hunted_sound(world("voice", "wrong_rate"), "back")

    def middle_hz(samples: np.ndarray) -> float:
        power = np.abs(np.fft.rfft(samples[0])) ** 2
        hz = np.fft.rfftfreq(samples.shape[1], 1.0 / rate_hz)
        return float((hz * power).sum() / power.sum())

    assert middle_hz(wrong) / middle_hz(right) == pytest.approx(44100 / 48000, abs=0.03)


def test_monitoring_twice_is_an_echo_and_a_late_one_comes_late() -> None:
    dry, rate_hz = hunted_sound(world("voice"), "live")
    twice, _ = hunted_sound(world("voice", "double"), "live")
    power = np.abs(np.fft.rfft(twice[0])) ** 2
    cepstrum = np.fft.irfft(np.log(power + power.mean() * 1e-9))
    low, high = round(0.008 * rate_hz), round(0.02 * rate_hz)
    lag_ms = (low + int(np.argmax(cepstrum[low:high]))) * 1000.0 / rate_hz
    assert lag_ms == pytest.approx(12.0, abs=0.1)
    assert dry.shape == twice.shape


def test_with_loudspeakers_up_the_others_are_in_the_pause() -> None:
    there = world("voice", "speakers_up")
    samples, _ = hunted_sound(there, "pause")
    wanted = signs_of(there).pause_dbfs
    assert wanted is not None
    assert peak_dbfs(samples) == pytest.approx(wanted, abs=2.0)


def test_it_is_written_as_a_file_and_can_be_given_up(tmp_path: Path) -> None:
    path = tmp_path / "take.wav"
    rate_hz = write_hunted(path, world("baritone_line"), "back")
    samples, found_hz = soundfile.read(str(path))
    assert found_hz == rate_hz
    assert samples.shape == (5 * rate_hz, 2)
    # Everything alike is softer by 12 dB: what goes over is no louder in the ears than that.
    straight, _ = hunted_sound(world("baritone_line"), "back")
    assert peak_dbfs(straight) - peak_dbfs(samples) == pytest.approx(12.0, abs=0.01)
    with pytest.raises(CancelledError):
        write_hunted(tmp_path / "not.wav", world("baritone_line"), "back", lambda: False)
    assert not (tmp_path / "not.wav").exists()
