"""What takes were made with: written once for all of them, read when it is looked at, never lost."""

from __future__ import annotations

import hashlib
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.session.test_edits import DEMO, GAIN, take_of
from verve.core.assess import assess
from verve.core.errors import EditError, InputError
from verve.core.session import (
    Change,
    Session,
    Snapshot,
    add_take,
    edit_take,
    find_control,
    from_json,
    load,
    remove_take,
    restore_take,
    save,
    set_control,
    set_room,
    to_json,
)
from verve.core.sheets import unreadable_takes_text


def gain_at(gain_db: float) -> Change:
    return Change(owner=GAIN.owner, channel=GAIN.channel, name=GAIN.name, value=gain_db)


def with_takes(session: Session, count: int) -> Session:
    """Takes of all lines, each made with one gain elsewhere."""
    for number in range(1, count + 1):
        session = set_control(session, gain_at(number % 50 * 0.5))
        session = set_control(
            session,
            Change(owner="interface", channel="in.2", name="gain_db", value=number // 50 * 0.5),
        )
        take = take_of(session, number)
        (track,) = take.tracks
        tracks = tuple(
            replace(
                track,
                line=line.id,
                name=line.name,
                file=f"/home/player/recordings/Evening in the chapel/Take {number}/{line.name}.wav",
                rms_dbfs=-20.0 - number / 997.0,
            )
            for line in session.setup.lines
        )
        session = add_take(session, take.model_copy(update={"tracks": tracks}))
    return session


def test_three_hundred_takes_stay_under_a_megabyte() -> None:
    session = with_takes(DEMO, 300)
    assert (
        len({json.dumps(s.setup.model_dump(mode="json")) for s in session.takes if s.setup}) > 290
    )
    text = to_json(session)
    assert len(text.encode()) < 1_000_000
    assert from_json(text, "x") == session


def test_nothing_of_a_take_is_read_before_it_is_looked_at() -> None:
    session = from_json(to_json(with_takes(DEMO, 5)), "x")
    assert all(isinstance(take.snapshot.said, dict) for take in session.takes)
    assess(session)
    read = [not isinstance(take.snapshot.said, dict) for take in session.takes]
    assert read == [False] * 4 + [True]


def test_what_takes_share_is_one_value() -> None:
    first, second = (t.setup for t in from_json(to_json(with_takes(DEMO, 2)), "x").takes)
    assert first is not None
    assert second is not None
    assert first != second
    assert [a is b for a, b in zip(first.devices, second.devices, strict=True)].count(False) == 1
    assert all(a.figures is b.figures for a, b in zip(first.devices, second.devices, strict=True))


_EDITS = st.lists(
    st.tuples(st.sampled_from(["gain", "room", "take", "rename", "remove", "restore", "file"]), st.integers(0, 30)),
    max_size=25,
)  # fmt: skip


def _edited(session: Session, what: str, number: int) -> Session:
    takes = session.takes
    chosen = takes[number % len(takes)] if takes else None
    if what == "gain":
        return set_control(session, gain_at(float(number)))
    if what == "room":
        return set_room(session, session.setup.room.model_copy(update={"noise_dba": 20.0 + number}))
    if what == "take":
        free = max((int(take.id.removeprefix("take_")) for take in takes), default=0) + 1
        return add_take(session, take_of(session, free))
    if what == "file":
        return from_json(to_json(session), "x")
    if chosen is None:
        return session
    if what == "rename":
        return edit_take(session, chosen.id, notes=f"no. {number}", name=f"Ünnamed {number}")
    return (remove_take if what == "remove" else restore_take)(session, chosen.id)


@given(_EDITS, st.sets(st.integers(0, 20)))
@settings(max_examples=40, deadline=None)
def test_a_session_with_takes_survives_its_file(
    edits: list[tuple[str, int]], looked_at: set[int]
) -> None:
    session = DEMO
    for what, number in edits:
        session = _edited(session, what, number)
    text = to_json(session)
    again = from_json(text, "x")
    for index, take in enumerate(again.takes):
        if index in looked_at:
            assert take.setup == session.takes[index].setup
    assert to_json(again) == text, "what was looked at makes no difference"
    assert again == session


def test_names_that_come_out_alike_are_told_apart(monkeypatch: pytest.MonkeyPatch) -> None:
    whole = hashlib.blake2b

    class Alike:
        def __init__(self, data: bytes, **_: object) -> None:
            self._end = whole(data, digest_size=24).hexdigest()

        def hexdigest(self) -> str:
            return "00000000" + self._end

    session = with_takes(DEMO, 3)
    monkeypatch.setattr(hashlib, "blake2b", Alike)
    text = to_json(session)
    assert from_json(text, "x") == session


def broken_file(change: str) -> tuple[str, dict[str, Any]]:
    """The text of a file of three takes with one thing wrong in the set-up of the second."""
    data = json.loads(to_json(with_takes(DEMO, 3)))
    name = data["takes"][1]["setup"]
    setup = data["setups"][name]
    if change == "no setup":
        del data["setups"][name]
    elif change == "no piece":
        setup["devices"] = "not there"
    elif change == "a figure":
        setup["room"]["noise_dba"] = 7000.0
    elif change == "a kind":
        setup["links"] = [17]
    elif change == "a reference":
        setup["sources"] = []
    elif change == "a text":
        data["takes"][1]["setup"] = "?"
    else:
        data["setups"][name] = {"room": "a chapel"}
    return json.dumps(data), setup


_WRONG = ["no setup", "no piece", "a figure", "a kind", "a reference", "a text", "a room"]


@pytest.mark.parametrize("change", _WRONG)
def test_a_take_that_nobody_can_read_hinders_no_other_one(change: str) -> None:
    text, _ = broken_file(change)
    session = from_json(text, "x")
    assert [take.setup is None for take in session.takes] == [False, True, False]
    told = unreadable_takes_text(session.takes)
    assert told.startswith("What was set for Take 2 cannot be read from the file (setup")
    assert assess(session).lines
    with pytest.raises(EditError, match="Take 2: what was set"):
        restore_take(session, "take_2")
    assert restore_take(session, "take_1").setup == session.takes[0].setup


@pytest.mark.parametrize("change", _WRONG)
def test_what_cannot_be_read_is_written_again_as_it_stood(change: str) -> None:
    session = from_json(broken_file(change)[0], "x")
    said = session.takes[1].snapshot.said
    for _ in range(2):
        session = from_json(to_json(session), "x")
        assert session.takes[1].snapshot.said == said
        assert session.takes[1].setup is None


@pytest.mark.parametrize(("key", "value"), [("setups", []), ("pieces", 3), ("takes", {"a": 1})])
def test_tables_that_are_none_are_refused(key: str, value: object) -> None:
    data = json.loads(to_json(with_takes(DEMO, 1)))
    data[key] = value
    with pytest.raises(InputError, match=key):
        from_json(json.dumps(data), "x")


HERE = Path(__file__).parent


@pytest.mark.parametrize("version", [2, 3, 4, 5, 6, 7])
def test_a_file_of_each_released_version_still_opens(version: int) -> None:
    file = HERE / f"released-{version}.verve.json"
    assert f'"version": {version}' in file.read_text(encoding="utf-8")
    session = load(file)
    first, second = session.takes
    assert first.setup is not None
    assert second.setup is not None
    assert second.reason == "the disk was full"
    assert first.tracks[0].peak_dbfs.measured == -8.25
    assert second.setup == session.setup != first.setup
    # What came later stands in none of them.
    session = session.model_copy(update={"sounds": (), "a4_hz": 440.0})
    if version < 7:
        assert all(session == load(HERE / f"released-{other}.verve.json") for other in (2, 3, 4, 5))


def test_the_placement_of_a_released_version_is_read_and_shared_with_its_take() -> None:
    session = load(HERE / "released-7.verve.json")
    placement, room = session.setup.placement, session.setup.room
    (source,) = placement.stands
    assert placement.stands[source].x_m == 2.0
    (aim,) = placement.aims.values()
    assert (aim.bearing_deg, aim.rise_deg, aim.turns_left) == (15.0, 5.0, True)
    (fan,) = placement.things
    assert (fan.kind, fan.is_on) == ("fan", False)
    assert (room.length_m, room.furnishing) == (7.0, "soft")
    assert session.takes[1].setup == session.setup
    assert session.takes[0].setup is not None
    assert session.takes[0].setup.placement != placement


def test_spots_and_surfaces_of_a_released_version_are_read() -> None:
    session = load(HERE / "released-8.verve.json")
    (spot,) = session.spots
    assert (spot.name, spot.distance_m, spot.chosen_at[:10]) == (
        "Over the shoulder",
        0.5,
        "2026-11-27",
    )
    assert session.setup.placement.aims[spot.microphone].has_shield
    room = session.setup.room
    assert (room.floor_absorption, room.ceiling_absorption, room.walls_absorption) == (
        0.3,
        None,
        0.05,
    )
    assert [one.kind for one in session.setup.placement.things] == ["fan", "closed_headphones"]


def test_the_sound_files_of_a_released_version_are_read() -> None:
    session = load(HERE / "released-6.verve.json")
    take, backing = session.sounds
    assert (take.signals, take.file) == (("voice", None), str(HERE / "takes" / "evening.wav"))
    assert (backing.role, backing.offset_s, backing.tempo_bpm, backing.key) == (
        "backing",
        2.0,
        92.0,
        "D minor",
    )
    assert session.a4_hz == 442.0


def test_a_setup_that_stands_in_a_take_itself_is_read_as_one() -> None:
    data = json.loads(to_json(with_takes(DEMO, 1)))
    assert DEMO.setup != Session().setup
    data["takes"][0]["setup"] = DEMO.setup.model_dump(mode="json", exclude_none=True)
    (take,) = from_json(json.dumps(data), "x").takes
    assert take.snapshot == Snapshot.of(DEMO.setup)


def test_what_is_next_is_told_without_reading_the_setups_of_takes(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Which parts were recorded is seen without the rest: hundreds of takes open as quickly as one."""
    path = tmp_path / "many.verve.json"
    save(with_takes(DEMO, 12), path)
    opened = load(path)
    read = []
    plain = Snapshot._read

    def counted(self: Snapshot) -> object:
        read.append(self)
        return plain(self)

    monkeypatch.setattr(Snapshot, "_read", counted)
    assert assess(opened).next.sentence
    assert len(read) <= 2, "at most the last take and the one before it"
    for take in opened.takes:
        unread = take.snapshot.parts
        assert take.setup is not None
        assert unread == {s.part for s in take.setup.sources if s.part is not None}
        assert take.snapshot.parts == unread


def test_what_a_released_version_has_learnt_is_read() -> None:
    session = load(HERE / "released-9.verve.json")
    source = session.setup.sources[0]
    name = source.figures.level_figure
    assert source.figures.playing().hardest_db == 97.5
    assert (source.figures.origin_of(name), source.over_test_db) == ("measured", 2.5)
    assert source.figures.wordings[name] == "in Take 1, 4 May 2026"
    device = next(one for one in session.setup.devices if one.figures.records)
    control = find_control(session.setup, device.id, device.figures.input_ports()[0], "gain_db")
    assert control.dial == ((7.0, 0.0), (12.0, 20.0), (17.0, 60.0))
    assert (control.is_dial_learned, control.hour) == (True, 13.5)
    (comparison,) = session.comparisons
    assert comparison.compared[1].votes == 3
