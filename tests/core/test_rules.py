"""Every rule: a session that breaks it, what it says, and that its remedy mends it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import pytest

from tests.conftest import figures_changed, findings_of, follow
from verve.core.assess import assess
from verve.core.catalogue import Chain, ChainLine, add_chain, catalogue
from verve.core.findings import SEVERITIES, STEPS, Finding, by_urgency
from verve.core.gain import all_changes, optimum, settled
from verve.core.gear import InterfaceFigures, MicrophoneFigures
from verve.core.kind import PlayingRange, is_device_figures
from verve.core.place import Key, brought, switched, with_number
from verve.core.place import put as put_to
from verve.core.session import (
    Aim,
    Audio,
    Change,
    Figure,
    Line,
    Session,
    Snapshot,
    Take,
    TakeTrack,
    add_double,
    add_take,
    apply_changes,
    insert_device,
    lock_control,
    place_microphone,
    remove_line,
    replace_device,
    replace_source,
    set_audio,
    set_control,
    set_level_target,
    set_room,
    turn_to_layer,
    with_setup,
)

Put = Callable[..., Session]


def only(session: Session, rule: str, line: str | None = None) -> Finding:
    found = [f for f in findings_of(assess(session), rule) if line is None or f.concerns(line)]
    assert len(found) == 1, (rule, [f.rule for f in assess(session).findings])
    return found[0]


def mends(session: Session, finding: Finding) -> Session:
    """The session with the remedy applied, in which the finding is gone."""
    assert finding.remedy is not None, finding
    after = finding.remedy.apply(session)
    left = [f for f in findings_of(assess(after), finding.rule) if f.line == finding.line]
    assert left == []
    return after


def far_right(session: Session, distance_m: float) -> Session:
    """With the harp's right microphone so far away."""
    change = Change(owner="harp_mic_right", channel="capsule", name="distance_m", value=distance_m)
    return set_control(session, change)


def source_changed(session: Session, source_id: str, **changes: object) -> Session:
    sources = tuple(
        s.model_copy(update={"figures": s.figures.model_copy(update=changes)})
        if s.id == source_id
        else s
        for s in session.setup.sources
    )
    return with_setup(session, sources=sources)


# ── what the demo shows ───────────────────────────────────────────────────────────────────────
def test_the_demo_has_its_planted_mistakes_and_no_others(demo: Session) -> None:
    found = [(f.rule, f.line) for f in assess(demo).findings]
    assert found == [
        ("phantom_missing", "voice"),
        ("clips", "voice"),
        ("pickup_loaded", "cello_line"),
        ("pair_bleed", "harp_right"),
        ("pair_arrival", "harp_right"),
        ("below_window", "harp_right"),
        ("heard_twice", "voice"),
        ("buffer_large", None),
        ("pair_unequal", "harp_right"),
    ]


def test_following_the_next_thing_ends_with_a_rehearsal(demo: Session) -> None:
    after = follow(demo)
    assessment = assess(after)
    # What is left harms nothing, and one press does not mend it: it wants another box.
    assert [(f.rule, f.severity) for f in assessment.findings] == [("bass_thin", "know")]
    assert assessment.next.step == "check"
    assert "Record a test take of all 7 signals" in assessment.next.sentence
    for item in assessment.lines:
        peak = item.predicted_peak_dbfs("hardest")
        assert peak is not None
        assert item.target.lowest_dbfs <= peak <= item.target.highest_dbfs
        expected = "bass ends at 99 Hz" if item.line.id == "cello_line" else "levels are right"
        assert item.verdict == expected


def test_an_empty_session_asks_for_its_first_line() -> None:
    assessment = assess(Session())
    assert assessment.next.action == "add"
    assert assessment.lines == ()
    assert assessment.done_steps() == frozenset()


def test_urgency_is_severity_then_working_order_then_size(demo: Session) -> None:
    findings = assess(demo).findings
    keys = [(SEVERITIES.index(f.severity), STEPS.index(f.step)) for f in findings]
    assert keys == sorted(keys)
    assert by_urgency(tuple(reversed(findings)))[0].rule == "phantom_missing"


def test_open_findings_are_counted_by_step(demo: Session) -> None:
    assert assess(demo).open_by_step() == {
        "brief": 0,
        "patch": 1,
        "place": 2,
        "power": 1,
        "stage": 2,
        "monitor": 2,
        "check": 0,
        "takes": 0,
    }


def test_every_finding_speaks_in_whole_sentences(demo: Session) -> None:
    for finding in assess(demo).findings:
        for words in (finding.title, finding.brief, finding.cost, finding.advice):
            assert words
        assert finding.cost.endswith(".")
        assert finding.advice.endswith(".")
        assert not finding.title.endswith(".")
        assert len(finding.brief) < 40


# ── place ─────────────────────────────────────────────────────────────────────────────────────
def test_a_singer_near_the_harp_bleeds_in_until_there_is_more_space(demo: Session) -> None:
    finding = only(demo, "pair_bleed", "harp_left")
    assert finding.concerns("harp_right")
    assert "Bleed from Singer in Condenser right" in finding.title
    mends(demo, finding)


