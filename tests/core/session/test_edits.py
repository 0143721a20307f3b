"""Edits are pure: undo gives the equal session, redo too, and a refused edit changes nothing."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.session.test_sounds import sound
from verve.core.catalogue import add_chain, catalogue
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.kind import PlayingRange
from verve.core.session import (
    Aim,
    Audio,
    Brief,
    Change,
    Compared,
    Comparison,
    Computer,
    Cue,
    Figure,
    History,
    LearnedTrip,
    Mix,
    MixLine,
    Monitoring,
    Placement,
    RecordingOffset,
    Room,
    Section,
    Session,
    Shopping,
    Snapshot,
    Song,
    Source,
    Stand,
    Take,
    TakeTrack,
    Thing,
    Tuning,
    Wish,
    add_beside,
    add_double,
    add_kit,
    add_part,
    add_pass,
    add_section,
    add_sound,
    add_take,
    add_thing,
    add_wish,
    apply_changes,
    arm_line,
    assign_signal,
    change_cue,
    change_later,
    change_mix_line,
    change_monitoring,
    change_part,
    change_pass,
    change_section,
    change_sound,
    change_spot,
    change_thing,
    choose_spot,
    choose_take,
    cleared_for,
    controls_of,
    decline_tuning,
    edit_take,
    fix_line,
    forget_trip,
    free_identifier,
    insert_device,
    keep_patch,
    learn_dial,
    learn_trip,
    lock_control,
    log_comparison,
    move_input,
    move_layer,
    move_sound,
    name_settings,
    next_take,
    note_playing,
    note_spot,
    place_microphone,
    place_source,
    put_aside,
    put_in_set,
    remove_beside,
    remove_comparison,
    remove_line,
    remove_part,
    remove_pass,
    remove_section,
    remove_settings,
    remove_sound,
    remove_spot,
    remove_take,
    remove_thing,
    remove_wish,
    rename_line,
    rename_session,
    replace_device,
    replace_source,
    restore_take,
    routes,
    set_a4,
    set_audio,
    set_brief,
    set_computer,
    set_control,
    set_hour,
    set_kit,
    set_later,
    set_level_target,
    set_line_level_target,
    set_mix,
    set_monitoring,
    set_own_aim,
    set_placement,
    set_playing,
    set_recording_offset,
    set_room,
    set_shopping,
    set_song,
    set_tuning,
    split_pass,
    spot_of,
    take_out_device,
    to_json,
    tuned,
    turn_to_layer,
    use_settings,
    with_layer,
    with_patch,
)


def take_of(session: Session, number: int = 1) -> Take:
    return Take(
        id=f"take_{number}",
        name=f"Take {number}",
        recorded_at="2026-05-04T20:15:00+02:00",
        seconds=10.0,
        play="phrase",
        tracks=(
            TakeTrack(
                line="voice",
                name="Voice",
                file="Take 1/Voice.wav",
                peak_dbfs=Figure(measured=-8.1, predicted=-8.0),
                noise_dbfs_a=Figure(measured=-90.0, predicted=-90.5),
                rms_dbfs=-20.0,
                clipped_frames=0,
            ),
        ),
        setup=Snapshot.of(session.setup),
    )


DEMO = demo_session()
GAIN = Change(owner="interface", channel="in.1", name="gain_db", value=20.0)

FAN = Thing(id="fan", name="Fan", kind="fan", stand=Stand(x_m=1.0, y_m=1.0), level_dba=42.0)


def with_fan(session: Session) -> Session:
    """The session with one fan in its room, whatever stood there."""
    return set_placement(session, Placement(things=(FAN,)))


TRIP = LearnedTrip(buffer_frames=64, sample_rate_hz=48_000.0, round_trip_ms=9.0)
OFFSET = RecordingOffset(frames=-3.0, buffer_frames=64, sample_rate_hz=48_000.0)
GUITAR = Source(id="guitar", name="Guitar", figures=catalogue().sources["acoustic_guitar"].figures)


def with_spot(session: Session) -> Session:
    """One spot of the left harp microphone."""
    return note_spot(session, "harp_mic_left:capsule", Aim(bearing_deg=20.0))[0]


COMPARED = Comparison(
    id="x",
    at="2026-05-04T20:15:00",
    title="Two places",
    compared=(
        Compared(name="Near", file="/x/1.wav"),
        Compared(name="Far", file="/x/2.wav", votes=3),
    ),
    chosen=1,
)
EDITS: dict[str, Callable[[Session], Session]] = {
    "set_control": lambda s: set_control(s, GAIN),
    "apply_changes": lambda s: apply_changes(
        s, (GAIN, Change(owner="voice_mic", channel="capsule", name="distance_m", value=0.2))
    ),
    "lock_control": lambda s: lock_control(s, "interface", "in.1", "gain_db", is_locked=True),
    "set_playing": lambda s: set_playing(
        s,
        "singer_voice",
        PlayingRange(softest_db=70.0, typical_db=85.0, hardest_db=99.0),
        "in Take 1",
    ),
    "set_hour": lambda s: set_hour(s, "interface", "in.1", 13.5),
    "log_comparison": lambda s: log_comparison(s, COMPARED),
    "remove_comparison": lambda s: remove_comparison(log_comparison(s, COMPARED), "comparison_1"),
    "learn_dial": lambda s: learn_dial(s, "interface", "in.1", ((7.0, 0.0), (17.0, 60.0))),
    "add_double": lambda s: add_double(s, "voice"),
    "with_layer": with_layer,
    "move_layer": lambda s: move_layer(s, "finale", -1),
    "arm_line": lambda s: arm_line(s, "voice", is_armed=False),
    "set_song": lambda s: set_song(s, Song(tempo_bpm=92.0, key="D")),
    "add_section": lambda s: add_section(s, "Chorus", 10.0, 20.0)[0],
    "change_section": lambda s: change_section(
        add_section(s, "Chorus", 10.0, 20.0)[0],
        Section(id="chorus", name="Refrain", start_s=11.0, end_s=20.0),
    ),
    "remove_section": lambda s: remove_section(add_section(s, "Chorus", 10.0, 20.0)[0], "chorus"),
    "set_tuning": lambda s: set_tuning(s, Tuning(asked="each")),
    "put_aside": lambda s: put_aside(
        add_take(add_take(s, take_of(s, 2)), take_of(s, 3)), "take_1", is_aside=True
    ),
    "note_playing": lambda s: note_playing(s, s.takes[0].id, "voice", -12.0, 4.0),
    "tuned": tuned,
    "decline_tuning": lambda s: decline_tuning(s, "2026-05-04"),
    "name_settings": lambda s: name_settings(s, "voice", "sing")[0],
    "use_settings": lambda s: use_settings(*name_settings(s, "voice", "sing")),
    "remove_settings": lambda s: remove_settings(*name_settings(s, "voice", "sing")),
    "choose_take": lambda s: choose_take(s, "voice", None, s.takes[0].id),
    "set_mix": lambda s: set_mix(s, Mix(duck_lu=3.0)),
    "change_mix_line": lambda s: change_mix_line(s, MixLine(line="voice", standing="lead")),
    "turn_to_layer": lambda s: turn_to_layer(add_double(s, "voice"), "evening"),
    "cleared_for": lambda s: cleared_for(s, "finale"),
    "keep_patch": keep_patch,
    "with_patch": lambda s: with_patch(s, "finale", s.setup),
    "rename_session": lambda s: rename_session(s, "Another evening"),
    "rename_line": lambda s: rename_line(s, "voice", "Lead"),
    "remove_line": lambda s: remove_line(s, "voice"),
    "set_level_target": lambda s: set_level_target(s, "peaks"),
    "set_own_aim": lambda s: set_own_aim(s, -10.0),
    "set_line_level_target": lambda s: set_line_level_target(s, "voice", "hot"),
    "set_audio": lambda s: set_audio(s, Audio(sample_rate_hz=96000)),
    "set_room": lambda s: set_room(s, Room(name="Barn", noise_dba=40.0)),
    "add_chain": lambda s: add_chain(s, catalogue(), catalogue().chains[0], "New")[0],
    "add_take": lambda s: add_take(s, take_of(s, 2)),
    "edit_take": lambda s: edit_take(
        s, "take_1", notes="Good", rating=4, name="The one", start_s=2.5
    ),
    "remove_take": lambda s: remove_take(s, "take_1"),
    "exchange_device": lambda s: replace_device(
        s, "voice_mic", catalogue().devices["ribbon"].figures, "Ribbon"
    ),
    "insert_device": lambda s: insert_device(
        s, "voice_cable", catalogue().devices["splitter"].figures, "Splitter", "direct"
    ),
    "take_out_device": lambda s: take_out_device(s, "inline"),
    "exchange_source": lambda s: replace_source(
        s, "singer_voice", catalogue().sources["voice_low"].figures
    ),
    "add_pass": lambda s: add_pass(s, "Encore")[0],
    "change_pass": lambda s: change_pass(
        s, DEMO.brief.passes[0].model_copy(update={"name": "The songs again"})
    ),
    "remove_pass": lambda s: remove_pass(s, "finale"),
    "split_pass": lambda s: split_pass(s, "evening", ("voice",)),
    "add_part": lambda s: add_part(s, "evening", DEMO.brief.parts[0])[0],
    "change_part": lambda s: change_part(
        s, DEMO.brief.parts[0].model_copy(update={"performer": "Somebody else"})
    ),
    "remove_part": lambda s: remove_part(s, "harp"),
    "set_brief": lambda s: set_brief(s, Brief()),
    "set_later": lambda s: set_later(s, None),
    "set_kit": lambda s: set_kit(s, s.kit[1:]),
    "add_kit": lambda s: add_kit(s, DEMO.kit[0])[0],
    "set_shopping": lambda s: set_shopping(s, Shopping(currency="fr.")),
    "add_wish": lambda s: add_wish(s, Wish(id="x", name="Tape"))[0],
    "remove_wish": lambda s: remove_wish(s, "stand"),
    "put_in_set": lambda s: put_in_set(s, "drum_mic", "large"),
    "change_later": lambda s: change_later(s, lambda x: remove_part(x, "frame_drum")),
    "set_computer": lambda s: set_computer(s, Computer(memory_gb=32.0)),
    "fix_line": lambda s: fix_line(s, "voice", is_fixed=True),
    "move_input": lambda s: move_input(s, "cello_line", "in.5", "instrument"),
    "add_sound": lambda s: add_sound(s, sound(1)),
    "assign_signal": lambda s: assign_signal(add_sound(s, sound(1)), "sound_1", 0, "voice"),
    "change_sound": lambda s: change_sound(add_sound(s, sound(1)), sound(1, name="Renamed")),
    "move_sound": lambda s: move_sound(add_sound(s, sound(1)), "sound_1", "/elsewhere/a.wav"),
    "remove_sound": lambda s: remove_sound(add_sound(s, sound(1)), "sound_1"),
    "set_a4": lambda s: set_a4(s, 415.0),
    "set_placement": lambda s: set_placement(s, Placement(things=(FAN,))),
    "set_monitoring": lambda s: set_monitoring(s, Monitoring(cues=(Cue(who="harpist"),))),
    "change_cue": lambda s: change_cue(s, "harpist", {"worn": "in_ears"}),
    "change_monitoring": lambda s: change_monitoring(s, {"tracks": 24}),
    "learn_trip": lambda s: learn_trip(s, TRIP),
    "forget_trip": lambda s: forget_trip(learn_trip(s, TRIP), TRIP),
    "set_recording_offset": lambda s: set_recording_offset(s, OFFSET),
    "add_beside": lambda s: add_beside(s, "singer_voice", GUITAR)[0],
    "remove_beside": lambda s: remove_beside(add_beside(s, "singer_voice", GUITAR)[0], "guitar"),
    "note_spot": lambda s: note_spot(s, "harp_mic_left:capsule", Aim(bearing_deg=10.0), "Nearer")[
        0
    ],
    "change_spot": lambda s: change_spot(
        with_spot(s), spot_of(with_spot(s), "spot").model_copy(update={"name": "By the window"})
    ),
    "choose_spot": lambda s: choose_spot(with_spot(s), "spot", "2026-11-27T10:00:00"),
    "remove_spot": lambda s: remove_spot(with_spot(s), "spot"),
    "place_source": lambda s: place_source(s, "harp", Stand(x_m=3.0, y_m=2.0)),
    "place_microphone": lambda s: place_microphone(
        s, "voice_mic:capsule", Aim(bearing_deg=20.0), distance_m=0.2, angle_deg=30.0
    ),
    "add_thing": lambda s: add_thing(s, FAN)[0],
    "change_thing": lambda s: change_thing(with_fan(s), FAN.model_copy(update={"is_on": False})),
    "remove_thing": lambda s: remove_thing(with_fan(s), "fan"),
    "restore_take": lambda s: restore_take(set_control(s, GAIN), "take_1"),
}

REFUSED: dict[str, tuple[Callable[[Session], Session], str]] = {
    "loudness of nobody": (
        lambda s: set_playing(
            s, "tuba", PlayingRange(softest_db=1.0, typical_db=2.0, hardest_db=3.0), ""
        ),
        "tuba: must be a source",
    ),
    "loudness that falls": (
        lambda s: set_playing(
            s, "singer_voice", PlayingRange(softest_db=9.0, typical_db=2.0, hardest_db=3.0), ""
        ),
        "must rise from softest to hardest",
    ),
    "hour no knob has": (lambda s: set_hour(s, "interface", "in.1", 20.0), "at most 17"),
    "dial that falls": (
        lambda s: learn_dial(s, "interface", "in.1", ((7.0, 10.0), (9.0, 5.0))),
        "must rise in hour and gain",
    ),
    "comparison nobody logged": (lambda s: remove_comparison(s, "x"), "must be a comparison"),
    "source nobody has": (
        lambda s: place_source(s, "tuba", Stand(x_m=1.0, y_m=1.0)),
        "tuba: must be a source",
    ),
    "no microphone": (
        lambda s: place_microphone(s, "interface:in.1", Aim()),
        "must be a microphone",
    ),
    "microphone in its source": (
        lambda s: place_microphone(s, "voice_mic:capsule", Aim(), distance_m=0.0),
        "Distance",
    ),
    "a round trip that is not there": (
        lambda s: forget_trip(s, TRIP),
        "round trip: must be one of this session",
    ),
    "no such spot": (lambda s: choose_spot(s, "spot", ""), "spot: must be a spot"),
    "a spot of no microphone": (
        lambda s: note_spot(s, "interface:in.1", Aim())[0],
        "interface:in.1: must be a microphone",
    ),
    "a spot with a recording that is not there": (
        lambda s: change_spot(
            with_spot(s), spot_of(with_spot(s), "spot").model_copy(update={"sound": "gone"})
        ),
        "gone: must be a sound file",
    ),
    "no such thing": (lambda s: remove_thing(s, "fan"), "fan: must be something"),
    "fan louder than any": (
        lambda s: change_thing(with_fan(s), FAN.model_copy(update={"level_dba": 300.0})),
        "level_dba",
    ),
    "a target above the end of the scale": (lambda s: set_own_aim(s, 3.0), "must be −40 to −1"),
    "a target for no signal": (
        lambda s: set_line_level_target(s, "nothing", "hot"),
        "must be a signal of this session",
    ),
    "a box into the air": (
        lambda s: insert_device(
            s, s.setup.lines[0].first_link, catalogue().devices["splitter"].figures, "Splitter"
        ),
        "must be a cable",
    ),
    "a microphone into a cable": (
        lambda s: insert_device(s, "voice_cable", catalogue().devices["ribbon"].figures, "Ribbon"),
        "cannot stand in the middle",
    ),
    "a recorder out of a signal": (lambda s: take_out_device(s, "interface"), "in the middle"),
    "no such owner": (
        lambda s: set_control(s, Change(owner="x", channel="in", name="gain_db", value=0.0)),
        "must be a control of this session",
    ),
    "a part that cannot be taken so": (
        lambda s: change_part(s, DEMO.brief.parts[0].model_copy(update={"capture": "stereo"})),
        "needs something with a plug",
    ),
    "no such part": (
        lambda s: change_part(s, DEMO.brief.parts[0].model_copy(update={"id": "nobody"})),
        "must be a part of this session",
    ),
    "no such pass": (lambda s: add_part(s, "never", DEMO.brief.parts[0])[0], "must be a pass"),
    "played over itself": (
        lambda s: change_pass(s, DEMO.brief.passes[0].model_copy(update={"over": ("evening",)})),
        "must name another pass",
    ),
    "a kit with one thing twice": (
        lambda s: set_kit(s, (DEMO.kit[0], DEMO.kit[0])),
        "must stand only once",
    ),
    "less than nothing in the kit": (
        lambda s: set_kit(s, (DEMO.kit[0].model_copy(update={"quantity": -1}),)),
        "at least 0",
    ),
    "no such signal to keep": (
        lambda s: fix_line(s, "nothing", is_fixed=True),
        "must be a signal of this session",
    ),
    "a socket that is taken": (
        lambda s: move_input(s, "cello_line", "in.1", "microphone"),
        "is taken already",
    ),
    "a socket that cannot do that": (
        lambda s: move_input(s, "voice", "in.5", "nothing"),  # type: ignore[arg-type]
        "cannot be a nothing input",
    ),
    "no such control": (
        lambda s: set_control(s, Change(owner="inline", channel="in", name="gain_db", value=0.0)),
        "must be a control of this session",
    ),
    "out of range": (
        lambda s: set_control(
            s, GAIN.__class__(owner="interface", channel="in.1", name="gain_db", value=99.0)
        ),
        "Gain: must be 0 to 60 dB; got 99.0",
    ),
    "a text for a number": (
        lambda s: set_control(
            s, Change(owner="interface", channel="in.1", name="gain_db", value="x")
        ),
        "Gain: must be 0 to 60 dB",
    ),
    "a number for a switch": (
        lambda s: set_control(
            s, Change(owner="interface", channel="phantom.1", name="phantom", value=1.0)
        ),
        "must be on or off",
    ),
    "no such mode": (
        lambda s: set_control(
            s, Change(owner="interface", channel="in.1", name="mode", value="instrument")
        ),
        "must be one of microphone, line",
    ),
    "empty title": (lambda s: rename_session(s, "  \t "), "at least one visible character"),
    "long title": (lambda s: rename_session(s, "x" * 81), "at most 80 characters; got 81"),
    "name of another signal": (
        lambda s: rename_line(s, "voice", "Harp left"),
        "is the name of another signal",
    ),
    "unknown signal": (lambda s: rename_line(s, "nobody", "X"), "must be a signal of this session"),
    "unknown signal to remove": (lambda s: remove_line(s, "nobody"), "must be a signal"),
    "unknown take": (lambda s: restore_take(s, "take_9"), "must be a take of this session"),
    "rating too high": (
        lambda s: edit_take(s, "take_1", rating=6),
        "Rating: must be 0 to 5; got 6",
    ),
    "beginning of a take too late": (
        lambda s: edit_take(s, "take_1", start_s=20_000.0),
        "Beginning in the song: must be -10000 to 10000 s; got 20000",
    ),
    "take without a name": (lambda s: edit_take(s, "take_1", name=""), "visible character"),
}


@pytest.fixture
def session(demo: Session) -> Session:
    return add_take(demo, take_of(demo))


@pytest.mark.parametrize("name", EDITS)
def test_undo_gives_the_equal_session_and_redo_too(session: Session, name: str) -> None:
    before = to_json(session)
    history = History(session)
    changed = EDITS[name](session)
    assert to_json(session) == before, "an edit must not touch the session it was given"
    pushed = history.push(name, changed)
    if changed == session:
        assert pushed is history
        return
    undone = pushed.undo()
    assert undone.session == session
    assert undone.redo().session == changed
    assert undone.undone[-1].label == name


@pytest.mark.parametrize("name", REFUSED)
def test_a_refused_edit_says_why_and_changes_nothing(session: Session, name: str) -> None:
    before = to_json(session)
    edit, said = REFUSED[name]
    with pytest.raises(EditError, match=said):
        edit(session)
    assert to_json(session) == before


@given(
    link=st.sampled_from(sorted(x.id for x in DEMO.setup.links if x.cable is not None)),
    box=st.sampled_from(["splitter", "inline_preamp", "passive_di", "active_di"]),
)
def test_a_box_put_in_and_taken_out_leaves_every_line_as_it_was(link: str, box: str) -> None:
    before = demo_session()
    figures = catalogue().devices[box].figures
    within = insert_device(before, link, figures, "New box")
    (added,) = {d.id for d in within.setup.devices} - {d.id for d in before.setup.devices}
    through = [r for r in routes(within.setup) if any(h.owner == added for h in r.steps)]
    assert through
    assert all(route.is_complete for route in through)
    after = take_out_device(within, added)
    assert after.setup == before.setup


def test_every_public_edit_is_tried_here() -> None:
    import verve.core.session._brief_edits as brief
    import verve.core.session._edits as edits
    import verve.core.session._in_time as in_time
    import verve.core.session._layer_edits as layers
    import verve.core.session._learning_edits as learning
    import verve.core.session._sound_edits as sounds
    import verve.core.session._take_edits as takes

    public = {
        name
        for module in (edits, brief, sounds, learning, takes, layers, in_time)
        for name, item in vars(module).items()
        if callable(item)
        and getattr(item, "__module__", "") == module.__name__
        and not name.startswith("_")
        and name.islower()
    }
    helpers = {
        "clean_name",
        "put_settings",
        "find_control",
        "controls_of",
        "free_identifier",
        "next_take",
        "with_setup",
        "add_parts",
        "free_name",
        "free_key",
        "for_folder",
        "from_folder",
        "spot_of",
        "placed",
        "told_from",
        "with_playing_of",
        "same_input",
        "settings_now",
        "settings_in_use",
        "moved_from_settings",
        "next_settings",
        "every_setup",
        "known_lines",
        "last_good_take_of",
        "last_take_of",
        "layer_of",
        "line_of",
        "only_lines",
        "patch_of",
        "patched_layers",
    }
    assert public - helpers <= set(EDITS)


@given(names=st.lists(st.sampled_from(sorted(EDITS)), max_size=12))
def test_any_row_of_edits_can_be_undone_to_the_beginning(names: list[str]) -> None:
    first = demo_session()
    history = History(add_take(first, take_of(first)))
    start = history.session
    for name in names:
        try:
            history = history.push(name, EDITS[name](history.session))
        except EditError:
            continue
    end = history.session
    steps = len(history.done)
    for _ in range(steps):
        history = history.undo()
    assert history.session == start
    assert history.undo() is history
    for _ in range(steps):
        history = history.redo()
    assert history.session == end
    assert history.redo() is history


def test_an_edit_after_undo_forgets_what_was_undone(demo: Session) -> None:
    history = History(demo).push("a", rename_session(demo, "A")).undo()
    history = history.push("b", rename_session(demo, "B"))
    assert history.undone == ()
    assert [step.label for step in history.done] == ["b"]


def test_a_movement_is_one_step(demo: Session) -> None:
    history = History(demo).push("gain", set_control(demo, GAIN))
    moved = set_control(
        demo, GAIN.__class__(owner="interface", channel="in.1", name="gain_db", value=30.0)
    )
    history = history.amend(moved)
    assert len(history.done) == 1
    assert history.undo().session == demo
    assert history.undo().redo().session == moved


@pytest.mark.parametrize(
    ("given_name", "kept"),
    [
        ("  two   words ", "two words"),
        ("Stimme 1", "Stimme 1"),
        ("голос", "голос"),
        ("声\n音", "声 音"),
        ("tab\tname", "tab name"),
        ("a\x00b", "ab"),
    ],
)
def test_names_in_any_script_are_kept_without_control_characters(
    demo: Session, given_name: str, kept: str
) -> None:
    if "\n" in given_name or "\t" in given_name:
        # White space of any kind is one space between words, or nothing where it was a control.
        cleaned = rename_line(demo, "voice", given_name).setup.lines[0].name
        assert cleaned.replace(" ", "") == kept.replace(" ", "")
    else:
        assert rename_line(demo, "voice", given_name).setup.lines[0].name == kept


def test_removing_a_line_takes_its_gear_but_not_the_furniture(demo: Session) -> None:
    without = remove_line(demo, "voice")
    owners = {device.id for device in without.setup.devices}
    assert {"voice_mic", "inline"} & owners == set()
    assert {"interface", "mixer"} <= owners
    assert "singer_voice" not in {source.id for source in without.setup.sources}


def test_removing_one_side_of_a_pair_leaves_the_source_for_the_other(demo: Session) -> None:
    without = remove_line(demo, "harp_left")
    assert "harp" in {source.id for source in without.setup.sources}
    assert "harp_mic_left" not in {device.id for device in without.setup.devices}
    assert "harp_mic_right" in {device.id for device in without.setup.devices}


def test_removing_every_line_leaves_an_empty_session_that_holds_together(demo: Session) -> None:
    session = demo
    for line in demo.setup.lines:
        session = remove_line(session, line.id)
    assert session.setup.lines == ()
    assert session.setup.sources == ()


def test_a_take_keeps_the_settings_of_its_time(demo: Session) -> None:
    session = add_take(demo, take_of(demo))
    changed = set_control(session, GAIN)
    assert changed.setup != session.setup
    restored = restore_take(changed, "take_1")
    assert restored.setup == session.setup
    assert restored.takes == changed.takes


def test_the_next_take_never_has_the_name_of_another(demo: Session) -> None:
    assert next_take(demo) == ("take_1", "Take 1")
    session = add_take(demo, take_of(demo, 2))
    assert next_take(session) == ("take_3", "Take 3")


@pytest.mark.parametrize(
    ("wish", "found"),
    [("Viola da gamba", "viola_da_gamba"), ("ÄÖ", "ao"), ("声", "item"), ("voice", "voice_2")],
)
def test_identifiers_are_plain_and_free(demo: Session, wish: str, found: str) -> None:
    assert free_identifier(demo.setup, wish) == found


def test_every_control_of_the_demo_accepts_its_own_value(demo: Session) -> None:
    owners = [source.id for source in demo.setup.sources]
    owners += [device.id for device in demo.setup.devices]
    found = [control for owner in owners for control in controls_of(demo.setup, owner)]
    assert len(found) > 40
    for control in found:
        assert control.accepts(control.value), control
        assert control.effect
        same = set_control(
            demo,
            Change(
                owner=control.owner,
                channel=control.channel,
                name=control.name,
                value=control.value,
            ),
        )
        again = next(
            c
            for c in controls_of(same.setup, control.owner)
            if (c.channel, c.name) == (control.channel, control.name)
        )
        assert again == control
    assert controls_of(demo.setup, "nobody") == ()
