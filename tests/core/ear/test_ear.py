"""Listening drills measure what they claim: by `verve measure` and `verve align`, equally loud to a tenth."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from verve import cli
from verve.core.ear import (
    COMB_MS,
    DRILLS,
    ECHO_MS,
    LOUDNESS_LUFS,
    RATE_HZ,
    REST_S,
    Example,
    Scale,
    Session,
    Staircase,
    comes_again,
    example_of,
    loudness_lufs,
    picture_for,
    picture_of,
    result_text,
    value_text,
)
from verve.core.units import FloatArray

_PLAYED = round(REST_S * RATE_HZ)


def example(key: str, value: float, seed: int = 3) -> tuple[FloatArray, FloatArray]:
    """The plain sound and the odd one."""
    found = example_of(DRILLS[key], value, seed)
    return found.sounds[1 - found.odd], found.sounds[found.odd]


def measured(
    sound: FloatArray, path: Path, capsys: pytest.CaptureFixture[str]
) -> dict[str, object]:
    """What `verve measure` says of a sound, of its first channel."""
    soundfile.write(str(path), sound.T, RATE_HZ, subtype="FLOAT")
    assert cli.main(["measure", str(path), "--json"]) in {0, 1}
    found: dict[str, object] = json.loads(capsys.readouterr().out)
    return found


def rms(sound: FloatArray) -> float:
    return float(np.sqrt(np.mean(sound**2)))


# ── every drill ───────────────────────────────────────────────────────────────────────────────────
@pytest.mark.parametrize("key", sorted(DRILLS))
def test_both_examples_are_equally_loud_and_far_from_full_scale(key: str) -> None:
    scale = DRILLS[key].scale
    # Where they differ most they are hardest to make alike.
    for sound in example(key, scale.easiest):
        assert loudness_lufs(sound) == pytest.approx(LOUDNESS_LUFS, abs=0.1)
        assert np.abs(sound).max() < 0.8


@pytest.mark.parametrize("key", ["delay"])
def test_which_is_the_odd_one_is_chance_and_the_same_for_the_same_seed(key: str) -> None:
    drill = DRILLS[key]
    places = [example_of(drill, drill.scale.value(4), seed).odd for seed in range(6)]
    assert set(places) == {0, 1}
    one, two = (example_of(drill, drill.scale.value(4), 5) for _ in range(2))
    assert all(np.array_equal(a, b) for a, b in zip(one.sounds, two.sounds, strict=True))


@pytest.mark.parametrize("key", sorted(DRILLS))
def test_at_its_easiest_the_picture_in_words_tells_them_apart(key: str) -> None:
    drill = DRILLS[key]
    plain, odd = example(key, drill.scale.easiest)
    pictures = [picture_for(drill, sound) for sound in (plain, odd)]
    assert pictures[0] != pictures[1]
    assert [row for row, _ in pictures[0]] == [row for row, _ in pictures[1]]
    assert set(drill.shows) == {row for row, _ in pictures[0]}


# ── what each claims ──────────────────────────────────────────────────────────────────────────────
@pytest.mark.parametrize("over_db", [12.0, 4.0])
def test_the_share_that_is_clipped_is_that_of_a_wave_so_far_over(
    over_db: float, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plain, odd = example("clip", over_db)
    clean = measured(plain, tmp_path / "plain.wav", capsys)
    cut = measured(odd, tmp_path / "odd.wav", capsys)
    assert clean["channels"][0]["clipped_frames"] == 0  # type: ignore[index]
    channel = cut["channels"][0]  # type: ignore[index]
    # Of the plain one, what is above a ceiling so far below its highest peak.
    ceiling = np.abs(plain[0]).max() * 10.0 ** (-over_db / 20.0)
    claimed = int((np.abs(plain[0]) >= ceiling).sum())
    assert channel["clipped_frames"] == pytest.approx(claimed, rel=0.15)
    highest = 20.0 * np.log10(np.abs(odd[0]).max())
    assert channel["clip_level_dbfs"] == pytest.approx(highest, abs=0.05)


@pytest.mark.parametrize("below_db", [12.0, 30.0])
def test_the_hum_is_of_50_and_of_60_hz_and_so_far_below(
    below_db: float, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plain, odd = example("hum", below_db)
    for sound, hz in ((plain, 60), (odd, 50)):
        channel = measured(sound, tmp_path / f"{hz}.wav", capsys)["channels"][0]  # type: ignore[index]
        assert channel["hum"]["mains_hz"] == hz
        # Against what plays, which carries the hum as well.
        level = 20.0 * np.log10(rms(sound[0][_PLAYED:]) * np.sqrt(2.0))
        share = 10.0 * np.log10(1.0 + 10.0 ** (-below_db / 10.0))
        claimed = level - share - below_db
        assert channel["hum"]["level_dbfs"] == pytest.approx(claimed, abs=1.0)


@pytest.mark.parametrize("ms", [60.0, 5.0])
@pytest.mark.parametrize("key", ["delay", "double"])
def test_the_delay_between_left_and_right_is_what_is_claimed(key: str, ms: float) -> None:
    plain, odd = example(key, ms)
    rows = dict(picture_of(odd))
    said = rows["Right behind left"]
    assert abs(float(said.removesuffix(" ms").replace("−", "-"))) == pytest.approx(ms, abs=0.15)
    usual = dict(picture_of(plain))["Right behind left"]
    assert usual == "none" or abs(float(usual.removesuffix(" ms").replace("−", "-"))) < 0.15


@pytest.mark.parametrize("ms", [30.0, 12.0])
def test_the_double_is_so_late_by_verve_align(
    ms: float, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plain, odd = example("double", ms)
    delays = []
    for sound in (plain, odd):
        paths = [tmp_path / "lead.wav", tmp_path / "double.wav"]
        for path, side in zip(paths, sound, strict=True):
            soundfile.write(str(path), side, RATE_HZ, subtype="FLOAT")
        assert cli.main(["align", *map(str, paths), "--json"]) in {0, 1}
        delays.append(json.loads(capsys.readouterr().out)["delay_ms"])
    assert delays[0] == pytest.approx(0.0, abs=0.02)
    assert abs(delays[1]) == pytest.approx(ms, abs=0.05)


@pytest.mark.parametrize(
    ("key", "delay_ms", "below_db"),
    [
        ("comb", COMB_MS, 3.0),
        ("comb", COMB_MS, 9.0),
        ("echo", ECHO_MS, 6.0),
        ("echo", ECHO_MS, 18.0),
    ],
)
def test_the_copy_comes_when_and_as_strong_as_is_claimed(
    key: str, delay_ms: float, below_db: float
) -> None:
    plain, odd = example(key, below_db)
    frames = round(delay_ms * RATE_HZ / 1000.0)
    later = np.concatenate([np.zeros(frames), plain[0]])[: plain.shape[1]]
    # What makes the odd one of the plain one, by least squares: a gain of it, and one of its copy.
    rows = np.stack([plain[0], later], axis=1)
    (own, copy), rest, *_ = np.linalg.lstsq(rows, odd[0], rcond=None)
    assert 20.0 * np.log10(own / copy) == pytest.approx(below_db, abs=0.01)
    assert rest[0] < 1e-9
    lag_ms, _ = comes_again(odd[0])
    assert lag_ms == pytest.approx(delay_ms, abs=0.1)


@pytest.mark.parametrize("below_db", [20.0, 40.0])
def test_both_hisses_are_as_far_below_the_playing_as_is_claimed(
    below_db: float, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """By the noise that `verve measure` finds in the pause before it, A-weighted."""
    levels = []
    for name, sound in zip(("room", "preamp"), example("hiss", below_db), strict=True):
        found = measured(sound, tmp_path / f"{name}.wav", capsys)
        channel = found["channels"][0]  # type: ignore[index]
        playing = 20.0 * np.log10(rms(sound[0][_PLAYED:]) * np.sqrt(2.0))
        levels.append(playing - channel["noise_dbfs_a"])
    # Equally strong as they are heard, and so far below the playing.
    assert levels[0] == pytest.approx(levels[1], abs=1.0)
    assert levels[0] == pytest.approx(below_db, abs=1.5)


@pytest.mark.parametrize("below_db", [10.0, 25.0])
def test_the_bleed_is_as_far_below_as_is_claimed(below_db: float) -> None:
    plain, odd = example("bleed", below_db)
    # The rest before the playing is silent in both; the gain between them is found where only one plays.
    own = float(np.dot(plain[0], odd[0]) / np.dot(plain[0], plain[0]))
    other = odd[0] - own * plain[0]
    assert 20.0 * np.log10(rms(own * plain[0]) / rms(other)) == pytest.approx(below_db, abs=0.5)


@pytest.mark.parametrize("below_db", [0.0, 10.0])
def test_with_the_second_microphone_the_wrong_way_round_the_bass_is_gone(below_db: float) -> None:
    plain, odd = example("polarity", below_db)
    bass = [
        float(dict(picture_of(s))["Below 250 Hz, against the middle"].split()[0].replace("−", "-"))
        for s in (plain, odd)
    ]
    assert bass[1] < bass[0] - 2.0


def test_what_clips_last_is_flat_and_what_clips_earlier_is_not(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plain, odd = example("stage", 12.0)
    early = measured(plain, tmp_path / "early.wav", capsys)["channels"][0]  # type: ignore[index]
    last = measured(odd, tmp_path / "last.wav", capsys)["channels"][0]  # type: ignore[index]
    assert early["clipped_frames"] == 0
    assert last["clipped_frames"] > 100


# ── adaptive thresholds ───────────────────────────────────────────────────────────────────────────
def test_two_right_make_it_harder_and_one_wrong_easier() -> None:
    stairs = Staircase(scale=Scale(easiest=10.0, hardest=1.0))
    at = stairs.position
    one = stairs.answered(True)
    assert one.position == at
    two = one.answered(True)
    assert two.position > at
    assert two.answered(False).position < two.position


def test_steps_get_smaller_with_every_second_turn() -> None:
    stairs = Staircase(scale=Scale(easiest=10.0, hardest=1.0), position=12)
    sizes = []
    for is_right in (True, True, False, True, True, False, True, True, False):
        after = stairs.answered(is_right)
        if after.position != stairs.position:
            sizes.append(abs(after.position - stairs.position))
        stairs = after
    assert sizes == sorted(sizes, reverse=True)
    assert sizes[-1] == 1


@given(st.floats(4.0, 20.0), st.integers(0, 10_000))
@settings(max_examples=25)
def test_it_settles_near_where_seventy_percent_are_right(true_at: float, seed: int) -> None:
    """An observer who guesses beyond the true position, and is sure before it.

    source: two-alternative choice, 0.5 + 0.5 · logistic; 70.7 % right is at 0.35 of its width before the middle
    """
    rng = np.random.default_rng(seed)
    scale = Scale(easiest=40.0, hardest=1.0, is_ratio=True)
    found = []
    for _ in range(12):
        stairs = Staircase(scale=scale)
        while not stairs.is_over:
            sure = 1.0 / (1.0 + np.exp(stairs.position - true_at))
            stairs = stairs.answered(bool(rng.random() < 0.5 + 0.5 * sure))
        threshold = stairs.threshold
        if threshold is not None:
            found.append(scale.position(threshold))
    assert float(np.median(found)) == pytest.approx(true_at + 0.35, abs=2.5)


@given(st.floats(0.0, 24.0), st.booleans())
def test_a_scale_is_read_back(position: float, is_ratio: bool) -> None:
    scale = Scale(easiest=90.0, hardest=3.0, is_ratio=is_ratio)
    assert scale.position(scale.value(position)) == pytest.approx(position, abs=1e-9)


def test_a_whole_drill_ends_with_a_figure_and_the_plain_word() -> None:
    session = Session.of("clip", 7)
    first: Example = session.example()
    assert first.value == session.stairs.value
    while not session.is_over:
        # Whoever hears everything above 3 dB over.
        is_heard = session.stairs.value >= 3.0
        session = session.answered(0 if is_heard else 1, 0)
    threshold = session.stairs.threshold
    assert threshold is not None
    assert threshold == pytest.approx(3.0, abs=1.2)
    said = result_text(session)
    assert value_text(session.drill, threshold) in said
    assert "What that means: " in said
    assert session.grade in {2, 3}
    again = Session.of("clip", 8, threshold)
    assert 0 <= again.stairs.position <= session.drill.scale.position(threshold)


def test_whoever_only_guesses_wrong_gets_no_good_grade() -> None:
    session = Session.of("hum", 1)
    for _ in range(60):
        if session.is_over:
            break
        session = session.answered(0, 1)
    assert session.grade == 1
    assert "was B" in session.says
