"""Lines that meet in a mixer hear each other's noise."""

from __future__ import annotations

import math
from pathlib import Path

import pytest

from tests.conftest import recorded
from verve.core.assess import LineAssessment, assess
from verve.core.session import Change, Session, set_control, with_setup


def line(session: Session, line_id: str) -> LineAssessment:
    found = assess(session).line(line_id)
    assert found is not None
    return found


def put(session: Session, channel: str, name: str, value: float) -> Session:
    return set_control(session, Change(owner="mixer", channel=channel, name=name, value=value))


def noise(session: Session, line_id: str) -> float:
    found = line(session, line_id).noise_dbfs_a
    assert found is not None
    return found


@pytest.fixture
def together(mended: Session) -> Session:
    """Both sides of the reed organ on the left bus."""
    return put(mended, "in.4", "pan", -1.0)


def test_two_equal_channels_on_one_bus_have_twice_the_channel_noise(
    mended: Session, together: Session
) -> None:
    apart, mixed = line(mended, "organ_l"), line(together, "organ_l")
    assert apart.state.levels is not None
    assert mixed.state.levels is not None
    staged = apart.state.staged
    assert staged is not None
    at = [part.role for part in staged.parts].index("bus")
    shares = apart.state.levels.noise_shares
    # Everything before the bus is there once more.
    before = sum(shares[:at])
    expected_db = 10.0 * math.log10(1.0 + before)
    assert noise(together, "organ_l") - noise(mended, "organ_l") == pytest.approx(
        expected_db, abs=0.15
    )


def test_the_signal_of_a_line_is_not_changed_by_the_other(
    mended: Session, together: Session
) -> None:
    alone = line(mended, "organ_l").state.peak_dbfs
    assert line(together, "organ_l").state.peak_dbfs == pytest.approx(alone, abs=1e-9)


def test_a_fader_that_is_closed_brings_nothing(mended: Session, together: Session) -> None:
    closed = put(together, "in.4", "fader_db", -60.0)
    assert noise(closed, "organ_l") == pytest.approx(noise(mended, "organ_l"), abs=1e-3)


def test_a_lower_fader_brings_less(together: Session) -> None:
    lower = put(together, "in.4", "fader_db", -10.0)
    assert noise(lower, "organ_l") < noise(together, "organ_l")


def test_channels_panned_apart_do_not_hear_each_other(mended: Session) -> None:
    # A hard pan still leaks a millionth of the power.
    quiet = with_setup(mended, lines=tuple(x for x in mended.setup.lines if x.id != "organ_r"))
    assert noise(mended, "organ_l") == pytest.approx(noise(quiet, "organ_l"), abs=1e-3)


def test_a_centred_channel_is_heard_on_both_sides(mended: Session) -> None:
    centred = put(mended, "in.4", "pan", 0.1)
    assert noise(centred, "organ_l") > noise(mended, "organ_l") + 0.2


def test_moving_one_channel_back_and_forth_leaves_the_other_as_it_was(
    mended: Session, together: Session
) -> None:
    first = noise(together, "organ_l")
    louder = put(together, "in.4", "gain_db", 20.0)
    assert noise(louder, "organ_l") > first
    assert noise(put(louder, "in.4", "gain_db", 8.0), "organ_l") == pytest.approx(first, abs=1e-9)
    assert noise(mended, "organ_l") < first


def test_a_recording_has_the_noise_of_both(together: Session, tmp_path: Path) -> None:
    track = recorded(together, "organ_l", tmp_path)
    assert track.noise_dbfs_a.measured == pytest.approx(track.noise_dbfs_a.predicted, abs=1.5)
