"""A session with all its sounds in one folder, and takes whose files are found again by what they hold."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

from verve.core.errors import CancelledError
from verve.core.files import unwritable, whole_file
from verve.core.session import SUFFIX, Session, save
from verve.core.soundfiles import content_of, file_stem, found_again

Progress = Callable[[float], bool]
_SOUNDS = "sounds"


@dataclass(frozen=True, slots=True, kw_only=True)
class Collected:
    """A session in a folder of its own: its file, how many files lie beside it, and which were missing."""

    session: Session
    path: Path
    files: int
    bytes: int
    missing: tuple[str, ...]


def files_of_session(session: Session) -> dict[str, str]:
    """Every sound file of a session, and the folder that it goes into beside it: that of its take, or one for all."""
    found: dict[str, str] = {}
    for take in session.takes:
        for track in take.tracks:
            found.setdefault(track.file, file_stem(take.name))
    for sound in session.sounds:
        found.setdefault(sound.file, _SOUNDS)
    for comparison in session.comparisons:
        for one in comparison.compared:
            found.setdefault(one.file, _SOUNDS)
    return found


def collect(session: Session, folder: Path, progress: Progress | None = None) -> Collected:
    """Copy a session and all its sounds into a folder, each sound once, and save it there with relative paths.

    Nothing in the folder is overwritten but the session's own file. What is missing stays where it was told.

    raises: FileError if something cannot be written; CancelledError if `progress` has said so
    """
    goes_on = progress or (lambda _: True)
    wanted = files_of_session(session)
    there = {file: Path(file) for file in wanted if Path(file).is_file()}
    total = max(1, sum(path.stat().st_size for path in there.values()))
    places: dict[str, str] = {}
    by_content: dict[str, str] = {}
    done = size = copied = 0
    for file, path in there.items():
        if not goes_on(done / total):
            raise CancelledError
        share = done / total
        content = content_of(path, lambda share=share: goes_on(share))  # type: ignore[misc]
        if content not in by_content:
            place = _free(folder / wanted[file], path.name, content)
            if not place.exists():
                _copy(path, place)
            by_content[content] = str(place)
            size += path.stat().st_size
            copied += 1
        places[file] = by_content[content]
        done += path.stat().st_size
    moved = with_files(session, places)
    path = folder / f"{file_stem(session.title)}{SUFFIX}"
    save(moved, path)
    missing = tuple(file for file in wanted if file not in there)
    return Collected(session=moved, path=path, files=copied, bytes=size, missing=missing)


def _copy(source: Path, place: Path) -> None:
    """raises: FileError"""
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(place) as temporary:
            shutil.copyfile(source, temporary)
    except OSError as error:
        raise unwritable(place, error) from error


def _free(folder: Path, name: str, content: str) -> Path:
    """A name that nothing has yet, or that has this very content already."""
    stem, dot, suffix = name.rpartition(".")
    place, number = folder / name, 2
    while place.exists() and content_of(place) != content:
        place, number = folder / f"{stem} ({number}){dot}{suffix}", number + 1
    return place


def with_files(session: Session, places: Mapping[str, str]) -> Session:
    """The session whose sound files lie elsewhere; those that are not named stay."""
    takes = tuple(
        take.model_copy(
            update={
                "tracks": tuple(
                    replace(track, file=places.get(track.file, track.file)) for track in take.tracks
                )
            }
        )
        if any(track.file in places for track in take.tracks)
        else take
        for take in session.takes
    )
    sounds = tuple(
        one.model_copy(update={"file": places[one.file]}) if one.file in places else one
        for one in session.sounds
    )
    comparisons = tuple(
        one.model_copy(
            update={
                "compared": tuple(
                    c.model_copy(update={"file": places.get(c.file, c.file)}) for c in one.compared
                )
            }
        )
        for one in session.comparisons
    )
    return session.model_copy(update={"takes": takes, "sounds": sounds, "comparisons": comparisons})


def lost_files(session: Session) -> dict[str, tuple[str, int]]:
    """Files of takes that are not where they were, with what they hold and how long they are."""
    found: dict[str, tuple[str, int]] = {}
    looked: set[str] = set()
    for take in session.takes:
        for track in take.tracks:
            if track.file in looked:
                continue
            looked.add(track.file)
            if track.content is not None and track.size_bytes and not Path(track.file).is_file():
                found[track.file] = (track.content, track.size_bytes)
    return found


def missing_files(session: Session) -> tuple[str, ...]:
    """Every sound file of a session that is not where it was."""
    return tuple(file for file in files_of_session(session) if not Path(file).is_file())


def takes_found_again(
    session: Session, folders: Iterable[Path], goes_on: Callable[[], bool] = lambda: True
) -> dict[str, str]:
    """By the place where it was, where the lost file of a take lies now, known by what it holds."""
    places = list(folders)
    found = {}
    for file, (content, size_bytes) in lost_files(session).items():
        place = found_again(content, size_bytes, places, goes_on)
        if place is not None:
            found[file] = str(place)
    return found
