"""Edits of the sound files of a session, and where they lie as its file tells it."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from pydantic import ValidationError

from verve.core.errors import EditError, InputError, from_validation_error
from verve.core.session._models import Session
from verve.core.session._sounds import Sound


def _checked(sound: Sound) -> Sound:
    try:
        return Sound.model_validate(sound.model_dump())
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, sound.name or "sound"))) from error
    except InputError as error:
        raise EditError(str(error)) from error


def add_sound(session: Session, sound: Sound) -> Session:
    """One more sound file, behind the others.

    raises: EditError if what it holds is among them already
    """
    same = next((one for one in session.sounds if one.content == sound.content), None)
    if same is not None:
        raise EditError(f"{sound.name}: is in the session already, as {same.name}")
    if sound.id in {one.id for one in session.sounds}:
        raise EditError(f"{sound.id}: is the id of another sound file")
    return session.model_copy(update={"sounds": (*session.sounds, _checked(sound))})


def change_sound(session: Session, changed: Sound) -> Session:
    """A sound file with another name, place, role, signals or notes.

    raises: EditError for an unknown one, or one that cannot be so
    """
    if all(one.id != changed.id for one in session.sounds):
        raise EditError(f"{changed.id}: must be a sound file of this session")
    changed = _checked(changed)
    sounds = tuple(changed if one.id == changed.id else one for one in session.sounds)
    return session.model_copy(update={"sounds": sounds})


def assign_signal(session: Session, sound_id: str, channel: int, signal: str | None) -> Session:
    """Say which signal a channel of a sound file holds; None for none. Another channel that had it gives it up, and
    a measurement that holds a signal is a take.

    raises: EditError for an unknown file or channel, or a backing track
    """
    old = next((one for one in session.sounds if one.id == sound_id), None)
    if old is None or not 0 <= channel < old.channels:
        raise EditError(
            f"{sound_id}: must be a sound file of this session with a channel {channel + 1}"
        )
    signals = [old.signal(number) for number in range(old.channels)]
    signals = [None if one == signal else one for one in signals]
    signals[channel] = signal
    is_take = signal is not None and old.role == "measurement"
    changes: dict[str, object] = {"signals": tuple(signals) if any(signals) else ()}
    return change_sound(
        session, old.model_copy(update=changes | ({"role": "take"} if is_take else {}))
    )


def move_sound(session: Session, sound_id: str, file: str) -> Session:
    """A sound file that lies elsewhere now; takes that have tracks in it know it there, too.

    raises: EditError for an unknown one
    """
    old = next((one for one in session.sounds if one.id == sound_id), None)
    if old is None:
        raise EditError(f"{sound_id}: must be a sound file of this session")
    session = change_sound(session, old.model_copy(update={"file": file}))
    takes = tuple(
        take.model_copy(
            update={
                "tracks": tuple(
                    replace(track, file=file) if track.file == old.file else track
                    for track in take.tracks
                )
            }
        )
        if any(track.file == old.file for track in take.tracks)
        else take
        for take in session.takes
    )
    return session.model_copy(update={"takes": takes})


def remove_sound(session: Session, sound_id: str) -> Session:
    """Take a sound file off the list; the file itself stays where it is.

    raises: EditError for an unknown one
    """
    if all(one.id != sound_id for one in session.sounds):
        raise EditError(f"{sound_id}: must be a sound file of this session")
    sounds = tuple(one for one in session.sounds if one.id != sound_id)
    spots = tuple(
        one.model_copy(update={"sound": None}) if one.sound == sound_id else one
        for one in session.spots
    )
    return session.model_copy(update={"sounds": sounds, "spots": spots})


def from_folder(session: Session, folder: Path) -> Session:
    """The session of a file in `folder`: where its sound files lie is told as whole paths."""
    return _with_files(session, lambda file: os.path.normpath(folder / file))


def for_folder(session: Session, folder: Path) -> Session:
    """The session for a file in `folder`: where its sound files lie is told from there.

    One that has nothing of its path in common with it, as on another disk, keeps its whole path.
    """
    return _with_files(session, lambda file: told_from(file, folder))


def told_from(path: str, folder: Path) -> str:
    """Where something lies, told from a folder; its whole path where the two have nothing in common."""
    place = os.path.normpath(folder.absolute())
    if not Path(path).is_absolute() or os.path.commonpath([path, place]) == os.sep:
        return path
    return Path(os.path.relpath(path, place)).as_posix()


def _with_files(session: Session, told: Callable[[str], str]) -> Session:
    if not session.sounds and not session.comparisons:
        return session
    sounds = tuple(one.model_copy(update={"file": told(one.file)}) for one in session.sounds)
    comparisons = tuple(
        one.model_copy(
            update={
                "compared": tuple(c.model_copy(update={"file": told(c.file)}) for c in one.compared)
            }
        )
        for one in session.comparisons
    )
    return session.model_copy(update={"sounds": sounds, "comparisons": comparisons})
