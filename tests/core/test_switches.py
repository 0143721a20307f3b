"""What a switch, a place or a knob's table changes in a whole session."""

from __future__ import annotations

import math
from pathlib import Path

import pytest

from tests.conftest import figures_changed, follow, recorded, unplaced
from verve.core.assess import Assessment, LineAssessment, assess
from verve.core.errors import InputError
from verve.core.gain import dial_words
from verve.core.gear import ActiveDiFigures, InterfaceFigures, MicrophoneFigures
from verve.core.kind import ModeFigures
from verve.core.session import Change, Session, controls_of, set_control, with_setup

FOAM = (0.0,) * 6 + (0.0, -1.0, -3.0, -6.0)
PRESENCE = (0.0,) * 6 + (2.0, 4.0, 3.0, 0.0)


def line(assessment: Assessment, line_id: str) -> LineAssessment:
    found = assessment.line(line_id)
    assert found is not None
    return found


def put(session: Session, owner: str, channel: str, name: str, value: object) -> Session:
    change = Change(owner=owner, channel=channel, name=name, value=value)  # type: ignore[arg-type]
    return set_control(session, change)


@pytest.fixture
def mended(demo: Session) -> Session:
    """The mended demo of points and of microphones without pattern or foam."""
    for device_id in ("voice_mic", "harp_mic_left", "harp_mic_right"):
        flat = {"pattern": None, "foam_db": None, "response_db": (0.0,) * 10}
        demo = figures_changed(demo, device_id, **flat)
    sources = tuple(
        s.model_copy(update={"figures": s.figures.model_copy(update={"extent_m": 0.0})})
        if s.figures.kind == "acoustic"
        else s
        for s in demo.setup.sources
    )
    return follow(with_setup(demo, sources=sources))


@pytest.fixture
def coloured(mended: Session) -> Session:
    """The voice microphone with a pattern, a presence switch and a foam."""
    return figures_changed(
        mended, "voice_mic", pattern="cardioid", presence_db=PRESENCE, foam_db=FOAM
    )


def peak(session: Session, line_id: str = "voice") -> float:
    found = line(assess(session), line_id).state.peak_dbfs
    assert found is not None
    return found


def test_a_pattern_brings_bass_when_it_is_near(alone: Session, coloured: Session) -> None:
    coloured = unplaced(coloured)
    assert peak(coloured) > peak(alone) + 0.2
    far = put(coloured, "voice_mic", "capsule", "distance_m", 4.0)
    far_flat = put(alone, "voice_mic", "capsule", "distance_m", 4.0)
    assert peak(far) == pytest.approx(peak(far_flat), abs=0.05)


def test_a_cardioid_hears_less_of_the_room(mended: Session) -> None:
    cardioid = figures_changed(mended, "harp_mic_left", pattern="cardioid")
    flat = line(assess(mended), "harp_left").noise_dbfs_a
    less = line(assess(cardioid), "harp_left").noise_dbfs_a
    assert flat is not None
    assert less is not None
    # A room of 27 dBA and a self noise of 16 dBA; a third of the room's power is left.
    room, own = 10.0**2.7, 10.0**1.6
    expected_db = 10.0 * math.log10((room + own) / (room / 3.0 + own))
    assert flat - less == pytest.approx(expected_db, abs=0.05)


def test_turning_a_microphone_away_lowers_it(coloured: Session) -> None:
    away = put(coloured, "voice_mic", "capsule", "angle_deg", 90.0)
    assert peak(coloured) - 8.0 < peak(away) < peak(coloured) - 4.0


def test_presence_and_foam_change_the_level_a_little_and_against_each_other(
    coloured: Session,
) -> None:
    presence = put(coloured, "voice_mic", "capsule", "presence", True)
    foam = put(coloured, "voice_mic", "capsule", "foam", True)
    assert peak(coloured) < peak(presence) < peak(coloured) + 1.5
    assert peak(coloured) - 0.5 < peak(foam) < peak(coloured)


def test_the_colour_is_told_where_the_level_is_explained(coloured: Session) -> None:
    facts = {fact.label: fact for fact in line(assess(coloured), "voice").why()}
    assert "Frequency response" in facts
    assert "polar pattern, proximity effect" in facts["Frequency response"].how


