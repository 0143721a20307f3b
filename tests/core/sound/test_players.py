"""Synthetic players: their level, their bands, their pauses, the same every time."""

from __future__ import annotations

import numpy as np
import pytest

from verve.core.catalogue import catalogue
from verve.core.session import Play
from verve.core.sound import LONGEST_CYCLE_S, perform

ENTRIES = catalogue()
RATE_HZ = 48000


def performance(
    key: str, play: Play = "hardest", seconds: float = 6.0, seed: int = 1
) -> np.ndarray:
    figures = ENTRIES.sources[key].figures
    return perform(
        player=figures.player,
        octave_bands_db=figures.octave_bands_db,
        playing=figures.playing(),
        play=play,
        seconds=seconds,
        rate_hz=RATE_HZ,
        seed=seed,
    )


@pytest.mark.parametrize("key", ["harp", "snare_drum", "single_coil", "keyboard_output"])
def test_the_hardest_playing_peaks_at_exactly_one(key: str) -> None:
    assert np.max(np.abs(performance(key))) == pytest.approx(1.0)


@pytest.mark.parametrize("play", ["softest", "typical"])
def test_softer_playing_peaks_as_much_lower_as_the_range_says(play: Play) -> None:
    playing = ENTRIES.sources["harp"].figures.playing()
    below_db = playing.hardest_db - getattr(playing, f"{play}_db")
    peak = np.max(np.abs(performance("harp", play)))
    assert 20.0 * np.log10(peak) == pytest.approx(-below_db, abs=1e-6)


def test_a_phrase_goes_from_soft_to_hard() -> None:
    cycle = np.abs(performance("voice_singing", "phrase", 9.0))
    third = len(cycle) // 3
    peaks = [cycle[i * third : (i + 1) * third].max() for i in range(3)]
    assert peaks[0] < peaks[1] < peaks[2]
    assert peaks[2] == pytest.approx(1.0)


@pytest.mark.parametrize("seconds", [3.0, 4.5, 10.0])
def test_there_is_silence_before_and_behind_the_playing(seconds: float) -> None:
    cycle = performance("double_coil", seconds=seconds)
    assert len(cycle) == int(seconds * RATE_HZ)
    assert np.max(np.abs(cycle[: int(0.7 * RATE_HZ)])) < 1e-9
    assert np.max(np.abs(cycle[-int(0.2 * RATE_HZ) :])) < 1e-9


def test_a_long_performance_repeats_after_ten_seconds() -> None:
    assert len(performance("harp", seconds=60.0)) == int(LONGEST_CYCLE_S * RATE_HZ)


def test_the_same_player_plays_the_same_and_another_seed_another() -> None:
    assert np.array_equal(performance("harp"), performance("harp"))
    assert not np.array_equal(performance("harp", seed=1), performance("harp", seed=2))
    assert not performance("harp").flags.writeable


@pytest.mark.parametrize("key", ENTRIES.sources)
def test_the_playing_peaks_at_one_and_fills_the_octave_bands_of_its_source(key: str) -> None:
    cycle = performance(key, seconds=10.0)
    assert np.max(np.abs(cycle)) == pytest.approx(1.0)
    power = np.abs(np.fft.rfft(cycle)) ** 2
    hz = np.fft.rfftfreq(len(cycle), 1.0 / RATE_HZ)
    octave = np.clip(np.round(np.log2(np.maximum(hz, 1.0) / 1000.0)).astype(int) + 5, 0, 9)
    has_db = 10.0 * np.log10(np.bincount(octave, power, minlength=10))
    wants_db = np.asarray(ENTRIES.sources[key].figures.octave_bands_db)
    # A player has at most 96 partials: one in the lowest register ends at about 3 kHz.
    centres_hz = 1000.0 * 2.0 ** (np.arange(10) - 5)
    register_hz = centres_hz[int(np.argmax(wants_db >= wants_db.max() - 8.0))]
    strong = (wants_db > -10.0) & (centres_hz < 96 * register_hz * 1.4)
    difference = has_db - has_db[strong].max() - (wants_db - wants_db.max())
    lowest = int(np.argmax(strong))
    # The lowest strong band holds what lies below the first partial too.
    assert np.all(np.abs(difference[strong][1 if lowest else 0 :]) < 5.0), difference
