"""Tuning live: block in, state out, and after each block the pitch of the note that sounds, as soon as it is sure.

A note begins where the level rises; from then on its period is looked for every 20 ms in what has been heard of it,
and told when two looks in a row agree. After a quarter of a second its partials make it exact.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

import numpy as np

from verve.core.errors import InputError
from verve.core.measure._pitch import HIGHEST_HZ, LOWEST_HZ, note_of, period_pitch, refined_pitch
from verve.core.units import FloatArray

LOOKS_PER_S = 50
_FRAME_S, _LEAST_S = 0.16, 0.04
_PERIODS = 2.5
"""What is heard of a note holds at least so many of its periods before it is told."""
_SAME_CENTS = 60.0
_RISES = 10.0
"""A note begins where the power is so many times that of 60 ms before."""
_REST_LOOKS = 3
_SOUNDS = 1e-9
"""Mean square below which nothing is looked for: −87 dBFS."""
_EXACT_AFTER_S, _EXACT_S, _EXACT_EVERY = 0.25, 0.5, 5
_RESTING = 5
"""What is known exactly is looked at only every so many times: a new note is seen by its level at once."""
_ATTACK_S = 0.08
"""The beginning of a plucked note reads sharp: what is exact leaves it out where there is enough."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """What is heard: its pitch, the nearest note from `a4_hz`, how far above it, and whether it is settled yet."""

    pitch_hz: float
    note: str
    cents: float
    is_settled: bool
    at_s: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Heard:
    """What a tuner has heard so far: the last of the sound, the note that sounds, and what was told of it."""

    frames: int = 0
    """Frames that have been looked at."""
    tail: FloatArray = field(default_factory=lambda: np.zeros(0))
    """The last of them."""
    rest: FloatArray = field(default_factory=lambda: np.zeros(0))
    """Frames that are too few for a look."""
    powers: tuple[float, ...] = ()
    onset: int | None = None
    """Where the note that sounds began."""
    candidate_hz: float | None = None
    looks: int = 0
    """Looks in a row that agreed."""
    exact_hz: float | None = None
    reading: Reading | None = None
    """The note that sounds; None in a rest, or until it is sure."""


class Tuner:
    """Follows the pitch of one signal; states are values, and the same for every size of block."""

    def __init__(self, *, rate_hz: int, a4_hz: float = 440.0) -> None:
        if not 8_000 <= rate_hz <= 1_000_000:
            raise InputError("rate_hz", "must be 8000 to 1000000", rate_hz)
        if not 300.0 <= a4_hz <= 600.0:
            raise InputError("a4_hz", "must be 300 to 600", a4_hz)
        self.rate_hz, self.a4_hz = rate_hz, a4_hz
        self._step = rate_hz // LOOKS_PER_S
        self._keep = math.ceil((_EXACT_S + 1.0 / LOOKS_PER_S) * rate_hz)

    def start(self) -> Heard:
        """Nothing yet."""
        return Heard()

    def fold(self, state: Heard, block: FloatArray) -> Heard:
        """One more block; every 20 ms of it is looked at.

        shape: block (n_frames,)
        """
        waiting = np.concatenate([state.tail, state.rest, np.asarray(block, dtype=np.float64)])
        at = len(state.tail)
        while at + self._step <= len(waiting):
            at += self._step
            state = self._look(state, waiting[max(0, at - self._keep) : at])
        return replace(state, tail=waiting[max(0, at - self._keep) : at], rest=waiting[at:])

    def _look(self, state: Heard, samples: FloatArray) -> Heard:
        """Look at the last frames, of which the last 20 ms are new."""
        begin, frames = state.frames, state.frames + self._step
        power = float(np.mean(samples[-self._step :] ** 2))
        before = state.powers[0] if state.powers else 0.0
        powers = (*state.powers, power)[-_REST_LOOKS:]
        state = replace(state, frames=frames, powers=powers)
        if power < _SOUNDS:
            return _forgotten(state, None)
        if state.onset is None:
            return _forgotten(state, begin)
        is_old = begin - state.onset > _REST_LOOKS * self._step
        if is_old and power > _RISES * max(before, _SOUNDS):
            # Struck again, or another string: what was heard of the one before does not count.
            return _forgotten(state, begin)
        return self._listen(state, samples)

    def _listen(self, state: Heard, samples: FloatArray) -> Heard:
        assert state.onset is not None
        if state.exact_hz is not None and (state.frames // self._step) % _RESTING:
            return state
        heard = state.frames - state.onset
        size = min(heard, round(_FRAME_S * self.rate_hz), len(samples))
        if size < _LEAST_S * self.rate_hz:
            return state
        frame = samples[-size:]
        pitch_hz, _ = period_pitch(frame - frame.mean(), self.rate_hz)
        if pitch_hz is None or size < _PERIODS * self.rate_hz / pitch_hz:
            return replace(state, looks=0, candidate_hz=None, reading=None, exact_hz=None)
        agrees = _agree(pitch_hz, state.candidate_hz)
        looks = state.looks + 1 if agrees else 1
        state = replace(state, candidate_hz=pitch_hz, looks=looks)
        if not agrees:
            # Another note, or one look that went astray: nothing is told until it is sure.
            return replace(state, exact_hz=None, reading=None)
        every = _EXACT_EVERY if state.exact_hz is None else 3
        if heard >= _EXACT_AFTER_S * self.rate_hz and looks % every == 0:
            state = replace(state, exact_hz=self._exact(samples, heard, pitch_hz))
        exact = state.exact_hz if _agree(pitch_hz, state.exact_hz) else None
        told_hz = pitch_hz if exact is None else exact
        if not LOWEST_HZ <= told_hz <= HIGHEST_HZ:
            return replace(state, reading=None)
        note, cents = note_of(told_hz, self.a4_hz)
        reading = Reading(
            pitch_hz=told_hz,
            note=note,
            cents=cents,
            is_settled=exact is not None,
            at_s=state.frames / self.rate_hz,
        )
        return replace(state, reading=reading)

    def _exact(self, samples: FloatArray, heard: int, pitch_hz: float) -> float | None:
        wanted = min(heard, len(samples), round(_EXACT_S * self.rate_hz))
        attack = round(_ATTACK_S * self.rate_hz)
        if wanted == heard and wanted - attack > 0.6 * _EXACT_AFTER_S * self.rate_hz:
            wanted -= attack
        return refined_pitch(samples[-wanted:], self.rate_hz, pitch_hz)


def _forgotten(state: Heard, onset: int | None) -> Heard:
    """Nothing is known of the note that begins there; None for a rest."""
    return replace(state, onset=onset, candidate_hz=None, looks=0, exact_hz=None, reading=None)


def _agree(one_hz: float, other_hz: float | None) -> bool:
    return other_hz is not None and abs(1200.0 * math.log2(one_hz / other_hz)) < _SAME_CENTS
