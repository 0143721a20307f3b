"""Files of several takes that are brought in at once: each take finds its own, by clock and by name."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.recordings import analyse, brought_in, sounds_without_take, with_takes
from verve.core.recordings._rounds import Named, moments_of, rounds_of
from verve.core.session import Session
from verve.core.soundfiles import Said, WavWriter, recorded_at_of

RATE_HZ = 48_000
SESSION = demo_session()
VOICE, HARP = SESSION.setup.lines[0], SESSION.setup.lines[1]


def write(path: Path, seed: int, at: str = "") -> Path:
    samples = np.random.default_rng(seed).normal(0.0, 0.05, (RATE_HZ, 1)).clip(-0.9, 0.9)
    with WavWriter(
        path, rate_hz=RATE_HZ, bit_depth=24, said=Said(description="", at=at) if at else None
    ) as file:
        file.write(np.round(samples[:, 0] * 2**23) / 2**23)
    return path


def came(paths: list[Path]) -> Session:
    found = [analyse(path) for path in paths]
    return brought_in(SESSION, assess(SESSION), found, added_at="2026-11-26T20:00:00").session


def logged(session: Session) -> list[tuple[str, list[str]]]:
    session = with_takes(
        session, assess(session), sounds_without_take(session), lambda one: one.added_at
    )
    return [
        (take.recorded_at, sorted(Path(track.file).stem for track in take.tracks))
        for take in session.takes[len(SESSION.takes) :]
    ]


# ── by the recorder's clock ───────────────────────────────────────────────────────────────────
def test_a_file_says_when_it_was_recorded(tmp_path: Path) -> None:
    at = "2026-11-26T19:00:05"
    assert recorded_at_of(write(tmp_path / "a.wav", 1, at)) == at


@pytest.mark.parametrize(
    "body", [b"", b"RIFF", b"RIFF\0\0\0\0WAVE", b"RIFF\0\0\0\0WAVEbext\x02\0\0\0ab", b"\0" * 400]
)
def test_a_file_that_does_not_say_has_no_moment(tmp_path: Path, body: bytes) -> None:
    path = tmp_path / "a.wav"
    path.write_bytes(body)
    assert recorded_at_of(path) is None
    assert recorded_at_of(tmp_path / "none.wav") is None


def test_no_moment_is_made_of_nonsense(tmp_path: Path) -> None:
    path = write(tmp_path / "a.wav", 1, "2026-11-26T19:00:05")
    path.write_bytes(path.read_bytes().replace(b"2026-11-26", b"2026-13-77"))
    assert recorded_at_of(path) is None
    soundfile.write(tmp_path / "b.flac", np.zeros(100), RATE_HZ)
    assert recorded_at_of(tmp_path / "b.flac") is None


def test_takes_of_equal_length_find_their_own_files_by_the_clock(tmp_path: Path) -> None:
    # The names would pair them crosswise: the clock is right.
    times = ["2026-11-26T19:00:05", "2026-11-26T19:04:00", "2026-11-26T19:09:30"]
    paths = []
    for number, at in enumerate(times):
        paths.append(write(tmp_path / f"{VOICE.name} {number}.wav", number, at))
        paths.append(write(tmp_path / f"{HARP.name} {9 - number}.wav", 10 + number, at))
    assert logged(came(paths[::-1])) == [
        (at, sorted([f"{VOICE.name} {number}", f"{HARP.name} {9 - number}"]))
        for number, at in enumerate(times)
    ]


# ── by their names ────────────────────────────────────────────────────────────────────────────
def test_rounds_are_told_apart_by_the_numbers_behind_a_signal(tmp_path: Path) -> None:
    paths = [
        write(tmp_path / f"{line.name} {number}.wav", 20 * number + place)
        for place, line in enumerate((VOICE, HARP))
        for number in (8, 9, 10)
    ]
    assert [names for _, names in logged(came(paths))] == [
        sorted([f"{VOICE.name} {number}", f"{HARP.name} {number}"]) for number in (8, 9, 10)
    ]


def test_what_is_in_a_take_is_not_logged_again(tmp_path: Path) -> None:
    session = came([write(tmp_path / f"{VOICE.name} {number}.wav", number) for number in (1, 2)])
    once = with_takes(session, assess(session), sounds_without_take(session), lambda _: "")
    assert [take.name for take in once.takes[len(SESSION.takes) :]] == ["Take 1", "Take 2"]
    assert sounds_without_take(once) == ()


# ── properties ────────────────────────────────────────────────────────────────────────────────
_TIMES = st.sampled_from(
    [
        "",
        "2026-11-26T19:00:00",
        "2026-11-26T19:00:02",
        "2026-11-26T19:00:04",
        "no time",
        "2026-11-26T20:00:00+02:00",
    ]
)
_FILES = st.lists(
    st.builds(
        Named,
        stem=st.sampled_from(["Voice 1", "Voice 2", "Voice 10", "01", "Track 2", "²"]),
        recorded_at=_TIMES,
        signal=st.sampled_from([None, "voice", "harp"]),
    ),
    max_size=12,
)


@given(_FILES)
def test_every_file_is_in_one_round_and_a_name_is_in_a_round_once(files: list[Named]) -> None:
    rounds = rounds_of(files)
    assert sorted(number for group in rounds for number in group) == list(range(len(files)))
    moments = moments_of([one.recorded_at for one in files])
    for group in rounds:
        assert len({moments[number] for number in group}) == 1
        named = [
            (files[n].signal, files[n].stem.rstrip("0123456789")) for n in group if files[n].signal
        ]
        assert len(set(named)) == len(named)


@given(st.lists(_TIMES, max_size=8))
def test_moments_do_not_depend_on_the_order(times: list[str]) -> None:
    forwards, backwards = moments_of(times), moments_of(times[::-1])
    assert forwards == backwards[::-1]
