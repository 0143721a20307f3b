"""What lines are together on a mixer, against sums in closed form and a recording of both."""

from __future__ import annotations

import math

import pytest

from verve.core.assess import LineAssessment, assess
from verve.core.network import BusLevel
from verve.core.session import Change, Session, set_control


def put(session: Session, channel: str, name: str, value: float) -> Session:
    return set_control(session, Change(owner="mixer", channel=channel, name=name, value=value))


def line(session: Session, line_id: str) -> LineAssessment:
    found = assess(session).line(line_id)
    assert found is not None
    return found


def bus(session: Session, line_id: str) -> BusLevel:
    (found,) = line(session, line_id).buses
    return found


def own_dbu(session: Session, line_id: str) -> float:
    """A line's hardest peak at the open main output, from the stages alone."""
    state = line(session, line_id).state
    at = state.index_of("mixer", "bus")
    assert at is not None
    assert state.levels is not None
    peak = state.levels.open_peak_dbu[at]
    assert peak is not None
    return peak


def test_one_line_on_a_bus_is_the_bus(mended: Session) -> None:
    found = bus(mended, "organ_l")
    assert found.lines == ("organ_l",)
    assert found.together_dbu == pytest.approx(own_dbu(mended, "organ_l"), abs=0.01)
    assert found.worst_dbu == pytest.approx(found.together_dbu)
    assert found.meter_db == pytest.approx(found.together_dbu - 4.0)
    assert found.recorder_dbfs == pytest.approx(line(mended, "organ_l").state.peak_dbfs, abs=0.01)


def test_two_equal_lines_are_three_decibels_more_or_six_at_worst(mended: Session) -> None:
    apart = bus(mended, "organ_l")
    both = bus(put(mended, "in.4", "pan", -1.0), "organ_l")
    assert set(both.lines) == {"organ_l", "organ_r"}
    assert both.together_dbu - apart.together_dbu == pytest.approx(10 * math.log10(2), abs=0.05)
    assert both.worst_dbu - apart.together_dbu == pytest.approx(20 * math.log10(2), abs=0.05)
    assert both.recorder_dbfs is not None
    assert apart.recorder_dbfs is not None
    assert both.recorder_dbfs - apart.recorder_dbfs == pytest.approx(3.01, abs=0.05)


def test_faders_pan_and_main_act_on_what_is_together(mended: Session) -> None:
    before = bus(mended, "organ_l").together_dbu
    for channel, name, value, change in (
        ("in.3", "fader_db", -7.0, -7.0),
        ("main", "fader_db", -4.0, -4.0),
        ("in.3", "gain_db", None, 2.0),
    ):
        if value is None:
            value = float(line(mended, "organ_l").state.level_control().value) + 2.0  # type: ignore[union-attr, arg-type]
        after = bus(put(mended, channel, name, value), "organ_l").together_dbu
        assert after - before == pytest.approx(change, abs=0.02)
    # In the middle it goes to both sides, 3 dB down.
    middle = put(mended, "in.3", "pan", 0.0)
    right = next(b for b in line(middle, "organ_r").buses if b.side == "right")
    assert set(right.lines) == {"organ_l", "organ_r"}


def test_the_reason_tells_the_meter(mended: Session) -> None:
    labels = [fact.label for fact in line(mended, "organ_l").why()]
    assert "On its own meter" in labels
    assert not [f for f in line(mended, "voice").why() if f.label == "On its own meter"]
