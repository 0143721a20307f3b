"""Causes by counterfactual: what put back alone mends the line stands first."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from prove.faults import injected

from tests.core.test_rules import Put
from tests.wiring import wired
from verve import cli
from verve.core.assess import assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.causes import causes_of, measured_causes
from verve.core.gain import settled
from verve.core.pressing import pressed
from verve.core.session import Change, Session, apply_changes, routes, save, set_control, with_setup


def test_injected_faults_are_named_first() -> None:
    """A small sample of `./run prove --advice`."""
    one, two = injected(60, 40)
    assert one.faults == []
    assert one.outcomes["first"] >= 0.95 * one.tries
    assert two.faults == []


@pytest.mark.parametrize(
    ("line", "owner", "channel", "control", "value"),
    [
        ("baritone_line", "baritone", "out", "volume_position", 0.1),
        ("harp_left", "interface", "phantom.2", "phantom", False),
        ("harp_left", "interface", "in.2", "mode", "line"),
        ("voice", "voice_mic", "capsule", "distance_m", 2.0),
        ("voice", "interface", "in.1", "gain_db", 40.0),
        ("organ_l", "mixer", "in.3", "fader_db", -20.0),
    ],
)
def test_the_cause_is_the_thing_that_was_moved(
    mended: Session, put: Put, line: str, owner: str, channel: str, control: str, value: object
) -> None:
    found = causes_of(put(mended, owner, channel, control, value), line)
    assert found.deviations
    first = found.causes[0]
    assert (first.owner, first.control) == (owner, control)
    # What is usual for a distance is the microphone's, not the twelve centimetres somebody chose.
    assert first.explains_db >= (0.6 if control == "distance_m" else 0.8) * found.off_db
    assert first.change is not None


def test_a_line_that_is_well_has_no_deviation(mended: Session) -> None:
    for line in mended.setup.lines:
        assert causes_of(mended, line.id).deviations == ()
    assert causes_of(mended, "nobody").causes == ()


def test_a_long_cable_behind_a_pickup_is_a_cause() -> None:
    session = wired(
        {"keys": "double_coil"}, {"io": "interface_two"}, ["keys:out > io:in.1"],
        settings={"io:in.1": {"mode": "instrument"}},
    )  # fmt: skip
    cables = tuple(
        link.model_copy(update={"cable": link.cable.model_copy(update={"length_m": 60.0})})
        for link in session.setup.links
        if link.cable is not None
    )
    session = pressed(session).session
    found = causes_of(with_setup(session, links=cables), "line_keys")
    assert [cause.link for cause in found.causes if cause.link] == ["cable_0"]


def test_a_fader_that_is_down_is_put_back_instead_of_gain_turned_up(
    mended: Session, put: Put
) -> None:
    session = put(mended, "mixer", "in.3", "fader_db", -30.0)
    thing = assess(session).next
    assert thing.remedy is not None
    assert [c.name for c in thing.remedy.changes] == ["fader_db"]
    assert "back to" in thing.sentence
    assert pressed(session).session.setup == mended.setup


@pytest.mark.parametrize(
    ("by_db", "said"), [(-6.0, "two wires"), (-200.0, "broken"), (-10.0, "pad")]
)
def test_what_was_measured_is_explained_by_what_may_be(
    mended: Session, by_db: float, said: str
) -> None:
    item = assess(mended).line("harp_left")
    assert item is not None
    peak = item.state.peak_dbfs
    assert peak is not None
    found = measured_causes(mended, "harp_left", peak + by_db)
    assert "quieter than computed" in found.deviations[0]
    assert any(said in cause.sentence for cause in found.causes[:6]), found.causes[:6]


def test_the_command_names_the_causes(
    mended: Session, put: Put, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "night.verve.json"
    save(put(mended, "voice_mic", "capsule", "distance_m", 2.0), file)
    assert cli.main(["diagnose", str(file), "--signal", "Voice", "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["line"] == "voice"
    assert data["causes"][0]["control"] == "distance_m"
    assert data["causes"][0]["usual"] < 2.0
    assert cli.main(["diagnose", str(file), "--signal", "Voice"]) == 0
    assert "Voice arrives" in capsys.readouterr().out
    assert cli.main(["diagnose", str(file), "--signal", "Voice", "--measured", "-60"]) == 0
    assert "measured" in capsys.readouterr().out
    assert cli.main(["diagnose", str(file), "--signal", "Nobody"]) == 2
    with pytest.raises(SystemExit):
        cli.main(["diagnose", str(file), "--signal", "Voice", "--measured", "loud"])


def test_a_missing_power_is_no_cause_of_a_level_that_is_too_high(demo: Session) -> None:
    """The demo's voice is silent, and would clip if it were not: two findings, two deeds."""
    item = assess(demo).line("voice")
    assert item is not None
    clips = next(f for f in item.findings if f.rule == "clips")
    assert clips.advice.startswith("Turn the preamp down 14 dB")
    assert causes_of(demo, "voice").causes[0].control == "phantom"


def test_a_channel_panned_onto_the_other_side_is_named() -> None:
    """Two microphones through a mixer: one turned over arrives on the other one's track."""
    entries = catalogue()
    session, _ = add_chain(Session(), entries, entries.chain("pair_through_mixer"))
    session = settled(session)
    left, right = session.setup.lines
    for line, port, wrong in ((left, "in.1", 1.0), (right, "in.2", -1.0)):
        turned = Change(owner="mixer", channel=port, name="pan", value=wrong)
        found = causes_of(set_control(session, turned), line.id)
        first = found.causes[0]
        assert (first.owner, first.channel, first.control) == ("mixer", port, "pan")
        assert first.usual == -wrong


def test_what_stands_wrong_where_the_line_belongs_is_named_though_it_is_elsewhere() -> None:
    """Panned onto the other track, and the input it belongs to turned up as well: both are told."""
    entries = catalogue()
    session, _ = add_chain(Session(), entries, entries.chain("pair_through_mixer"))
    session = settled(session)
    line = session.setup.lines[0]
    recorder = next(r for r in routes(session.setup) if r.line.id == line.id).recorder
    assert recorder is not None
    least = recorder.controls["gain_db"]
    wrong = (
        Change(owner="mixer", channel="in.1", name="pan", value=1.0),
        Change(owner=least.owner, channel=least.channel, name="gain_db", value=least.minimum + 8.0),
    )
    found = causes_of(apply_changes(session, wrong), line.id).causes
    assert {(c.owner, c.channel, c.control) for c in found[:2]} == {
        (change.owner, change.channel, change.name) for change in wrong
    }
