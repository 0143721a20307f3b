"""The recording over time, and what its pauses sound like."""

from __future__ import annotations

import math

import numpy as np
import pytest

from verve.core.measure import Meter, Recording
from verve.core.units import FloatArray

RATES_HZ = (44_100, 96_000)


def measured(samples: FloatArray, rate_hz: int) -> Recording:
    meter = Meter(channels=len(samples), rate_hz=rate_hz, bit_depth=None)
    return meter.result(meter.fold(meter.start(), samples))


@pytest.mark.parametrize("rate_hz", RATES_HZ)
def test_white_noise_has_in_each_third_what_its_width_says(rate_hz: int) -> None:
    """Power density times the width of the band (IEC 61260-1: from −1/20 to +1/20 of a decade)."""
    rms = 10.0 ** (-50.0 / 20.0)
    noise = rms * np.random.default_rng(2).standard_normal((1, 20 * rate_hz))
    spectrum = measured(noise, rate_hz).course.spectra[0]
    density = rms**2 / (rate_hz / 2.0)
    for hz, level in zip(spectrum.bands_hz, spectrum.levels_dbfs, strict=True):
        width_hz = min(hz * 10.0**0.05, rate_hz / 2.0) - hz * 10.0**-0.05
        expected = 10.0 * math.log10(2.0 * density * width_hz)
        # What a third of 5 to 15 Hz is in so little noise scatters by itself.
        assert level == pytest.approx(expected, abs=1.8 if hz < 100 else 0.6), hz


def test_a_tone_in_the_pauses_stands_in_its_own_third() -> None:
    rate_hz = 48_000
    t = np.arange(10 * rate_hz) / rate_hz
    noise = 1e-5 * np.random.default_rng(3).standard_normal(len(t))
    for hz in (50.0, 1000.0, 8000.0):
        sound = noise + 0.01 * np.sin(2.0 * np.pi * hz * t)
        spectrum = measured(sound[None, :], rate_hz).course.spectra[0]
        levels = [-200.0 if level is None else level for level in spectrum.levels_dbfs]
        highest = int(np.argmax(levels))
        assert abs(math.log10(spectrum.bands_hz[highest] / hz)) <= 0.05
        assert levels[highest] == pytest.approx(-40.0, abs=0.2)


def test_without_a_pause_nothing_is_said_of_it() -> None:
    rate_hz = 48_000
    t = np.arange(4 * rate_hz) / rate_hz
    swelling = np.sin(2.0 * np.pi * 300.0 * t) * 0.5 * (1.0 + np.sin(2.0 * np.pi * 7.0 * t))
    course = measured(swelling[None, :], rate_hz).course
    assert course.spectra[0].levels_dbfs == ()
    assert course.pauses_s == ((),)


def test_peaks_and_pauses_stand_where_they_are() -> None:
    rate_hz = 48_000
    sound = 1e-4 * np.random.default_rng(5).standard_normal((2, 6 * rate_hz))
    sound[0, 2 * rate_hz : 3 * rate_hz] += 0.3 * np.sin(np.arange(rate_hz) * 0.05)
    sound[0, round(2.5 * rate_hz)] = 0.9
    course = measured(sound, rate_hz).course
    place_s = np.argmax(course.peaks[0]) * course.window_s
    assert place_s <= 2.5 <= place_s + 2.0 * course.window_s
    assert course.peaks[0].max() == pytest.approx(0.9, abs=0.01)
    (first, second), (whole,) = course.pauses_s
    assert first == (pytest.approx(0.0), pytest.approx(2.0, abs=0.06))
    assert second == (pytest.approx(3.0, abs=0.06), pytest.approx(6.0, abs=0.06))
    assert whole[0] == 0.0
