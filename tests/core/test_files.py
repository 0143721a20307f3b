"""Files are written whole or not at all, on disks of every kind, and what fails is told in words."""

from __future__ import annotations

import errno
import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from verve.core.errors import FileError, InputError
from verve.core.files import (
    backup_of,
    path_text,
    read_text,
    stamp_of,
    whole_file,
    write_atomically,
)

_CALLS: tuple[tuple[object, str], ...] = (
    (os, "open"),
    (os, "fsync"),
    (os, "link"),
    (os, "replace"),
    (Path, "replace"),
    (Path, "chmod"),
    (Path, "mkdir"),
    (Path, "open"),
    (shutil, "copy2"),
)
"""Everything a save asks the disk for."""


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder of its own: nothing but what a test puts into it."""
    place = tmp_path / "folder"
    place.mkdir()
    return place


def _failing(number: int, code: int, real: Callable[..., Any]) -> Callable[..., Any]:
    count = 0

    def call(*args: Any, **more: Any) -> Any:
        nonlocal count
        count += 1
        if count == number:
            raise OSError(code, os.strerror(code))
        return real(*args, **more)

    return call


@pytest.mark.parametrize("code", [errno.ENOSPC, errno.EACCES, errno.EIO, errno.EROFS])
@pytest.mark.parametrize("number", [1, 2, 3])
@pytest.mark.parametrize(("owner", "name"), _CALLS)
def test_whatever_the_disk_refuses_the_file_is_the_old_or_the_new_one(
    folder: Path, owner: object, name: str, number: int, code: int
) -> None:
    path = folder / "evening.verve.json"
    write_atomically(path, "first", keep_backup=True)
    told = ""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(owner, name, _failing(number, code, getattr(owner, name)))
        try:
            write_atomically(path, "second", keep_backup=True)
        except FileError as error:
            told = str(error)
    assert path.read_text() == ("first" if told else "second")
    if told:
        assert "cannot be written" in told
        assert "Errno" not in told
    left = {p.name for p in folder.iterdir()}
    assert left <= {path.name, backup_of(path).name}


def test_a_disk_without_hard_links_keeps_the_version_before_as_a_copy(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def none(*_: object, **__: object) -> None:
        raise OSError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(os, "link", none)
    path = folder / "evening.verve.json"
    for text in ("first", "second", "third"):
        write_atomically(path, text, keep_backup=True)
    assert path.read_text() == "third"
    assert backup_of(path).read_text() == "second"


def test_a_disk_without_rights_is_written_to(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def none(*_: object, **__: object) -> None:
        raise PermissionError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(Path, "chmod", none)
    path = folder / "evening.verve.json"
    for text in ("first", "second"):
        write_atomically(path, text, keep_backup=True)
    assert path.read_text() == "second"


def test_a_link_is_written_through(folder: Path) -> None:
    real = folder / "there" / "evening.verve.json"
    write_atomically(real, "first")
    link = folder / "link.verve.json"
    link.symlink_to(real)
    write_atomically(link, "second", keep_backup=True)
    assert link.is_symlink()
    assert real.read_text() == "second"


@pytest.mark.parametrize(
    "name",
    ["x" * 255, "é" * 127, "a\nb", os.fsdecode(b"caf\xe9.verve.json"), " ", "-rf", "x" * 251],
)
def test_any_name_that_the_disk_takes_is_written_and_read(folder: Path, name: str) -> None:
    path = folder / name
    for text in ("first", "second"):
        write_atomically(path, text, keep_backup=True)
    assert read_text(path, largest_bytes=100, what="a session") == "second"
    assert backup_of(path).read_text() == "first"
    path_text(path).encode()


@pytest.mark.parametrize("name", ["x" * 256, "a\0b"])
def test_a_name_that_no_disk_takes_is_told(folder: Path, name: str) -> None:
    with pytest.raises(FileError, match="cannot be written") as told:
        write_atomically(folder / name, "text")
    assert len(str(told.value)) < 400
    with pytest.raises(FileError, match="cannot be read"):
        read_text(folder / name, largest_bytes=10, what="a session")


def test_letters_that_are_none_are_told_and_nothing_is_written(folder: Path) -> None:
    path = folder / "x.json"
    write_atomically(path, "first")
    with pytest.raises(FileError, match="letters that are none"):
        write_atomically(path, "\ud800")
    assert path.read_text() == "first"


def test_an_error_of_whoever_writes_leaves_the_old_file(folder: Path) -> None:
    path = folder / "x.pdf"
    write_atomically(path, "first")

    def write() -> None:
        with whole_file(path) as temporary:
            temporary.write_text("half")
            raise InputError("page", "must be one")

    with pytest.raises(InputError):
        write()
    assert path.read_text() == "first"
    assert [p.name for p in folder.iterdir()] == ["x.pdf"]


def test_what_killed_programs_left_is_cleared_in_time(folder: Path) -> None:
    old, new = folder / ".verve-writing-1-a-0", folder / ".verve-writing-2-b-0"
    for file in (old, new):
        file.write_text("half")
    os.utime(old, (0, 0))
    write_atomically(folder / "x", "text")
    assert {p.name for p in folder.iterdir()} == {"x", new.name}


def test_new_files_have_the_rights_of_new_files_and_old_ones_keep_theirs(folder: Path) -> None:
    plain, path = folder / "plain", folder / "x"
    plain.write_text("")
    write_atomically(path, "text")
    assert path.stat().st_mode == plain.stat().st_mode
    path.chmod(0o640)
    write_atomically(path, "text")
    assert path.stat().st_mode & 0o777 == 0o640


def test_pipes_devices_and_folders_are_refused_at_once(folder: Path) -> None:
    pipe = folder / "pipe"
    os.mkfifo(pipe)
    for place in (pipe, Path("/dev/zero"), folder):
        with pytest.raises(FileError, match="is no file"):
            read_text(place, largest_bytes=100, what="a session")
    big = folder / "big"
    big.write_bytes(b"x" * 101)
    with pytest.raises(FileError, match="too large to be a session"):
        read_text(big, largest_bytes=100, what="a session")


@pytest.fixture
def full_disk(folder: Path) -> Iterator[Path]:
    """A disk of 64 kB, where one may be made."""
    place = folder / "small"
    place.mkdir()
    if os.system(f"mount -t tmpfs -o size=64k none '{place}' 2>/dev/null"):
        pytest.skip("no disk can be mounted here")
    yield place
    os.system(f"umount '{place}'")


def test_a_full_disk_is_told_with_its_room_and_keeps_the_old_file(full_disk: Path) -> None:
    path = full_disk / "evening.verve.json"
    write_atomically(path, "first", keep_backup=True)
    with pytest.raises(FileError, match=r"the disk is full \(\d+ MB free in .*small\)"):
        write_atomically(path, "x" * 200_000, keep_backup=True)
    assert path.read_text() == "first"
    assert [p.name for p in full_disk.iterdir()] == [path.name]


def test_a_stamp_tells_versions_apart(folder: Path) -> None:
    path = folder / "x"
    assert stamp_of(path) is None
    write_atomically(path, "first")
    first = stamp_of(path)
    assert first == stamp_of(path)
    write_atomically(path, "other")
    assert stamp_of(path) != first