def test_two_that_are_no_pair_bleed_each_by_itself(demo: Session) -> None:
    lines = tuple(
        line.model_copy(update={"pair": None}) if line.pair == "harp" else line
        for line in demo.setup.lines
    )
    finding = only(with_setup(demo, lines=lines), "bleed", "harp_left")
    assert finding.also_lines == ()
    mends(with_setup(demo, lines=lines), finding)


def test_a_pair_at_unequal_distances_cancels_in_mono(demo: Session) -> None:
    finding = only(demo, "pair_arrival", "harp_right")
    assert "dip at 1143 Hz" in finding.cost
    mends(demo, finding)


def test_a_microphone_far_away_in_a_hall_hears_the_room(demo: Session) -> None:
    session = far_right(demo, 5.0)
    finding = only(session, "far_in_room", "harp_right")
    assert finding.severity == "know"
    assert "the other way round" in finding.advice


def test_a_microphone_moved_since_the_take_asks_for_a_check_until_one_was_made(
    mended: Session, put: Put
) -> None:
    session = put(taken(mended, -7.8, -7.8), "voice_mic", "capsule", "distance_m", 0.24)
    finding = only(session, "level_changed", "voice")
    assert finding.brief.endswith("dB: check again")
    assert finding.step == "check"
    assert not findings_of(assess(taken(session, -13.0, -13.0)), "level_changed")
    # The gain that makes up for it leaves nothing to check.
    assert not findings_of(
        assess(put(session, "voice_mic", "capsule", "distance_m", 0.12)), "level_changed"
    )


def test_a_player_who_stands_elsewhere_is_told(mended: Session) -> None:
    session = put_to(taken(mended, -7.8, -7.8, whole=True), Key("source", "harp"), 8.0, 5.0)
    finding = only(session, "moved_since_take")
    assert "Harp stands elsewhere" in finding.cost


def test_a_wedge_before_a_far_microphone_may_howl_and_farther_away_it_does_not(
    demo: Session,
) -> None:
    session, key = brought(demo, "wedge")
    near = put_to(session, key, 6.9, 3.6)
    finding = only(near, "may_howl", "harp_left")
    assert finding.brief in {"will probably howl", "may ring"}
    assert "ears" in finding.caution
    soft = with_number(near, key, "level_dba", 25.0)
    assert not findings_of(assess(soft), "may_howl")


def test_a_microphone_that_looks_away_is_turned_back(demo: Session, put: Put) -> None:
    away = put(demo, "harp_mic_left", "capsule", "angle_deg", 150.0)
    away = figures_changed(away, "harp_mic_left", pattern="cardioid")
    finding = only(away, "wrong_side", "harp_left")
    assert "Turned by 150°" in finding.cost
    mends(away, finding)


def test_breath_straight_into_a_microphone_asks_for_something_between(demo: Session) -> None:
    bare = place_microphone(demo, "voice_mic:capsule", Aim())
    finding = only(bare, "plosives", "voice")
    assert finding.brief == "breath at 12 cm"
    mends(bare, finding)
    # Beside the mouth, and farther away, there is no breath.
    for aim, distance_m in ((Aim(bearing_deg=40.0), 0.12), (Aim(), 0.3)):
        there = place_microphone(demo, "voice_mic:capsule", aim, distance_m=distance_m)
        assert not findings_of(assess(there), "plosives")


def test_open_headphones_beside_a_soft_instrument_are_told_and_exchanged(mended: Session) -> None:
    session, key = brought(mended, "open_headphones")
    session = put_to(session, key, 7.6, 5.4)
    session = with_number(session, key, "level_dba", 75.0)
    finding = only(session, "leak", "harp_left")
    assert "hearing" in finding.caution
    assert finding.remedy is not None
    assert finding.remedy.label == "Take closed headphones"
    mends(session, finding)
    off = switched(session, key.id, is_on=False)
    assert not findings_of(assess(off), "leak")


# ── power ─────────────────────────────────────────────────────────────────────────────────────
def test_a_box_without_its_phantom_power_is_silent(demo: Session) -> None:
    finding = only(demo, "phantom_missing", "voice")
    assert finding.severity == "stop"
    assert "Monitors and headphones down first" in finding.caution
    item = assess(demo).line("voice")
    assert item is not None
    assert not item.is_alive
    assert item.predicted_peak_dbfs("hardest") is None
    assert item.noise_dbfs_a is None
    after = mends(demo, finding)
    alive = assess(after).line("voice")
    assert alive is not None
    assert alive.is_alive


def test_phantom_power_that_harms_must_be_switched_off(mended: Session) -> None:
    session = figures_changed(mended, "harp_mic_left", phantom="never", principle="ribbon")
    finding = only(session, "phantom_harms", "harp_left")
    assert finding.severity == "stop"
    mends(session, finding)


def test_phantom_power_that_nothing_uses_is_told(mended: Session, put: Put) -> None:
    session = put(mended, "interface", "phantom.4", "phantom", True)
    finding = only(session, "phantom_idle", "baritone_line")
    assert finding.severity == "know"
    mends(session, finding)


def test_a_supply_can_be_overdrawn(mended: Session) -> None:
    session = figures_changed(mended, "interface", phantom_budget_ma=4.0)
    finding = only(session, "phantom_budget")
    assert finding.facts[0].text.endswith("mA")


