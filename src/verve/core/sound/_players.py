"""Synthetic players: something to rehearse with, in the octave bands and the range of a source.

A performance is one cycle of rests and notes that repeats; its loudest instant is exactly 1, the
peak of the way of playing asked for, so that a rendered recording can be held against prediction.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from verve.core.kind import PlayingRange
from verve.core.line import OCTAVE_BANDS_HZ
from verve.core.session import Play
from verve.core.sound._manners import MANNERS, Manner
from verve.core.units import ComplexArray, FloatArray

LONGEST_CYCLE_S = 10.0
_REST_BEFORE_S = 0.9
_REST_AFTER_S = 0.5
_BRIGHTEST_HZ = 18_000.0
_DULLEST_DECAY_HZ = 150.0
_PARTIALS = 96
_STRONG_DB = 8.0
_PERIOD_FRAMES = 512
_DRAWS = 80
_DAY_DB, _MOST_OF_A_DAY_DB = 1.2, 2.5
"""How a player differs from take to take: deviation, and the most of it."""
_ONE_IN, _HARDER_DB = 5, (3.0, 6.0)
"""In one of so many takes somebody hits harder than announced, by so much."""
_BLAST_S, _BLAST_HZ, _BLAST_DB = 0.09, 28.0, -10.0


_CHORD = (1.0, 1.26, 1.5)


def _register_hz(octave_bands_db: Sequence[float]) -> float:
    """Where an instrument plays: the lowest octave in which it is strong."""
    strongest = max(octave_bands_db)
    pairs = zip(OCTAVE_BANDS_HZ, octave_bands_db, strict=True)
    return next(hz for hz, level_db in pairs if level_db >= strongest - _STRONG_DB)


def _frequencies_hz(frames: int, rate_hz: int) -> FloatArray:
    return np.asarray(np.fft.rfftfreq(frames, 1.0 / rate_hz), dtype=np.float64)


def _octave(hz: FloatArray) -> NDArray[np.int64]:
    return np.asarray(
        np.clip(np.round(np.log2(np.maximum(hz, 1.0) / 1000.0)) + 5.0, 0.0, 9.0), np.int64
    )


def _partial_weights(hz: FloatArray, octave_bands_db: Sequence[float]) -> FloatArray:
    """Amplitude of each partial: those in one octave share the power of its band evenly.

    A band below the first partial gives its power to the band of the first.
    """
    octave = _octave(hz)
    power = 10.0 ** (np.asarray(octave_bands_db) / 10.0)
    power[octave[0]] += power[: octave[0]].sum()
    members = np.bincount(octave, minlength=10)
    return np.asarray(np.sqrt(power[octave] / members[octave]))


def _test_filters(hz: FloatArray) -> ComplexArray:
    """Filters such as lines have, none at all first: against bass, against treble, one slope throughout.

    shape: (n_filters, n_freq)
    """
    safe_hz = np.maximum(hz, 1.0)
    filters = [np.ones(len(hz), dtype=complex), 1j * hz / 1000.0]
    filters += [1.0 / (1.0 + corner_hz / (1j * safe_hz)) for corner_hz in (100.0, 350.0, 1200.0)]
    filters += [1.0 / (1.0 + 1j * hz / corner_hz) for corner_hz in (1500.0,)]
    return np.array(filters)


def _unevenness_db(spectra: ComplexArray, frames: int) -> float:
    """How far a filter may lower the peak otherwise than the power; `spectra` as _test_filters.

    Predictions take the crest for the same in all bands; a player that is to test them must play so.
    """
    waves = np.fft.irfft(spectra, frames, axis=1)
    crests_db = 20.0 * np.log10(np.max(np.abs(waves), axis=1) / np.sqrt(np.mean(waves**2, axis=1)))
    return float(np.max(np.abs(crests_db - crests_db[0])))


def _even_phases(weights: FloatArray, base_hz: float, rng: np.random.Generator) -> FloatArray:
    """Of many random phases those that make the wave most even under filters."""
    partials = np.arange(1, len(weights) + 1)
    shaped = _test_filters(np.asarray(base_hz * partials, dtype=np.float64)) * weights
    spectra = np.zeros((len(shaped), _PERIOD_FRAMES // 2 + 1), dtype=complex)
    best: tuple[float, FloatArray] | None = None
    for _ in range(_DRAWS):
        phases = rng.uniform(0.0, 2.0 * np.pi, len(weights))
        spectra[:, partials] = shaped * np.exp(1j * phases)
        unevenness_db = _unevenness_db(spectra, _PERIOD_FRAMES)
        if best is None or unevenness_db < best[0]:
            best = (unevenness_db, phases)
    assert best is not None
    return best[1]


def _most_even(bank: Sequence[FloatArray], rate_hz: int) -> int:
    """Which of the notes a filter lowers most truly: the loudest of a performance."""

    def unevenness_db(note: FloatArray) -> float:
        frames = 1 << int(np.ceil(np.log2(len(note))))
        spectrum = np.fft.rfft(note, frames)
        return _unevenness_db(_test_filters(_frequencies_hz(frames, rate_hz)) * spectrum, frames)

    return min(range(len(bank)), key=lambda index: unevenness_db(bank[index]))


def _note(
    manner: Manner,
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
        weights = _partial_weights(np.asarray(partials_hz, dtype=np.float64), bands_db)
        phases = np.exp(1j * _even_phases(weights, base_hz, rng))
        # Partial h is the h-th power of the first, dying away sooner the higher it is: Horner's rule.
        first = np.exp(
            2j * np.pi * base_hz * warped
            - manner.decay_per_s * min(base_hz, _DULLEST_DECAY_HZ) / 3000.0 * t
        )
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
    hz = np.asarray(np.maximum(_frequencies_hz(frames, rate_hz), 10.0))
    shaped = np.fft.irfft(spectrum * _partial_weights(hz, bands_db), frames)
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


def _other_than_announced_db(rng: np.random.Generator) -> float:
    """How much louder than announced somebody plays in one take."""
    of_a_day = float(np.clip(rng.normal(0.0, _DAY_DB), -_MOST_OF_A_DAY_DB, _MOST_OF_A_DAY_DB))
    is_harder = int(rng.integers(_ONE_IN)) == 0
    return of_a_day + (float(rng.uniform(*_HARDER_DB)) if is_harder else 0.0)


def _blast(performance: FloatArray, at: int, rate_hz: int) -> None:
    """Add a burst of air before a note."""
    frames = round(_BLAST_S * rate_hz)
    begin = max(0, at - frames // 2)
    t = np.arange(min(frames, len(performance) - begin)) / rate_hz
    shape = np.sin(np.pi * t / _BLAST_S) ** 2 * np.sin(2.0 * np.pi * _BLAST_HZ * t)
    loud = float(np.abs(performance).max()) * 10.0 ** (_BLAST_DB / 20.0)
    performance[begin : begin + len(t)] += loud * shape


def perform(
    *,
    player: str,
    octave_bands_db: tuple[float, ...],
    playing: PlayingRange,
    play: Play,
    seconds: float,
    rate_hz: int,
    seed: int,
    variation: int = 0,
) -> FloatArray:
    """One cycle of playing; 1.0 is the source's hardest peak. Same arguments, same sound.

    `player` is a manner, or a kind of player. Without a variation it is exactly as announced; with one it is some
    take of a player: a little louder or softer than announced, now and then much harder, a voice with blasts of air.

    shape: (frames,), at most ten seconds, to be repeated, not to be written to
    """
    manner = MANNERS[player]
    rng = np.random.default_rng(seed if not variation else [seed, variation])
    frames = int(min(seconds, LONGEST_CYCLE_S) * rate_hz)
    cycle = np.zeros(frames)
    step = int((manner.note_s + manner.gap_s) * rate_hz)
    start = int(_REST_BEFORE_S * rate_hz)
    room = frames - int(_REST_AFTER_S * rate_hz) - start
    count = max(1, room // step)
    register_hz = _register_hz(octave_bands_db)
    bank = [
        _note(manner, step * register_hz, octave_bands_db, rate_hz, rng) for step in manner.steps
    ]
    loudest_note = _most_even(bank, rate_hz)
    levels_db = _levels_db(play, playing, count)
    if play == "phrase" and count < 3:
        levels_db[-1] = 0.0
    loudest = max(levels_db)
    for index, level_db in enumerate(levels_db):
        is_loudest = level_db == loudest and index == len(levels_db) - 1
        note = bank[loudest_note if is_loudest else index % len(bank)]
        peak = np.max(np.abs(note))
        # Players vary by a few decibels; the loudest note of all is exactly at its level.
        varied_db = 0.0 if is_loudest else rng.uniform(-6.0, -3.0)
        at = start + index * step
        note = note[: max(0, frames - at)]
        cycle[at : at + len(note)] += note / peak * 10.0 ** ((level_db + varied_db) / 20.0)
    gate = np.zeros(frames)
    until = min(frames, start + count * step + int(0.1 * rate_hz))
    gate[start - int(0.1 * rate_hz) : until] = 1.0
    performance = cycle * gate / np.max(np.abs(cycle * gate)) * 10.0 ** (loudest / 20.0)
    if variation:
        performance = performance * 10.0 ** (_other_than_announced_db(rng) / 20.0)
        if manner.has_blasts:
            for index in range(0, count, 3):
                _blast(performance, start + index * step, rate_hz)
    performance.setflags(write=False)
    return np.asarray(performance)
