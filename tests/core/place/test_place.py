"""What is said and judged of where things stand: the table, its cells, findings that are mended by following them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.air import Hearing, hearing_of, positions_of
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.findings import Finding
from verve.core.place import (
    BLEED_LIMIT_DB,
    Key,
    brought,
    cell_of,
    chosen_microphone,
    faults_of,
    grade_of,
    keys_of,
    mixed,
    path_facts,
    room_text,
    said_of,
    switched,
)
from verve.core.session import (
    Aim,
    Session,
    Stand,
    place_microphone,
    place_source,
    set_room,
)

RIGHT = "harp_mic_right:capsule"


def heard(session: Session) -> Hearing:
    return hearing_of(positions_of(session.setup))


def near(apart_m: float = 1.7, right_m: float = 0.6) -> Session:
    """Singer and harp so far apart, one microphone of the harp's pair at a distance of its own."""
    session = place_source(
        demo_session(), "singer_voice", Stand(x_m=5.2, y_m=4.6, height_m=1.5, facing_deg=165.0)
    )
    session = place_source(
        session, "harp", Stand(x_m=5.2 + apart_m, y_m=4.65, height_m=0.9, facing_deg=195.0)
    )
    return place_microphone(session, RIGHT, Aim(bearing_deg=20.0), distance_m=right_m)


def placed(session: Session) -> list[Finding]:
    return [one for one in assess(session).findings if one.step == "place"]


@given(st.floats(-60.0, 100.0), st.floats(0.0, 100.0))
def test_farther_below_is_never_worse(below: float, more: float) -> None:
    order = ("louder", "strong", "audible", "faint", "clean")
    assert order.index(grade_of(below + more)) >= order.index(grade_of(below))


def test_a_cell_says_what_it_shows() -> None:
    hearing = heard(near())
    wanted = cell_of(hearing, 1, hearing.wanted[1][0])
    assert (wanted.text, wanted.is_wanted, wanted.grade) == ("wanted", True, None)
    bad = cell_of(hearing, 1, 0)
    assert bad.grade == "louder"
    assert "louder" in bad.said
    clean = cell_of(hearing, 0, 1)
    assert clean.grade == "clean"
    assert clean.text.endswith("dB")


def test_what_is_mixed_is_what_two_pressures_give() -> None:
    """The sum of a source in two microphones from its direct sound and the way between: pressures, added."""
    hearing = heard(near())
    found = mixed(hearing, 1, 0)
    assert found is not None
    own = hearing.total_power[0, 0]
    level = np.sqrt(hearing.direct_power[0, 0] / own)
    other = np.sqrt(hearing.direct_power[1, 0] / hearing.total_power[1, 1])
    late = (hearing.distance_m[1, 0] - hearing.distance_m[0, 0]) / 343.0
    for hz in (63.0, 440.0, 3_000.0):
        both = abs(level + other * np.exp(-2j * np.pi * hz * late))
        expected = 20.0 * np.log10(both / max(level, other))
        assert found.response_db(hz) == pytest.approx(float(expected), abs=1e-6)
    assert mixed(hearing, 0, 0) is None


def test_facts_of_a_path_come_with_their_formula() -> None:
    facts = path_facts(heard(near()), 1, 0, 48_000.0)
    labels = [fact.label for fact in facts]
    assert labels[:3] == ["Distance", "Off the microphone’s axis", "Beside where the source faces"]
    assert "Three to one" in labels
    assert all(fact.how for fact in facts)


def test_the_room_is_told_as_it_is_known() -> None:
    said = room_text(heard(near()))
    assert "900 m³" in said
    assert "estimated" not in said
    guessed = set_room(near(), near().setup.room.model_copy(update={"reverberation_s": None}))
    assert "estimated" in room_text(heard(guessed))


