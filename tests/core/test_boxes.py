"""Pedals before a DI box, and mixers whose channels have outputs of their own."""

from __future__ import annotations

import math

import pytest

from tests.core.connections.builders import ENTRIES, part, session_of
from verve.core.assess import LineAssessment, assess
from verve.core.catalogue import add_chain
from verve.core.connections import Suggestion, recabled, suggest_connections
from verve.core.kind import control_text
from verve.core.session import (
    Change,
    Device,
    Line,
    Link,
    Session,
    Source,
    add_parts,
    replace_device,
    set_control,
)
from verve.core.sheets import patch_rows

CABLE = ENTRIES.cables["line_3"].figures


def line(session: Session, index: int = 0) -> LineAssessment:
    return assess(session).lines[index]


def pedals() -> Session:
    chain = ENTRIES.chain("pickup_pedals_di")
    return add_chain(Session(), ENTRIES, chain)[0]


def test_pedals_stand_between_instrument_and_box() -> None:
    item = line(pedals())
    assert item.route.is_complete
    kinds = [step.figures.kind for step in item.route.steps]
    assert kinds == ["pedal", "pedal", "active_di", "interface"]
    assert all(f.severity != "stop" or f.rule == "phantom_missing" for f in item.findings)
    for step in item.route.steps:
        assert item.facts_at(step.owner, step.in_port)


def test_a_pedals_drive_raises_what_is_behind_it_and_meets_its_own_ceiling() -> None:
    session = pedals()
    drive = next(d.id for d in session.setup.devices if d.figures.entry == "pedal_overdrive")

    def at(gain_db: float) -> LineAssessment:
        change = Change(owner=drive, channel="in", name="gain_db", value=gain_db)
        return line(set_control(session, change))

    low, high = at(0.0), at(10.0)
    assert low.state.levels is not None
    assert high.state.levels is not None
    index = low.state.index_of(drive, "box")
    assert index is not None
    before, after = low.state.levels.open_peak_dbu[index], high.state.levels.open_peak_dbu[index]
    assert before is not None
    assert after is not None
    assert after - before == pytest.approx(10.0)
    # Made to be driven: nobody keeps away from its ceiling, and nothing leaves it louder.
    assert low.state.levels.headroom_db[index] is None
    held = at(26.0).state
    assert held.levels is not None
    assert held.levels.open_peak_dbu[index] == pytest.approx(6.0)
    assert held.driven_db[index] == pytest.approx(before + 26.0 - 6.0)


def test_the_first_pedal_is_what_the_pickup_sees() -> None:
    session = pedals()
    drive = next(d.id for d in session.setup.devices if d.figures.entry == "pedal_overdrive")
    buffered = replace_device(session, drive, ENTRIES.devices["pedal_buffer"].figures, "Buffer")
    first, second = line(session).state.reading, line(buffered).state.reading
    assert first is not None
    assert second is not None
    # 1 MΩ loads a pickup less than 500 kΩ.
    assert (second.loss_db(0) or 0.0) < (first.loss_db(0) or 0.0)


def direct(fader_db: float, output: str) -> Session:
    """A keyboard through one channel of a mixer into a line input, by a channel's or a main output."""
    session = Session()
    mixer = Device(id="mixer", name="Mixer", figures=ENTRIES.devices["mixer_direct"].figures)
    interface = Device(id="io", name="IO", figures=ENTRIES.devices["interface_eight"].figures)
    source = Source(id="keys", name="Keys", figures=ENTRIES.sources["keyboard_output"].figures)
    session = add_parts(
        session,
        sources=(source,),
        devices=(mixer, interface),
        links=(
            Link(id="a", start="keys:out", end="mixer:in.1", cable=CABLE),
            Link(id="b", start=f"mixer:{output}", end="io:in.7", cable=CABLE),
        ),
        lines=(Line(id="line", name="Keys", first_link="a"),),
    )
    for name, value in (("fader_db", fader_db), ("pan", -1.0), ("gain_db", 0.0)):
        change = Change(owner="mixer", channel="in.1", name=name, value=value)
        session = set_control(session, change)
    return session


