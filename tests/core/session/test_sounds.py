"""Sound files of a session: what one can be, edits, where they lie as the file tells it."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest
from pydantic import ValidationError

from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.session import (
    ChannelFigures,
    Session,
    Sound,
    SoundFigures,
    add_sound,
    assign_signal,
    change_sound,
    from_json,
    load,
    move_sound,
    remove_sound,
    save,
    set_a4,
    to_json,
)


def sound(number: int = 1, channels: int = 1, **changes: object) -> Sound:
    values: dict[str, object] = {
        "id": f"sound_{number}",
        "name": f"Sound {number}",
        "file": f"/music/evening/sound {number}.wav",
        "content": f"{number:032x}",
        "size_bytes": 1000,
        "sample_rate_hz": 48_000,
        "frames": 96_000,
        "bit_depth": 24,
        "figures": SoundFigures(channels=(ChannelFigures(peak_dbfs=-6.0),) * channels),
    }
    return Sound(**(values | changes))  # type: ignore[arg-type]


def test_files_are_added_changed_and_removed_in_their_order() -> None:
    session = add_sound(add_sound(Session(), sound(1)), sound(2))
    assert [one.id for one in session.sounds] == ["sound_1", "sound_2"]
    changed = session.sounds[0].model_copy(update={"name": "The harp", "role": "backing"})
    assert change_sound(session, changed).sounds == (changed, session.sounds[1])
    assert remove_sound(session, "sound_1").sounds == session.sounds[1:]


def test_what_is_there_already_is_not_added_again() -> None:
    session = add_sound(Session(), sound(1))
    with pytest.raises(EditError, match="is in the session already, as Sound 1"):
        add_sound(session, sound(2, content=sound(1).content))
    with pytest.raises(EditError, match="id of another"):
        add_sound(session, sound(1, content="f" * 32))


EDITS: dict[str, Callable[[Session], Session]] = {
    "remove": lambda session: remove_sound(session, "sound_7"),
    "change": lambda session: change_sound(session, sound(7)),
    "move": lambda session: move_sound(session, "sound_7", "/x"),
}


@pytest.mark.parametrize("edit", EDITS)
def test_an_unknown_file_is_refused(edit: str) -> None:
    with pytest.raises(EditError, match="must be a sound file of this session"):
        EDITS[edit](add_sound(Session(), sound(1)))


def test_a_backing_track_takes_no_input() -> None:
    with pytest.raises(ValidationError, match="takes no input"):
        sound(role="backing", signals=("voice",))
    session = add_sound(Session(), sound(signals=("voice",)))
    with pytest.raises(EditError, match="takes no input"):
        change_sound(session, session.sounds[0].model_copy(update={"role": "backing"}))


def test_a_signal_is_in_one_channel_and_makes_a_take() -> None:
    session = add_sound(Session(), sound(channels=2, role="measurement"))
    first = assign_signal(session, "sound_1", 0, "voice")
    assert (first.sounds[0].signals, first.sounds[0].role) == (("voice", None), "take")
    assert assign_signal(first, "sound_1", 1, "voice").sounds[0].signals == (None, "voice")
    assert assign_signal(first, "sound_1", 0, None).sounds[0].signals == ()
    with pytest.raises(EditError, match="channel 3"):
        assign_signal(session, "sound_1", 2, "voice")


@pytest.mark.parametrize(
    ("signals", "says"),
    [(("voice",), "one for each of 2"), (("voice", "voice"), "name each signal once")],
)
def test_signals_are_one_for_each_channel(signals: tuple[str, ...], says: str) -> None:
    with pytest.raises(ValidationError, match=says):
        sound(channels=2, signals=signals)


def test_a_session_says_where_its_files_lie_from_its_own_folder(tmp_path: Path) -> None:
    here, music = tmp_path / "evening", tmp_path / "evening" / "takes"
    music.mkdir(parents=True)
    beside, far = str(music / "a.wav"), "/elsewhere/b.wav"
    session = add_sound(add_sound(Session(), sound(1, file=beside)), sound(2, file=far))
    save(session, here / "one.verve.json")
    written = json.loads((here / "one.verve.json").read_text(encoding="utf-8"))
    assert [one["file"] for one in written["sounds"]] == ["takes/a.wav", far]
    assert load(here / "one.verve.json") == session
    # Saved one folder further up, it is still the same file.
    save(session, tmp_path / "two.verve.json")
    assert "evening/takes/a.wav" in (tmp_path / "two.verve.json").read_text(encoding="utf-8")
    assert load(tmp_path / "two.verve.json") == session


def test_a_folder_that_is_moved_as_a_whole_keeps_its_sounds(tmp_path: Path) -> None:
    old = tmp_path / "old"
    old.mkdir()
    save(add_sound(Session(), sound(file=str(old / "a.wav"))), old / "s.verve.json")
    new = old.rename(tmp_path / "new")
    assert load(new / "s.verve.json").sounds[0].file == str(new / "a.wav")


def test_save_open_save_is_the_same_to_the_byte(tmp_path: Path) -> None:
    full = sound(
        channels=2, signals=("voice", None), offset_s=-1.5, gain_db=-6.0, tempo_bpm=92.5, key="D minor",
        notes="first try", added_at="2026-11-26T20:00:00+00:00", file=str(tmp_path / "a.wav"),
    )  # fmt: skip
    first, second = tmp_path / "1.verve.json", tmp_path / "2.verve.json"
    save(set_a4(add_sound(demo_session(), full), 415.0), first)
    save(load(first), second)
    assert first.read_bytes() == second.read_bytes()
    assert load(second).sounds == (full,)
    assert load(second).a4_hz == 415.0


def test_a_file_found_elsewhere_is_known_there_by_its_takes_too() -> None:
    session = demo_session()
    data = json.loads(to_json(session))
    data["sounds"] = [json.loads(sound(file="/old/a.wav").model_dump_json(exclude_none=True))]
    data["takes"] = [
        {
            "id": "take_1", "name": "Take 1", "recorded_at": "2026-11-26T20:00:00", "seconds": 2.0, "play": "phrase",
            "setup": data["setup"],
            "tracks": [
                {"line": "voice", "name": "Voice", "file": file, "peak_dbfs": {}, "noise_dbfs_a": {},
                 "clipped_frames": 0}
                for file in ("/old/a.wav", "/old/b.wav")
            ],
        }
    ]  # fmt: skip
    moved = move_sound(from_json(json.dumps(data), "x"), "sound_1", "/new/a.wav")
    assert moved.sounds[0].file == "/new/a.wav"
    assert [track.file for track in moved.takes[0].tracks] == ["/new/a.wav", "/old/b.wav"]


@pytest.mark.parametrize("a4_hz", [299.0, 601.0])
def test_a_reference_pitch_out_of_range_is_refused(a4_hz: float) -> None:
    with pytest.raises(EditError, match="300 to 600"):
        set_a4(Session(), a4_hz)


@pytest.mark.parametrize(
    ("field", "value"),
    [("content", "short"), ("frames", 0), ("size_bytes", 0), ("gain_db", 40.0), ("tempo_bpm", -1.0), ("name", ""),
     ("sample_rate_hz", 0), ("offset_s", 1e9), ("role", "song"), ("file", "")],
)  # fmt: skip
def test_a_file_that_cannot_be_is_refused_with_its_place(field: str, value: object) -> None:
    with pytest.raises(ValidationError) as told:
        sound(**{field: value})  # type: ignore[arg-type]
    assert field in str(told.value)