def test_what_cannot_be_is_told_and_loses_nothing() -> None:
    session = near(apart_m=0.05)
    assert any("stand in one place" in said for said in faults_of(heard(session)))
    inside = place_microphone(near(), RIGHT, Aim(), distance_m=0.1)
    assert any("inside" in said for said in faults_of(heard(inside)))
    small = session.setup.room.model_copy(
        update={"volume_m3": None, "length_m": 3.0, "width_m": 3.0, "height_m": 2.5}
    )
    outside = set_room(session, small)
    assert any("outside the walls" in said for said in faults_of(heard(outside)))
    assert outside.setup.placement == session.setup.placement
    assert len(said_of(heard(session).positions)) == 5


def test_everything_can_be_chosen_and_has_a_map() -> None:
    session, key = brought(near(), "wedge")
    hearing = heard(session)
    keys = keys_of(hearing.positions)
    assert key in keys
    assert len(keys) == 6
    assert chosen_microphone(hearing, Key("source", "harp")) == 1
    assert chosen_microphone(hearing, Key("microphone", RIGHT)) == 2
    assert chosen_microphone(hearing, key) == 0
    off = switched(session, key.id, is_on=False)
    assert cell_of(heard(off), 0, 2).text == "off"


# ── findings ──────────────────────────────────────────────────────────────────────────────────
def test_what_nobody_has_placed_is_not_blamed() -> None:
    bare = demo_session()
    bare = bare.model_copy(
        update={"setup": bare.setup.model_copy(update={"placement": type(bare.setup.placement)()})}
    )
    assert placed(bare) == []


def test_bleed_and_a_pair_that_cancels_are_found_and_mended_by_following_the_next_thing() -> None:
    session = near(right_m=0.75)
    assert {one.rule for one in placed(session)} == {"pair_bleed", "pair_arrival"}
    first = session
    for _ in range(20):
        following = assess(session).next
        if following.remedy is None:
            break
        session = following.remedy.apply(session)
    assert placed(session) == []
    hearing = heard(session)
    assert min(hearing.direct_below_db(m, 0) for m in (1, 2)) >= BLEED_LIMIT_DB
    assert hearing.distance_m[1, 1] == pytest.approx(hearing.distance_m[2, 1])
    assert placed(first) != []


@settings(max_examples=25, deadline=None)
@given(
    st.floats(0.3, 6.0), st.floats(0.0, 6.28), st.floats(0.1, 3.0), st.floats(0.1, 3.0),
    st.floats(-180.0, 180.0),
)  # fmt: skip
def test_a_remedy_of_a_place_makes_the_bleed_less_and_harms_no_other(
    apart: float, turn: float, left: float, right: float, bearing: float
) -> None:
    session = place_source(
        demo_session(), "singer_voice",
        Stand(x_m=6.0 + apart * float(np.sin(turn)), y_m=4.8 + apart * float(np.cos(turn)) * 0.7),
    )  # fmt: skip
    session = place_source(session, "harp", Stand(x_m=6.0, y_m=4.8, height_m=0.9))
    session = place_microphone(
        session, "harp_mic_left:capsule", Aim(bearing_deg=bearing), distance_m=left
    )
    session = place_microphone(session, RIGHT, Aim(bearing_deg=bearing + 20.0), distance_m=right)
    for finding in placed(session):
        remedy = finding.remedy
        if remedy is None:
            continue
        after = [one for one in placed(remedy.apply(session)) if one.rule == finding.rule]
        assert all(one.size_db < finding.size_db for one in after)


def test_too_much_room_is_told_where_the_room_is_known() -> None:
    far = place_microphone(near(apart_m=6.0), RIGHT, Aim(), distance_m=6.0)
    found = [one for one in placed(far) if one.rule == "far_in_room"]
    assert [one.severity for one in found] == ["know"]
    unknown = set_room(far, far.setup.room.model_copy(update={"reverberation_s": None}))
    assert not [one for one in placed(unknown) if one.rule == "far_in_room"]
