"""Files that were analysed become sound files of the session, each taken for what it most likely is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from verve.core.assess import Assessment
from verve.core.recordings._analysis import Analysed, sound_of
from verve.core.recordings._rounds import Named, rounds_of
from verve.core.recordings._signals import (
    Guess,
    Heard,
    guess_role,
    guess_signals,
    names_signal,
)
from verve.core.session import Session, Sound, add_sound


@dataclass(frozen=True, slots=True, kw_only=True)
class BroughtIn:
    """The session with them, what each was taken for, and those that were in it already."""

    session: Session
    sounds: tuple[Sound, ...] = ()
    guesses: tuple[tuple[Guess, ...], ...] = ()
    known: tuple[Sound, ...] = ()


def brought_in(
    session: Session,
    assessment: Assessment,
    found: Sequence[Analysed],
    *,
    added_at: str,
    signals: Mapping[str, str] | None = None,
) -> BroughtIn:
    """Add analysed files; what is in `signals`, by path, holds that signal, and nothing is guessed of it.

    A signal is in one file of those that were recorded together, and in any number of takes one after another.
    """
    told = signals or {}
    fresh: list[Analysed] = []
    known = tuple(
        sound for sound in session.sounds if sound.content in {one.content for one in found}
    )
    contents = {sound.content for sound in session.sounds}
    for one in found:
        if one.content not in contents:
            fresh.append(one)
            contents.add(one.content)
    sounds: list[Sound] = []
    for one in fresh:
        sound = sound_of(one, session, added_at)
        session = add_sound(session, sound)
        sounds.append(sound)
    heard = [
        Heard(stem=one.path.stem, channels=sound.figures.channels, signal=told.get(str(one.path)))
        for one, sound in zip(fresh, sounds, strict=True)
    ]
    guesses = _guessed(session, heard, sounds, assessment)
    kept: list[Sound] = []
    for of_file, sound, of_it in zip(heard, sounds, guesses, strict=True):
        role = guess_role(of_file.stem, of_it)
        named = () if role == "backing" else tuple(guess.signal for guess in of_it)
        kept.append(sound.model_copy(update={"role": role, "signals": named if any(named) else ()}))
    by_id = {sound.id: sound for sound in kept}
    whole = tuple(by_id.get(sound.id, sound) for sound in session.sounds)
    return BroughtIn(
        session=session.model_copy(update={"sounds": whole}),
        sounds=tuple(kept),
        guesses=guesses,
        known=known,
    )


def _guessed(
    session: Session, heard: Sequence[Heard], sounds: Sequence[Sound], assessment: Assessment
) -> tuple[tuple[Guess, ...], ...]:
    """What each file is taken for, one moment after another."""
    named = [
        Named(
            stem=one.stem,
            recorded_at=sound.recorded_at,
            signal=one.signal or names_signal(session, one.stem),
        )
        for one, sound in zip(heard, sounds, strict=True)
    ]
    found: dict[int, tuple[Guess, ...]] = {}
    for together in rounds_of(named):
        of_them = guess_signals([heard[number] for number in together], assessment)
        found.update(zip(together, of_them, strict=True))
    return tuple(found[number] for number in range(len(heard)))
