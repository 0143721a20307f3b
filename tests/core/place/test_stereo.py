"""Stereo with one press: both sides stand as the technique says; what is told of them is what they give."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.acoustics import StereoPair, Technique, distance_m
from verve.core.air import hearing_of, positions_of
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.place import (
    ARRANGEMENTS,
    arranged,
    as_pair,
    covered_deg,
    pair_with,
    pairs_of,
    stereo_facts,
)
from verve.core.session import Session, Stand, place_source

LEFT, RIGHT = "harp_mic_left:capsule", "harp_mic_right:capsule"


def session(facing: float = 180.0) -> Session:
    return place_source(
        demo_session(), "harp", Stand(x_m=6.0, y_m=5.0, height_m=0.9, facing_deg=facing)
    )


def with_pattern(given: Session, device: str, pattern: str) -> Session:
    devices = tuple(
        d.model_copy(update={"figures": d.figures.model_copy(update={"pattern": pattern})})
        if d.id == device
        else d
        for d in given.setup.devices
    )
    return given.model_copy(update={"setup": given.setup.model_copy(update={"devices": devices})})


@given(st.sampled_from(["coincident", "near_coincident", "spaced"]), st.floats(0.0, 360.0))
def test_both_stand_as_the_technique_says_wherever_the_source_faces(
    technique: Technique, facing: float
) -> None:
    after = arranged(session(facing), LEFT, technique)
    positions = positions_of(after.setup)
    left, right = positions.microphone(LEFT), positions.microphone(RIGHT)
    assert left is not None
    assert right is not None
    how = ARRANGEMENTS[technique]
    assert distance_m(left.at, right.at) == pytest.approx(how.spacing_m, abs=1e-3)
    opening = (right.aim_deg - left.aim_deg + 180.0) % 360.0 - 180.0
    assert opening == pytest.approx(how.opening_deg, abs=0.2)
    assert left.distance_m == pytest.approx(right.distance_m, abs=1e-3)
    # The left one hears more of what is on the left, or earlier.
    hearing = hearing_of(positions)
    number = [one.id for one in positions.sources].index("harp")
    one, other = (
        hearing.path([m.id for m in positions.microphones].index(mic), number)
        for mic in (LEFT, RIGHT)
    )
    assert one.total_db == pytest.approx(other.total_db, abs=0.05)


def test_pressing_twice_changes_nothing_more() -> None:
    for technique in ("coincident", "near_coincident", "spaced"):
        once = arranged(session(), LEFT, technique)
        twice = arranged(once, RIGHT, technique)
        for mic in (LEFT, RIGHT):
            first = positions_of(once.setup).microphone(mic)
            second = positions_of(twice.setup).microphone(mic)
            assert first is not None
            assert second is not None
            assert distance_m(first.at, second.at) < 0.01


def test_mid_side_wants_one_figure_of_eight() -> None:
    with pytest.raises(EditError, match="figure-of-eight"):
        arranged(session(), LEFT, "middle_side")
    ready = with_pattern(session(), "harp_mic_right", "figure_eight")
    positions = positions_of(arranged(ready, LEFT, "middle_side").setup)
    middle, side = positions.microphone(LEFT), positions.microphone(RIGHT)
    assert middle is not None
    assert side is not None
    assert (middle.angle_deg, side.angle_deg) == (0.0, 90.0)
    assert distance_m(middle.at, side.at) < 1e-3


def test_what_hears_alike_all_around_cannot_be_crossed() -> None:
    with pytest.raises(EditError, match="with a direction"):
        arranged(with_pattern(session(), "harp_mic_left", "omni"), LEFT, "coincident")
    arranged(with_pattern(session(), "harp_mic_left", "omni"), LEFT, "spaced")


def test_what_is_no_pair_is_refused() -> None:
    with pytest.raises(EditError, match="stereo pair"):
        arranged(session(), "voice_mic:capsule", "coincident")
    assert stereo_facts(session().setup, positions_of(session().setup), "voice_mic:capsule") == ()
    assert len(pairs_of(session().setup, positions_of(session().setup))) == 1


def test_the_angle_covered_is_where_one_side_has_it_all() -> None:
    """By hand: crossed cardioids at 90° are 15 dB apart at about 89°; wide spacing covers less than narrow."""
    crossed = covered_deg(StereoPair(technique="coincident", opening_deg=90.0))
    assert crossed is not None
    heard = StereoPair(technique="coincident", opening_deg=90.0).hears(crossed)
    assert heard.level_difference_db == pytest.approx(15.0, abs=0.5)
    near = covered_deg(StereoPair(technique="spaced", pressure_share=1.0, spacing_m=0.3))
    far = covered_deg(StereoPair(technique="spaced", pressure_share=1.0, spacing_m=0.6))
    assert near is None or (far is not None and far < near)
    assert covered_deg(StereoPair(technique="coincident", pressure_share=1.0)) is None


def test_a_pair_is_read_back_as_it_was_put() -> None:
    after = arranged(session(), LEFT, "near_coincident")
    pair = pair_with(after.setup, positions_of(after.setup), LEFT)
    assert pair is not None
    found = as_pair(pair)
    assert found.technique == "near_coincident"
    assert found.opening_deg == pytest.approx(110.0, abs=0.2)
    assert found.spacing_m == pytest.approx(0.17, abs=1e-3)
    facts = {f.label: f.text for f in stereo_facts(after.setup, positions_of(after.setup), LEFT)}
    assert set(facts) == {
        "Covers", "The source is seen under", "At the edge of the source", "Left in mono at the edge",
    }  # fmt: skip
