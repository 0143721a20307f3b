"""Which take is heard when, and that one does not hear where one ends and another begins."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.core.mix.recorded import RATE_HZ, song_of_two_sections, sung, tone, with_take, write
from verve.core.mix import (
    chosen_take,
    heard_of,
    line_span,
    plan_of_mix,
    rendered,
    section_begins_s,
    takes_of,
)
from verve.core.session import choose_take, edit_take
from verve.core.soundfiles import read_span


def test_the_chosen_take_is_heard_else_the_newest_good_one(tmp_path: Path) -> None:
    session = song_of_two_sections()
    for number in (1, 2, 3):
        session = with_take(session, tmp_path, number, {"voice": tone(200.0, 8.0)})
    assert chosen_take(session, "voice", "verse").id == "take_3"  # type: ignore[union-attr]
    session = edit_take(session, "take_2", rating=4)
    assert chosen_take(session, "voice", "verse").id == "take_2"  # type: ignore[union-attr]
    session = choose_take(session, "voice", "verse", "take_1")
    assert chosen_take(session, "voice", "verse").id == "take_1"  # type: ignore[union-attr]
    assert chosen_take(session, "voice", "chorus").id == "take_2"  # type: ignore[union-attr]
    heard = heard_of(session, "voice")
    assert [(one.take, one.from_s, one.until_s) for one in heard] == [
        ("take_1", 0.0, 4.0),
        ("take_2", 4.0, 8.0),
    ]


def test_a_take_is_heard_from_where_its_section_begins_in_its_file(tmp_path: Path) -> None:
    session = song_of_two_sections()
    for number, section, start_s in ((1, "chorus", 2.5), (2, "chorus", 5.0), (3, None, 2.5)):
        session = with_take(
            session, tmp_path, number, {"voice": tone(200.0, 3.0)}, start_s=start_s, section=section
        )
    found = []
    for take in session.takes:
        (track,) = take.tracks
        found.append(section_begins_s(session, take, track))
        later = replace(track, begin_frame=24_000)
        assert section_begins_s(session, take, later) == found[-1] + 0.5
    assert found == [1.5, 0.0, 0.0]


def test_a_take_of_a_section_holds_that_one_alone(tmp_path: Path) -> None:
    session = song_of_two_sections()
    session = with_take(session, tmp_path, 1, {"voice": tone(200.0, 8.0)})
    session = with_take(
        session, tmp_path, 2, {"voice": tone(200.0, 7.0)}, start_s=2.0, section="chorus"
    )
    assert [take.id for take in takes_of(session, "voice", "chorus")] == ["take_1", "take_2"]
    assert [take.id for take in takes_of(session, "voice", "verse")] == ["take_1"]
    aside = session.model_copy(
        update={
            "takes": (session.takes[0], session.takes[1].model_copy(update={"aside": True})),
        }
    )
    assert [take.id for take in takes_of(aside, "voice", "chorus")] == ["take_1"]


def test_from_one_take_to_another_the_level_neither_dips_nor_jumps(tmp_path: Path) -> None:
    """Two takes of one tone, the second twice as loud: matched and cross-faded it is one tone."""
    session = song_of_two_sections()
    session = with_take(session, tmp_path, 1, {"voice": tone(200.0, 8.0, 0.1)})
    session = with_take(session, tmp_path, 2, {"voice": tone(200.0, 8.0, 0.15)})
    session = choose_take(session, "voice", "verse", "take_1")
    session = choose_take(session, "voice", "chorus", "take_2")
    heard = heard_of(session, "voice")
    found = line_span(heard, RATE_HZ, 6 * RATE_HZ, RATE_HZ)
    expected = tone(200.0, 8.0, 0.1)[RATE_HZ : 7 * RATE_HZ]
    gain = np.sqrt(np.mean(found**2) / np.mean(expected**2))
    assert np.abs(found - gain * expected).max() < 2e-3
    assert np.abs(np.diff(found)).max() < 1.1 * gain * np.abs(np.diff(expected)).max()


@pytest.mark.parametrize("rate_hz", [44_100, 48_000, 96_000])
def test_stretches_of_a_file_fit_together_at_any_rate(tmp_path: Path, rate_hz: int) -> None:
    path = write(tmp_path / "x.wav", tone(1000.0, 2.0, 0.5)[None], RATE_HZ)
    whole = read_span(path, -1000, 3 * rate_hz, rate_hz)[0]
    parts = [read_span(path, at, 7_777, rate_hz)[0] for at in range(-1000, 3 * rate_hz, 7_777)]
    joined = np.concatenate(parts)[: len(whole)]
    assert np.abs(joined - whole).max() < 1e-4
    at = np.arange(5_000, rate_hz) / rate_hz
    assert (
        np.abs(whole[6_000 : rate_hz + 1000] - 0.5 * np.sin(2 * np.pi * 1000.0 * at)).max() < 2e-4
    )
    assert np.all(whole[: 1000 - rate_hz // 100] == pytest.approx(0.0, abs=1e-4))


def test_a_mix_is_the_same_whatever_stretches_it_is_made_in(tmp_path: Path) -> None:
    from tests.core.mix.recorded import sung_with_a_double

    session = sung_with_a_double(tmp_path)
    session = session.model_copy(
        update={"mix": session.mix.model_copy(update={"room_db": -12.0, "breaths_db": 0.0})}
    )
    plan = plan_of_mix(session)
    whole = np.concatenate(list(rendered(plan, block_s=30.0)), axis=1)
    parts = np.concatenate(list(rendered(plan, block_s=0.7)), axis=1)
    assert whole.shape == (2, 8 * RATE_HZ)
    assert np.abs(whole - parts).max() < 1e-9


def test_silence_is_heard_where_there_is_no_take(tmp_path: Path) -> None:
    session = song_of_two_sections()
    session = with_take(session, tmp_path, 1, {"voice": sung(6.0)}, start_s=3.0, section="chorus")
    found = line_span(heard_of(session, "voice"), 0, 8 * RATE_HZ, RATE_HZ)
    assert not found[: round(3.9 * RATE_HZ)].any()
    assert found[4 * RATE_HZ :].any()
