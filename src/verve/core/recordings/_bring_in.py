"""Files that were analysed become sound files of the session, each taken for what it most likely is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from verve.core.assess import Assessment
from verve.core.recordings._analysis import Analysed, sound_of
from verve.core.recordings._signals import Guess, Heard, guess_role, guess_signals
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
    """Add analysed files; what is in `signals`, by path, holds that signal, and nothing is guessed of it."""
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
    guesses = guess_signals(heard, assessment)
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
