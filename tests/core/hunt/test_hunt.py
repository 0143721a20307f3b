"""One hunt: what is hidden shows, what is done costs its time, and at the end everything is told."""

from __future__ import annotations

from functools import cache

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.demo import demo_session
from verve.core.engine import Engine
from verve.core.hunt import (
    NOTHING_ODD,
    Case,
    Hunt,
    Oddity,
    cases_of,
    debrief,
    grade_of,
    how_many,
    hunt_of,
    looked_at,
    practice_session,
    signs_of,
    together,
)
from verve.core.session import change_cue, to_json


@cache
def cases() -> dict[str, Case]:
    session = practice_session(demo_session())
    return {one.line: one for one in cases_of(session, Engine())}


def hunt_for(line: str, kind: str) -> Hunt:
    """A hunt for a certain mistake."""
    for seed in range(40):
        found = hunt_of(cases()[line], seed, 1, (kind,))
        if found.hidden[0].kind == kind:
            return found
    raise AssertionError(f"{kind}: not on {line}")


def test_the_session_that_one_practises_on_is_never_changed() -> None:
    session = demo_session()
    before = to_json(session)
    case = next(cases_of(practice_session(session), Engine()))
    right = to_json(case.session)
    hunt = hunt_of(case, 3)
    for action in hunt.actions:
        hunt = hunt.do(action.key)
    hunt = hunt.name(hunt.names()[0]).give_up()
    debrief(hunt)
    assert to_json(session) == before
    assert to_json(case.session) == right


def test_a_phantom_switch_forgotten_shows_nothing_and_is_seen_at_the_interface() -> None:
    hunt = hunt_for("harp_left", "phantom_off")
    assert "shows nothing" in hunt.at_once
    hunt = hunt.do("interface")
    assert "Phantom 48 V: off (sheet: on)" in hunt.steps[-1].says
    assert hunt.spent_s == 5.0


def test_a_wrong_name_costs_what_mending_it_takes_and_the_right_one_ends_it() -> None:
    hunt = hunt_for("voice", "not_armed")
    wrong = next(name for name in hunt.names() if "broken" in name)
    hunt = hunt.name(wrong)
    assert not hunt.is_over
    assert hunt.spent_s == 65.0
    assert hunt.steps[-1].says.startswith("No:")
    hunt = hunt.name("The track is not armed")
    assert hunt.is_over
    assert hunt.steps[-1].is_right
    assert "as it should" in hunt.at_once


def test_a_swap_tells_whether_anything_is_otherwise() -> None:
    hunt = hunt_for("voice", "cable_dead")
    link = hunt.hidden[0].ends_with[0]
    other = next(a.key for a in hunt.actions if a.kind == "swap" and a.key != link)
    hunt = hunt.do(other).do(link)
    assert hunt.steps[0].says == "No difference."
    assert hunt.steps[1].says.startswith("Now it is otherwise")


def test_the_debrief_tells_what_it_was_how_it_showed_and_the_quickest_search() -> None:
    hunt = hunt_for("voice", "not_armed").do("preferences").do("room").do("track")
    hunt = hunt.name("The track is not armed")
    found = debrief(hunt)
    assert [one.kind for one in found.faults] == ["not_armed"]
    assert "shows nothing" in found.showed
    assert found.quickest[-1].left == 1
    assert found.quickest_s == sum(one.seconds for one in found.quickest)
    assert found.looked_s == 20.0 + 30.0 + 5.0
    assert found.expected_s < found.looked_s
    assert found.take == "Played back: nothing."
    assert grade_of(found) in {2, 3}


def test_whoever_gives_up_or_guesses_twice_has_missed_it() -> None:
    hunt = hunt_for("voice", "not_armed")
    assert grade_of(debrief(hunt.give_up())) == 1
    guessed = hunt.name(hunt.names()[0]).name(hunt.names()[1]).name("The track is not armed")
    assert debrief(guessed).wrong == 2
    assert grade_of(debrief(guessed)) == 1
    at_once = hunt.do("track").name("The track is not armed")
    assert grade_of(debrief(at_once)) == 4


