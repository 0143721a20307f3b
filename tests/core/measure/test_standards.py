"""Figures of a recording against the signals that the standards describe, and against traps."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import resample_poly, sosfilt, sosfreqz

from tests.core.measure.made import RATE_HZ, melody, rng, sine
from verve.core.measure import Measurement, Meter, Programme, Recording
from verve.core.measure._loudness import k_filter, k_weighting
from verve.core.measure._pauses import find_pauses
from verve.core.units import FloatArray


def measured(
    *channels: FloatArray, rate_hz: int = RATE_HZ, bit_depth: int | None = 24
) -> Recording:
    meter = Meter(channels=len(channels), rate_hz=rate_hz, bit_depth=bit_depth)
    return meter.result(meter.fold(meter.start(), np.stack(channels)))


def one(samples: FloatArray) -> Measurement:
    return measured(samples).channels[0]


def programme(
    *parts: tuple[float, float], rate_hz: int = RATE_HZ, hz: float = 1_000.0
) -> Programme:
    """Of a stereo sine of these levels, dBFS, for so many seconds each."""
    wave = np.concatenate([sine(hz, level, seconds, rate_hz) for level, seconds in parts])
    found = measured(wave, wave, rate_hz=rate_hz).programme
    assert found is not None
    return found


# ── EBU Tech 3341, minimum requirements ───────────────────────────────────────────────────────
@pytest.mark.parametrize("rate_hz", [32_000, 44_100, 48_000, 96_000])
def test_case_1_and_2_a_steady_tone(rate_hz: int) -> None:
    for level in (-23.0, -33.0):
        found = programme((level, 20.0), rate_hz=rate_hz)
        assert found.integrated_lufs == pytest.approx(level, abs=0.1)
        assert found.max_momentary_lufs == pytest.approx(level, abs=0.1)
        assert found.max_short_term_lufs == pytest.approx(level, abs=0.1)
        assert found.lra_lu == pytest.approx(0.0, abs=0.1)


@pytest.mark.parametrize(
    "parts",
    [
        [(-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0)],
        [(-72.0, 10.0), (-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0), (-72.0, 10.0)],
        [(-26.0, 20.0), (-20.0, 20.1), (-26.0, 20.0)],
    ],
    ids=["3", "4", "5"],
)
def test_cases_3_to_5_the_gates(parts: list[tuple[float, float]]) -> None:
    assert programme(*parts).integrated_lufs == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize("number", range(0, 20, 3))
def test_case_13_a_tone_of_400_ms_wherever_it_lies(number: int) -> None:
    silence = np.zeros(round(number * 0.02 * RATE_HZ))
    wave = np.concatenate([silence, sine(1_000.0, -23.0, 0.4), np.zeros(RATE_HZ)])
    found = measured(wave, wave).programme
    assert found is not None
    assert found.max_momentary_lufs == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize(
    ("divisor", "phase", "gain"),
    [(4, 0.0, 0.5), (4, 45.0, 0.5), (6, 60.0, 0.5), (8, 67.5, 0.5), (4, 45.0, 1.41)],
    ids=["15", "16", "17", "18", "19"],
)
@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
def test_cases_15_to_19_true_peaks_between_the_samples(
    divisor: int, phase: float, gain: float, rate_hz: int
) -> None:
    at = np.arange(rate_hz)
    fade = np.minimum(1.0, np.minimum(at, rate_hz - 1 - at) / (0.01 * rate_hz))
    wave = gain * fade * np.sin(2.0 * np.pi * at / divisor + np.radians(phase))
    found = measured(wave, rate_hz=rate_hz, bit_depth=None).channels[0].true_peak_dbtp
    assert found is not None
    expected = 20.0 * np.log10(gain)
    assert expected - 0.4 <= found <= expected + 0.2


@pytest.mark.parametrize("seed", range(4))
def test_true_peak_is_what_much_oversampling_finds(seed: int) -> None:
    noise = resample_poly(rng(seed).standard_normal(6_000), 4, 5) * 0.1
    expected = 20.0 * np.log10(np.abs(resample_poly(noise, 64, 1)).max())
    found = one(noise).true_peak_dbtp
    assert found is not None
    assert expected - 0.4 <= found <= expected + 0.2


# ── EBU Tech 3342 ─────────────────────────────────────────────────────────────────────────────
@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([(-20.0, 20.0), (-30.0, 20.0)], 10.0),
        ([(-20.0, 20.0), (-15.0, 20.0)], 5.0),
        ([(-40.0, 20.0), (-20.0, 20.0)], 20.0),
        ([(-50.0, 20.0), (-35.0, 20.0), (-20.0, 20.0), (-35.0, 20.0), (-50.0, 20.0)], 15.0),
    ],
    ids=["1", "2", "3", "4"],
)
def test_the_range_of_loudness(parts: list[tuple[float, float]], expected: float) -> None:
    assert programme(*parts).lra_lu == pytest.approx(expected, abs=0.5)


def test_at_48_khz_the_filter_is_that_of_the_standard() -> None:
    shelf, high_pass = k_weighting(48_000)
    standard = [1.53512485958697, -2.69169618940638, 1.19839281085285]
    assert shelf[:3] == pytest.approx(standard, abs=1e-6)
    assert shelf[4:] == pytest.approx([-1.69065929318241, 0.73248077421585], abs=1e-6)
    assert high_pass[:3] == pytest.approx([1.0, -2.0, 1.0], abs=1e-4)
    assert high_pass[4:] == pytest.approx([-1.99004745483398, 0.99007225036621], abs=1e-6)
    for rate_hz in (44_100, 96_000):
        _, one_answer = sosfreqz(k_weighting(48_000), [50, 200, 997, 4_000], fs=48_000)
        _, other = sosfreqz(k_weighting(rate_hz), [50, 200, 997, 4_000], fs=rate_hz)
        assert 20.0 * np.log10(np.abs(other / one_answer)) == pytest.approx(0.0, abs=0.05)


@pytest.mark.parametrize("rate_hz", [8_000, 48_000, 192_000, 1_600_000])
def test_both_sections_in_one_err_by_nothing(rate_hz: int) -> None:
    sound = np.random.default_rng(1).standard_normal(2 * rate_hz) * 0.1 + 0.2
    apart = sosfilt(k_weighting(rate_hz), sound)
    assert np.abs(k_filter(rate_hz)(sound) - apart).max() < 5e-8


def test_what_is_too_short_or_silent_has_no_loudness() -> None:
    short = measured(sine(997.0, 0.0, 0.3)).programme
    assert short is not None
    assert (short.integrated_lufs, short.max_short_term_lufs, short.lra_lu) == (None, None, None)
    assert measured(*[sine(997.0, -6.0, 1.0)] * 3).programme is None
    mono = measured(sine(997.0, 0.0, 2.0)).programme
    assert mono is not None
    assert mono.integrated_lufs == pytest.approx(-3.01, abs=0.05)
    nothing = one(np.zeros(RATE_HZ))
    assert nothing.is_digital_zero
    assert (nothing.peak_dbfs, nothing.rms_dbfs, nothing.true_peak_dbtp) == (None, None, None)


# ── noise and hum ─────────────────────────────────────────────────────────────────────────────
def played(noise: FloatArray) -> FloatArray:
    """A melody with pauses before, between and after, on this noise."""
    wave = np.concatenate(
        [np.zeros(RATE_HZ), melody(3), np.zeros(RATE_HZ), melody(4), np.zeros(RATE_HZ)]
    )
    return wave + noise[: len(wave)]


@pytest.mark.parametrize("level_dbfs", [-90.0, -60.0])
def test_the_noise_of_pauses_is_told(level_dbfs: float) -> None:
    noise = 10.0 ** (level_dbfs / 20.0) / np.sqrt(2.0) * rng(1).standard_normal(11 * RATE_HZ)
    found = one(played(noise))
    # Of white noise at 48 kHz 20 Hz to 20 kHz is 0.79 dB less, and A-weighting takes another 2.05 dB.
    assert found.noise_dbfs == pytest.approx(level_dbfs - 0.79, abs=0.5)
    assert found.noise_dbfs_a == pytest.approx(level_dbfs - 0.79 - 2.05, abs=0.5)
    assert found.hum.mains_hz is None


@pytest.mark.parametrize("hz", [49.93, 50.0, 59.97])
def test_hum_is_told_with_its_lines_and_its_frequency(hz: float) -> None:
    t = np.arange(11 * RATE_HZ) / RATE_HZ
    lines = {1: -60.0, 3: -66.0, 6: -72.0}
    hum = sum(
        10.0 ** (level / 20.0) * np.sin(2.0 * np.pi * n * hz * t) for n, level in lines.items()
    )
    found = one(played(np.asarray(hum + 1e-5 * rng(2).standard_normal(len(t))))).hum
    assert found.mains_hz == round(hz / 10.0) * 10
    assert found.hz == pytest.approx(hz, abs=0.02)
    told = {one.number: one.level_dbfs for one in found.harmonics}
    assert {n: told[n] for n in lines} == pytest.approx(lines, abs=1.0)
    assert found.level_dbfs == pytest.approx(-58.8, abs=1.0)


@pytest.mark.parametrize("hz", [48.0, 51.9, 55.0, 61.7])
def test_a_low_tone_that_is_no_mains_is_no_hum(hz: float) -> None:
    t = np.arange(11 * RATE_HZ) / RATE_HZ
    tone = 1e-3 * np.sin(2.0 * np.pi * hz * t) + 1e-5 * rng(2).standard_normal(len(t))
    assert one(played(np.asarray(tone))).hum.mains_hz is None


# ── clipping ──────────────────────────────────────────────────────────────────────────────────
T = np.arange(3 * RATE_HZ) / RATE_HZ
LOUD = 1.4 * np.sin(2.0 * np.pi * 221.0 * T) * np.minimum(1.0, T)


@pytest.mark.parametrize("gain", [1.0, 0.35])
@pytest.mark.parametrize("low", [-1.0, -9.0], ids=["both sides", "one side"])
def test_clipped_tops_are_told_at_any_level(gain: float, low: float) -> None:
    clipped = np.clip(LOUD, low, 1.0)
    found = one(gain * clipped)
    assert found.clip_level_dbfs == pytest.approx(20.0 * np.log10(gain), abs=0.2)
    assert found.clipped_frames == pytest.approx(np.count_nonzero(clipped != LOUD), rel=0.05)
    kinds = {run.kind for run in found.clipped_runs}
    assert (
        kinds == {"full_scale" if gain == 1.0 and low == -1.0 else "below_full_scale"}
        or gain == 1.0
    )


def test_clipped_tops_with_noise_of_a_later_stage_are_told() -> None:
    pause = np.zeros(RATE_HZ)
    wave = np.concatenate([pause, 0.6 * np.clip(LOUD, -1.0, 1.0), pause])
    noise = 0.001 * rng(3).standard_normal(len(wave))
    found = one(wave + noise)
    assert found.clip_level_dbfs == pytest.approx(-4.44, abs=0.2)
    assert found.clipped_frames > 10_000


@pytest.mark.parametrize("kind", ["sine", "bass", "square", "soft", "single", "triangle", "noise"])
def test_what_is_no_clipping(kind: str) -> None:
    single = 0.5 * np.sin(2.0 * np.pi * 221.0 * T)
    single[1_000] = 1.0
    made = {
        "sine": np.sin(2.0 * np.pi * 997.0 * T),
        "bass": np.sin(2.0 * np.pi * 31.0 * T),
        "square": 0.5 * np.sign(np.sin(2.0 * np.pi * 110.3 * T)),
        "soft": 0.8 * np.tanh(2.5 * np.sin(2.0 * np.pi * 221.0 * T)),
        "single": single,
        "triangle": 0.9 * (2.0 * np.abs(2.0 * ((110.0 * T) % 1.0) - 1.0) - 1.0),
        "noise": 0.2 * rng(4).standard_normal(len(T)),
    }[kind]
    found = one(made)
    assert (found.clipped_runs, found.clipped_frames, found.clip_level_dbfs) == ((), 0, None)


# ── drop-outs and bursts of air ───────────────────────────────────────────────────────────────
@pytest.mark.parametrize("seed", range(3))
def test_gaps_repeats_and_skips_are_told_and_nothing_else(seed: int) -> None:
    wave = melody(seed, seconds=5) + 1e-4 * rng(seed).standard_normal(5 * RATE_HZ)
    assert one(wave).dropouts == ()
    at, size = 2 * RATE_HZ + 777 * seed, (64, 128, 512)[seed]
    gap, repeat = wave.copy(), wave.copy()
    gap[at : at + size] = 0.0
    repeat[at : at + size] = wave[at - size : at]
    for kind, broken, frames in (
        ("gap", gap, size), ("repeat", repeat, size), ("skip", np.delete(wave, slice(at, at + 300)), 0),
    ):  # fmt: skip
        (found,) = one(broken).dropouts
        assert found.kind == kind
        assert found.start_frame == pytest.approx(at, abs=3)
        assert found.frames == pytest.approx(frames, abs=3)


def test_a_gap_in_a_bowed_sound_is_told() -> None:
    wave = melody(2, bowed=True)
    wave[90_000:90_200] = 0.0
    (found,) = one(wave).dropouts
    assert (found.kind, found.frames) == ("gap", pytest.approx(200, abs=3))


def test_an_edit_and_a_faded_pause_are_no_dropouts() -> None:
    first, second = melody(5), melody(6)
    cross = np.linspace(0.0, 1.0, 240)
    edited = np.concatenate(
        [
            first[:90_000],
            first[90_000:90_240] * (1 - cross) + second[90_000:90_240] * cross,
            second[90_240:],
        ]
    )
    faded = edited.copy()
    faded[60_000:64_800] *= np.linspace(1.0, 0.0, 4_800)
    faded[64_800:80_000] = 0.0
    faded[80_000:84_800] *= np.linspace(0.0, 1.0, 4_800)
    for wave in (edited, faded):
        assert one(wave).dropouts == ()


def test_a_burst_of_air_is_told_and_a_low_note_is_not() -> None:
    wave = melody(7) + 1e-4 * rng(7).standard_normal(4 * RATE_HZ)
    at, length = RATE_HZ, round(0.15 * RATE_HZ)
    burst = np.convolve(rng(8).standard_normal(length), np.hanning(900), "same")
    blown = wave.copy()
    blown[at : at + length] += 0.3 * burst / np.abs(burst).max() * np.hanning(length)
    (found,) = one(blown).blasts
    assert found.start_frame == pytest.approx(at, abs=0.1 * RATE_HZ)
    assert one(wave).blasts == ()


def test_how_two_channels_go_together() -> None:
    left = melody(8)
    other = rng(9).standard_normal(len(left)) * 0.05
    pair = measured(left, -np.roll(left, 30)).pair
    assert pair is not None
    assert pair.polarity_inverted
    same = measured(left, left).pair
    assert same is not None
    assert (same.is_mono, same.polarity_inverted) == (True, False)
    assert same.correlation == pytest.approx(1.0, abs=0.001)
    apart = measured(left, 0.5 * left + other).pair
    assert apart is not None
    assert not apart.polarity_inverted
    lone = measured(left, 0.0 * left).pair
    assert lone is not None
    assert (lone.one_sided, lone.correlation, lone.level_difference_db) == ("left", None, None)
    softer = measured(0.1 * left, left).pair
    assert softer is not None
    assert softer.level_difference_db == pytest.approx(-20.0, abs=0.01)


@pytest.mark.parametrize("levels", [[-90.0, -40.0] * 40, [-90.0] * 15 + [-60.0] * 15, [-50.0]])
def test_levels_that_jump_to_and_fro_come_to_an_end(levels: list[float]) -> None:
    loud = [-10.0] * 20
    for pause in find_pauses(10.0 ** (np.array([*loud, *levels, *loud]) / 10.0)):
        assert pause.level_db < -20.0
