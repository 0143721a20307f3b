"""How somebody played against the beat: phrase by phrase, how far ahead or behind, in milliseconds."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from verve.core.measure import onsets_of
from verve.core.session import Song
from verve.core.units import FloatArray

PAUSE_S: Final = 0.6
"""A rest of so long between two notes begins another phrase (a choice)."""
_LEAST_NOTES = 3
_PARTS = 4
"""Into so many parts a beat is cut: notes are held against the nearest."""
_NEAREST_S = 0.12
"""What is farther from every note of the other than this is another note."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PhraseTiming:
    """A phrase: from when to when in the song, how late it was played as a median, ahead with a minus, and how much
    its notes differ among themselves."""

    start_s: float
    end_s: float
    late_ms: float
    spread_ms: float
    notes: int


def phrases_of(onsets_s: FloatArray, pause_s: float = PAUSE_S) -> list[tuple[int, int]]:
    """Which notes belong together, as from and until: a rest parts them."""
    if not len(onsets_s):
        return []
    breaks = np.flatnonzero(np.diff(onsets_s) >= pause_s) + 1
    edges = [0, *breaks.tolist(), len(onsets_s)]
    return list(itertools.pairwise(edges))


def against_grid(onsets_s: FloatArray, song: Song) -> FloatArray:
    """How far each note is behind the nearest quarter of a beat, in seconds; ahead with a minus.

    shape: onsets_s (n,), result (n,)
    """
    assert song.tempo_bpm is not None
    step_s = 60.0 / song.tempo_bpm / _PARTS
    at = (onsets_s - song.first_beat_s) / step_s
    return np.asarray((at - np.round(at)) * step_s)


def against_notes(onsets_s: FloatArray, others_s: FloatArray) -> FloatArray:
    """How far each note is behind the nearest of others, in seconds; not a number where none is near.

    shape: onsets_s (n,), others_s (m,), result (n,)
    """
    if not len(others_s):
        return np.full(len(onsets_s), np.nan)
    right = np.searchsorted(others_s, onsets_s).clip(0, len(others_s) - 1)
    left = (right - 1).clip(0)
    nearer = np.where(
        np.abs(onsets_s - others_s[left]) < np.abs(onsets_s - others_s[right]), left, right
    )
    late = onsets_s - others_s[nearer]
    return np.where(np.abs(late) <= _NEAREST_S, late, np.nan)


def timing_of(onsets_s: FloatArray, late_s: FloatArray) -> tuple[PhraseTiming, ...]:
    """Phrase by phrase, of those that have notes enough to tell."""
    found = []
    for first, last in phrases_of(onsets_s):
        own = late_s[first:last]
        own = own[np.isfinite(own)]
        if len(own) < _LEAST_NOTES:
            continue
        middle = float(np.median(own))
        found.append(
            PhraseTiming(
                start_s=float(onsets_s[first]),
                end_s=float(onsets_s[last - 1]),
                late_ms=1000.0 * middle,
                spread_ms=1000.0 * float(np.median(np.abs(own - middle))) * 1.4826,
                notes=len(own),
            )
        )
    return tuple(found)


def played_against(
    samples: FloatArray,
    rate_hz: int,
    start_s: float,
    song: Song,
    others_s: FloatArray | None = None,
) -> tuple[PhraseTiming, ...]:
    """How a take was played, against the beat of the song; without a tempo against notes of something else.

    `start_s` is when in the song the samples begin. Empty where there is nothing to hold it against.

    shape: samples (n_frames,)
    """
    onsets = onsets_of(samples, rate_hz) + start_s
    if song.tempo_bpm is not None:
        return timing_of(onsets, against_grid(onsets, song))
    if others_s is None or not len(others_s):
        return ()
    return timing_of(onsets, against_notes(onsets, others_s))


def overall_ms(phrases: Sequence[PhraseTiming]) -> float | None:
    """How late all of it was, each phrase as much as it has notes; None where nothing can be told."""
    if not phrases:
        return None
    late = np.repeat([one.late_ms for one in phrases], [one.notes for one in phrases])
    return float(np.median(late))