def test_a_shared_switch_is_not_thrown_onto_what_it_would_harm(demo: Session) -> None:
    interface = next(d for d in demo.setup.devices if d.id == "interface")
    assert isinstance(interface.figures, InterfaceFigures)
    shared = tuple(
        item.model_copy(update={"phantom_switch": "1"}) if item.name in {"1", "2"} else item
        for item in interface.figures.inputs
    )
    session = figures_changed(demo, "interface", inputs=shared)
    session = figures_changed(session, "harp_mic_left", phantom="never")
    finding = only(session, "phantom_missing", "voice")
    assert finding.remedy is None
    assert "cannot take phantom power" in finding.advice


# ── patch ─────────────────────────────────────────────────────────────────────────────────────
def test_a_line_that_ends_nowhere_is_told(mended: Session) -> None:
    links = tuple(link for link in mended.setup.links if link.id != "di_cable")
    session = with_setup(mended, links=links)
    finding = only(session, "not_connected", "baritone_line")
    assert finding.severity == "stop"
    assert "Connect Passive DI box" in finding.advice


def test_a_piezo_in_a_line_input_is_thin(demo: Session) -> None:
    finding = only(demo, "pickup_loaded", "cello_line")
    assert "thin" in finding.brief
    assert finding.size_db > 20.0
    mends(demo, finding)


def test_a_magnetic_pickup_in_a_line_input_is_dull(mended: Session, put: Put) -> None:
    session = put(mended, "interface", "in.6", "mode", "line")
    baritone = next(s for s in session.setup.sources if s.id == "baritone")
    cello = next(s for s in session.setup.sources if s.id == "cello")
    sources = tuple(
        s.model_copy(update={"figures": baritone.figures}) if s.id == cello.id else s
        for s in session.setup.sources
    )
    session = with_setup(session, sources=sources)
    finding = only(session, "pickup_loaded", "cello_line")
    assert "treble gone above" in finding.cost
    mends(session, finding)


def test_microphone_level_in_a_line_input_is_told(mended: Session, put: Put) -> None:
    session = put(mended, "interface", "in.4", "mode", "line")
    finding = only(session, "wrong_mode", "baritone_line")
    assert "microphone level into line input" in finding.brief
    mends(session, finding)


def test_an_instrument_turned_down_throws_level_away(mended: Session, put: Put) -> None:
    session = put(mended, "baritone", "out", "volume_position", 0.5)
    finding = only(session, "volume_down", "baritone_line")
    assert finding.severity == "mend"
    mends(session, finding)


def test_an_instrument_turned_off_stops_the_take(mended: Session, put: Put) -> None:
    session = put(mended, "baritone", "out", "volume_position", 0.0)
    finding = only(session, "volume_down", "baritone_line")
    assert finding.severity == "stop"


def test_two_lines_in_one_input_are_told(mended: Session, put: Put) -> None:
    session = put(mended, "mixer", "in.4", "pan", -1.0)
    finding = only(session, "input_shared", "organ_r")
    assert finding.concerns("organ_l")


def test_a_preamp_that_works_behind_a_mixer_moves_its_gain_there(mended: Session, put: Put) -> None:
    session = put(mended, "interface", "in.7", "gain_db", -2.0)
    finding = only(session, "preamp_behind_mixer", "organ_l")
    after = mends(session, finding)
    item = assess(after).line("organ_l")
    assert item is not None
    assert item.state.peak_dbfs == pytest.approx(item.target.target_dbfs, abs=0.5)
    assert item.state.recorder_controls()["gain_db"].value == pytest.approx(-6.5, abs=5.0)


def test_a_fader_off_unity_is_told(mended: Session, put: Put) -> None:
    session = put(mended, "mixer", "in.3", "fader_db", -10.0)
    finding = only(session, "fader_off_unity", "organ_l")
    assert finding.size_db == pytest.approx(10.0)
    mends(session, finding)


# ── stage ─────────────────────────────────────────────────────────────────────────────────────
def test_a_gain_too_high_clips_and_is_turned_down(mended: Session, put: Put) -> None:
    session = put(mended, "interface", "in.1", "gain_db", 30.0)
    finding = only(session, "clips", "voice")
    assert finding.severity == "stop"
    assert "o’clock" in finding.advice or "half past" in finding.advice
    after = mends(session, finding)
    assert [f for f in assess(after).findings if f.severity != "know"] == []


def test_a_peak_above_the_window_is_told_before_it_clips(mended: Session, put: Put) -> None:
    session = put(mended, "interface", "in.1", "gain_db", 17.0)
    finding = only(session, "above_window", "voice")
    assert finding.severity == "mend"
    mends(session, finding)


def test_a_quiet_line_is_told_with_its_noise_once_raised(mended: Session, put: Put) -> None:
    session = put(mended, "interface", "in.1", "gain_db", 3.0)
    finding = only(session, "below_window", "voice")
    assert [fact.label for fact in finding.facts][-1] == "Noise once raised"
    mends(session, finding)


def test_a_gain_that_runs_out_says_what_would_help(alone: Session, put: Put) -> None:
    session = put(alone, "voice_mic", "capsule", "distance_m", 10.0)
    quiet = source_changed(
        session,
        "singer_voice",
        peak_spl=PlayingRange(softest_db=30.0, typical_db=40.0, hardest_db=50.0),
    )
    finding = only(quiet, "gain_runs_out", "voice")
    assert "Go closer" in finding.advice


