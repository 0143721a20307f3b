"""Comparing recordings: equally loud to a tenth, letters that tell nothing, a tally that is worth what it says."""

from __future__ import annotations

from collections import Counter
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from tests.core.check.test_learning import WELL, take_of
from verve.core.check import LONGEST_S, Ballot, Candidate, candidates_of, matched, tally_text
from verve.core.errors import EditError, FileError, InputError
from verve.core.session import (
    Change,
    Compared,
    Comparison,
    add_take,
    from_json,
    log_comparison,
    remove_comparison,
    set_control,
    to_json,
)
from verve.core.sheets import comparison_text
from verve.core.soundfiles import measure_file

RATE_HZ = 48_000


def phrase(
    path: Path, dbfs: float, seconds: float = 6.0, hz: float = 220.0, rate_hz: int = RATE_HZ
) -> Candidate:
    t = np.arange(round(seconds * rate_hz)) / rate_hz
    rng = np.random.default_rng(round(hz))
    sound = 10.0 ** (dbfs / 20.0) * np.sin(2.0 * np.pi * hz * t) * (0.6 + 0.4 * np.sin(2.0 * t))
    sound += 1e-5 * rng.standard_normal(len(t))
    # A phrase begins a while after the recording does.
    head = 1e-5 * rng.standard_normal(round(0.7 * rate_hz))
    soundfile.write(path, np.concatenate([head, sound]), rate_hz, subtype="PCM_24")
    return Candidate(name=path.stem, path=path)


def test_all_are_equally_loud_to_a_tenth_and_none_is_turned_up(tmp_path: Path) -> None:
    candidates = [
        phrase(tmp_path / "a.wav", -20.0),
        phrase(tmp_path / "b.wav", -6.0, hz=1500.0),
        phrase(tmp_path / "c.wav", -30.0, hz=80.0, rate_hz=44_100),
    ]
    found = matched(candidates, RATE_HZ, 4.0)
    assert max(one.gain_db for one in found) == pytest.approx(0.0)
    loudness = []
    for number, one in enumerate(found):
        path = tmp_path / f"matched {number}.wav"
        soundfile.write(path, one.samples, one.rate_hz, subtype="FLOAT")
        programme = measure_file(path).programme
        assert programme is not None
        assert programme.integrated_lufs is not None
        loudness.append(programme.integrated_lufs)
        assert one.lufs == pytest.approx(programme.integrated_lufs, abs=0.05)
        assert len(one.samples) == 4 * RATE_HZ
        assert abs(one.samples[0]) < 1e-6, "it fades in"
    assert max(loudness) - min(loudness) < 0.1


def test_what_is_too_short_for_loudness_is_matched_by_its_level(tmp_path: Path) -> None:
    found = matched(
        [phrase(tmp_path / "a.wav", -20.0, 0.6), phrase(tmp_path / "b.wav", -10.0, 0.6)],
        RATE_HZ,
        0.55,
    )
    levels = [20.0 * np.log10(np.sqrt(np.mean(one.samples**2))) for one in found]
    assert levels[0] == pytest.approx(levels[1], abs=0.2)


def test_what_cannot_be_compared_says_why(tmp_path: Path) -> None:
    good = phrase(tmp_path / "good.wav", -20.0)
    soundfile.write(tmp_path / "silent.wav", np.zeros(48_000), RATE_HZ)
    silent = Candidate(name="Silent", path=tmp_path / "silent.wav")
    for candidates, said in (
        ([good], "must be 2 to"),
        ([good, silent], "must hold some sound"),
        ([good, Candidate(name="x", path=good.path, channel=5)], "must be one of 1"),
        ([good, phrase(tmp_path / "short.wav", -20.0, 0.2)], "at least"),
    ):
        with pytest.raises(InputError, match=said):
            matched(candidates, RATE_HZ)
    with pytest.raises(FileError):
        matched([good, Candidate(name="gone", path=tmp_path / "gone.wav")], RATE_HZ)
    assert LONGEST_S == 20.0


def test_takes_of_one_signal_tell_in_what_they_differ_from_the_first() -> None:
    session = add_take(WELL, take_of(WELL, WELL, "voice", number=1))
    nearer = set_control(
        session, Change(owner="voice_mic", channel="capsule", name="distance_m", value=0.3)
    )
    session = add_take(nearer, take_of(nearer, nearer, "voice", number=2))
    session = add_take(session, take_of(nearer, nearer, "harp_left", number=3))
    first, second = candidates_of(session, "voice")
    assert (first.name, first.differs) == ("Take 1", "")
    assert "distance" in second.differs
    assert [one.name for one in candidates_of(session, "harp_left")] == ["Take 3"]


