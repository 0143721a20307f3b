"""What a tuner says: the note, how far off it is, what to do; of an instrument's strings each one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from verve.core.words import number

if TYPE_CHECKING:
    from collections.abc import Mapping

    from verve.core.measure import Reading
    from verve.core.recordings import Tuning, TuningString

IN_TUNE_CENTS = 3.0
"""Less apart nobody hears of two notes that follow each other."""
_FAR_CENTS = 50.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuned:
    """What is shown of a reading: the note in two parts, figure, words and frequency."""

    letter: str
    octave: str
    cents: float
    figure: str
    says: str
    frequency: str
    is_in_tune: bool
    is_settled: bool

    @property
    def note(self) -> str:
        """The note with its octave."""
        return f"{self.letter}{self.octave}"


def tuned_text(
    reading: Reading,
    a4_hz: float,
    string: tuple[TuningString, float] | None = None,
    *,
    is_now: bool = True,
) -> Tuned:
    """A reading in words; with an instrument's nearest string and the cents above it, held against that."""
    note, cents = reading.note, reading.cents
    has_string = string is not None
    if string is not None:
        note, cents = string[0].note, string[1]
    is_in_tune = abs(cents) <= IN_TUNE_CENTS
    if is_in_tune:
        says = "in tune"
    elif abs(cents) > _FAR_CENTS and has_string:
        semitones = number(abs(cents) / 100.0, 1)
        says = f"{semitones} semitones {'too high' if cents > 0.0 else 'too low'}"
    else:
        way = "tune down" if cents > 0.0 else "tune up"
        says = f"{'sharp' if cents > 0.0 else 'flat'}: {way}"
    about = "" if reading.is_settled else "about "
    before = "" if is_now else "last heard: "
    return Tuned(
        letter=note.rstrip("0123456789-").replace("#", "♯"),
        octave=note.lstrip("ABCDEFG#"),
        cents=cents,
        figure=f"{number(cents, 0, sign=True)} cents",
        says=says,
        frequency=f"{before}{about}{reading.pitch_hz:.2f} Hz, A4 = {a4_hz:g} Hz",
        is_in_tune=is_in_tune,
        is_settled=reading.is_settled,
    )


def string_texts(
    tuning: Tuning, last_cents: Mapping[int, float], meant: int | None
) -> list[tuple[str, str, bool]]:
    """Of each string its note, what it was when it was heard last, and whether it is the one that sounds."""
    return [
        (
            string.note.replace("#", "♯"),
            _last(last_cents.get(string.number)),
            string.number == meant,
        )
        for string in tuning.strings
    ]


def _last(cents: float | None) -> str:
    if cents is None:
        return "—"
    return "in tune" if abs(cents) <= IN_TUNE_CENTS else f"{number(cents, 0, sign=True)} cents"