def test_unequal_gains_of_a_pair_are_made_equal(demo: Session) -> None:
    # With both microphones equally far away it is the gains alone.
    session = far_right(demo, 0.6)
    finding = only(session, "pair_unequal", "harp_left")
    assert finding.concerns("harp_right")
    assert finding.size_db == pytest.approx(8.0)
    mends(session, finding)


def test_little_room_before_the_recorder_is_told(mended: Session) -> None:
    item = assess(mended).line("voice")
    assert item is not None
    assert item.state.levels is not None
    at = item.state.index_of("inline", "preamp")
    assert at is not None
    peak = item.state.levels.peak_dbu[at - 1]
    assert peak is not None
    session = figures_changed(mended, "inline", max_input_dbu=peak + 1.0, max_output_dbu=None)
    finding = only(session, "tight_before", "voice")
    assert "1.0 dB of headroom" in finding.brief


def test_a_hot_source_before_the_gain_asks_for_a_pad(mended: Session) -> None:
    session = figures_changed(mended, "harp_mic_left", max_spl_db=80.0, pads_db=(10.0, 20.0))
    session = figures_changed(session, "harp_mic_right", max_spl_db=80.0, pads_db=(10.0, 20.0))
    clips = [f for f in findings_of(assess(session), "clips") if f.line == "harp_left"]
    assert len(clips) == 1
    assert clips[0].remedy is not None
    assert any(change.name == "pad_db" for change in clips[0].remedy.changes)


def test_noise_of_a_loud_room_is_no_fault_of_the_gear(mended: Session) -> None:
    room = mended.setup.room.model_copy(update={"noise_dba": 62.0})
    session = set_room(mended, room)
    finding = only(session, "noisy", "harp_left")
    assert finding.severity == "know"
    assert "No better gear helps" in finding.advice


def test_noise_of_a_preamp_is_to_be_mended(mended: Session) -> None:
    interface = next(d for d in mended.setup.devices if d.id == "interface")
    assert isinstance(interface.figures, InterfaceFigures)
    noisy = tuple(
        item.model_copy(
            update={
                "modes": {
                    name: mode.model_copy(update={"ein_dbu": -70.0})
                    for name, mode in item.modes.items()
                }
            }
        )
        for item in interface.figures.inputs
    )
    finding = only(figures_changed(mended, "interface", inputs=noisy), "noisy", "harp_left")
    assert finding.severity == "mend"
    assert "Interface" in finding.title


def test_a_silent_line_is_told(mended: Session, put: Put) -> None:
    session = put(mended, "baritone", "out", "volume_position", 0.0)
    rules = {f.rule for f in assess(session).findings if f.concerns("baritone_line")}
    assert rules & {"silent", "volume_down"}


def test_a_pad_that_the_gain_makes_up_for_comes_out(mended: Session) -> None:
    interface = next(d for d in mended.setup.devices if d.id == "interface")
    assert isinstance(interface.figures, InterfaceFigures)
    padded = tuple(
        item.model_copy(update={"pads_db": (20.0,)}) if item.name == "2" else item
        for item in interface.figures.inputs
    )
    session = figures_changed(mended, "interface", inputs=padded)
    session = apply_changes(
        session,
        (
            Change(owner="interface", channel="in.2", name="pad_db", value=20.0),
            Change(owner="interface", channel="in.2", name="gain_db", value=60.0),
        ),
    )
    mends(session, only(session, "needless_pad", "harp_left"))


def test_distortion_that_may_be_the_sound_is_a_choice() -> None:
    entries = catalogue()
    session, line_id = add_chain(Session(), entries, entries.chain("pickup_pedals_di"))
    drive = Change(owner="pedal_overdrive", channel="in", name="gain_db", value=26.0)
    session = settled(set_control(session, drive))
    finding = only(session, "driven", line_id)
    assert "Overdrive pedal" in finding.title
    mends(session, finding)


# ── recorder and takes ────────────────────────────────────────────────────────────────────────
def test_a_large_buffer_is_late_in_the_headphones(mended: Session) -> None:
    session = set_audio(mended, Audio(buffer_frames=1024))
    finding = only(session, "buffer_large")
    assert finding.line is None
    assert "43 ms" in finding.cost
    mends(session, finding)


def test_sixteen_bits_are_told(mended: Session) -> None:
    session = set_audio(mended, Audio(bit_depth=16))
    mends(session, only(session, "sixteen_bits"))


def taken(
    session: Session, peak: float, predicted: float, clipped: int = 0, *, whole: bool = False
) -> Session:
    """A take of the voice; `whole` has every signal."""
    track = TakeTrack(
        line="voice",
        name="Voice",
        file="Take 1/Voice.wav",
        peak_dbfs=Figure(measured=peak, predicted=predicted),
        noise_dbfs_a=Figure(),
        clipped_frames=clipped,
    )
    take = Take(
        id="take_1",
        name="Take 1",
        recorded_at="2026-05-04T20:15:00",
        seconds=10.0,
        play="hardest",
        tracks=(track, *(_unmeasured(x) for x in session.setup.lines if whole and x.id != "voice")),
        setup=Snapshot.of(session.setup),
    )
    return add_take(session, take)


