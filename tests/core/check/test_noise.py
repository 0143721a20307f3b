"""Where the noise comes from, measured: rendered noise fits what is computed, and what is added stands out."""

from __future__ import annotations

import numpy as np
import pytest

from tests.conftest import follow
from verve.core.assess import LineAssessment, assess
from verve.core.check import NoisePicture, noise_fits, noise_picture
from verve.core.demo import demo_session
from verve.core.measure import Meter, Spectrum
from verve.core.units import FloatArray
from verve.devices import SimulatedInterface, arrivals

ASSESSMENT = assess(follow(demo_session()))
RATE_HZ = ASSESSMENT.session.setup.audio.sample_rate_hz


def of(line: str) -> tuple[LineAssessment, NoisePicture]:
    item = ASSESSMENT.line(line)
    assert item is not None
    picture = noise_picture(item, RATE_HZ)
    assert picture is not None
    return item, picture


def silence(line: str, seconds: float = 8.0) -> FloatArray:
    arrival = arrivals(ASSESSMENT)[line]
    interface = SimulatedInterface(
        ASSESSMENT, arrival.device, play="typical", seconds=seconds,
        wanted=frozenset({arrival.channel}), only=frozenset(),
    )  # fmt: skip
    blocks = interface.blocks(round(seconds * RATE_HZ))
    return np.concatenate([block.samples[arrival.channel] for block in blocks])


def spectrum_of(samples: FloatArray) -> Spectrum:
    meter = Meter(channels=1, rate_hz=RATE_HZ, bit_depth=24)
    return meter.result(meter.fold(meter.start(), samples[None, :])).course.spectra[0]


@pytest.mark.parametrize("line", ["voice", "baritone_line", "cello_line", "organ_l"])
def test_rendered_noise_fits_what_is_computed_third_by_third(line: str) -> None:
    _, picture = of(line)
    spectrum = spectrum_of(silence(line))
    assert any(level is not None for level in spectrum.levels_dbfs)
    for hz, level, computed in zip(
        picture.bands_hz, spectrum.levels_dbfs, picture.all_dbfs, strict=True
    ):
        if level is not None and computed is not None and 60.0 < hz < 16_000.0:
            assert level == pytest.approx(computed, abs=3.0), hz
    assert noise_fits(picture, spectrum).startswith("It fits what is computed")


def test_rumble_and_hiss_that_nobody_computed_stand_out_where_they_are() -> None:
    _, picture = of("baritone_line")
    quiet = silence("baritone_line")
    rng = np.random.default_rng(2)
    hz = np.fft.rfftfreq(len(quiet), 1.0 / RATE_HZ)
    for low, high, said in ((70.0, 180.0, "rumble"), (4000.0, 9000.0, "hiss")):
        spectrum = np.fft.rfft(rng.standard_normal(len(quiet)))
        spectrum[(hz < low) | (hz > high)] = 0.0
        more = np.fft.irfft(spectrum, len(quiet))
        more *= 2.0 * quiet.std() / more.std()
        told = noise_fits(picture, spectrum_of(quiet + more))
        assert "more than computed" in told
        assert said in told
    assert "less than computed" in noise_fits(picture, spectrum_of(quiet * 0.2))


def test_parts_add_up_and_the_room_is_told_from_the_equipment() -> None:
    _, voice = of("voice")
    _, wire = of("baritone_line")
    assert any(level is not None for level in voice.room_dbfs)
    assert all(level is None for level in wire.room_dbfs)
    assert [level for _, level in voice.parts] == sorted(
        (level for _, level in voice.parts), reverse=True
    )
    for whole, room, rest in zip(
        voice.all_dbfs, voice.room_dbfs, voice.equipment_dbfs, strict=True
    ):
        if whole is not None and room is not None and rest is not None:
            total = 10.0 * np.log10(10.0 ** (room / 10.0) + 10.0 ** (rest / 10.0))
            assert whole == pytest.approx(float(total), abs=0.01)
    assert noise_fits(voice, Spectrum()) == ""
