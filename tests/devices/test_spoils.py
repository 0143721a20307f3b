"""Takes that differ from each other: hum where the patch invites it, gaps in small buffers, players in moods."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import follow
from tests.devices.test_record import request_for
from verve.core.assess import assess
from verve.core.catalogue import catalogue
from verve.core.demo import demo_session
from verve.core.measure import Meter
from verve.core.power import hum_risks
from verve.core.session import Audio, Session, set_audio, set_monitoring
from verve.core.sound import manner_of, perform
from verve.core.units import FloatArray
from verve.devices import SimulatedInterface, arrivals, record
from verve.devices._spoils import Spoils

WELL = follow(demo_session())


def heard(session: Session, line: str, variation: int, seconds: float = 6.0) -> FloatArray:
    assessment = assess(session)
    arrival = arrivals(assessment)[line]
    interface = SimulatedInterface(
        assessment, arrival.device, play="typical", seconds=seconds, variation=variation,
        wanted=frozenset({arrival.channel}), only=frozenset(),
    )  # fmt: skip
    frames = round(seconds * interface.sample_rate_hz)
    return np.concatenate([b.samples[arrival.channel] for b in interface.blocks(frames)])


def test_what_may_hum_hums_in_some_takes_and_nothing_else_does() -> None:
    risks = hum_risks(WELL.setup)
    assert risks, "the demo has an organ on the mains with an unbalanced cable"
    item = next(i for i in assess(WELL).lines if i.route.source.name in risks)
    found = set()
    for variation in range(1, 9):
        samples = heard(WELL, item.line.id, variation)
        meter = Meter(channels=1, rate_hz=48_000, bit_depth=24)
        hum = meter.result(meter.fold(meter.start(), samples[None, :])).channels[0].hum
        found.add(hum.mains_hz)
    assert found == {None, 50}
    spoils = Spoils.of(assess(WELL), {"voice": 0}, 3)
    assert spoils.hum == {}


def test_a_buffer_that_is_too_small_loses_some_and_a_calm_one_none() -> None:
    calm = Spoils.of(assess(WELL), {}, 1)
    assert calm.gaps_per_s == 0.0
    monitoring = WELL.setup.monitoring.model_copy(update={"load_percent": 95.0})
    busy = set_monitoring(set_audio(WELL, Audio(buffer_frames=32)), monitoring)
    spoils = Spoils.of(assess(busy), {}, 1)
    assert spoils.gaps_per_s > 0.1
    whole = np.ones((2, 480_000))
    spoils.apply(whole, 0)
    lost = (whole[0] == 0.0).sum()
    assert lost % 32 == 0
    assert lost / 32 == pytest.approx(10.0 * spoils.gaps_per_s, rel=0.8, abs=3.0)
    parts = np.ones((2, 480_000))
    for at in range(0, 480_000, 1_000):
        spoils.apply(parts[:, at : at + 1_000], at)
    assert np.array_equal(whole, parts)


def test_players_differ_from_take_to_take_and_now_and_then_hit_harder(tmp_path: Path) -> None:
    figures = catalogue().sources["harp"].figures

    def peak_db(variation: int) -> float:
        made = perform(
            player=manner_of(figures), octave_bands_db=figures.octave_bands_db, playing=figures.playing(),
            play="hardest", seconds=3.0, rate_hz=48_000, seed=5, variation=variation,
        )  # fmt: skip
        return 20.0 * float(np.log10(np.abs(made).max()))

    peaks = [peak_db(variation) for variation in range(1, 41)]
    assert peak_db(0) == pytest.approx(0.0)
    assert min(peaks) >= -2.6
    assert len({round(p, 3) for p in peaks}) > 35
    harder = sum(p > 2.6 for p in peaks)
    assert 2 <= harder <= 16
    assert max(peaks) <= 8.6
    request = replace(request_for(WELL, tmp_path, ("baritone_line",)), variation=4)
    first = record(request).tracks[0].peak_dbfs.measured
    again = record(replace(request, folder=tmp_path / "again")).tracks[0].peak_dbfs.measured
    assert first == again, "the same take is the same"


@pytest.mark.parametrize(
    ("key", "manner"),
    [
        ("flute", "blown"), ("grand_piano", "hammered"), ("bass_pickup", "bass"), ("synth_output", "synth"),
        ("viola", "bowed"), ("voice_singing", "voice"), ("hand_drum", "struck"), ("harp", "plucked"),
    ],
)  # fmt: skip
def test_each_sounds_like_its_kind(key: str, manner: str) -> None:
    assert manner_of(catalogue().sources[key].figures) == manner


def test_a_voice_that_varies_has_blasts_of_air() -> None:
    figures = catalogue().sources["voice_singing"].figures

    def bass(variation: int) -> float:
        made = perform(
            player="voice", octave_bands_db=figures.octave_bands_db, playing=figures.playing(),
            play="typical", seconds=6.0, rate_hz=48_000, seed=5, variation=variation,
        )  # fmt: skip
        spectrum = np.abs(np.fft.rfft(made)) ** 2
        hz = np.fft.rfftfreq(len(made), 1.0 / 48_000)
        return float(spectrum[hz < 60.0].sum() / spectrum.sum())

    assert bass(3) > 20.0 * bass(0)