def _unmeasured(line: Line) -> TakeTrack:
    return TakeTrack(
        line=line.id,
        name=line.name,
        file=f"Take 1/{line.name}.wav",
        peak_dbfs=Figure(),
        noise_dbfs_a=Figure(),
        clipped_frames=0,
    )


def test_what_moved_since_a_take_is_told_of_the_signals_that_are_in_it(
    mended: Session, put: Put
) -> None:
    whole = taken(mended, -7.8, -7.8, whole=True)
    alone = whole.takes[0].model_copy(
        update={"id": "take_2", "name": "Take 2", "tracks": whole.takes[0].tracks[:1]}
    )
    session = put(whole, "interface", "in.2", "gain_db", 3.0)
    session = add_take(session, alone.model_copy(update={"snapshot": Snapshot.of(session.setup)}))
    # The harp has moved since its own last take, though not since the one that came after it.
    assert only(session, "moved_since_take").places["take"] == "Take 1"
    session = put(session, "interface", "in.1", "gain_db", 3.0)
    told = [f.places["take"] for f in findings_of(assess(session), "moved_since_take")]
    assert sorted(map(str, told)) == ["Take 1", "Take 2"]


def test_another_layer_is_neither_moved_nor_missing(mended: Session) -> None:
    session = add_double(taken(mended, -7.8, -7.8, whole=True), "voice")
    assert not findings_of(assess(session), "moved_since_take")
    back = turn_to_layer(session, "evening")
    assert not findings_of(assess(back), "moved_since_take")
    gone = remove_line(back, "voice")
    assert "Voice is gone" in only(gone, "moved_since_take").cost


def test_a_take_that_clipped_is_told(mended: Session) -> None:
    finding = only(taken(mended, 0.0, -7.8, clipped=120), "take_clipped", "voice")
    assert "120 samples" in finding.cost


def test_a_take_unlike_its_prediction_is_told(mended: Session) -> None:
    finding = only(taken(mended, -14.0, -7.8), "take_surprises", "voice")
    assert "quieter" in finding.title
    assert findings_of(assess(taken(mended, -8.5, -7.8)), "take_surprises") == []


def test_a_knob_that_moved_since_the_take_is_put_back(mended: Session, put: Put) -> None:
    session = put(taken(mended, -7.8, -7.8), "interface", "in.1", "gain_db", 20.0)
    finding = only(session, "moved_since_take")
    assert "gain" in finding.cost
    after = mends(session, finding)
    assert after.setup == mended.setup


@pytest.mark.parametrize(
    ("owner", "channel", "name", "value", "says"),
    [
        ("voice_mic", "capsule", "distance_m", 0.24, "Voice"),
        ("voice_mic", "capsule", "foam", True, "Voice"),
        ("harp_mic_left", "capsule", "distance_m", 0.3, "Harp left"),
    ],
)
def test_what_changes_a_level_says_by_how_much_and_asks_for_a_check(
    mended: Session, put: Put, owner: str, channel: str, name: str, value: object, says: str
) -> None:
    before = taken(mended, -7.8, -7.8, whole=True)
    session = put(before, owner, channel, name, value)
    finding = only(session, "moved_since_take")
    line_id = "voice" if says == "Voice" else "harp_left"
    was, now = assess(before).line(line_id), assess(session).line(line_id)
    assert was is not None
    assert now is not None
    by_db = (now.state.peak_dbfs or 0.0) - (was.state.peak_dbfs or 0.0)
    way = "louder" if by_db > 0.0 else "quieter"
    if abs(by_db) >= 0.5:
        assert f"{says} {abs(by_db):.1f} dB {way}" in finding.cost
    assert "check the level" in finding.advice


@pytest.mark.parametrize("other", ["voice_speaking", "voice_whispered", "voice_low"])
def test_another_voice_or_speaking_instead_of_singing_asks_for_a_check(
    mended: Session, other: str
) -> None:
    before = taken(mended, -7.8, -7.8)
    session = replace_source(before, "singer_voice", catalogue().sources[other].figures)
    finding = only(session, "moved_since_take")
    was, now = assess(before).line("voice"), assess(session).line("voice")
    assert was is not None
    assert now is not None
    by_db = (now.state.peak_dbfs or 0.0) - (was.state.peak_dbfs or 0.0)
    assert abs(by_db) > 0.5
    way = "louder" if by_db > 0.0 else "quieter"
    assert f"Voice {abs(by_db):.1f} dB {way}" in finding.cost
    assert "check the level" in finding.advice


def test_after_a_rehearsal_of_all_lines_nothing_is_left(mended: Session) -> None:
    once = taken(mended, -7.8, -7.8)
    assert "Record a test take" in assess(once).next.sentence
    tracks = tuple(
        replace(once.takes[0].tracks[0], line=line.id, name=line.name)
        for line in mended.setup.lines
    )
    whole = mended.model_copy(
        update={"takes": (once.takes[0].model_copy(update={"tracks": tracks}),)}
    )
    assessment = assess(whole)
    assert assessment.next.sentence == (
        "Take 1 is clean, and every setting is as it was then. "
        "Worth knowing: Cello bridge loses its bass below 99 Hz."
    )
    assert assessment.done_steps() == frozenset(STEPS)


