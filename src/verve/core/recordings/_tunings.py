"""How instruments are tuned: the notes of their open strings, from the catalogue or typed."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.catalogue import catalogue
from verve.core.errors import InputError
from verve.core.kind import SourceFigures

_NOTE = re.compile(r"^([A-Ga-g])([#♯b♭]?)(-?\d)$")
_STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_SHARPS = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
_MOST_STRINGS = 24
_OTHERS = (
    ("Guitar, lowest string on D", "D2 A2 D3 G3 B3 E4"),
    ("Guitar, seven strings", "B1 E2 A2 D3 G3 B3 E4"),
    ("Bass, five strings", "B0 E1 A1 D2 G2"),
)
"""Usual ones that no entry of the catalogue has."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TuningString:
    """An open string: its place, counted from 1 as it lies, its note, and how far that is from A4 in semitones."""

    number: int
    note: str
    semitones: int

    def hz(self, a4_hz: float) -> float:
        """Its frequency in equal temperament."""
        return float(a4_hz * 2.0 ** (self.semitones / 12.0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuning:
    """The open strings of an instrument."""

    name: str
    strings: tuple[TuningString, ...]

    @property
    def notes(self) -> str:
        """All of them, with spaces between."""
        return " ".join(string.note for string in self.strings)

    @staticmethod
    def of(name: str, notes: str | Sequence[str]) -> Tuning:
        """raises: InputError for what is no note"""
        words = notes.split() if isinstance(notes, str) else list(notes)
        if not 1 <= len(words) <= _MOST_STRINGS:
            rule = f"must be 1 to {_MOST_STRINGS} notes with spaces between, such as E2 A2 D3"
            raise InputError("tuning", rule, len(words))
        return Tuning(name=name, strings=tuple(_string(n, word) for n, word in enumerate(words, 1)))


def _string(number: int, word: str) -> TuningString:
    found = _NOTE.match(word.strip())
    if found is None:
        raise InputError("tuning", "must be notes such as E2, F#3 or Bb1", word)
    letter, sign, octave = found.groups()
    above_c0 = 12 * int(octave) + _STEPS[letter.upper()]
    above_c0 += {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[sign]
    name = f"{_SHARPS[above_c0 % 12]}{above_c0 // 12}"
    return TuningString(number=number, note=name, semitones=above_c0 - 57)


def tunings() -> tuple[Tuning, ...]:
    """All that differ, each under the name of the first instrument that has it."""
    known: dict[tuple[str, ...], Tuning] = {}
    for entry in catalogue().sources.values():
        if entry.strings and entry.strings not in known:
            known[entry.strings] = Tuning.of(entry.name, entry.strings)
    for name, notes in _OTHERS:
        known.setdefault(tuple(notes.split()), Tuning.of(name, notes))
    return tuple(sorted(known.values(), key=lambda tuning: tuning.name))


def tuning_of_source(figures: SourceFigures) -> Tuning | None:
    """How a source of a session is usually tuned; None for one without strings of fixed notes."""
    entry = catalogue().sources.get(figures.entry or "")
    return Tuning.of(entry.name, entry.strings) if entry is not None and entry.strings else None


def nearest_string(tuning: Tuning, pitch_hz: float, a4_hz: float) -> tuple[TuningString, float]:
    """The string whose note is nearest to a pitch, and by how many cents the pitch is above it."""
    above_a4 = 12.0 * math.log2(pitch_hz / a4_hz)
    string = min(tuning.strings, key=lambda one: abs(above_a4 - one.semitones))
    return string, 100.0 * (above_a4 - string.semitones)