@given(st.integers(2, 8), st.integers(0, 10**6), st.lists(st.integers(0, 7), max_size=30))
def test_letters_are_shuffled_and_votes_go_to_the_recording(
    count: int, seed: int, votes: list[int]
) -> None:
    ballot = Ballot.of(count, seed)
    meant: Counter[int] = Counter()
    for vote in votes:
        letter = ballot.letters[vote % count]
        meant[ballot.order[vote % count]] += 1
        ballot = ballot.vote(letter)
        assert sorted(ballot.order) == list(range(count))
    assert ballot.votes == tuple(meant[n] for n in range(count))
    chance = ballot.by_chance()
    assert (chance is None) == (not votes)
    assert chance is None or 0.0 < chance <= 1.0


def test_a_tally_is_worth_what_it_says() -> None:
    ballot = Ballot.of(2, 1)
    assert tally_text(ballot, ["Near", "Far"]) == "No round has been voted yet."
    with pytest.raises(InputError, match="must be one of A, B"):
        ballot.vote("C")
    chances = []
    for _ in range(7):
        ballot = ballot.vote(ballot.letters[ballot.order.index(1)])
        chances.append(ballot.by_chance() or 0.0)
    assert ballot.leader == 1
    assert all(b < a for a, b in pairwise(chances[1:]))
    assert chances[-1] == pytest.approx(2.0 / 2.0**7)
    said = tally_text(ballot, ["Near", "Far"])
    assert said.startswith("Near: 0; Far: 7.")
    assert said.endswith("The difference is heard.")
    even = ballot
    for _ in range(7):
        even = even.vote(even.letters[even.order.index(0)])
    assert even.leader is None
    assert "chance" in tally_text(even, ["Near", "Far"])
    orders = {Ballot.of(3, seed).order for seed in range(40)}
    assert len(orders) == 6


def test_a_choice_is_logged_kept_in_the_file_and_can_be_removed() -> None:
    one = Comparison(
        id="x", at="2026-05-04T20:15:00", title="Two places at the harp", is_blind=True, chosen=1,
        compared=(Compared(name="Near", file="/x/1.wav", votes=1), Compared(name="Far", file="/x/2.wav", votes=6)),
        reason="Less of the pedals.",
    )  # fmt: skip
    session = log_comparison(log_comparison(WELL, one), one)
    assert [c.id for c in session.comparisons] == ["comparison_1", "comparison_2"]
    assert from_json(to_json(session), "x") == session
    said = comparison_text(session.comparisons[0])
    assert said == (
        "Two places at the harp, 4 May 2026, 20:15: Near and Far, blind. Far was preferred, with 6 votes. "
        "Less of the pedals."
    )
    assert remove_comparison(session, "comparison_1").comparisons == session.comparisons[1:]
    with pytest.raises(EditError, match="must be a comparison"):
        remove_comparison(session, "nothing")
    with pytest.raises(EditError, match="must be one of 2"):
        log_comparison(WELL, one.model_copy(update={"chosen": 5}))


@pytest.mark.parametrize(
    ("content", "name"),
    [
        (b"", "empty.wav"),
        (b"RIFF\x00\x00\x00\x00WAVEfmt ", "truncated.wav"),
        (b"this is text", "text.wav"),
        (b"this is text", "wrong.txt"),
    ],
)
def test_broken_files_are_refused_by_name(tmp_path: Path, content: bytes, name: str) -> None:
    good = phrase(tmp_path / "good.wav", -20.0)
    broken = tmp_path / name
    broken.write_bytes(content)
    with pytest.raises(FileError, match=name):
        matched([good, Candidate(name="broken", path=broken)], RATE_HZ)
    samples = np.full(48_000, np.nan, dtype=np.float32)
    soundfile.write(tmp_path / "nan.wav", samples, RATE_HZ, subtype="FLOAT")
    with pytest.raises(FileError, match=r"nan\.wav"):
        matched([good, Candidate(name="nan", path=tmp_path / "nan.wav")], RATE_HZ)