# ── all of them ───────────────────────────────────────────────────────────────────────────────
def test_another_target_moves_the_window_of_every_line(mended: Session) -> None:
    for level_target in ("average", "peaks", "hot", "ceiling"):
        session = follow(set_level_target(mended, level_target))
        for item in assess(session).lines:
            peak = item.predicted_peak_dbfs("hardest")
            assert peak is not None
            assert item.target.lowest_dbfs - 0.1 <= peak <= item.target.highest_dbfs + 0.1


def test_assessing_changes_nothing_and_is_the_same_twice(demo: Session) -> None:
    first, second = assess(demo), assess(demo)
    assert first.findings == second.findings
    assert first.next == second.next
    assert first.session is demo


def test_a_session_without_one_of_its_lines_says_the_same_of_the_others(demo: Session) -> None:
    whole, part = assess(demo), assess(remove_line(demo, "baritone_line"))
    for item in part.lines:
        other = whole.line(item.line.id)
        assert other is not None
        assert other.state.peak_dbfs == item.state.peak_dbfs
        assert other.noise_dbfs_a == item.noise_dbfs_a


def test_a_microphone_at_half_the_distance_is_six_decibels_louder(alone: Session) -> None:
    # Of a point, for a microphone that hears no nearness.
    point = source_changed(alone, "singer_voice", extent_m=0.0)
    plain = figures_changed(point, "voice_mic", pattern="omni")

    def peak(distance_m: float) -> float:
        change = Change(owner="voice_mic", channel="capsule", name="distance_m", value=distance_m)
        item = assess(set_control(plain, change)).line("voice")
        assert item is not None
        assert item.state.peak_dbfs is not None
        return item.state.peak_dbfs

    assert peak(0.1) - peak(0.2) == pytest.approx(6.0206, abs=1e-3)


def test_lines_that_fit_alone_are_too_loud_together_on_one_bus(mended: Session, put: Put) -> None:
    together = put(mended, "mixer", "in.4", "pan", -1.0)
    assert findings_of(assess(together), "bus_too_loud") == []
    item = assess(together).line("organ_l")
    assert item is not None
    trim = item.state.level_control()
    assert trim is not None

    def trimmed(up_db: float) -> Session:
        session = together
        for channel in ("in.3", "in.4"):
            session = put(session, "mixer", channel, "gain_db", float(trim.value or 0.0) + up_db)
        return session

    finding = only(trimmed(1.5), "bus_too_loud")
    assert finding.severity == "mend"
    mends(trimmed(1.5), finding)
    kept = lock_control(trimmed(1.5), "mixer", "in.3", "gain_db", is_locked=True)
    told = only(kept, "bus_too_loud")
    assert told.remedy is not None
    assert ("mixer", "in.3", "gain_db") not in {
        (c.owner, c.channel, c.name) for c in told.remedy.changes
    }
    mends(kept, told)
    around = apply_changes(kept, all_changes(optimum(kept)))
    assert findings_of(assess(around), "bus_too_loud") == []
    louder = trimmed(5.0)
    assert [f.rule for f in findings_of(assess(louder), "above_window")] != []
    assert findings_of(assess(louder), "bus_too_loud") == [], "each alone is told first"


def test_a_piezo_into_a_megohm_loses_its_bass(mended: Session) -> None:
    finding = only(mended, "bass_thin")
    assert finding.severity == "know"
    # 1.2 nF, and the cable and the input across it, into 1 MΩ.
    item = assess(mended).line("cello_line")
    assert item is not None
    (step,) = item.route.steps
    cable = step.cable
    assert cable is not None
    across = cable.capacitance_f_per_m * cable.length_m
    assert step.mode_figures is not None
    across += step.mode_figures.input_capacitance_f
    corner_hz = 1.0 / (2.0 * math.pi * 1e6 * (1.2e-9 + across))
    assert finding.facts[0].text == f"{corner_hz:.0f} Hz"


def test_too_much_current_leaves_too_little_voltage(mended: Session) -> None:
    hungry = figures_changed(mended, "harp_mic_left", phantom_current_ma=7.0)
    finding = only(hungry, "phantom_sags", "harp_left")
    # 48 V − 6,810 Ω × 7 mA ÷ 2.
    assert finding.facts[0].text == "24.2 V"
    assert findings_of(assess(mended), "phantom_sags") == []


def test_its_own_least_voltage_is_asked_for(mended: Session) -> None:
    frugal = figures_changed(mended, "harp_mic_left", phantom_current_ma=7.0, phantom_least_v=11.0)
    assert findings_of(assess(frugal), "phantom_sags") == []
    choosy = figures_changed(mended, "harp_mic_left", phantom_current_ma=2.0, phantom_least_v=44.0)
    finding = only(choosy, "phantom_sags", "harp_left")
    assert finding.severity == "mend"
    assert "It wants 44 V" in finding.cost
    # 48 V − 6,810 Ω × 2 mA ÷ 2.
    assert finding.facts[0].text == "41.2 V"


