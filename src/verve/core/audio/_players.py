"""Synthetic players: something to rehearse with, in the octave bands and the range of a source.

A performance is one cycle of rests and notes that repeats; its loudest instant is exactly 1, the
peak of the way of playing asked for, so that a rendered recording can be held against prediction.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.line import OCTAVE_BANDS_HZ
from verve.core.session import Play, PlayingRange
from verve.core.units import FloatArray

LONGEST_CYCLE_S = 10.0
_REST_BEFORE_S = 0.9
_REST_AFTER_S = 0.5
_BRIGHTEST_HZ = 9000.0
_PARTIALS = 48
_FARTHEST_EQ_DB = 12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class _Manner:
    """How one kind of player sounds: pitches, note lengths, attack, decay, sway, breath."""

    pitches_hz: tuple[float, ...]
    note_s: float
    gap_s: float
    attack_s: float
    decay_per_s: float
    sway_cents: float
    breath: float
    voices: int = 1


_MANNERS: Mapping[str, _Manner] = {
    "voice": _Manner(
        pitches_hz=(196.0, 220.0, 247.0, 294.0, 262.0, 233.0),
        note_s=0.55,
        gap_s=0.12,
        attack_s=0.06,
        decay_per_s=0.0,
        sway_cents=35.0,
        breath=0.02,
    ),
    "plucked": _Manner(
        pitches_hz=(98.0, 147.0, 196.0, 247.0, 165.0, 220.0, 123.5),
        note_s=0.42,
        gap_s=0.02,
        attack_s=0.003,
        decay_per_s=5.0,
        sway_cents=0.0,
        breath=0.01,
    ),
    "bowed": _Manner(
        pitches_hz=(98.0, 110.0, 147.0, 131.0, 196.0, 165.0),
        note_s=0.75,
        gap_s=0.05,
        attack_s=0.09,
        decay_per_s=0.0,
        sway_cents=18.0,
        breath=0.04,
    ),
    "struck": _Manner(
        pitches_hz=(92.0, 138.0, 92.0, 184.0),
        note_s=0.3,
        gap_s=0.05,
        attack_s=0.001,
        decay_per_s=16.0,
        sway_cents=0.0,
        breath=0.5,
    ),
    "keys": _Manner(
        pitches_hz=(131.0, 147.0, 165.0, 123.5, 110.0),
        note_s=0.9,
        gap_s=0.04,
        attack_s=0.03,
        decay_per_s=0.4,
        sway_cents=4.0,
        breath=0.0,
        voices=3,
    ),
}
_CHORD = (1.0, 1.26, 1.5)


def _partial_weights(
    hz: FloatArray, octave_bands_db: Sequence[float], base_hz: float
) -> FloatArray:
    """Amplitude of each partial so that the notes together fill the source's octave bands."""
    level_db = np.interp(np.log2(hz), np.log2(OCTAVE_BANDS_HZ), np.asarray(octave_bands_db))
    # An octave higher holds twice as many partials: each has half the power of its band.
    return np.asarray(10.0 ** (level_db / 20.0) * np.sqrt(base_hz / hz))


def _spread_phases(weights: FloatArray) -> FloatArray:
    """Phases that spread the partials over the period, so that peaks tell power before a filter and behind.

    source: Schroeder 1970, "Synthesis of low-peak-factor signals", eq. 11
    """
    power = weights**2 / np.sum(weights**2)
    before = np.concatenate([[0.0], np.cumsum(power)[:-1]])
    return np.asarray(-2.0 * np.pi * np.concatenate([[0.0], np.cumsum(before)[:-1]]))


def _note(
    manner: _Manner,
    pitch_hz: float,
    bands_db: Sequence[float],
    rate_hz: int,
    rng: np.random.Generator,
) -> FloatArray:
    frames = int(manner.note_s * rate_hz)
    t = np.arange(frames) / rate_hz
    note = np.zeros(frames)
    sway = manner.sway_cents / 1200.0 * np.log(2.0) / (2.0 * np.pi * 5.2)
    warped = t + sway * (1.0 - np.cos(2.0 * np.pi * 5.2 * t))
    for voice in range(manner.voices):
        base_hz = pitch_hz * _CHORD[voice]
        count = min(_PARTIALS, int(min(_BRIGHTEST_HZ, 0.45 * rate_hz) / base_hz))
        partials_hz = base_hz * np.arange(1, count + 1)
        weights = _partial_weights(partials_hz, bands_db, base_hz)
        phases = np.exp(1j * (_spread_phases(weights) + rng.uniform(0.0, 2.0 * np.pi)))
        # Partial h is the h-th power of the first, dying away sooner the higher it is: Horner's rule.
        first = np.exp(2j * np.pi * base_hz * warped - manner.decay_per_s * base_hz / 3000.0 * t)
        together = np.zeros(frames, dtype=complex)
        for factor in (weights * phases)[::-1]:
            together = (together + factor) * first
        note += together.imag * np.exp(-manner.decay_per_s * t)
    if manner.breath:
        note += (
            manner.breath
            * np.max(np.abs(note))
            * _shaped_noise(frames, bands_db, rate_hz, rng)
            * (np.exp(-12.0 * t) if manner.decay_per_s else 1.0)
        )
    attack = np.minimum(1.0, t / manner.attack_s)
    release = np.minimum(1.0, (t[-1] - t) / 0.03)
    return np.asarray(note * np.sin(attack * np.pi / 2.0) * np.sin(release * np.pi / 2.0))


