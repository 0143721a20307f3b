"""Signals that meet: in a wire, on a bus, on a bus behind a bus, and lines that begin in the middle."""

from __future__ import annotations

import math
from pathlib import Path

import pytest

from tests.conftest import recorded
from tests.wiring import wired
from verve.core.assess import LineAssessment, assess
from verve.core.session import Change, Session, set_control


def line(session: Session, line_id: str) -> LineAssessment:
    found = assess(session).line(line_id)
    assert found is not None
    return found


def put(session: Session, owner: str, channel: str, name: str, value: float) -> Session:
    return set_control(session, Change(owner=owner, channel=channel, name=name, value=value))


def noise(session: Session, line_id: str) -> float:
    found = line(session, line_id).noise_dbfs_a
    assert found is not None
    return found


def peak(session: Session, line_id: str) -> float:
    found = line(session, line_id).state.peak_dbfs
    assert found is not None
    return found


LINE_IN = {"io:in.1": {"mode": "line"}}


@pytest.fixture
def shared() -> Session:
    """Two equal keyboards on one side of a mixer, and so on one input."""
    side = {"pan": -1.0, "gain_db": 0.0, "fader_db": 0.0}
    return wired(
        {"one": "keyboard_output", "two": "keyboard_output"},
        {"desk": "small_mixer", "io": "interface_two"},
        ["one:out > desk:in.1", "two:out > desk:in.2", "desk:main.left > io:in.1"],
        settings={**LINE_IN, "desk:in.1": side, "desk:in.2": side},
    )


# ── two sources on one input ──────────────────────────────────────────────────────────────────
def test_what_an_input_gets_of_two_sources_is_one_level_for_both(shared: Session) -> None:
    one, two = line(shared, "line_one").state, line(shared, "line_two").state
    assert one.input_peak_dbfs == two.input_peak_dbfs
    assert one.input_peak_dbfs is not None
    assert one.peak_dbfs is not None
    # Different players add as powers.
    assert one.input_peak_dbfs - one.peak_dbfs == pytest.approx(10.0 * math.log10(2.0), abs=1e-6)


def test_an_input_that_two_sources_drive_too_hard_together_is_told(shared: Session) -> None:
    gain = line(shared, "line_one").state.recorder_controls()["gain_db"]
    headroom_db = -(line(shared, "line_one").state.input_peak_dbfs or 0.0)
    wanted = float(gain.value or 0.0) + math.floor(headroom_db) + 2.0
    hot = put(shared, "io", "in.1", "gain_db", wanted)
    item = line(hot, "line_one")
    assert item.state.peak_dbfs is not None
    assert item.state.peak_dbfs < 0.0 < (item.state.input_peak_dbfs or 0.0)
    (told,) = [f for f in assess(hot).findings if f.severity == "stop"]
    assert told.rule == "bus_too_loud"
    assert {told.line, *told.also_lines} == {"line_one", "line_two"}
    assert told.remedy is not None
    mended = told.remedy.apply(hot)
    assert (line(mended, "line_one").state.input_peak_dbfs or 0.0) < -6.0


def test_both_are_in_the_recording_of_either(shared: Session, tmp_path: Path) -> None:
    expected = line(shared, "line_one").state.input_peak_dbfs
    assert expected is not None
    found = [
        recorded(shared, name, tmp_path / name).peak_dbfs.measured
        for name in ("line_one", "line_two")
    ]
    for one in found:
        assert one is not None
        # Two peaks need not come together, and may come together more than as powers.
        assert one == pytest.approx(expected, abs=3.1)
    assert found[0] == found[1]


# ── a mixer behind a mixer ────────────────────────────────────────────────────────────────────
@pytest.fixture
def in_series() -> Session:
    """A keyboard through two mixers; on the second a noisy channel is open beside it."""
    return wired(
        {"keys": "keyboard_output", "other": "single_coil"},
        {"first": "small_mixer", "second": "small_mixer", "io": "interface_two"},
        [
            "keys:out > first:in.1",
            "first:main.left > second:in.1",
            "other:out > second:in.2",
            "second:main.left > io:in.1",
        ],
        settings={
            **LINE_IN,
            "first:in.1": {"pan": -1.0},
            "second:in.1": {"pan": -1.0},
            "second:in.2": {"pan": -1.0, "gain_db": 20.0, "fader_db": 10.0},
        },
    )


def test_noise_of_a_second_mixers_other_channels_is_heard(in_series: Session) -> None:
    closed = put(in_series, "second", "in.2", "fader_db", -60.0)
    assert noise(in_series, "line_keys") > noise(closed, "line_keys") + 6.0
    # The same channel, followed by itself, ends at the same input: the noise there is one.
    assert noise(in_series, "line_other") == pytest.approx(noise(in_series, "line_keys"), abs=1e-6)


