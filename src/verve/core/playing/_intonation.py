"""How far somebody was off their notes, phrase by phrase: of voices and single notes, never of chords."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np

from verve.core.measure import Moment, moments_of, note_of
from verve.core.units import FloatArray

_CLEAR = 0.85
_LEAST_S = 0.12
"""A note that is held so long can be told to be sharp or flat; what is shorter is on its way."""
_HOP_S = 0.025
_STEADY_CENTS = 60.0
"""Within one note, moments lie so near to its middle; farther off it is the way to another."""
_LEAST_NOTES = 2
_CHORDS = 0.5
"""Where less than this share of what sounds has one clear pitch, it is chords, and nothing is told."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldNote:
    """A note that was held: when, how long, and by how many cents it was above the nearest of the twelve."""

    start_s: float
    seconds: float
    note: str
    cents: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PhrasePitch:
    """A phrase: how far above its notes it was in the middle, and the note that was farthest off."""

    start_s: float
    end_s: float
    off_cents: float
    worst: HeldNote


def held_notes(
    samples: FloatArray, rate_hz: int, start_s: float, a4_hz: float
) -> tuple[HeldNote, ...]:
    """Notes that were held long enough to be told; none of them where it is chords.

    shape: samples (n_frames,)
    """
    moments = moments_of(samples, rate_hz)
    loudest = max((one.power for one in moments), default=0.0)
    sounding = [one for one in moments if one.power > loudest * 1e-3]
    clear = [one for one in sounding if one.pitch_hz is not None and one.clarity >= _CLEAR]
    if not sounding or len(clear) < _CHORDS * len(sounding):
        return ()
    found = []
    for run in _runs(moments):
        pitches = np.array([one.pitch_hz for one in run if one.pitch_hz is not None])
        seconds = len(run) * _HOP_S
        if seconds < _LEAST_S:
            continue
        middle = float(np.median(pitches))
        note, cents = note_of(middle, a4_hz)
        found.append(
            HeldNote(start_s=start_s + run[0].middle_s, seconds=seconds, note=note, cents=cents)
        )
    return tuple(found)


def _runs(moments: Sequence[Moment]) -> list[list[Moment]]:
    """Moments of one note that follow each other."""
    found: list[list[Moment]] = []
    for is_clear, group in groupby(
        moments, lambda one: one.pitch_hz is not None and one.clarity >= _CLEAR
    ):
        if not is_clear:
            continue
        run: list[Moment] = []
        for one in group:
            middle = np.median([x.pitch_hz for x in run if x.pitch_hz]) if run else one.pitch_hz
            assert one.pitch_hz is not None
            assert middle is not None
            if run and abs(1200.0 * np.log2(one.pitch_hz / middle)) > _STEADY_CENTS:
                found.append(run)
                run = []
            run.append(one)
        found.append(run)
    return found


def pitch_by_phrase(notes: Sequence[HeldNote], pause_s: float) -> tuple[PhrasePitch, ...]:
    """Phrase by phrase, of those with notes enough; a rest parts them."""
    phrases: list[list[HeldNote]] = []
    for one in notes:
        before = phrases[-1][-1] if phrases else None
        if before is None or one.start_s - (before.start_s + before.seconds) >= pause_s:
            phrases.append([])
        phrases[-1].append(one)
    found = []
    for own in phrases:
        if len(own) < _LEAST_NOTES:
            continue
        weights = [max(1, round(one.seconds / _HOP_S)) for one in own]
        cents = np.repeat([one.cents for one in own], weights)
        found.append(
            PhrasePitch(
                start_s=own[0].start_s,
                end_s=own[-1].start_s + own[-1].seconds,
                off_cents=float(np.median(cents)),
                worst=max(own, key=lambda one: abs(one.cents)),
            )
        )
    return tuple(found)


def overall_cents(notes: Sequence[HeldNote]) -> float | None:
    """How far above its notes all of it was; None where nothing was held."""
    if not notes:
        return None
    weights = [max(1, round(one.seconds / _HOP_S)) for one in notes]
    return float(np.median(np.repeat([one.cents for one in notes], weights)))
