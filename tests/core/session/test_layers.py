"""Layers of a day share inputs in time: nothing of one is lost by another."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.session.test_edits import take_of
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.kind import PlayingRange
from verve.core.session import (
    Change,
    Session,
    add_double,
    add_take,
    arm_line,
    change_section,
    choose_take,
    cleared_for,
    from_json,
    keep_patch,
    known_lines,
    last_good_take_of,
    layer_of,
    load,
    name_settings,
    next_settings,
    patch_of,
    patched_layers,
    remove_line,
    rename_line,
    routes,
    same_input,
    save,
    set_control,
    set_playing,
    settings_in_use,
    to_json,
    turn_to_layer,
    use_settings,
    with_layer,
)
from verve.core.session._layers import Section

GAIN = Change(owner="interface", channel="in.1", name="gain_db", value=20.0)


def gain_of(session: Session, line: str) -> float:
    """What is set at the recorder for a signal."""
    route = next(one for one in routes(session.setup) if one.line.id == line)
    assert route.recorder is not None
    value = route.recorder.controls["gain_db"].value
    assert isinstance(value, float | int)
    return float(value)


def test_a_double_is_the_same_chain_on_a_line_of_its_own() -> None:
    before = demo_session()
    after = add_double(before, "voice")
    old = next(r for r in routes(before.setup) if r.line.id == "voice")
    (new,) = routes(after.setup)
    assert new.line.name == "Voice double"
    assert new.line.id != "voice"
    assert [s.owner for s in new.steps] == [s.owner for s in old.steps]
    assert [s.link for s in new.steps] == [s.link for s in old.steps]
    assert [dict(s.controls) for s in new.steps] == [dict(s.controls) for s in old.steps]
    layer = layer_of(after)
    assert layer is not None
    assert layer.over == ("evening",)
    assert patch_of(after, "evening") == before.setup
    assert known_lines(after).keys() >= {"voice", new.line.id}


def test_a_double_of_a_pair_doubles_both_sides() -> None:
    after = add_double(demo_session(), "harp_left", is_harmony=True)
    assert [line.name for line in after.setup.lines] == ["Harp harmony left", "Harp harmony right"]
    assert len({line.pair for line in after.setup.lines}) == 1
    assert [one.standing for one in after.mix.lines] == ["harmony", "harmony"]


def test_a_double_of_a_double_is_one_of_the_first() -> None:
    after = add_double(demo_session(), "voice")
    again = add_double(after, after.setup.lines[0].id)
    assert [part.doubles for part in again.brief.parts[-2:]] == ["voice", "voice"]
    assert again.setup.lines[0].name == "Voice double 2"
    assert layer_of(again).over == ("evening", "voice_double")  # type: ignore[union-attr]
    assert assess(again).lines[0].route.is_complete


def test_what_stands_in_no_brief_gets_a_layer_of_its_own() -> None:
    bare = demo_session().model_copy(update={"brief": Session().brief})
    bare = bare.model_copy(
        update={
            "setup": bare.setup.model_copy(
                update={
                    "sources": tuple(
                        s.model_copy(update={"part": None}) for s in bare.setup.sources
                    )
                }
            )
        }
    )
    named = with_layer(bare)
    layer = layer_of(named)
    assert layer is not None
    assert set(layer.parts) == {s.part for s in named.setup.sources}
    assert add_double(bare, "voice").setup.lines[0].name.endswith("double")


LINES = [line.id for line in demo_session().setup.lines]


@given(
    doubled=st.sampled_from(LINES),
    gain_db=st.floats(0.0, 30.0),
    own_db=st.floats(0.0, 30.0),
)
def test_turning_to_another_layer_and_back_changes_nothing(
    doubled: str, gain_db: float, own_db: float
) -> None:
    first = set_control(
        demo_session(), Change(owner="interface", channel="in.1", name="gain_db", value=gain_db)
    )
    there = add_double(first, doubled)
    layer = layer_of(there)
    assert layer is not None
    recorder = routes(there.setup)[0].recorder
    assert recorder is not None
    there = set_control(
        there,
        Change(owner="interface", channel=recorder.in_port, name="gain_db", value=own_db),
    )
    back = turn_to_layer(there, "evening")
    assert back.setup == first.setup
    again = turn_to_layer(back, layer.id)
    assert again.setup.lines == there.setup.lines
    assert gain_of(again, again.setup.lines[0].id) == own_db
    assert patched_layers(again) == ("evening", layer.id)


def test_what_all_layers_share_is_as_it_is_now() -> None:
    """A name, what was learnt of a player, a knob that only one layer uses: turning brings nothing old back."""
    there = add_double(demo_session(), "voice")
    louder = PlayingRange(softest_db=70.0, typical_db=85.0, hardest_db=99.0)
    there = set_playing(there, "singer_voice", louder, "in Take 3")
    other = Change(owner="interface", channel="in.6", name="gain_db", value=11.0)
    there = set_control(there, other)
    back = turn_to_layer(there, "evening")
    voice = next(s for s in back.setup.sources if s.id == "singer_voice")
    assert voice.figures.playing() == louder
    # The cello's own knob belongs to this layer, and comes back as it was set for it.
    assert gain_of(back, "cello_line") == gain_of(demo_session(), "cello_line")


def test_a_layer_that_is_cleared_for_another_is_kept() -> None:
    cleared = cleared_for(demo_session(), "finale")
    assert cleared.setup.lines == ()
    assert patch_of(cleared, "evening").lines == demo_session().setup.lines  # type: ignore[union-attr]
    with pytest.raises(EditError, match="Finale with the drum: has no connections yet"):
        turn_to_layer(demo_session(), "finale")


def test_only_one_of_two_on_an_input_is_armed() -> None:
    session = demo_session()
    line = session.setup.lines[0]
    twice = session.setup.model_copy(
        update={
            "lines": (
                *session.setup.lines,
                line.model_copy(update={"id": "again", "name": "Again"}),
            )
        }
    )
    session = session.model_copy(update={"setup": twice})
    assert same_input(session.setup, "again") == ("voice",)
    armed = arm_line(session, "again", is_armed=True)
    assert [(x.id, x.is_armed) for x in armed.setup.lines if x.id in {"voice", "again"}] == [
        ("voice", False),
        ("again", True),
    ]


def test_settings_with_a_name_are_switched_as_one() -> None:
    session, sing = name_settings(demo_session(), "voice", "sing")
    session = set_control(session, GAIN)
    quiet = PlayingRange(softest_db=50.0, typical_db=60.0, hardest_db=70.0)
    session = set_playing(session, "singer_voice", quiet, "in a check")
    session, talk = name_settings(session, "voice", "talk")
    assert settings_in_use(session, "voice").name == "talk"  # type: ignore[union-attr]
    assert next_settings(session, "voice").name == "sing"  # type: ignore[union-attr]
    sung = use_settings(session, sing)
    assert gain_of(sung, "voice") == gain_of(demo_session(), "voice")
    assert settings_in_use(sung, "voice").name == "sing"  # type: ignore[union-attr]
    figures = {s.id: s.figures for s in sung.setup.sources}
    demo = {s.id: s.figures for s in demo_session().setup.sources}
    assert figures["singer_voice"].playing() == demo["singer_voice"].playing()
    talked = use_settings(sung, talk)
    assert gain_of(talked, "voice") == 20.0
    assert (
        next(s for s in talked.setup.sources if s.id == "singer_voice").figures.playing() == quiet
    )


def test_what_was_chosen_before_is_kept_as_a_spare() -> None:
    session = demo_session()
    for number in (1, 2, 3):
        session = add_take(session, take_of(session, number))
    for take in ("take_1", "take_2", "take_3", "take_2"):
        session = choose_take(session, "voice", None, take)
    (chosen,) = session.chosen
    assert (chosen.take, chosen.spares) == ("take_2", ("take_3", "take_1"))
    assert last_good_take_of(session, "voice").id == "take_2"  # type: ignore[union-attr]
    with pytest.raises(EditError, match="must be a take of that signal"):
        choose_take(session, "harp_left", None, "take_1")


def test_a_section_that_ends_before_it_begins_is_refused(demo: Session) -> None:
    from verve.core.session import add_section

    with pytest.raises(EditError, match="must be after its start"):
        add_section(demo, "Verse", 10.0, 10.0)
    session, key = add_section(demo, "Verse", 10.0, 20.0)
    with pytest.raises(EditError, match="must be after its start"):
        change_section(
            session, Section.model_construct(id=key, name="Verse", start_s=9.0, end_s=8.0)
        )


def test_patches_and_takes_are_written_once_and_found_from_the_folder(tmp_path: Path) -> None:
    session = add_double(demo_session(), "voice")
    alone = len(to_json(keep_patch(demo_session())))
    assert len(to_json(session)) < 2 * alone
    take = take_of(session)
    file = str(tmp_path / "evening" / "Take 1" / "Voice.wav")
    tracks = tuple(replace(track, file=file) for track in take.tracks)
    session = add_take(session, take.model_copy(update={"tracks": tracks}))
    (tmp_path / "evening").mkdir()
    path = tmp_path / "evening" / "x.verve.json"
    save(session, path)
    assert '"folder":"Take 1"' in path.read_text()
    assert load(path) == session
    elsewhere = tmp_path / "elsewhere"
    (tmp_path / "evening").rename(elsewhere)
    moved = load(elsewhere / "x.verve.json")
    assert moved.takes[0].tracks[0].file == str(elsewhere / "Take 1" / "Voice.wav")
    assert moved.patches == session.patches


def test_a_patch_that_nobody_can_read_stays_in_the_file() -> None:
    session = add_double(demo_session(), "voice")
    text = to_json(session).replace('"first_link":"voice_air"', '"first_link":"nowhere"', 1)
    broken = from_json(text, "x")
    assert patch_of(broken, "evening") is None
    assert '"first_link":"nowhere"' in to_json(broken)


def test_a_renamed_or_removed_signal_is_so_in_its_layer_alone() -> None:
    there = add_double(demo_session(), "voice")
    line = there.setup.lines[0].id
    there = rename_line(there, line, "Doubled")
    back = turn_to_layer(there, "evening")
    assert known_lines(back)[line] == "Doubled"
    gone = remove_line(back, "voice")
    assert layer_of(gone).id == "evening"  # type: ignore[union-attr]
    assert known_lines(turn_to_layer(gone, "voice_double"))[line] == "Doubled"
