"""One microphone for two sources, noise of takes against what was running, spots that were noted."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.wiring import wired
from verve.core.air import hearing_of, positions_of
from verve.core.assess import assess
from verve.core.catalogue import catalogue
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.place import (
    balance_db,
    balanced,
    balanced_text,
    brought,
    faults_of,
    has_two,
    hollow_bodies,
    measured_noises,
    noise_text,
    put,
    spot_lines,
    spots_of,
    switched,
)
from verve.core.session import (
    Aim,
    Figure,
    Session,
    Source,
    Stand,
    Take,
    TakeTrack,
    add_beside,
    add_take,
    choose_spot,
    note_spot,
    place_microphone,
    place_source,
    remove_beside,
    remove_line,
    set_room,
)

MIC = "one:capsule"
LEFT = "harp_mic_left:capsule"


def singer_with_guitar(distance_m: float = 0.6, rt60_s: float = 0.5) -> Session:
    """Somebody who sings to a guitar, both in one microphone."""
    session = wired(
        {"voice": "voice_speaking"},
        {"one": "condenser_small", "io": "interface_two"},
        ["voice:out > one:capsule", "one:out > io:in.1"],
        settings={MIC: {"distance_m": distance_m}},
    )
    figures = catalogue().sources["acoustic_guitar"].figures
    guitar = Source(id="guitar", name="Guitar", figures=figures)
    session, _ = add_beside(session, "voice", guitar)
    room = session.setup.room.model_copy(update={"reverberation_s": rt60_s})
    session = set_room(session, room)
    session = place_source(
        session, "voice", Stand(x_m=3.0, y_m=3.0, height_m=1.25, facing_deg=180.0)
    )
    session = place_source(
        session, "guitar", Stand(x_m=3.0, y_m=2.9, height_m=0.8, facing_deg=180.0)
    )
    return place_microphone(session, MIC, Aim())


@settings(max_examples=12, deadline=None)
@given(st.floats(0.3, 1.5), st.floats(0.2, 1.5))
def test_there_both_are_equally_loud(distance_m: float, rt60_s: float) -> None:
    session = singer_with_guitar(distance_m, rt60_s)
    assert has_two(session, MIC)
    try:
        there = balanced(session, MIC)
    except EditError:
        assert "nowhere as loud" in balanced_text(session, MIC)
        return
    assert balance_db(there, MIC) == pytest.approx(0.0, abs=0.15)
    hearing = hearing_of(positions_of(there.setup))
    first, second = hearing.total_power[0]
    assert first == pytest.approx(second, rel=0.05)


def test_a_soft_voice_over_a_guitar_is_balanced_nearer_to_the_mouth() -> None:
    session = singer_with_guitar()
    assert balance_db(session, MIC) > 2.0, "the guitar is louder"
    there = balanced(session, MIC)
    device = next(one for one in there.setup.devices if one.id == "one")
    distance_m = device.settings["capsule"].distance_m
    assert distance_m is not None
    assert distance_m < 0.6
    assert "equally loud" in balanced_text(session, MIC)


def test_what_is_played_beside_is_in_the_level_and_goes_with_its_signal() -> None:
    session = singer_with_guitar()
    alone = remove_beside(session, "guitar")
    levels = [assess(one).lines[0].state.peak_dbfs for one in (alone, session)]
    assert levels[0] is not None
    assert levels[1] is not None
    assert levels[1] > levels[0] + 0.2
    assert [s.id for s in remove_line(session, "line_voice").setup.sources] == []
    with pytest.raises(EditError, match="a signal of its own"):
        remove_beside(session, "voice")
    with pytest.raises(EditError, match="must be a source"):
        remove_beside(session, "nobody")


def test_a_microphone_for_one_has_nothing_to_balance() -> None:
    demo = demo_session()
    assert balanced_text(demo, LEFT) == ""
    with pytest.raises(EditError, match="two sources"):
        balanced(demo, LEFT)
    with pytest.raises(EditError, match="two sources"):
        balance_db(demo, "nobody:capsule")


# ── noise before and after ────────────────────────────────────────────────────────────────────
def take(session: Session, number: int, noise: float, predicted: float = -8.0) -> Session:
    track = TakeTrack(
        line="harp_left",
        name="Harp left",
        file=f"/takes/{number}.wav",
        peak_dbfs=Figure(measured=predicted, predicted=predicted),
        noise_dbfs_a=Figure(measured=noise, predicted=noise),
        clipped_frames=0,
    )
    made = Take.model_validate(
        {
            "id": f"take_{number}", "name": f"Take {number}", "recorded_at": "2026-11-27T10:00:00",
            "seconds": 10.0, "play": "phrase", "tracks": (track,), "setup": session.setup,
        }
    )  # fmt: skip
    return add_take(session, made)


def test_what_a_fan_costs_is_read_from_takes_with_and_without_it() -> None:
    session, key = brought(demo_session(), "fan")
    session = take(session, 1, -60.0)
    session = switched(session, key.id, is_on=False)
    session = take(session, 2, -66.0)
    # The gain was 10 dB higher, and so is the noise: that is nobody's fault.
    session = take(session, 3, -56.0, predicted=2.0)
    found = measured_noises(session, LEFT)
    assert [one.noise_dbfs_a for one in found] == [-50.0, -56.0, -56.0]
    assert [one.running for one in found] == [("Fan",), (), ()]
    text = noise_text(session, LEFT).splitlines()
    assert "with Fan" in text[0]
    assert "6.0 dB less noise than in Take 1" in text[1]
    assert "as much noise as in Take 2" in text[2]


def test_without_takes_there_is_nothing_to_read() -> None:
    assert noise_text(demo_session(), LEFT) == ""
    assert noise_text(demo_session(), "nobody:capsule") == ""


# ── spots ─────────────────────────────────────────────────────────────────────────────────────
def test_a_spot_says_what_is_heard_there_and_becomes_the_placement() -> None:
    demo = demo_session()
    session, first = note_spot(demo, LEFT, demo.setup.placement.aims[LEFT])
    session = place_microphone(session, LEFT, Aim(bearing_deg=60.0, rise_deg=20.0), distance_m=0.3)
    session, second = note_spot(session, LEFT, session.setup.placement.aims[LEFT], "Over the top")
    assert [one.name for one in spots_of(session, LEFT)] == ["Spot 1", "Over the top"]
    lines = spot_lines(session, LEFT)
    assert lines[0].startswith("Spot 1: 60 cm")
    assert "30 cm" in lines[1]
    assert "Singer" in lines[0]
    back = choose_spot(session, first, "2026-11-27T10:00:00")
    assert back.setup.placement == demo.setup.placement
    assert [bool(one.chosen_at) for one in back.spots] == [True, False]
    assert "chosen" in spot_lines(back, LEFT)[0]
    assert second in {one.id for one in back.spots}


# ── loudspeakers and hollow bodies ────────────────────────────────────────────────────────────
def test_a_loudspeaker_is_heard_by_hollow_bodies_too() -> None:
    demo = demo_session()
    assert hollow_bodies(demo) == ()
    session, key = brought(demo, "wedge")
    said = hollow_bodies(session)
    assert said
    assert all("Wedge monitor" in one for one in said)
    assert hollow_bodies(switched(session, key.id, is_on=False)) == ()
    # What is worn is where its wearer is, and no fault.
    worn, phones = brought(demo, "closed_headphones")
    worn = put(worn, phones, 6.9, 4.7)
    assert not [one for one in faults_of(hearing_of(positions_of(worn.setup))) if "Harp" in one]