def test_a_colour_does_not_bring_the_capsule_nearer_to_its_limit(alone: Session) -> None:
    limited = figures_changed(alone, "voice_mic", max_spl_db=140.0)
    both = figures_changed(limited, "voice_mic", pattern="cardioid")
    rooms = []
    for session in (limited, both):
        state = line(assess(session), "voice").state
        assert state.levels is not None
        rooms.append(state.levels.headroom_db[1])
    assert rooms[0] == pytest.approx(rooms[1])


def test_close_to_something_large_the_level_hardly_rises(alone: Session) -> None:
    def rise(session: Session) -> float:
        near = put(session, "harp_mic_left", "capsule", "distance_m", 0.1)
        far = put(session, "harp_mic_left", "capsule", "distance_m", 0.2)
        return peak(near, "harp_left") - peak(far, "harp_left")

    sources = tuple(
        s.model_copy(update={"figures": s.figures.model_copy(update={"extent_m": 0.5})})
        if s.id == "harp"
        else s
        for s in alone.setup.sources
    )
    assert rise(alone) == pytest.approx(6.02, abs=0.01)
    assert rise(with_setup(alone, sources=sources)) < 1.0


def test_a_recording_has_the_colour_too(coloured: Session, tmp_path: Path) -> None:
    session = put(coloured, "voice_mic", "capsule", "presence", True)
    track = recorded(session, "voice", tmp_path)
    assert track.peak_dbfs.measured == pytest.approx(track.peak_dbfs.predicted, abs=1.0)


def test_a_microphone_without_such_figures_has_no_such_switches(mended: Session) -> None:
    names = {control.name for control in controls_of(mended.setup, "voice_mic")}
    assert names & {"angle_deg", "presence", "foam"} == set()


def boxed(session: Session) -> Session:
    """The baritone guitar through an active box instead of the passive one."""
    box = ActiveDiFigures(
        input_impedance_ohm=1e6,
        output_impedance_ohm=150.0,
        ein_dbu=-110.0,
        max_input_dbu=10.0,
        phantom_current_ma=5.0,
        has_battery=True,
    )
    devices = tuple(
        d.model_copy(update={"figures": box}) if d.id == "di" else d for d in session.setup.devices
    )
    return with_setup(session, devices=devices)


def test_a_battery_stands_in_for_phantom_power(mended: Session) -> None:
    session = boxed(mended)
    assert not line(assess(session), "baritone_line").is_alive
    powered = put(session, "di", "in", "battery", True)
    assert line(assess(powered), "baritone_line").is_alive
    rules = {f.rule for f in assess(powered).findings if f.concerns("baritone_line")}
    assert "phantom_missing" not in rules


def test_a_measured_knob_is_read_from_its_table(mended: Session) -> None:
    interface = next(d for d in mended.setup.devices if d.id == "interface")
    assert isinstance(interface.figures, InterfaceFigures)
    table = ((7.0, 0.0), (12.0, 18.0), (15.0, 40.0), (17.0, 60.0))
    first = interface.figures.inputs[0]
    modes = {
        **first.modes,
        "microphone": first.modes["microphone"].model_copy(update={"dial": table}),
    }
    inputs = (first.model_copy(update={"modes": modes}), *interface.figures.inputs[1:])
    session = figures_changed(mended, "interface", inputs=inputs)
    gain = line(assess(session), "voice").state.level_control()
    assert gain is not None
    assert dial_words(gain, 18.0) == "about 12 o’clock, from its data sheet"
    assert dial_words(gain, 29.0) == "about half past 1, from its data sheet"
    assert dial_words(gain, 40.0) == "about 3 o’clock, from its data sheet"
    # A straight dial would say 10; a bent one, more.
    unknown = line(assess(mended), "voice").state.level_control()
    assert unknown is not None
    assert dial_words(unknown, 18.0) == "between 10 and 11 o’clock, a guess"


@pytest.mark.parametrize(
    "dial", [((7.0, 0.0),), ((7.0, 0.0), (7.0, 10.0)), ((7.0, 10.0), (9.0, 5.0))]
)
def test_a_table_that_does_not_rise_is_refused(dial: tuple[tuple[float, float], ...]) -> None:
    with pytest.raises((InputError, ValueError), match="must"):
        ModeFigures(input_impedance_ohm=3000.0, gain_min_db=0.0, gain_max_db=60.0, dial=dial)


def test_figures_say_from_which_side_a_microphone_hears() -> None:
    side = MicrophoneFigures(
        principle="condenser",
        sensitivity_mv_per_pa=20.0,
        output_impedance_ohm=100.0,
        addressed_from="side",
    )
    assert side.addressed_from == "side"
