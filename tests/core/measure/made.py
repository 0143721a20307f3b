"""Signals with a known truth, made from the definitions alone."""

from __future__ import annotations

import numpy as np
from scipy.signal import fftconvolve

from verve.core.units import FloatArray

RATE_HZ = 48_000


def rng(seed: int) -> np.random.Generator:
    return np.random.default_rng(seed)


def sine(hz: float, level_dbfs: float, seconds: float, rate_hz: int = RATE_HZ) -> FloatArray:
    """A sine of a peak level."""
    t = np.arange(round(seconds * rate_hz)) / rate_hz
    return np.asarray(10.0 ** (level_dbfs / 20.0) * np.sin(2.0 * np.pi * hz * t))


def tone(
    hz: float,
    seconds: float = 1.2,
    *,
    stiffness: float = 0.0,
    lowest: int = 1,
    only_odd: bool = False,
    fall: float = 1.0,
    dies: float = 0.0,
    vibrato_cents: float = 0.0,
    seed: int = 1,
) -> FloatArray:
    """A note of up to fourteen partials with phases of their own."""
    random = rng(seed)
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    wave = np.zeros(len(t))
    swing = 2.0 ** (vibrato_cents / 1200.0 * np.sin(2.0 * np.pi * 5.5 * t))
    for h in range(lowest, lowest + 14):
        partial_hz = h * hz * np.sqrt(1.0 + stiffness * h * h)
        if partial_hz > 0.45 * RATE_HZ or (only_odd and h % 2 == 0):
            continue
        phase = 2.0 * np.pi * partial_hz * np.cumsum(swing) / RATE_HZ + random.uniform(0.0, 6.28)
        wave += np.sin(phase) / h**fall
    return np.asarray(0.3 * wave / np.abs(wave).max() * np.exp(-dies * t))


def sweep(seconds: float = 1.5) -> FloatArray:
    """An exponential sweep from 20 Hz to 20 kHz (Farina 2000)."""
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    octaves = np.log(1_000.0)
    wave = np.sin(2.0 * np.pi * 20.0 * seconds / octaves * (np.exp(t * octaves / seconds) - 1.0))
    return np.asarray(0.5 * wave * np.minimum(1.0, np.minimum(t / 0.02, (seconds - t) / 0.005)))


def late(signal: FloatArray, delay: float, *, ppm: float = 0.0, frames: int = 0) -> FloatArray:
    """A signal so many frames later, by a clock that is ahead by so much: by its spectrum, not by taps.

    Without a difference of clocks the delay is a turn of phases; with one, each frame is summed up by itself.
    """
    size = len(signal) + (frames or 20_000)
    padded = np.zeros(size)
    padded[: len(signal)] = signal
    if ppm:
        at = (np.arange(size) - delay) / (1.0 + ppm * 1e-6)
        whole = np.round(at).astype(np.int64)
        found = np.zeros(size)
        for offset in range(-40, 41):
            index = whole + offset
            inside = (index >= 0) & (index < len(signal))
            taps = np.sinc(at - index) * np.cos(np.pi * (at - index) / 82.0) ** 2
            found[inside] += signal[index[inside]] * taps[inside]
        return found
    spectrum = np.fft.rfft(padded, 2 * size)
    hz = np.arange(len(spectrum)) / (2.0 * size)
    return np.asarray(np.fft.irfft(spectrum * np.exp(-2j * np.pi * hz * delay))[:size])


def in_a_room(signal: FloatArray, seed: int, reverberation_s: float = 0.5) -> FloatArray:
    """With reverberation as strong as the direct sound, from 1 ms on."""
    length = round(reverberation_s * RATE_HZ)
    tail = rng(seed).standard_normal(length) * 10.0 ** (-3.0 * np.arange(length) / length)
    tail[:48] = 0.0
    tail /= np.sqrt(np.sum(tail**2))
    tail[0] = 1.0
    return np.asarray(fftconvolve(signal, tail))


def with_noise(signal: FloatArray, snr_db: float, seed: int) -> FloatArray:
    """With white noise so far below it."""
    power = float(np.mean(signal**2)) * 10.0 ** (-snr_db / 10.0)
    return np.asarray(signal + np.sqrt(power) * rng(seed).standard_normal(len(signal)))


def melody(seed: int, *, bowed: bool = False, seconds: int = 4) -> FloatArray:
    """Notes of a scale, plucked or bowed."""
    random = rng(seed)
    wave = np.zeros(seconds * RATE_HZ)
    for _ in range(7):
        hz = 110.0 * 2.0 ** (random.integers(0, 24) / 12.0)
        start = int(random.uniform(0.0, seconds - 1) * RATE_HZ)
        t = np.arange(RATE_HZ) / RATE_HZ
        shape = np.minimum(1.0, t / (0.08 if bowed else 0.002)) * np.minimum(1.0, (1.0 - t) / 0.1)
        shape = shape if bowed else shape * np.exp(-4.0 * t)
        note = np.zeros(len(t))
        for h in range(1, 30):
            note += np.sin(2.0 * np.pi * h * hz * t + random.uniform(0.0, 6.28)) / h**0.7
        rough = random.standard_normal(len(t)) * 0.02 if bowed else 0.0
        wave[start : start + len(t)] += (note + rough) * shape
    return np.asarray(0.05 * wave)
