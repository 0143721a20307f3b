"""The examples of the listening drills: two sounds, equally loud, that differ in one thing by a known amount."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np
from scipy import signal

from verve.core.ear._drills import Drill
from verve.core.kind import FLAT_BANDS_DB, PlayingRange
from verve.core.measure import ProgrammeMeter
from verve.core.sound import perform
from verve.core.units import FloatArray, a_weighting_power

RATE_HZ: Final = 48_000
LOUDNESS_LUFS: Final = -26.0
"""Soft enough that nothing of it reaches full scale."""
REST_S: Final = 1.2
"""Silence before the playing: what hisses and hums is heard alone there."""
PLAYED_S: Final = 2.6
COMB_MS, ECHO_MS, SECOND_MS = 1.5, 60.0, 0.25
_RANGE = PlayingRange(softest_db=-24.0, typical_db=-12.0, hardest_db=0.0)
_PLAYERS: Final = ("plucked", "bowed", "voice")
_CLICK_S, _NOTE_S, _BEATS_PER_S = 0.004, 0.25, 2.0
_HARMONICS: Final = ((1, 1.0), (2, 0.5), (3, 0.4), (4, 0.2), (5, 0.2))
_ROUNDS_HZ: Final = 5000.0
_LEVELLINGS, _NEAR_LU = 5, 0.03


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Example:
    """Two sounds to be compared, and which is the odd one.

    shape: sounds, each (2, n_frames)
    """

    drill: str
    value: float
    sounds: tuple[FloatArray, FloatArray]
    odd: int
    rate_hz: int = RATE_HZ


_Pair = tuple[FloatArray, FloatArray]
"""The plain one, then the odd one."""


def example_of(drill: Drill, value: float, seed: int) -> Example:
    """An example at a value of what is varied; the same seed gives the same one."""
    rng = random.Random(f"{drill.key} {seed}")
    plain, odd = _MAKERS[drill.key](value, rng)
    sounds = [_levelled(plain), _levelled(odd)]
    place = rng.randrange(2)
    if place == 0:
        sounds.reverse()
    return Example(drill=drill.key, value=value, sounds=(sounds[0], sounds[1]), odd=place)


def loudness_lufs(samples: FloatArray) -> float | None:
    """Integrated loudness of two channels. source: ITU-R BS.1770, as in `measure`"""
    meter = ProgrammeMeter(channels=2, rate_hz=RATE_HZ)
    meter.feed(samples)
    return meter.integrated_lufs


def _levelled(samples: FloatArray) -> FloatArray:
    sides = np.stack([samples, samples]) if samples.ndim == 1 else samples
    # What is soft enough to be left out of a loudness is another part of it at another level: twice, then it stays.
    for _ in range(_LEVELLINGS):
        now = loudness_lufs(sides)
        if now is None or abs(now - LOUDNESS_LUFS) < _NEAR_LU:
            break
        sides = np.asarray(sides * _gain(LOUDNESS_LUFS - now))
    return sides


def _played(rng: random.Random, player: str = "") -> FloatArray:
    """A short performance after a rest, its highest peak at 1. shape: (n_frames,)"""
    made = perform(
        player=player or rng.choice(_PLAYERS),
        octave_bands_db=FLAT_BANDS_DB,
        playing=_RANGE,
        play="typical",
        seconds=PLAYED_S,
        rate_hz=RATE_HZ,
        seed=rng.randrange(1 << 30),
    )
    rest = np.zeros(round(REST_S * RATE_HZ))
    sound = np.concatenate([rest, made])
    return np.asarray(sound / np.abs(sound).max())


def _noise(frames: int, rng: random.Random) -> FloatArray:
    return np.random.default_rng(rng.randrange(1 << 30)).standard_normal(frames)


def _rms(samples: FloatArray) -> float:
    return float(np.sqrt(np.mean(samples**2)))


def _gain(db: float) -> float:
    return float(10.0 ** (db / 20.0))


def _later(samples: FloatArray, ms: float) -> FloatArray:
    frames = round(ms * RATE_HZ / 1000.0)
    return np.concatenate([np.zeros(frames), samples])[: len(samples)]


def _clipped(value_db: float, rng: random.Random) -> _Pair:
    plain = _played(rng)
    ceiling = _gain(-value_db)
    return plain, np.clip(plain, -ceiling, ceiling)


def _stages(value_db: float, rng: random.Random) -> _Pair:
    """Cut off early and rounded by what follows, or cut off last of all."""
    plain = _played(rng)
    ceiling = _gain(-value_db)
    cut = np.clip(plain, -ceiling, ceiling)
    rounded = signal.lfilter(*signal.butter(2, _ROUNDS_HZ, fs=RATE_HZ), cut)
    return np.asarray(rounded), cut


def _hisses(value_db: float, rng: random.Random) -> _Pair:
    """Equally strong as both are heard, A-weighted; one even, one falling off."""
    plain = _played(rng)
    even = _noise(len(plain), rng)
    fallen = np.asarray(
        signal.lfilter(*signal.butter(1, 250.0, fs=RATE_HZ), _noise(len(plain), rng))
    )
    wanted = _rms(plain[round(REST_S * RATE_HZ) :]) * _gain(-value_db)
    found = [plain + one * (wanted / _rms(_a_weighted(one))) for one in (fallen, even)]
    return found[0], found[1]


def _a_weighted(samples: FloatArray) -> FloatArray:
    """As it is heard, roughly: by its spectrum."""
    weights = np.sqrt(
        a_weighting_power(
            np.asarray(np.fft.rfftfreq(len(samples), 1.0 / RATE_HZ), dtype=np.float64)
        )
    )
    return np.asarray(np.fft.irfft(np.fft.rfft(samples) * weights, len(samples)))


def _hums(value_db: float, rng: random.Random) -> _Pair:
    plain = _played(rng)
    t = np.arange(len(plain)) / RATE_HZ
    wanted = _rms(plain[round(REST_S * RATE_HZ) :]) * _gain(-value_db)

    def with_hum(hz: float) -> FloatArray:
        wave = np.asarray(sum(a * np.sin(2.0 * np.pi * n * hz * t + n) for n, a in _HARMONICS))
        return np.asarray(plain + wave * (wanted / _rms(wave)))

    return with_hum(60.0), with_hum(50.0)


def _combed(value_db: float, rng: random.Random) -> _Pair:
    plain = _played(rng)
    return plain, plain + _later(plain, COMB_MS) * _gain(-value_db)


def _echoed(value_db: float, rng: random.Random) -> _Pair:
    plain = _played(rng)
    return plain, plain + _later(plain, ECHO_MS) * _gain(-value_db)


def _bled(value_db: float, rng: random.Random) -> _Pair:
    plain, other = _played(rng, "voice"), _played(rng, "plucked")
    return plain, plain + other * (_rms(plain) / _rms(other) * _gain(-value_db))


def _reversed(value_db: float, rng: random.Random) -> _Pair:
    plain = _played(rng)
    second = _later(plain, SECOND_MS) * _gain(-value_db)
    return plain + second, plain - second


def _beats(rng: random.Random) -> tuple[FloatArray, FloatArray, list[int]]:
    """Clicks, notes to set beside them, and where the beats are. shape: (n_frames,), (n_frames,)"""
    frames = round((REST_S + PLAYED_S) * RATE_HZ)
    clicks = np.zeros(frames)
    first = round(0.4 * RATE_HZ)
    beats = list(range(first, frames - round(0.5 * RATE_HZ), round(RATE_HZ / _BEATS_PER_S)))
    t = np.arange(round(_CLICK_S * RATE_HZ)) / RATE_HZ
    click = np.sin(2.0 * np.pi * 1500.0 * t) * np.hanning(len(t))
    for beat in beats:
        clicks[beat : beat + len(click)] += click
    return clicks, _note(rng), beats


def _note(rng: random.Random) -> FloatArray:
    t = np.arange(round(_NOTE_S * RATE_HZ)) / RATE_HZ
    hz = rng.choice((220.0, 246.9, 293.7))
    wave = sum(np.sin(2.0 * np.pi * n * hz * t) / n for n in range(1, 6))
    return np.asarray(wave * np.exp(-t / 0.08) * np.minimum(1.0, t / 0.002) * 0.5)


def _set(frames: int, sound: FloatArray, beats: list[int], ms: float) -> FloatArray:
    """A sound at every beat, so many milliseconds later."""
    found = np.zeros(frames)
    for beat in beats:
        begin = beat + round(ms * RATE_HZ / 1000.0)
        part = found[begin : begin + len(sound)]
        part += sound[: len(part)]
    return found


def _late(value_ms: float, rng: random.Random) -> _Pair:
    clicks, note, beats = _beats(rng)
    plain, late = (_set(len(clicks), note, beats, ms) for ms in (0.0, value_ms))
    return np.stack([clicks, plain]), np.stack([clicks, late])


def _doubled(value_ms: float, rng: random.Random) -> _Pair:
    clicks, note, beats = _beats(rng)
    lead = _set(len(clicks), note, beats, 0.0)
    off = value_ms * rng.choice((-1.0, 1.0))
    plain, double = (_set(len(clicks), note, beats, ms) for ms in (0.0, off))
    return np.stack([lead, plain]), np.stack([lead, double])


_MAKERS: Final[Mapping[str, Callable[[float, random.Random], _Pair]]] = {
    "clip": _clipped, "stage": _stages, "hiss": _hisses, "hum": _hums, "comb": _combed, "echo": _echoed,
    "bleed": _bled, "delay": _late, "polarity": _reversed, "double": _doubled,
}  # fmt: skip