@pytest.mark.parametrize("seed", range(4))
def test_of_two_faults_each_shows_beside_the_other_and_both_have_to_be_mended(seed: int) -> None:
    case = cases()["baritone_line"]
    hunt = hunt_of(case, seed, 2)
    first, second = hunt.hidden
    assert first.kind != second.kind
    both = signs_of(case.world(hunt.hidden))
    assert both not in (signs_of(case.world((first,))), signs_of(case.world((second,))))
    hunt = hunt.name(first.title)
    assert not hunt.is_over
    hunt = hunt.name(second.title)
    assert hunt.is_over


def test_the_debrief_of_two_faults_goes_through_the_pairs() -> None:
    hunt = hunt_of(cases()["cello_line"], 2, 2)
    found = debrief(hunt.give_up())
    assert len(found.faults) == 2
    assert found.expected_s >= 0.0
    assert all(one.left >= 1 for one in found.quickest)


def test_two_at_once_come_when_three_in_a_row_went_well() -> None:
    assert [how_many(g) for g in ((), (3, 3), (3, 3, 3), (1, 3, 4, 3), (4, 4, 2))] == [
        1,
        1,
        2,
        2,
        1,
    ]


def test_a_quick_look_at_what_the_meter_tells_already_is_not_held_against_anybody() -> None:
    hunt = hunt_for("voice", "old_armed")
    found = debrief(hunt.do("live").name(hunt.hidden[0].title))
    assert found.expected_s == 0.0
    assert grade_of(found) == 4


def test_what_is_wanted_is_hidden_and_what_is_known_is_left_out() -> None:
    case = cases()["voice"]
    kinds = {fault.kind for fault in case.faults}
    assert hunt_of(case, 1, 1, ("fan",)).hidden[0].kind == "fan"
    for seed in range(12):
        assert hunt_of(case, seed, 1, (), kinds - {"fan"}).hidden[0].kind == "fan"
    assert hunt_of(case, 7).hidden == hunt_of(case, 7).hidden


def test_who_wears_nothing_hears_nothing_and_has_no_headphones_to_look_at() -> None:
    session = practice_session(demo_session())
    for worn in ("nothing", "loudspeaker"):
        case = next(cases_of(change_cue(session, "singer", {"worn": worn}), Engine()))
        kinds = {fault.kind for fault in case.faults}
        assert not kinds & {"one_ear", "phones_half", "phones_down"}
        keys = {action.key for action in hunt_of(case, 1).actions}
        assert ("live" in keys) == (worn == "loudspeaker")


def test_every_look_at_a_device_shows_what_is_really_set() -> None:
    case = cases()["baritone_line"]
    for fault in case.faults:
        for change in fault.changes:
            usual = dict(looked_at(case.world(()), change.owner))
            now = dict(looked_at(case.world((fault,)), change.owner))
            assert {row for row in usual if usual[row] != now[row]} != set(), fault.key


odd = st.builds(
    Oddity,
    gain_db=st.floats(-20, 20),
    is_cut=st.booleans(),
    hum_hz=st.sampled_from([0.0, 50.0]),
    ears=st.sampled_from(["both", "left", "none"]),
    louder_db=st.floats(0, 12),
    is_unarmed=st.booleans(),
)


@given(odd, odd)
def test_two_oddities_add_their_levels_and_hide_nothing_of_either(one: Oddity, two: Oddity) -> None:
    both = together(one, two)
    assert both.gain_db == pytest.approx(one.gain_db + two.gain_db)
    assert both.louder_db == pytest.approx(one.louder_db + two.louder_db)
    assert both.is_cut == (one.is_cut or two.is_cut)
    assert both.is_unarmed == (one.is_unarmed or two.is_unarmed)
    assert together(one, NOTHING_ODD) == one == together(NOTHING_ODD, one)
