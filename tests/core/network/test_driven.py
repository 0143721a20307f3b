"""Distortion that is meant: what leaves a driven stage is its ceiling, the noise stays, nobody calls it a fault."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import recorded
from verve.core.assess import LineAssessment, assess
from verve.core.catalogue import Chain, ChainLine, add_chain, catalogue
from verve.core.gain import all_changes, gains_set, optimum, settled
from verve.core.gear import PedalFigures
from verve.core.network import line_states
from verve.core.pressing import pressed
from verve.core.session import Change, Session, apply_changes, with_setup

ENTRIES = catalogue()
PEDALS, LINE = add_chain(Session(), ENTRIES, ENTRIES.chain("pickup_pedals_di"))


def set_to(session: Session, owner: str, name: str, value: object) -> Session:
    change = Change(owner=owner, channel="in", name=name, value=value)  # type: ignore[arg-type]
    return apply_changes(session, (change,))


def driven_by(gain_db: float) -> Session:
    """The pedals with the first one turned up, everything else set."""
    return settled(set_to(PEDALS, "pedal_overdrive", "gain_db", gain_db))


def line(session: Session) -> LineAssessment:
    item = assess(session).line(LINE)
    assert item is not None
    return item


def without_drive(session: Session) -> Session:
    """The same with a pedal that is made for clean sound."""
    devices = tuple(
        d.model_copy(update={"figures": d.figures.model_copy(update={"may_be_driven": False})})
        if isinstance(d.figures, PedalFigures)
        else d
        for d in session.setup.devices
    )
    return with_setup(session, devices=devices)


def test_a_pedal_that_is_not_driven_changes_nothing() -> None:
    clean = driven_by(10.0)
    assert line(clean).state.driven_db == {}
    assert line(clean).state.peak_dbfs == pytest.approx(line(without_drive(clean)).state.peak_dbfs)


def test_behind_a_driven_pedal_peaks_stay_and_noise_rises() -> None:
    """Ten decibels more drive: no more level, ten more of the hiss that stands before it."""
    softer, harder = (
        set_to(driven_by(26.0), "pedal_overdrive", "gain_db", g) for g in (22.0, 26.0)
    )
    one, two = line(softer).state, line(harder).state
    assert two.peak_dbfs == pytest.approx(one.peak_dbfs, abs=0.01)
    assert sum(two.driven_db.values()) == pytest.approx(sum(one.driven_db.values()) + 4.0)
    assert one.levels is not None
    assert two.levels is not None
    assert (two.levels.noise_dbfs_a or 0.0) > (one.levels.noise_dbfs_a or 0.0) + 2.0
    assert two.levels.snr_db == pytest.approx(
        (two.levels.peak_dbfs or 0.0) - (two.levels.noise_dbfs_a or 0.0)
    )


def test_what_follows_is_set_for_what_leaves_it() -> None:
    session = driven_by(26.0)
    item = line(session)
    assert item.target.lowest_dbfs <= (item.state.peak_dbfs or 0.0) <= item.target.highest_dbfs
    assert all_changes(optimum(session)) == ()


def test_it_is_a_choice_to_confirm_and_no_stop() -> None:
    session = driven_by(26.0)
    found = assess(session)
    assert found.stops == ()
    (choice,) = (f for f in found.findings if f.rule == "driven")
    assert choice.remedy is not None
    after = assess(choice.remedy.apply(session))
    assert [f.rule for f in after.findings] == []
    assert pressed(session).reason == "nothing left"
    # One that is not made for it is a fault, as every box is.
    assert "clips" in {f.rule for f in assess(without_drive(session)).findings}


@pytest.mark.parametrize("gain_db", [18.0, 22.0, 26.0])
def test_what_is_recorded_is_what_was_said(gain_db: float, tmp_path: Path) -> None:
    session = driven_by(gain_db)
    said = line(session).predicted_range("hardest")
    measured = recorded(session, LINE, tmp_path).peak_dbfs.measured
    assert said is not None
    assert measured is not None
    assert said.low_dbfs - 0.1 <= measured <= said.high_dbfs + 0.1


def test_soft_playing_that_still_overdrives_is_as_loud() -> None:
    state = line(driven_by(26.0)).state
    played = state.route.source.figures.playing()
    plain = played.hardest_db - played.typical_db
    assert state.below_hardest_db("typical") == pytest.approx(plain - sum(state.driven_db.values()))
    assert state.crest_db < state.route.source.figures.crest_db


def test_through_a_mixer_it_is_the_same() -> None:
    """Where the line meets others its own level is held too, and what they bring stays."""
    parts = (
        ChainLine(
            suffix="",
            source="single_coil",
            devices=("pedal_overdrive", "small_mixer"),
            cables=("instrument_3", "instrument_1", "line_balanced_3"),
            mode="line",
        ),
    )
    chain = Chain(id="x", name="x", line_name="X", says="x", lines=parts)
    session, line_id = add_chain(Session(), ENTRIES, chain)
    loud = settled(set_to(session, "pedal_overdrive", "gain_db", 26.0))
    state = next(s for s in line_states(loud.setup) if s.line.id == line_id)
    assert state.driven_db
    assert state.input_peak_dbfs == pytest.approx(state.peak_dbfs, abs=0.05)
    assert state.peak_dbfs == pytest.approx(-8.0, abs=1.0)


def test_a_valve_preamp_is_driven_only_where_that_is_said() -> None:
    part = ChainLine(
        suffix="",
        source="voice_shouted",
        devices=("moving_coil", "preamp_valve"),
        cables=("balanced_5", "balanced_5"),
        mode="line",
    )
    chain = Chain(id="x", name="x", line_name="X", says="x", lines=(part,))
    session, line_id = add_chain(Session(), ENTRIES, chain)
    hot = set_to(session, "preamp_valve", "gain_db", 60.0)
    (clips,) = (f for f in assess(hot).findings if f.rule == "clips")
    assert clips.severity == "stop"
    meant = set_to(hot, "preamp_valve", "driven", True)
    found = assess(settled(meant))
    # Its full output is too hot for the input behind it: that is another matter, and stays one.
    assert {f.places.get("where") for f in found.stops} <= {"the converter"}
    state = next(s for s in line_states(meant.setup) if s.line.id == line_id)
    assert ("preamp_valve", "in") not in gains_set(state), "its gain is part of the sound"
    kept = next(d for d in settled(meant).setup.devices if d.id == "preamp_valve")
    assert kept.settings["in"].gain_db == 60.0


@pytest.mark.parametrize("trim_db", [-10.0, 20.0, 50.0])
def test_gains_before_it_are_set_once(trim_db: float) -> None:
    """What drives the pedal stands before it: wherever that was, all is right after one press."""
    part = ChainLine(
        suffix="",
        source="acoustic_guitar",
        devices=("condenser_small", "mixer_microphones", "pedal_overdrive"),
        cables=("balanced_5", "line_balanced_3", "line_balanced_3"),
        mode="line",
    )
    chain = Chain(id="x", name="x", line_name="X", says="x", lines=(part,))
    session, _ = add_chain(Session(), ENTRIES, chain)
    there = next(d for d in session.setup.devices if d.figures.kind == "mixer")
    change = Change(owner=there.id, channel="in.1", name="gain_db", value=trim_db)
    once = settled(apply_changes(session, (change,)))
    assert line_states(once.setup)[0].peak_dbfs == pytest.approx(-8.0, abs=1.1)
    assert all_changes(optimum(once)) == ()
