"""On paper every mark is a distance in the room; every acoustic entry has a starting point that can be."""

from __future__ import annotations

import csv
import io
import math

import pytest

from verve.core.air import positions_of
from verve.core.catalogue import catalogue
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.gear import AcousticFigures
from verve.core.place import (
    Key,
    Mark,
    marks_of,
    put_at_start,
    stands_of,
    starting_facts,
    starting_point,
    starting_points,
    with_number,
)
from verve.core.session import Session
from verve.core.sheets import placement_csv, placement_html, plan_svg

LEFT = "harp_mic_left:capsule"


def test_every_mark_is_a_distance_in_the_room() -> None:
    positions = positions_of(demo_session().setup)
    at = {one.name: one.at for one in positions.sources}
    at |= {one.name: one.at for one in positions.microphones}
    marks = marks_of(positions)
    assert len(marks) == 11
    for mark in marks:
        there = at[mark.to]
        if mark.from_ in at:
            here = at[mark.from_]
            expected = math.dist((here.x_m, here.y_m, here.z_m), (there.x_m, there.y_m, there.z_m))
        else:
            expected = {"left wall": there.x_m, "front wall": there.y_m, "floor": there.z_m}[
                mark.from_
            ]
        assert mark.metres == pytest.approx(expected)


@pytest.mark.parametrize(
    ("metres", "feet"),
    [(0.3048, "1 ft 0 in"), (0.6, "2 ft 0 in"), (1.5, "4 ft 11 in"), (0.0, "0 ft 0 in")],
)
def test_feet_are_whole_inches(metres: float, feet: str) -> None:
    assert Mark(from_="a", to="b", metres=metres).feet == feet


def test_every_microphone_has_a_stand_and_two_near_ones_share_a_bar() -> None:
    session = with_number(
        demo_session(), Key("microphone", "harp_mic_right:capsule"), "bearing_deg", -5.0
    )
    session = with_number(session, Key("microphone", "harp_mic_right:capsule"), "distance_m", 0.6)
    stands = stands_of(positions_of(session.setup))
    carried = [name for stand in stands for name in stand.carries]
    assert sorted(carried) == ["Condenser left", "Condenser right", "Moving coil, low output"]
    assert any("stereo bar" in stand.kind for stand in stands)


def test_high_and_low_ones_need_other_stands() -> None:
    def kind(rise: float, distance: float) -> str:
        session = with_number(demo_session(), Key("microphone", LEFT), "rise_deg", rise)
        session = with_number(session, Key("microphone", LEFT), "distance_m", distance)
        stands = stands_of(positions_of(session.setup))
        return next(stand.kind for stand in stands if "Condenser left" in stand.carries)

    assert kind(80.0, 2.0) == "tall boom stand"
    assert kind(-60.0, 0.8) == "low stand"
    assert kind(60.0, 0.5) == "boom stand"
    assert kind(0.0, 1.0) == "straight stand"


def test_the_sheet_has_the_plan_and_every_mark() -> None:
    session = demo_session()
    page = placement_html(session)
    assert "data:image/svg+xml;base64," in page
    assert "Condenser left" in page
    rows = list(csv.reader(io.StringIO(placement_csv(session))))
    assert ["Harp", "Condenser left", "60", "2 ft 0 in"] in rows
    svg = plan_svg(positions_of(session.setup))
    assert svg.count("<circle") == 5
    assert "Singer" in svg


def test_names_are_written_as_they_are() -> None:
    session = demo_session()
    sources = tuple(
        s.model_copy(update={"name": "<Harp & co>"}) if s.id == "harp" else s
        for s in session.setup.sources
    )
    named = session.model_copy(
        update={"setup": session.setup.model_copy(update={"sources": sources})}
    )
    assert "&lt;Harp &amp; co&gt;" in plan_svg(positions_of(named.setup))
    assert "<Harp" not in placement_html(named)


# ── starting points ───────────────────────────────────────────────────────────────────────────
def test_every_acoustic_entry_has_a_starting_point() -> None:
    acoustic = {
        key
        for key, entry in catalogue().sources.items()
        if isinstance(entry.figures, AcousticFigures)
    }
    assert acoustic == set(starting_points())


@pytest.mark.parametrize("entry", sorted(starting_points()))
def test_each_is_a_place_that_can_be_and_says_what_moving_does(entry: str) -> None:
    session = demo_session()
    figures = catalogue().sources[entry].figures
    sources = tuple(
        s.model_copy(update={"figures": figures}) if s.id == "harp" else s
        for s in session.setup.sources
    )
    session = session.model_copy(
        update={"setup": session.setup.model_copy(update={"sources": sources})}
    )
    point = starting_point(session, LEFT)
    assert point is not None
    after = put_at_start(session, LEFT)
    mic = positions_of(after.setup).microphone(LEFT)
    assert mic is not None
    assert mic.distance_m == pytest.approx(point.distance_m)
    assert mic.aim.bearing_deg == point.bearing_deg
    labels = [fact.label for fact in starting_facts(session, LEFT)]
    assert labels[:6] == ["Begin", "Closer", "Farther", "To the side", "Avoid", "Live side"]
    assert ("Pop shield" in labels) == point.needs_shield
    for words in (point.aim, point.closer, point.farther, point.aside, point.avoid):
        assert not words.endswith(".")
        assert words[0].islower()


def test_what_is_in_no_catalogue_has_none() -> None:
    def nameless(session: Session) -> Session:
        sources = tuple(
            s.model_copy(update={"figures": s.figures.model_copy(update={"entry": None})})
            for s in session.setup.sources
        )
        return session.model_copy(
            update={"setup": session.setup.model_copy(update={"sources": sources})}
        )

    session = nameless(demo_session())
    assert starting_point(session, LEFT) is None
    assert starting_facts(session, LEFT) == ()
    with pytest.raises(EditError):
        put_at_start(session, LEFT)
