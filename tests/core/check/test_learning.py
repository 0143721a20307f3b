"""Predicted against measured: what one take teaches holds at every other setting; knobs, habits, explanations."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import follow
from verve.core.assess import assess
from verve.core.check import (
    Measured,
    accepted,
    calibrated,
    explanations,
    goes_over_db,
    hour_now,
    knob_points,
    louder_by_db,
    remember_over_test,
    with_learnt_dial,
)
from verve.core.demo import demo_session
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.gain import curve, dial_words
from verve.core.kind import PlayingRange
from verve.core.measure import Harmonic, Hum
from verve.core.session import (
    Change,
    Figure,
    Play,
    Session,
    Snapshot,
    Take,
    TakeTrack,
    add_take,
    find_control,
    restore_take,
    set_control,
    set_hour,
    set_playing,
    set_room,
)

ENGINE = Engine()
WELL = follow(demo_session())
LINES = ("voice", "harp_left", "baritone_line", "organ_l")


def louder(session: Session, source_id: str, by_db: float) -> Session:
    source = next(s for s in session.setup.sources if s.id == source_id)
    old = source.figures.playing()
    new = PlayingRange(
        softest_db=old.softest_db + by_db,
        typical_db=old.typical_db + by_db,
        hardest_db=old.hardest_db + by_db,
    )
    figures = source.figures.model_copy(update={source.figures.level_figure: new})
    sources = tuple(
        s.model_copy(update={"figures": figures}) if s.id == source_id else s
        for s in session.setup.sources
    )
    setup = session.setup.model_copy(update={"sources": sources})
    return session.model_copy(update={"setup": setup})


def peak(session: Session, line: str, play: Play = "hardest") -> float:
    item = assess(session, ENGINE).line(line)
    assert item is not None
    found = item.predicted_peak_dbfs(play)
    assert found is not None
    return found


def take_of(
    told: Session,
    truth: Session,
    line: str,
    play: Play = "hardest",
    number: int = 1,
    *,
    noise_db: float | None = None,
) -> Take:
    """A take as it would be: set up as the session says, sounding as it is in truth."""
    item = assess(told, ENGINE).line(line)
    assert item is not None
    noise = item.noise_dbfs_a
    assert noise is not None
    measured_noise = noise + noise_db if noise_db is not None else None
    track = TakeTrack(
        line=line, name=item.line.name, file=f"/x/{number}.wav", clipped_frames=0,
        peak_dbfs=Figure(measured=peak(truth, line, play), predicted=peak(told, line, play)),
        noise_dbfs_a=Figure(measured=measured_noise, predicted=noise),
    )  # fmt: skip
    return Take(
        id=f"take_{number}", name=f"Take {number}", recorded_at="2026-05-04T20:15:00", seconds=10.0, play=play,
        tracks=(track,), setup=Snapshot.of(told.setup),
    )  # fmt: skip


def source_id(session: Session, line: str) -> str:
    item = assess(session, ENGINE).line(line)
    assert item is not None
    return item.route.source.id


@settings(max_examples=30, deadline=None)
@given(
    line=st.sampled_from(LINES),
    by_db=st.floats(-14.0, 3.0),
    play=st.sampled_from(("hardest", "typical", "phrase")),
    gain_db=st.floats(-20.0, 0.0),
    other=st.sampled_from(("distance_m", "pad_db", "high_pass", "none")),
)
def test_after_one_take_every_other_setting_is_predicted_within_a_decibel(
    line: str, by_db: float, play: Play, gain_db: float, other: str
) -> None:
    truth = louder(WELL, source_id(WELL, line), by_db)
    learnt = accepted(WELL, take_of(WELL, truth, line, play), line, "in Take 1", ENGINE)
    item = assess(WELL, ENGINE).line(line)
    assert item is not None
    changes = []
    for step in item.route.steps:
        for name, control in step.controls.items():
            if name == "gain_db":
                value = control.clamped(float(control.value or 0.0) + gain_db)
                changes.append(
                    Change(owner=control.owner, channel=control.channel, name=name, value=value)
                )
            elif name == other == "distance_m":
                value = control.clamped(2.0 * float(control.value or 1.0))
                changes.append(
                    Change(owner=control.owner, channel=control.channel, name=name, value=value)
                )
            elif name == other == "pad_db":
                changes.append(
                    Change(
                        owner=control.owner,
                        channel=control.channel,
                        name=name,
                        value=control.choices[-1],
                    )
                )
            elif name == other == "high_pass":
                changes.append(
                    Change(owner=control.owner, channel=control.channel, name=name, value=True)
                )
    for change in changes:
        learnt, truth = set_control(learnt, change), set_control(truth, change)
    for way in ("hardest", "typical"):
        assert peak(learnt, line, way) == pytest.approx(peak(truth, line, way), abs=1.0)


def test_what_is_accepted_is_marked_measured_with_day_and_take_and_survives_a_recall() -> None:
    truth = louder(WELL, "singer_voice", -6.0)
    take = take_of(WELL, truth, "voice")
    learnt = accepted(add_take(WELL, take), take, "voice", "in Take 1, 4 May 2026", ENGINE)
    source = next(s for s in learnt.setup.sources if s.id == "singer_voice")
    name = source.figures.level_figure
    assert source.figures.origin_of(name) == "measured"
    assert source.figures.wordings[name] == "in Take 1, 4 May 2026"
    item = assess(learnt, ENGINE).line("voice")
    assert item is not None
    facts = item.facts_at("singer_voice", "source")
    assert any(f.origin == "measured" and "Take 1, 4 May" in f.how for f in facts)
    back = restore_take(learnt, "take_1")
    kept = next(s for s in back.setup.sources if s.id == "singer_voice")
    assert kept.figures.playing() == source.figures.playing()


def test_what_clipped_or_cannot_be_teaches_nothing() -> None:
    take = take_of(WELL, WELL, "voice")
    (track,) = take.tracks
    broken = take.model_copy(update={"tracks": (replace(track, clipped_frames=9),)})
    with pytest.raises(EditError, match="it clipped"):
        accepted(WELL, broken, "voice", "", ENGINE)
    with pytest.raises(EditError, match="nothing that was measured"):
        accepted(WELL, take, "harp_left", "", ENGINE)
    with pytest.raises(EditError, match="a signal with a source"):
        louder_by_db(WELL, "nobody", -10.0, "hardest", ENGINE)
    with pytest.raises(EditError, match="no loudness of it explains"):
        louder_by_db(WELL, "voice", -150.0, "hardest", ENGINE)


def test_an_easy_phrase_tells_the_usual_playing() -> None:
    learnt = calibrated(
        WELL, "voice", peak(WELL, "voice") - 4.0, "hardest", "said", easy_below_db=9.0
    )
    playing = next(s for s in learnt.setup.sources if s.id == "singer_voice").figures.playing()
    old = next(s for s in WELL.setup.sources if s.id == "singer_voice").figures.playing()
    assert playing.hardest_db == pytest.approx(old.hardest_db - 4.0, abs=0.1)
    assert playing.typical_db == pytest.approx(playing.hardest_db - 9.0, abs=0.01)
    assert playing.softest_db <= playing.typical_db


# ── going over the test ───────────────────────────────────────────────────────────────────────


def test_who_goes_over_their_test_is_remembered_and_expected_to_do_so_again() -> None:
    tested = calibrated(WELL, "voice", peak(WELL, "voice") - 3.0, "hardest", "in the check")
    truth = louder(tested, "singer_voice", 4.0)
    take = take_of(tested, truth, "voice")
    assert goes_over_db(tested, take, "voice") == pytest.approx(4.0, abs=0.1)
    found = explanations(tested, of(take), ENGINE)
    assert found[0].kind == "habit"
    assert "over the hardest of the test" in found[0].sentence
    known = accepted(tested, take, "voice", "said", ENGINE)
    source = next(s for s in known.setup.sources if s.id == "singer_voice")
    assert source.over_test_db == pytest.approx(4.0, abs=0.1)
    assert peak(known, "voice") == pytest.approx(peak(truth, "voice"), abs=0.1)
    # The next take as hard as this one goes as far over the test, not twice as far.
    again = take_of(known, truth, "voice", number=2)
    assert goes_over_db(known, again, "voice") == pytest.approx(4.0, abs=0.2)
    with pytest.raises(EditError, match="tells nothing"):
        remember_over_test(WELL, take_of(WELL, truth, "voice"), "voice")


# ── knobs ─────────────────────────────────────────────────────────────────────────────────────


def test_takes_at_two_positions_teach_a_knob() -> None:
    control = find_control(WELL.setup, "interface", "in.1", "gain_db")
    hours, gains = zip(*curve(control.minimum, control.maximum, 0.7), strict=True)
    assert "a guess" in dial_words(control, 30.0)
    session = WELL
    for number, at in ((1, 9), (2, 15)):
        told = set_control(
            session,
            Change(owner="interface", channel="in.1", name="gain_db", value=float(number * 8.0)),
        )
        told = set_hour(told, "interface", "in.1", hours[at])
        truth = set_control(
            told, Change(owner="interface", channel="in.1", name="gain_db", value=gains[at])
        )
        take = take_of(told, truth, "voice", "softest", number)
        session = add_take(told, take)
        if number == 1:
            with pytest.raises(EditError, match="two positions"):
                with_learnt_dial(session, "voice", "interface", "in.1")
    assert [p.hour for p in knob_points(session, "voice", "interface", "in.1")] == [
        hours[9],
        hours[15],
    ]
    learnt = with_learnt_dial(session, "voice", "interface", "in.1")
    control = find_control(learnt.setup, "interface", "in.1", "gain_db")
    assert control.dial is not None
    for (_, found), true in zip(control.dial, gains, strict=True):
        assert found == pytest.approx(true, abs=1.0)
    assert dial_words(control, gains[12]).endswith("measured")
    assert hour_now(control) == hours[15]
    # Turned by somebody who has not said where it stands now.
    turned = set_control(
        learnt, Change(owner="interface", channel="in.1", name="gain_db", value=20.0)
    )
    assert find_control(turned.setup, "interface", "in.1", "gain_db").hour is None


# ── explaining ────────────────────────────────────────────────────────────────────────────────


def of(take: Take, **more: object) -> Measured:
    found = Measured.of_track(take, take.tracks[0])
    assert found is not None
    return replace(found, **more)  # type: ignore[arg-type]


def test_as_computed_needs_no_explanation() -> None:
    assert explanations(WELL, of(take_of(WELL, WELL, "voice", noise_db=0.5)), ENGINE) == ()


def test_a_louder_source_leaves_the_noise_and_a_higher_gain_takes_it_along() -> None:
    loud = take_of(WELL, louder(WELL, "singer_voice", -6.0), "voice", noise_db=0.0)
    found = explanations(WELL, of(loud), ENGINE)
    assert found[0].kind == "source"
    assert found[0].can_be_accepted
    assert found[0].explains_db == pytest.approx(6.0, abs=0.2)
    assert "6.0 dB quieter than typical" in found[0].sentence
    gain = take_of(WELL, louder(WELL, "singer_voice", -6.0), "voice", noise_db=-6.0)
    found = explanations(WELL, of(gain), ENGINE)
    assert found[0].kind == "gain"
    assert "6.0 dB less than the session says" in found[0].sentence
    assert sum(one.share for one in found) == pytest.approx(1.0)
    assert all(a.share >= b.share for a, b in pairwise(found))


def test_a_pad_that_nobody_told_is_found_among_the_first() -> None:
    pads = [
        (c.owner, c.channel, c.choices[-1], line)
        for line in LINES
        if (item := assess(WELL, ENGINE).line(line)) is not None
        for step in item.route.steps
        for name, c in step.controls.items()
        if name == "pad_db" and not c.value
    ]
    assert pads, "the demo has a box with a pad"
    for owner, channel, value, line in pads:
        change = Change(owner=owner, channel=channel, name="pad_db", value=value)
        pad_in = set_control(WELL, change)
        off = peak(pad_in, line) - peak(WELL, line)
        found = explanations(WELL, of(take_of(WELL, pad_in, line, noise_db=off / 2.0)), ENGINE)
        assert any("pad" in one.sentence.lower() for one in found[:3]), [o.sentence for o in found]


def test_noise_that_fits_a_fan_a_hum_and_a_hissing_preamp_is_told_apart() -> None:
    noisy = set_room(WELL, WELL.setup.room.model_copy(update={"noise_dba": 30.0}))
    take = take_of(noisy, noisy, "voice", noise_db=9.0)
    found = explanations(noisy, of(take), ENGINE)
    assert found[0].kind == "room"
    assert "fan" in found[0].sentence
    hum = Hum(
        mains_hz=50,
        hz=50.0,
        level_dbfs=-50.0,
        harmonics=(Harmonic(number=1, hz=50.0, level_dbfs=-50.0),),
    )
    found = explanations(noisy, of(take, hum=hum), ENGINE)
    assert found[0].kind == "hum"
    assert "charger" in found[0].test


def test_a_source_that_was_measured_is_doubted_less() -> None:
    tested = set_playing(
        WELL,
        "singer_voice",
        next(s for s in WELL.setup.sources if s.id == "singer_voice").figures.playing(),
        "said",
    )
    softer = take_of(tested, louder(tested, "singer_voice", -8.0), "voice")
    shares = [
        next(one.share for one in explanations(session, of(softer), ENGINE) if one.kind == "source")
        for session in (tested, WELL)
    ]
    assert shares[0] < shares[1]


def test_a_loss_that_fits_a_pickup_in_a_line_input_says_so() -> None:
    change = Change(owner="interface", channel="in.5", name="mode", value="line")
    item = assess(WELL, ENGINE).line("cello_line")
    assert item is not None
    recorder = item.route.recorder
    assert recorder is not None
    wrong = set_control(WELL, replace(change, channel=recorder.in_port))
    off = peak(wrong, "cello_line") - peak(WELL, "cello_line")
    assert off < -15.0
    take = take_of(WELL, wrong, "cello_line", noise_db=off / 2.0)
    found = explanations(WELL, of(take), ENGINE)
    assert found[0].sentence.startswith("A loss like this fits a pickup in a line input.")
    assert found[0].share > 0.9
