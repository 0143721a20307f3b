"""Orders from memory: what is safe is taken, what would harm or bang is told and not done."""

from __future__ import annotations

import random

import pytest
from prove.sessions import session_of

from verve.core.demo import demo_session
from verve.core.hunt import practice_session
from verve.core.order import Cards, Sheet, cards_of, lines_together
from verve.core.power import hazards
from verve.core.session import Session

SHEETS: tuple[Sheet, ...] = ("set up", "change", "tear down")


@pytest.fixture(scope="module")
def right() -> Session:
    return practice_session(demo_session())


def cards(session: Session, sheet: Sheet, seed: int = 1) -> Cards:
    found = cards_of(session, sheet, lines_together(session, "voice"), seed)
    assert found is not None
    return found


@pytest.mark.parametrize("sheet", SHEETS)
def test_the_order_of_the_sheet_goes_through_without_a_stop(right: Session, sheet: Sheet) -> None:
    now = cards(right, sheet)
    assert now.shuffled != now.sheet
    assert sorted(s.key for s in now.shuffled) == sorted(s.key for s in now.sheet)
    while not now.is_over:
        now = now.take(now.hint().key)
        assert now.stopped is None
    assert now.done == now.sheet
    assert now.says() == "All of it, in a safe order, without a stop."
    assert now.grade(0) == 4


@pytest.mark.parametrize("sheet", SHEETS)
@pytest.mark.parametrize("seed", range(4))
def test_whoever_tries_cards_at_random_ends_in_an_order_that_harms_nothing(
    right: Session, sheet: Sheet, seed: int
) -> None:
    """Whatever is pressed, what the model of states forbids is not done: the whole ends safely."""
    rng = random.Random(seed)
    now = cards(right, sheet, seed)
    for _ in range(2000):
        if now.is_over:
            break
        before = now.done
        now = now.take(rng.choice(now.left).key)
        assert (now.stopped is None) == (len(now.done) > len(before))
    assert now.is_over
    assert hazards(now.setup, now.done) == ()
    assert now.stops
    assert now.grade(0) < 4


def test_there_is_always_a_card_that_can_be_taken() -> None:
    """Nobody gets stuck: after any cards that were let through, some card is let through."""
    rng = random.Random(7)
    seen = 0
    for number in range(1, 9):
        session = session_of(number)
        for sheet in SHEETS:
            lines = lines_together(session, "")
            now = cards_of(session, sheet, lines, number) if lines else None
            if now is None:
                continue
            seen += 1
            while not now.is_over:
                order = list(now.left)
                rng.shuffle(order)
                after = next((a for one in order if (a := now.take(one.key)).stopped is None), None)
                assert after is not None, [step.words for step in now.left]
                now = after
    assert seen >= 10


def test_a_plug_before_the_phantom_power_is_off_stops_and_says_what_it_would_have_done(
    right: Session,
) -> None:
    now = cards(right, "tear down")
    unplug = next(step for step in now.sheet if step.kind == "unplug")
    now = now.take(unplug.key)
    assert now.stopped is not None
    assert now.stopped.is_harm
    assert "it can destroy" in now.says()
    assert unplug in now.left


def test_monitors_up_first_of_all_is_too_early(right: Session) -> None:
    now = cards(right, "set up")
    up = next(step for step in now.sheet if step.kind == "monitors_up")
    now = now.take(up.key)
    assert now.stopped is not None
    assert "undo" in now.says()


def test_waiting_before_anything_is_switched_is_no_step(right: Session) -> None:
    now = cards(right, "set up")
    wait = next(step for step in now.sheet if step.key.endswith("on") and step.kind == "wait")
    assert "nothing yet to wait for" in now.take(wait.key).says()


def test_what_was_shown_counts_as_not_known(right: Session) -> None:
    now = cards(right, "change")
    while not now.is_over:
        now = now.take(now.hint().key)
    assert [now.grade(hints) for hints in (0, 1, 2, 4)] == [4, 3, 2, 1]


def test_an_empty_session_has_no_cards() -> None:
    assert cards_of(Session(), "set up", (), 1) is None
    assert lines_together(Session(), "voice") == ()