def test_what_is_recorded_behind_two_mixers_has_the_noise_that_was_computed(
    in_series: Session, tmp_path: Path
) -> None:
    for line_id in ("line_keys", "line_other"):
        found = recorded(in_series, line_id, tmp_path / line_id).noise_dbfs_a
        assert found.measured == pytest.approx(found.predicted, abs=0.7)


def test_one_signal_split_to_two_channels_of_one_bus_adds_as_itself_and_its_noise_too(
    tmp_path: Path,
) -> None:
    """Both ways of one source are one signal: twice the voltage, and its own noise likewise."""

    def split(two: float) -> Session:
        side = {"pan": -1.0, "gain_db": 0.0, "fader_db": 0.0}
        return wired(
            {"keys": "keyboard_output"},
            {"desk": "small_mixer", "io": "interface_two"},
            ["keys:out > desk:in.1", "keys:out > desk:in.2", "desk:main.left > io:in.1"],
            settings={**LINE_IN, "desk:in.1": side, "desk:in.2": {**side, "fader_db": two}},
        )

    both, one = split(0.0), split(-60.0)
    assert peak(both, "line_keys") - peak(one, "line_keys") == pytest.approx(6.02, abs=0.05)
    track = recorded(both, "line_keys", tmp_path / "both")
    assert track.peak_dbfs.measured == pytest.approx(peak(both, "line_keys"), abs=0.3)
    assert track.noise_dbfs_a.measured == pytest.approx(track.noise_dbfs_a.predicted, abs=0.7)


def test_a_signal_passes_two_mixers_as_if_they_were_two_boxes(in_series: Session) -> None:
    louder = put(in_series, "second", "in.1", "gain_db", 3.0)
    softer = put(in_series, "second", "in.1", "gain_db", 1.0)
    assert peak(louder, "line_keys") - peak(softer, "line_keys") == pytest.approx(2.0, abs=1e-6)


# ── where a line begins ───────────────────────────────────────────────────────────────────────
def test_a_line_that_begins_behind_a_box_has_the_source_that_feeds_the_box() -> None:
    session = wired(
        {"first": "synth_output", "second": "keyboard_output"},
        {"box": "isolation_transformer", "io": "interface_two"},
        ["first:out > io:in.2", "second:out > box:in", "box:out > io:in.1"],
        settings=LINE_IN,
        lines={"middle": 2},
    )
    item = line(session, "line_middle")
    assert item.route.source_name == "Second"


def test_a_line_that_nothing_feeds_says_so_and_nothing_breaks() -> None:
    session = wired(
        {},
        {"box": "isolation_transformer", "io": "interface_two"},
        ["box:out > io:in.1"],
        settings=LINE_IN,
        lines={"middle": 0},
    )
    item = line(session, "line_middle")
    assert item.state.levels is None
    (finding,) = item.findings
    assert finding.rule == "not_connected"
    assert "Nothing feeds" in finding.title


def test_a_cable_through_the_air_is_no_cable(demo: Session) -> None:
    cable = next(link.cable for link in demo.setup.links if link.cable is not None)
    links = tuple(x.model_copy(update={"cable": x.cable or cable}) for x in demo.setup.links)
    wrong = demo.model_copy(update={"setup": demo.setup.model_copy(update={"links": links})})
    found = [item.state.peak_dbfs for item in assess(wrong).lines]
    assert found == [item.state.peak_dbfs for item in assess(demo).lines]


# ── circles ───────────────────────────────────────────────────────────────────────────────────
def circle(pan: float) -> Session:
    """A keyboard through a mixer whose right output comes back into its second channel; a line beside it."""
    return wired(
        {"keys": "keyboard_output", "other": "synth_output"},
        {"desk": "small_mixer", "io": "interface_eight"},
        [
            "keys:out > desk:in.1",
            "desk:main.left > io:in.1",
            "desk:main.right > desk:in.2",
            "other:out > io:in.5",
        ],
        settings={
            "desk:in.1": {"pan": 0.0},
            "desk:in.2": {"pan": pan},
            "io:in.1": {"mode": "line"},
            "io:in.5": {"mode": "line"},
        },
    )


def test_what_goes_round_in_a_circle_is_told_and_not_computed() -> None:
    assessment = assess(circle(0.0))
    item = assessment.line("line_keys")
    assert item is not None
    assert item.state.levels is None
    (told,) = item.findings
    assert told.rule == "feedback"
    assert told.severity == "stop"
    assert "Desk" in told.title
    assert told.caution
    beside = assessment.line("line_other")
    assert beside is not None
    assert beside.state.levels is not None
    assert "feedback" not in {f.rule for f in beside.findings}


def test_a_channel_that_is_kept_off_its_own_output_closes_no_circle() -> None:
    assert "feedback" not in {f.rule for f in assess(circle(-1.0)).findings}
