"""Twelve typical situations: the table in the docs is what the solver says today."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.core.gain.situations import SITUATIONS, Situation, session_of, solved, table
from verve.core.assess import assess
from verve.core.session import apply_changes

DOCS = Path(__file__).resolve().parents[3] / "docs"


def test_there_are_twelve_and_the_docs_tell_them_as_they_are() -> None:
    assert len(SITUATIONS) == 12
    page = (DOCS / "situations.md").read_text(encoding="utf-8")
    assert table() in page, "write it anew: python -m tests.core.gain.situations"


@pytest.mark.parametrize("situation", SITUATIONS, ids=lambda s: s.name)
def test_what_is_said_is_what_assessing_says(situation: Situation) -> None:
    one = solved(situation)
    (item,) = assess(apply_changes(session_of(situation), one.best.changes)).lines
    assert item.state.peak_dbfs == pytest.approx(one.best.peak_dbfs, abs=0.02)
    assert item.noise_dbfs_a == pytest.approx(one.best.noise_dbfs_a, abs=0.05)


def by_name(words: str) -> Situation:
    return next(s for s in SITUATIONS if s.name.startswith(words))


def test_an_inline_preamp_reaches_what_the_interface_alone_does_not() -> None:
    assert not solved(by_name("Quiet voice")).best.reaches_target
    assert solved(by_name("The same with an inline")).best.reaches_target


def test_in_a_noisy_room_no_gear_helps() -> None:
    assert "Room noise is" in solved(by_name("Singing voice, condenser, noisy")).noise


def test_a_loud_drum_on_a_condenser_takes_its_pad() -> None:
    assert any("pad" in words for words in solved(by_name("Loud drum, condenser")).best.words)
    assert solved(by_name("Loud drum, moving")).best.reaches_target


def test_a_pickup_in_a_line_input_is_noisier_than_where_it_belongs() -> None:
    right, wrong = solved(by_name("Pickup, instrument")), solved(by_name("Pickup, line"))
    assert right.best.noise_dbfs_a < wrong.best.noise_dbfs_a - 3.0


def test_a_hot_synthesiser_needs_a_box_or_less_of_itself() -> None:
    hot = solved(by_name("Hot synthesiser, line"))
    assert not hot.best.reaches_target
    assert "above the target" in hot.why_not_louder
    assert any(way.reaches_target for way in hot.improvements)
    assert solved(by_name("Hot synthesiser, DI")).best.reaches_target
