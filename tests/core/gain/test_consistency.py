"""One setter of gains: what it sets stays set, nothing contradicts it, and it knows only this session."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from prove.judged import RULES_OF_GAIN

from tests.conftest import follow
from verve.core.assess import assess
from verve.core.connections import Suggestion, suggest_connections
from verve.core.demo import demo_session
from verve.core.engine import Engine
from verve.core.gain import TARGETS, all_changes, optimum, settled
from verve.core.needs import microphone_rows
from verve.core.session import (
    Change,
    Session,
    apply_changes,
    controls_of,
    move_input,
    set_control,
    set_level_target,
    set_own_aim,
)

DEMO = demo_session()
MENDED = follow(DEMO)
GAINS = [
    control
    for owner in MENDED.setup.devices
    for control in controls_of(MENDED.setup, owner.id)
    if control.name == "gain_db" and control.is_dial
]


def put(session: Session, channel: str, value: float, owner: str = "interface") -> Session:
    return set_control(session, Change(owner=owner, channel=channel, name="gain_db", value=value))


def gain_of(session: Session, channel: str) -> object:
    device = next(d for d in session.setup.devices if d.id == "interface")
    return device.settings[channel].gain_db


@st.composite
def turns(draw: st.DrawFn) -> tuple[str, list[float]]:
    """One of the targets, and a place for every gain."""
    places = [draw(st.floats(control.minimum, control.maximum)) for control in GAINS]
    return draw(st.sampled_from(sorted(TARGETS))), places


def turned(drawn: tuple[str, list[float]]) -> Session:
    """The demo session with every gain somewhere."""
    target, places = drawn
    session = set_level_target(MENDED, target)  # type: ignore[arg-type]
    changes = [
        Change(
            owner=control.owner,
            channel=control.channel,
            name=control.name,
            value=control.clamped(place),
        )
        for control, place in zip(GAINS, places, strict=True)
    ]
    return apply_changes(session, tuple(changes))


@settings(max_examples=15)
@given(turns())
def test_setting_all_twice_changes_nothing_and_no_finding_would_set_it_otherwise(
    drawn: tuple[str, list[float]],
) -> None:
    session = turned(drawn)
    once = apply_changes(session, all_changes(optimum(session)))
    assert all_changes(optimum(once)) == ()
    for finding in assess(once).findings:
        if finding.rule in RULES_OF_GAIN and finding.remedy is not None:
            assert finding.remedy.changes == (), (finding.rule, finding.advice)


@settings(max_examples=15)
@given(turns(), st.sampled_from(["voice", "harp_left", "baritone_line", "organ_l"]))
def test_a_remedy_of_gain_sets_what_the_setter_sets(
    drawn: tuple[str, list[float]], line_id: str
) -> None:
    session = turned(drawn)
    item = assess(session).line(line_id)
    assert item is not None
    for finding in item.findings:
        if finding.rule not in RULES_OF_GAIN - {"bus_too_loud"} or finding.remedy is None:
            continue
        # What is set together: the sides of a pair, the lines of a bus.
        lines = [x.id for x in session.setup.lines if x.pair == item.line.pair and x.pair]
        lines = lines or [line_id]
        assert finding.remedy.apply(session) == settled(session, lines), finding.rule


def test_moving_another_line_writes_no_remembered_device_back() -> None:
    engine = Engine()
    assess(DEMO, engine)
    moved = put(put(DEMO, "in.2", 47.0), "in.3", 47.0)
    assess(moved, engine)
    after = settled(move_input(moved, "baritone_line", "in.5", "microphone"), ("baritone_line",))
    assess(after, engine)
    assert gain_of(after, "in.2") == 47.0
    assert gain_of(after, "in.3") == 47.0


def test_a_pair_is_judged_by_its_levels_not_by_its_knobs(mended: Session) -> None:
    best = apply_changes(mended, all_changes(optimum(mended)))
    # One side of the pair goes three decibels down at the knob and comes as much nearer.
    nearer = set_control(
        best,
        Change(
            owner="harp_mic_right",
            channel="capsule",
            name="distance_m",
            value=0.6 / 10.0 ** (3.0 / 20.0),
        ),
    )
    gain = gain_of(nearer, "in.3")
    assert isinstance(gain, float)
    lower = put(nearer, "in.3", gain - 3.0)
    levels = [assess(lower).line(name) for name in ("harp_left", "harp_right")]
    peaks = [item.state.peak_dbfs for item in levels if item is not None]
    apart = abs((peaks[0] or 0.0) - (peaks[1] or 0.0))
    rules = {f.rule for f in assess(lower).findings}
    assert ("pair_unequal" in rules) == (apart > 0.6), apart
    unequal = {f.rule for f in assess(put(best, "in.3", gain - 3.0)).findings}
    assert "pair_unequal" in unequal


@pytest.mark.parametrize("aim", [-20.0, -5.0])
def test_numbers_of_ones_own_are_the_aim_of_a_routing_too(aim: float) -> None:
    session = set_own_aim(DEMO, aim)
    found = suggest_connections(session, next(p for p in session.brief.passes if p.id == "evening"))
    assert isinstance(found, Suggestion)
    routed = found.session
    reached = [
        item.state.peak_dbfs
        for item in assess(routed).lines
        if item.state.peak_dbfs is not None and not math.isinf(item.state.peak_dbfs)
    ]
    assert reached
    best = {one.line: one.peak_dbfs for one in optimum(routed)}
    # Set by the routing as the one setter would set it for this aim, none for another.
    for item in assess(routed).lines:
        if item.line.id in best and item.state.peak_dbfs is not None:
            assert item.state.peak_dbfs == pytest.approx(best[item.line.id], abs=0.51)
    assert max(reached) <= aim + 0.51


def test_numbers_of_ones_own_are_the_aim_of_which_microphone_too() -> None:
    part = next(p for p in DEMO.brief.parts if p.sound is not None)
    quiet, loud = (
        {row.name: row.headroom_db for row in microphone_rows(set_own_aim(DEMO, aim), part)}
        for aim in (-25.0, -10.0)
    )
    assert quiet.keys() == loud.keys()
    # A lower aim wants less gain: room grows somewhere, and is lost nowhere.
    grown = [quiet[name] - loud[name] for name in quiet]
    assert max(grown) > 5.0
    assert min(grown) > -0.01
