"""A session with all its sounds in one folder, opened elsewhere; lost files found again by what they hold."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from tests.core.mix.recorded import sung, sung_with_a_double, write
from verve.core.errors import CancelledError, FileError
from verve.core.recordings import (
    collect,
    files_of_session,
    missing_files,
    takes_found_again,
    with_files,
)
from verve.core.session import Session, load
from verve.core.soundfiles import content_of


def with_contents(session: Session) -> Session:
    """The session whose takes know what their files hold, as those that were recorded do."""
    takes = tuple(
        take.model_copy(
            update={
                "tracks": tuple(
                    replace(
                        track,
                        content=content_of(Path(track.file)),
                        size_bytes=Path(track.file).stat().st_size,
                    )
                    for track in take.tracks
                )
            }
        )
        for take in session.takes
    )
    return session.model_copy(update={"takes": takes})


@pytest.fixture
def recorded(tmp_path: Path) -> Session:
    return with_contents(sung_with_a_double(tmp_path / "here"))


def test_all_of_it_is_in_one_folder_and_opens_elsewhere(recorded: Session, tmp_path: Path) -> None:
    found = collect(recorded, tmp_path / "there")
    assert found.missing == ()
    assert found.files == len(files_of_session(recorded))
    moved = (tmp_path / "there").rename(tmp_path / "elsewhere")
    opened = load(moved / found.path.name)
    assert missing_files(opened) == ()
    assert all(str(moved) in file for file in files_of_session(opened))
    for take, was in zip(opened.takes, recorded.takes, strict=True):
        for track, old in zip(take.tracks, was.tracks, strict=True):
            assert Path(track.file).read_bytes() == Path(old.file).read_bytes()
    assert opened.takes[0].setup == recorded.takes[0].setup


def test_the_same_sound_is_never_there_twice(recorded: Session, tmp_path: Path) -> None:
    first = recorded.takes[0].tracks[0].file
    copy = tmp_path / "copy.wav"
    copy.write_bytes(Path(first).read_bytes())
    twice = with_files(recorded, {recorded.takes[1].tracks[0].file: str(copy)})
    found = collect(twice, tmp_path / "there")
    assert found.files == len(files_of_session(twice)) - 1
    assert len({track.file for take in found.session.takes for track in take.tracks}) == found.files
    # Once more into the same folder: nothing is added, nothing is overwritten.
    before = sorted((tmp_path / "there").rglob("*.wav"))
    again = collect(twice, tmp_path / "there")
    assert sorted((tmp_path / "there").rglob("*.wav")) == before
    assert again.session == found.session


def test_another_file_of_the_same_name_is_not_overwritten(
    recorded: Session, tmp_path: Path
) -> None:
    place = tmp_path / "there" / "Take 1" / "voice.wav"
    write(place, sung(1.0, 9))
    before = place.read_bytes()
    found = collect(recorded, tmp_path / "there")
    assert place.read_bytes() == before
    assert (tmp_path / "there" / "Take 1" / "voice (2).wav").exists()
    assert missing_files(found.session) == ()


def test_what_is_missing_is_told_and_stays_as_it_was(recorded: Session, tmp_path: Path) -> None:
    gone = Path(recorded.takes[0].tracks[0].file)
    gone.unlink()
    found = collect(recorded, tmp_path / "there")
    assert found.missing == (str(gone),)
    assert found.session.takes[0].tracks[0].file == str(gone)


def test_collecting_can_be_called_off_and_a_folder_that_refuses_is_told(
    recorded: Session, tmp_path: Path
) -> None:
    with pytest.raises(CancelledError):
        collect(recorded, tmp_path / "there", lambda share: share < 0.3)
    (tmp_path / "blocked").write_text("in the way")
    with pytest.raises(FileError):
        collect(recorded, tmp_path / "blocked")


def test_a_lost_take_is_found_again_by_what_it_holds(recorded: Session, tmp_path: Path) -> None:
    track = recorded.takes[0].tracks[0]
    moved = tmp_path / "here" / "under another name" / "x.wav"
    moved.parent.mkdir()
    Path(track.file).rename(moved)
    # Another file of its name is not it.
    write(Path(track.file).with_name("other.wav"), sung(8.0, 5))
    assert missing_files(recorded) == (track.file,)
    found = takes_found_again(recorded, [tmp_path / "here"])
    assert found == {track.file: str(moved)}
    assert missing_files(with_files(recorded, found)) == ()
    moved.unlink()
    assert takes_found_again(recorded, [tmp_path / "here"]) == {}
