"""Phantom power from what stands before the recorder: a mixer's microphone channels, an outboard preamp."""

from __future__ import annotations

import pytest

from tests.conftest import figures_changed
from verve.core.assess import assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.gain import with_best_gains
from verve.core.network import devices_unfed, leg_to, legs, supplier_of
from verve.core.power import (
    budget,
    change_sheet,
    hazards,
    hum_tests,
    set_up_sheet,
    switch_rows,
    tear_down_sheet,
)
from verve.core.session import (
    Change,
    Device,
    Session,
    add_parts,
    apply_changes,
    insert_device,
    routes,
    set_control,
)

ENTRIES = catalogue()


@pytest.fixture
def through_mixer() -> Session:
    """Two condensers through the preamps of a small mixer into two line inputs, as the window puts it in."""
    session, _ = add_chain(Session(), ENTRIES, ENTRIES.chain("pair_through_mixer"))
    return session


def pressed(session: Session) -> tuple[Session, list[str]]:
    """Everything that a button offers, to the end."""
    said = []
    for _ in range(20):
        thing = assess(session).next
        if thing.action != "apply" or thing.remedy is None:
            break
        said.append(thing.sentence)
        session = thing.remedy.apply(session)
    return session, said


def test_it_is_right_after_power_and_trims(through_mixer: Session) -> None:
    session, said = pressed(through_mixer)
    assert len(said) == 2
    assert "phantom power on at Small mixer" in said[0]
    assert "turn the trim up" in said[1]
    for item in assess(session).lines:
        assert (
            item.target.lowest_dbfs <= (item.state.peak_dbfs or -99.0) <= item.target.highest_dbfs
        )
        recorder = item.route.recorder
        assert recorder is not None
        assert recorder.mode == "line"
        gain = recorder.controls["gain_db"]
        assert gain.value == gain.minimum, "the mixer does the work, the interface is at its least"
    mixer = next(d for d in session.setup.devices if d.figures.mixes)
    pans = {mixer.settings[port].pan for port in ("in.1", "in.2")}
    assert pans == {-1.0, 1.0}
    assert all(mixer.settings[port].fader_db in {None, 0.0} for port in ("in.1", "in.2"))


def test_with_its_trims_set_only_the_power_is_left(through_mixer: Session) -> None:
    session, said = pressed(with_best_gains(through_mixer, Session()))
    assert len(said) == 1
    assert "phantom power" in said[0]
    assert assess(session).next.action == "go"


def test_each_line_has_two_legs_and_the_mixer_feeds_the_first(through_mixer: Session) -> None:
    for route in routes(through_mixer.setup):
        first, whole = legs(route)
        assert whole is route
        supplier = supplier_of(first)
        assert supplier is not None
        assert supplier.figures.mixes
        (needing,) = devices_unfed(route)
        assert leg_to(route, needing.owner).steps == first.steps


def test_the_interfaces_switch_is_none_of_theirs() -> None:
    figures = ENTRIES.devices["interface_two"].figures
    small = Device(id="interface", name="Interface", figures=figures)
    session, _ = add_chain(
        add_parts(Session(), devices=(small,)), ENTRIES, ENTRIES.chain("pair_through_mixer")
    )
    ends = [route.steps[-1] for route in routes(session.setup)]
    for step in ends:
        assert step.phantom_switch is not None
        channel = f"phantom.{step.phantom_switch}"
        on = Change(owner="interface", channel=channel, name="phantom", value=True)
        session = set_control(session, on)
    for route in routes(session.setup):
        assert devices_unfed(route), "what comes from the interface stops at the mixer"
    # In a microphone input the interface's 48 V reaches the mixer's outputs.
    modes = [
        Change(owner="interface", channel=step.in_port, name="mode", value="microphone")
        for step in ends
    ]
    harmed = assess(apply_changes(session, tuple(modes)))
    assert "phantom_harms" in {finding.rule for finding in harmed.findings}
    after, _ = pressed(harmed.session)
    assert not {"phantom_harms", "phantom_missing"} & {f.rule for f in assess(after).findings}


def test_sheets_switch_the_mixers_power_and_harm_nothing(through_mixer: Session) -> None:
    session, _ = pressed(through_mixer)
    line = session.setup.lines[0].id
    for steps in (
        set_up_sheet(session.setup),
        tear_down_sheet(session.setup),
        change_sheet(session.setup, line),
    ):
        assert hazards(session.setup, steps) == ()
        switched = {step.subject for step in steps if step.kind.startswith("phantom_")}
        assert switched == {"mixer:all"}
    up = [step.subject for step in set_up_sheet(session.setup) if step.kind == "power_on"]
    assert up == ["mixer", "interface"]


def test_its_supply_has_a_budget_of_its_own(through_mixer: Session) -> None:
    session, _ = pressed(through_mixer)
    assert len(budget(session.setup, "mixer")) == 2
    assert budget(session.setup, "interface") == ()
    (row,) = switch_rows(session.setup)
    assert row.is_shared
    weak = figures_changed(session, "mixer", phantom_budget_ma=1.0)
    assert "phantom_budget" in {finding.rule for finding in assess(weak).findings}


def test_an_outboard_preamp_feeds_its_microphone() -> None:
    session, _ = add_chain(Session(), ENTRIES, ENTRIES.chain("voice_condenser"))
    figures = ENTRIES.devices["preamp_transistor"].figures
    cable = next(link for link in session.setup.links if link.cable is not None)
    session = insert_device(session, cable.id, figures, "Preamp")
    session, said = pressed(session)
    assert any("phantom power on at Preamp" in sentence for sentence in said)
    (route,) = routes(session.setup)
    assert devices_unfed(route) == ()
    steps = set_up_sheet(session.setup)
    assert hazards(session.setup, steps) == ()
    powered = [step.words for step in steps if step.kind == "power_on"]
    assert powered == ["Switch Preamp on.", "Switch Interface on."]
    gains = next(step.words for step in steps if step.kind == "gain_up")
    assert gains.count("gain") == 2, "the preamp's and the interface's"


def test_hum_is_told_apart_by_what_is_here(through_mixer: Session) -> None:
    microphones = hum_tests(through_mixer.setup)
    assert not any("strings" in said and "Touch" in said for said in microphones)
    assert "electrician" in microphones[-1]
    assert "Never lift a mains safety earth" in microphones[-1]
    bass, _ = add_chain(Session(), ENTRIES, ENTRIES.chain("bass_di"))
    said = hum_tests(bass.setup)
    assert said[0].startswith("Touch the strings")
    assert any("turn round" in one for one in said)
    assert any("battery" in one for one in said)
    assert hum_tests(Session().setup) == ()