def test_phantom_power_into_an_output_is_told(mended: Session, put: Put) -> None:
    entries = catalogue()
    part = ChainLine(
        suffix="",
        source="keyboard_output",
        devices=(),
        cables=("xlr_to_jack_3",),
        mode="microphone",
    )
    chain = Chain(id="x", name="x", line_name="Keys", says="x", lines=(part,))
    session, line_id = add_chain(Session(), entries, chain)
    recorder = assess(session).lines[0].state.route.recorder
    assert recorder is not None
    switch = recorder.controls["phantom"]
    on = put(session, switch.owner, switch.channel, "phantom", True)
    finding = only(on, "phantom_harms", line_id)
    assert "made to give and not to take" in finding.cost
    mends(on, finding)
    bears = source_changed(on, on.setup.sources[0].id, phantom="tolerates")
    assert findings_of(assess(bears), "phantom_harms") == []


def test_a_mixers_output_gets_no_phantom_power(mended: Session, put: Put) -> None:
    links = tuple(
        link.model_copy(update={"end": "interface:in.5"}) if link.end == "interface:in.7" else link
        for link in mended.setup.links
    )
    session = with_setup(mended, links=links)
    item = assess(session).line("organ_l")
    assert item is not None
    recorder = item.state.route.recorder
    assert recorder is not None
    mode = put(session, "interface", recorder.in_port, "mode", "microphone")
    assert findings_of(assess(mode), "phantom_harms") == []
    switch = recorder.controls["phantom"]
    on = put(mode, switch.owner, switch.channel, "phantom", True)
    finding = only(on, "phantom_harms", "organ_l")
    assert "Small mixer" in finding.title
    line_in = put(on, "interface", recorder.in_port, "mode", "line")
    assert findings_of(assess(line_in), "phantom_harms") == [], "a line input gives none"


def split(session: Session, port: str, line: str = "harp_left") -> Session:
    """The harp's left microphone through a splitter, taken from one of its outputs."""
    item = assess(session).line(line)
    assert item is not None
    link = item.state.route.steps[1].link
    figures = catalogue().devices["splitter"].figures
    assert is_device_figures(figures)
    return insert_device(session, link.id, figures, "Splitter", port)


def test_a_splitter_lets_phantom_power_through_on_one_side_only(mended: Session) -> None:
    direct = split(mended, "direct")
    assert findings_of(assess(direct), "phantom_blocked") == []
    left = assess(direct).line("harp_left")
    assert left is not None
    assert left.is_alive
    isolated = split(mended, "isolated")
    finding = only(isolated, "phantom_blocked", "harp_left")
    assert finding.severity == "stop"
    item = assess(isolated).line("harp_left")
    assert item is not None
    assert not item.is_alive
    after = assess(mends(isolated, finding)).line("harp_left")
    assert after is not None
    assert after.is_alive


def test_what_needs_power_behind_a_splitter_is_not_the_splitters_fault(mended: Session) -> None:
    figures = catalogue().devices["inline_preamp"].figures
    assert is_device_figures(figures)
    isolated = mends(split(mended, "isolated"), only(split(mended, "isolated"), "phantom_blocked"))
    item = assess(isolated).line("harp_left")
    assert item is not None
    link = item.state.route.steps[-1].link
    session = insert_device(isolated, link.id, figures, "Inline behind")
    recorder = item.state.route.recorder
    assert recorder is not None
    switch = recorder.controls["phantom"]
    off = set_control(
        session,
        Change(owner=switch.owner, channel=switch.channel, name="phantom", value=False),
    )
    finding = only(off, "phantom_missing", "harp_left")
    assert "Inline behind" in finding.title
    after = assess(mends(off, finding)).line("harp_left")
    assert after is not None
    assert after.is_alive


def test_a_microphone_behind_a_box_that_keeps_its_power_is_told(mended: Session) -> None:
    figures = catalogue().devices["condenser_small"].figures
    session = replace_device(mended, "voice_mic", figures, "Condenser")
    finding = only(session, "phantom_blocked", "voice")
    assert finding.title == "Inline preamp blocks phantom power to Condenser"
    assert finding.remedy is None, "no switch helps"
    assert findings_of(assess(session), "phantom_missing") == []


def test_a_microphone_in_a_line_input_gets_its_power_with_the_right_mode(
    mended: Session, put: Put
) -> None:
    item = assess(mended).line("harp_left")
    assert item is not None
    recorder = item.state.route.recorder
    assert recorder is not None
    for is_on in (True, False):
        switch = recorder.controls["phantom"]
        session = put(mended, switch.owner, switch.channel, "phantom", is_on)
        session = put(session, "interface", recorder.in_port, "mode", "line")
        finding = only(session, "phantom_missing", "harp_left")
        assert "a microphone input" in finding.advice
        after = assess(mends(session, finding)).line("harp_left")
        assert after is not None
        assert after.is_alive


def test_power_that_reaches_nothing_in_need_is_idle(mended: Session, put: Put) -> None:
    fed_there = mends(split(mended, "isolated"), only(split(mended, "isolated"), "phantom_blocked"))
    finding = only(fed_there, "phantom_idle", "harp_left")
    mends(fed_there, finding)