def _shaped_noise(
    frames: int, bands_db: Sequence[float], rate_hz: int, rng: np.random.Generator
) -> FloatArray:
    spectrum = np.fft.rfft(rng.standard_normal(frames))
    hz = np.maximum(np.fft.rfftfreq(frames, 1.0 / rate_hz), 10.0)
    shaped = np.fft.irfft(spectrum * _partial_weights(hz, bands_db, 100.0), frames)
    return np.asarray(shaped / np.max(np.abs(shaped)))


def _levels_db(play: Play, playing: PlayingRange, notes: int) -> list[float]:
    """Peak of each note below the hardest, in dB; a phrase goes through all three."""
    below = {
        "softest": playing.softest_db - playing.hardest_db,
        "typical": playing.typical_db - playing.hardest_db,
        "hardest": 0.0,
    }
    if play != "phrase":
        return [below[play]] * notes
    ways = ("softest", "typical", "hardest")
    return [below[ways[min(2, 3 * index // max(notes, 1))]] for index in range(notes)]


def perform(
    *,
    player: str,
    octave_bands_db: Sequence[float],
    playing: PlayingRange,
    play: Play,
    seconds: float,
    rate_hz: int,
    seed: int,
) -> FloatArray:
    """One cycle of playing; 1.0 is the source's hardest peak. Same arguments, same sound.

    shape: (frames,), at most ten seconds, to be repeated
    """
    manner = _MANNERS[player]
    rng = np.random.default_rng(seed)
    frames = int(min(seconds, LONGEST_CYCLE_S) * rate_hz)
    cycle = np.zeros(frames)
    step = int((manner.note_s + manner.gap_s) * rate_hz)
    start = int(_REST_BEFORE_S * rate_hz)
    room = frames - int(_REST_AFTER_S * rate_hz) - start
    count = max(1, room // step)
    bank = [_note(manner, pitch, octave_bands_db, rate_hz, rng) for pitch in manner.pitches_hz]
    levels_db = _levels_db(play, playing, count)
    if play == "phrase" and count < 3:
        levels_db[-1] = 0.0
    loudest = max(levels_db)
    for index, level_db in enumerate(levels_db):
        note = bank[index % len(bank)]
        peak = np.max(np.abs(note))
        # Players vary by a decibel or two; the loudest note of all is exactly at its level.
        varied_db = (
            0.0 if level_db == loudest and index == len(levels_db) - 1 else rng.uniform(-2.5, 0.0)
        )
        at = start + index * step
        note = note[: max(0, frames - at)]
        cycle[at : at + len(note)] += note / peak * 10.0 ** ((level_db + varied_db) / 20.0)
    cycle = _in_its_bands(cycle, octave_bands_db, rate_hz)
    gate = np.zeros(frames)
    until = min(frames, start + count * step + int(0.1 * rate_hz))
    gate[start - int(0.1 * rate_hz) : until] = 1.0
    return np.asarray(cycle * gate / np.max(np.abs(cycle * gate)) * 10.0 ** (loudest / 20.0))


def _in_its_bands(cycle: FloatArray, octave_bands_db: Sequence[float], rate_hz: int) -> FloatArray:
    """The playing equalised, smoothly, so that its octave bands are those of the source."""
    spectrum = np.fft.rfft(cycle)
    hz = np.fft.rfftfreq(len(cycle), 1.0 / rate_hz)
    octave = np.log2(np.maximum(hz, 1.0) / 1000.0) + 5.0
    for _ in range(2):
        band = np.clip(np.round(octave).astype(int), 0, 9)
        power = np.bincount(band, np.abs(spectrum) ** 2, minlength=10)
        has_db = 10.0 * np.log10(power / power.max() + 1e-9)
        lacks_db = np.asarray(octave_bands_db) - max(octave_bands_db) - has_db
        lacks_db = np.clip(lacks_db, -_FARTHEST_EQ_DB, _FARTHEST_EQ_DB)
        spectrum = spectrum * 10.0 ** (np.interp(octave, np.arange(10), lacks_db) / 20.0)
    return np.asarray(np.fft.irfft(spectrum, len(cycle)))