def test_a_channels_own_output_stands_before_its_fader() -> None:
    def peak(session: Session) -> float:
        found = line(session).state.peak_dbfs
        assert found is not None
        return found

    assert peak(direct(-20.0, "direct.1")) == pytest.approx(peak(direct(0.0, "direct.1")))
    main = peak(direct(0.0, "main.left"))
    assert peak(direct(-20.0, "main.left")) == pytest.approx(main - 20.0, abs=1e-6)
    # At unity both are as loud: hard over, the pan law takes nothing.
    assert peak(direct(0.0, "direct.1")) == pytest.approx(main, abs=0.05)
    (row,) = patch_rows(assess(direct(0.0, "direct.1")))
    assert row.legs[-1].start == "Mixer, direct 1"


def test_a_mixer_with_direct_outputs_keeps_every_channel_apart() -> None:
    # Three line sources, and an interface whose sockets take line level only through long trims: the
    # mixer is a box like others, counted once for each of its channels.
    parts = [part("keyboard_output", name=f"Keys {n}") for n in range(1, 4)]
    session = session_of(parts, {"mixer_direct": 1, "interface_eight": 1, "line_3": 6})
    found = suggest_connections(session, session.brief.passes[0])
    assert isinstance(found, Suggestion)
    assert found.missing == ()
    ends = [link.end for link in found.session.setup.links]
    assert len(ends) == len(set(ends))


def test_a_moved_line_gets_a_cable_whose_plugs_fit() -> None:
    parts = [part("bass_pickup", name="Bass")]
    counts = {"active_di": 1, "interface_eight": 1, "instrument_3": 2, "balanced_5": 1}
    session = session_of(parts, counts)
    found = suggest_connections(session, session.brief.passes[0])
    assert isinstance(found, Suggestion)
    fitted = recabled(found.session, found.session.setup.lines[0].id)
    assert fitted == found.session, "what fits stays"
    links = tuple(
        link.model_copy(update={"cable": ENTRIES.cables["balanced_5"].figures})
        for link in found.session.setup.links
    )
    setup = found.session.setup.model_copy(update={"links": links})
    wrong = found.session.model_copy(update={"setup": setup})
    right = recabled(wrong, wrong.setup.lines[0].id)
    (link,) = right.setup.links
    assert link.cable is not None
    assert link.cable.plugs == ("jack_6", "jack_6")
    assert link.kit_item == "instrument_3"
    assert math.isclose(link.cable.length_m, 3.0)


def put(session: Session, channel: str, name: str, value: object) -> Session:
    change = Change(owner="mixer", channel=channel, name=name, value=value)  # type: ignore[arg-type]
    return set_control(session, change)


def grouped(session: Session) -> Session:
    """The same channel sent to group 1, whose output goes to the same input."""
    links = tuple(
        link.model_copy(update={"start": "mixer:group.1"}) if link.id == "b" else link
        for link in session.setup.links
    )
    setup = session.setup.model_copy(update={"links": links})
    return put(session.model_copy(update={"setup": setup}), "in.1", "group", "1")


def test_a_group_has_a_fader_of_its_own_and_no_pan() -> None:
    session = grouped(direct(0.0, "main.left"))
    item = line(session)
    assert item.route.is_complete
    before = item.state.peak_dbfs
    assert before is not None
    assert before == pytest.approx(line(direct(0.0, "main.left")).state.peak_dbfs, abs=0.05)
    lower = line(put(session, "group.1", "fader_db", -6.0)).state.peak_dbfs
    assert lower == pytest.approx(before - 6.0, abs=1e-6)
    same = line(put(session, "main", "fader_db", -30.0)).state.peak_dbfs
    assert same == pytest.approx(before)
    panned = line(put(session, "in.1", "pan", 1.0)).state.peak_dbfs
    assert panned == pytest.approx(before)
    (bus,) = item.buses
    assert (bus.side, bus.meter_db) == ("group 1", None), "the main meter does not show it"
    sent = item.route.steps[0].controls["group"]
    assert control_text(sent, sent.value) == "group 1"
    assert control_text(sent, None) == "main"


def test_a_channel_that_is_sent_elsewhere_ends_before_the_recorder() -> None:
    away = put(direct(0.0, "main.left"), "in.1", "group", "2")
    assert not line(away).route.is_complete


def test_a_channels_low_cut_takes_its_share() -> None:
    session = direct(0.0, "main.left")
    cut = put(session, "in.1", "high_pass", True)
    before, after = line(session).response(), line(cut).response()
    assert before is not None
    assert after is not None
    assert before.low_edge_hz is None or before.low_edge_hz < 60.0
    assert after.low_edge_hz is not None
    assert after.low_edge_hz == pytest.approx(100.0, rel=0.15)