def test_a_splitter_loads_the_microphone_with_the_other_desk(mended: Session) -> None:
    """Closed form: the other desk's input lies across what was there."""
    before = assess(mended).line("harp_left")
    after = assess(split(mended, "direct")).line("harp_left")
    assert before is not None
    assert after is not None
    figures = before.state.route.steps[0].figures
    assert isinstance(figures, MicrophoneFigures)
    recorder = before.state.route.recorder
    assert recorder is not None
    assert recorder.mode_figures is not None
    own = recorder.mode_figures.input_impedance_ohm
    gives, other = figures.output_impedance_ohm, 2400.0
    both = own * other / (own + other)
    lost_db = 20.0 * math.log10((both / (both + gives)) / (own / (own + gives)))
    assert before.state.peak_dbfs is not None
    assert after.state.peak_dbfs == pytest.approx(before.state.peak_dbfs + lost_db, abs=0.05)


def test_a_valve_amplifier_without_its_load_stops(mended: Session, put: Put) -> None:
    figures = catalogue().sources["valve_amplifier_speaker_output"].figures
    session = replace_source(mended, "organ_left", figures)
    assert findings_of(assess(session), "valve_without_load") == []
    bare = put(session, "organ_left", "out", "load", False)
    finding = only(bare, "valve_without_load", "organ_l")
    assert finding.severity == "stop"
    assert "licensed" in finding.caution
    mends(bare, finding)
    plain = replace_source(
        mended, "organ_left", catalogue().sources["amplifier_speaker_output"].figures
    )
    bare = put(plain, "organ_left", "out", "load", False)
    assert findings_of(assess(bare), "valve_without_load") == []


def test_phantom_power_over_a_jack_is_told_and_switched_off(mended: Session) -> None:
    jack = catalogue().cables["xlr_to_jack_3"].figures
    links = tuple(
        link.model_copy(update={"cable": jack}) if link.id == "harp_cable_left" else link
        for link in mended.setup.links
    )
    session = with_setup(mended, links=links)
    finding = only(session, "phantom_over_jack", "harp_left")
    assert finding.severity == "mend"
    assert finding.caution
    # The microphone lives on it: the cable has to change, not the switch.
    assert finding.remedy is None
    assert "an XLR cable" in finding.advice
    moving_coil = catalogue().devices["moving_coil"]
    one, other = (
        next(d.id for d in mended.setup.devices if d.id == link.start.split(":")[0])
        for link in mended.setup.links
        if link.end in {"interface:in.2", "interface:in.3"}
    )
    for device in (one, other):
        session = replace_device(session, device, moving_coil.figures, moving_coil.name)
    mends(session, only(session, "phantom_over_jack", "harp_left"))


def test_loudspeaker_level_into_an_input_stops(mended: Session, put: Put) -> None:
    figures = catalogue().sources["amplifier_speaker_output"].figures
    session = replace_source(mended, "organ_left", figures)
    finding = only(session, "loudspeaker_level")
    assert finding.severity == "stop"
    assert "without its load" in finding.caution
    boxed = replace_source(mended, "baritone", figures)
    assert only(boxed, "loudspeaker_level").line == "baritone_line"
    padded = put(boxed, "di", "in", "pad_db", 20.0)
    assert findings_of(assess(padded), "loudspeaker_level") == []


def test_lines_on_two_recorders_are_told_that_clocks_part() -> None:
    entries = catalogue()
    session, _ = add_chain(Session(), entries, entries.chain("voice_usb"))
    session, _ = add_chain(session, entries, entries.chain("voice_moving_coil"), "Second")
    finding = only(session, "separate_recorders")
    assert finding.severity == "know"
    # 50 millionths of a minute.
    assert "3 ms a minute" in finding.cost


def test_there_are_at_least_twelve_rules_and_all_are_tried_here(demo: Session) -> None:
    from pathlib import Path

    from verve.core.findings import RULES

    named = set(RULES)
    beside = Path(__file__).parent / "monitor" / "test_who_hears_what.py"
    here = Path(__file__).read_text() + beside.read_text()
    assert len(named) >= 12
    for rule in named:
        assert f'"{rule}"' in here, f"no test breaks {rule}"


def test_figures_of_a_microphone_that_cannot_be_are_refused() -> None:
    with pytest.raises(ValueError, match="sensitivity_mv_per_pa"):
        MicrophoneFigures(principle="ribbon", sensitivity_mv_per_pa=0.0, output_impedance_ohm=150.0)


def test_a_circle_is_told_and_pulling_its_cable_mends_it() -> None:
    from tests.core.network.test_meeting import circle

    session = circle(0.0)
    only(session, "feedback", "line_keys")
    links = tuple(x for x in session.setup.links if x.end != "desk:in.2")
    assert not findings_of(assess(with_setup(session, links=links)), "feedback")


def test_the_last_sentence_before_recording_tells_the_worst_that_is_left(mended: Session) -> None:
    setup = mended.setup
    loud = setup.model_copy(update={"room": setup.room.model_copy(update={"noise_dba": 62.0})})
    session = follow(mended.model_copy(update={"setup": loud}))
    thing = assess(session).next
    assert thing.action == "go"
    assert "corridor" not in thing.sentence
    assert "quiet passages will show the room’s noise" in thing.sentence
    assert thing.line is not None
    assert "above the noise" in thing.why
