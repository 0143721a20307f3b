"""What an exchange gives is what assessing the exchanged session says."""

from __future__ import annotations

import pytest

from verve.core.assess import assess
from verve.core.catalogue import add_chain, catalogue, stand_ins
from verve.core.errors import EditError
from verve.core.gain import settled
from verve.core.gear import InterfaceFigures
from verve.core.sensitivity import given, replaced, replacement_facts, replacement_verdict
from verve.core.session import Session, replace_device, replace_source

ENTRIES = catalogue()
DEVICES = ENTRIES.devices


def device(session: Session, device_id: str) -> object:
    return next(d for d in session.setup.devices if d.id == device_id)


def test_a_settled_line_is_within_its_window(demo: Session) -> None:
    for line in demo.setup.lines:
        after = settled(demo, (line.id,))
        item = assess(after).line(line.id)
        assert item is not None
        if (found := given(demo, line.id)) is not None and found.reaches_target:
            assert item.state.peak_dbfs == pytest.approx(found.peak_dbfs)
            assert item.target.lowest_dbfs - 0.1 <= (item.state.peak_dbfs or 0.0)


def test_a_more_sensitive_microphone_is_further_above_the_preamps_noise(mended: Session) -> None:
    now = given(mended, "voice")
    better = given(replaced(mended, "voice_mic", DEVICES["condenser_large"].figures, "L"), "voice")
    assert now is not None
    assert better is not None
    # The inline preamp keeps phantom power from the microphone: a condenser behind it is dead.
    assert better.snr_db is None
    assert "No signal" in replacement_verdict(now, better)
    coil = given(replaced(mended, "voice_mic", DEVICES["moving_coil"].figures, "M"), "voice")
    assert coil is not None
    assert coil.snr_db is not None
    assert replacement_facts(now, coil)[0].text.count("→") == 1
    assert replacement_verdict(now, coil)


def test_another_interface_keeps_what_is_plugged_in(mended: Session) -> None:
    old = device(mended, "interface")
    figures = DEVICES["interface_eight"].figures
    after = replace_device(mended, "interface", figures, "Other")
    assert {link.id for link in after.setup.links} == {link.id for link in mended.setup.links}
    assert all(item.route.is_complete for item in assess(after).lines)
    assert device(after, "interface") != old


def test_an_interface_with_too_few_sockets_is_refused(mended: Session) -> None:
    with pytest.raises(EditError, match="no free input"):
        replace_device(mended, "interface", DEVICES["interface_two"].figures, "Two")


def test_what_cannot_stand_there_is_refused(mended: Session) -> None:
    with pytest.raises(EditError, match="another kind"):
        replace_device(mended, "voice_mic", DEVICES["passive_di"].figures, "Box")
    with pytest.raises(EditError, match="must be a device"):
        replace_device(mended, "nothing", DEVICES["passive_di"].figures, "Box")
    with pytest.raises(EditError, match="acoustic"):
        replace_source(mended, "singer_voice", ENTRIES.sources["double_coil"].figures)
    with pytest.raises(EditError, match="must be a source"):
        replace_source(mended, "nothing", ENTRIES.sources["double_coil"].figures)


def test_stand_ins_are_of_the_kind_and_ones_own_come_first() -> None:
    now = DEVICES["moving_coil"].figures
    found = stand_ins(ENTRIES, [("Zed", now), ("Box", DEVICES["passive_di"].figures)], now)
    assert found[0].name == "Zed"
    assert found[0].is_own
    assert {item.figures.kind for item in found} == {"microphone"}
    boxes = stand_ins(ENTRIES, [], DEVICES["passive_di"].figures)
    assert {item.figures.kind for item in boxes} == {"passive_di", "active_di", "preamp"}
    plugs = stand_ins(ENTRIES, [], ENTRIES.sources["double_coil"].figures)
    assert {item.figures.kind for item in plugs} == {"pickup", "piezo", "line_output"}


@pytest.mark.parametrize("key", [k for k, e in DEVICES.items() if e.figures.kind == "microphone"])
def test_every_microphone_can_stand_in_the_demo(key: str, mended: Session) -> None:
    after = replace_device(mended, "harp_mic_left", DEVICES[key].figures, "New")
    item = assess(after).line("harp_left")
    assert item is not None
    assert item.spans


# ── a microphone that is its own recorder ─────────────────────────────────────────────────────
def test_a_usb_microphone_is_a_whole_line_of_its_own() -> None:
    session, line_id = add_chain(Session(), ENTRIES, ENTRIES.chain("voice_usb"))
    (item,) = assess(session).lines
    assert item.line.id == line_id
    assert item.route.is_complete
    assert len(session.setup.devices) == 1
    figures = session.setup.devices[0].figures
    assert isinstance(figures, InterfaceFigures)
    capsule = figures.inputs[0].capsule
    assert capsule is not None
    # Peak at the converter in closed form: sound at 20 cm, its sensitivity, no gain, full scale.
    settled_session = settled(session, (line_id,))
    after = assess(settled_session).lines[0]
    assert after.state.staged is not None
    assert [part.role for part in after.state.staged.parts] == [
        "source",
        "microphone",
        "input",
        "converter",
    ]
    assert [span.title for span in after.spans] == ["Voice", "USB microphone", "Recorder"] or len(
        after.spans
    ) == 3
    assert after.findings == () or all(f.severity == "know" for f in after.findings)


def test_a_usb_microphone_takes_no_plug() -> None:
    session, _ = add_chain(Session(), ENTRIES, ENTRIES.chain("voice_usb"))
    more, _ = add_chain(session, ENTRIES, ENTRIES.chain("voice_moving_coil"), "Other")
    kinds = [d.name for d in more.setup.devices]
    assert "Interface" in " ".join(kinds)
    ends = [link.end for link in more.setup.links if link.end.startswith("usb")]
    assert len(ends) == 1
