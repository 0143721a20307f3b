"""Session files: whole or not at all, and one clear sentence for every file that is not one."""

from __future__ import annotations

import json
import os
import stat
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from verve.core.errors import FileError, InputError
from verve.core.session import (
    Session,
    from_json,
    json_schema,
    load,
    rename_session,
    save,
    to_json,
)
from verve.core.session._models import VERSION

DOCS = Path(__file__).resolve().parents[3] / "docs"


def test_a_session_survives_the_file_byte_for_byte(demo: Session, tmp_path: Path) -> None:
    path = tmp_path / "evening.verve.json"
    save(demo, path)
    first = path.read_bytes()
    again = load(path)
    assert again == demo
    save(again, path)
    assert path.read_bytes() == first


def test_the_file_says_what_it_is(demo: Session) -> None:
    data = json.loads(to_json(demo))
    assert data["format"] == "verve-session"
    assert data["version"] == VERSION


def test_the_version_before_is_kept_once(demo: Session, tmp_path: Path) -> None:
    path = tmp_path / "evening.verve.json"
    for title in ("One", "Two", "Three"):
        save(rename_session(demo, title), path)
    assert load(path).title == "Three"
    backup = path.with_name(path.name + ".bak")
    assert load(backup).title == "Two"
    assert sorted(p.name for p in tmp_path.iterdir() if "verve" in p.name) == [
        "evening.verve.json",
        "evening.verve.json.bak",
    ]


def test_rights_of_a_file_are_kept(demo: Session, tmp_path: Path) -> None:
    path = tmp_path / "evening.verve.json"
    save(demo, path)
    path.chmod(0o640)
    save(demo, path)
    assert stat.S_IMODE(path.stat().st_mode) == 0o640


def test_a_save_that_fails_leaves_the_old_file_and_nothing_else(
    demo: Session, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "evening.verve.json"
    save(demo, path)
    before = path.read_bytes()

    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileError, match="cannot be written: the disk is full"):
        save(rename_session(demo, "Other"), path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir() if p.is_file()] == ["evening.verve.json"]


def test_a_folder_that_cannot_be_made_is_told(demo: Session, tmp_path: Path) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("")
    with pytest.raises(FileError, match="is in its way"):
        save(demo, blocked / "evening.verve.json")


def edited(demo: Session, *path: Any, value: Any) -> str:
    data = json.loads(to_json(demo))
    place = data
    for key in path[:-1]:
        place = place[key]
    if value is KeyError:
        del place[path[-1]]
    else:
        place[path[-1]] = value
    return json.dumps(data)


@pytest.mark.parametrize(
    ("path", "value", "said"),
    [
        (("version",), VERSION + 1, "version: is newer than this Verve reads"),
        (("version",), "1", "version: must be a whole number"),
        (("version",), 0, "version: must be a whole number from 1"),
        (("format",), "other", 'format: must be "verve-session"'),
        (("title",), 3, "title: must be a text"),
        (("colour",), "red", "colour: is not a known key"),
        (("setup", "level_target"), "loud", "level_target: must be"),
        (("setup", "room", "noise_dba"), "quiet", "noise_dba: must be a number"),
        (("setup", "audio", "bit_depth"), 12, "bit_depth: must be"),
        (("setup", "links", 0, "end"), "nobody:in", "end: must name a source or device"),
        (("setup", "links", 0, "end"), "inline:out", "end: must be a port of inline"),
        (("setup", "links", 0, "end"), "interface:in.2", "is already taken by link"),
        (("setup", "links", 0, "id"), "Not An Id", "id: "),
        (("setup", "lines", 0, "first_link"), "gone", "first_link: must name a link"),
        (("setup", "lines", 1, "id"), "voice", "must stand only once"),
        (("setup", "sources", 0, "performer"), "nobody", "performer: must name a performer"),
        (("setup", "devices", 0, "id"), "harp", "must not have the id of a source"),
        (("setup", "devices", 0, "figures", "kind"), "tape", "must be one of"),
        (("setup", "devices", 0, "figures", "output_impedance_ohm"), -1, "must be 0 to"),
        (("setup", "devices", 0, "figures", "output_impedance_ohm"), KeyError, "is required"),
    ],
)
def test_what_is_wrong_in_a_file_is_said_with_its_place(
    demo: Session, path: tuple[Any, ...], value: Any, said: str
) -> None:
    with pytest.raises(InputError, match=said) as caught:
        from_json(edited(demo, *path, value=value), "evening.verve.json")
    assert str(caught.value).startswith("evening.verve.json")
    assert len(str(caught.value).splitlines()) == 1


@pytest.mark.parametrize("text", ["", "{", "nonsense", "[" * 50_000])
def test_a_broken_file_points_to_its_backup(text: str) -> None:
    with pytest.raises(InputError, match=r"open its \.bak copy"):
        from_json(text, "x.verve.json")


@pytest.mark.parametrize("text", ["[]", "3", '"session"', "null", "{}"])
def test_another_kind_of_json_is_refused(text: str) -> None:
    with pytest.raises(InputError, match="choose a session file"):
        from_json(text, "x.verve.json")


def test_a_truncated_file_is_refused_wherever_it_breaks_off(demo: Session) -> None:
    text = to_json(demo)
    for share in (0.1, 0.37, 0.5, 0.83, 0.999):
        with pytest.raises(InputError):
            from_json(text[: int(len(text) * share)], "x.verve.json")


def test_a_missing_or_binary_file_is_told(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="cannot be read: there is no such file"):
        load(tmp_path / "none.verve.json")
    binary = tmp_path / "x.verve.json"
    binary.write_bytes(b"\xff\xfe\xfa")
    with pytest.raises(FileError, match="is not text"):
        load(binary)
    with pytest.raises(FileError, match="is no file"):
        load(tmp_path)


def test_the_schema_accepts_the_demo_and_refuses_what_the_program_refuses(demo: Session) -> None:
    schema = json_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(schema)
    assert list(validator.iter_errors(json.loads(to_json(demo)))) == []
    for path, value in (
        (("version",), VERSION + 1),
        (("setup", "level_target"), "loud"),
        (("setup", "audio", "bit_depth"), 12),
        (("setup", "devices", 0, "figures", "output_impedance_ohm"), -1),
    ):
        data = json.loads(edited(demo, *path, value=value))
        assert list(validator.iter_errors(data)), path


def test_the_schema_in_docs_is_the_one_generated() -> None:
    kept = json.loads((DOCS / "session.schema.json").read_text(encoding="utf-8"))
    assert kept == json_schema(), "write it anew: ./run schema"


def test_a_file_of_the_first_released_version_still_opens() -> None:
    old = Path(__file__).parent / "released-1.verve.json"
    session = load(old)
    assert session.title == "Kept for good"
    assert [line.name for line in session.setup.lines] == [
        "Voice",
        "Keyboard left",
        "Keyboard right",
    ]
    assert session.takes[0].tracks[0].peak_dbfs.measured == -8.25
