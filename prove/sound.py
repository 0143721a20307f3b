"""Loop-backs: noise that came back alone is not taken for what was sent, and what came back is found where it is."""

from __future__ import annotations

import numpy as np

from prove.report import Tally
from verve.core.measure import loopback_of
from verve.core.units import FloatArray

_RATE_HZ = 48_000
_OFF_FRAMES = 0.3


def _sent(kind: str, rng: np.random.Generator) -> FloatArray:
    """A test signal: an exponential sweep, white noise, or clicks of noise."""
    t = np.arange(round(rng.uniform(0.5, 1.5) * _RATE_HZ)) / _RATE_HZ
    if kind == "sweep":
        octaves = np.log(1_000.0)
        turns = 20.0 * t[-1] / octaves * (np.exp(t * octaves / t[-1]) - 1.0)
        return np.asarray(0.5 * np.sin(2.0 * np.pi * turns))
    noise = 0.2 * rng.standard_normal(len(t))
    if kind == "clicks":
        noise *= (t % 0.29) < 0.02
    return np.asarray(noise)


def _noise(kind: str, frames: int, rng: np.random.Generator) -> FloatArray:
    """White, red, rumbling or impulsive noise."""
    white = rng.standard_normal(frames)
    if kind == "red":
        red = np.cumsum(white)
        return np.asarray(1e-3 * (red - red.mean()))
    if kind == "rumble":
        return np.asarray(0.1 * np.convolve(white, np.hanning(400) / 20.0, "same"))
    if kind == "impulses":
        return np.asarray(0.1 * white * (rng.random(frames) < 0.002))
    return np.asarray(0.1 * white)


def loopbacks(count: int, seed: int) -> list[Tally]:
    """So many that hold only noise, and a tenth as many that hold what was sent under noise of its own level."""
    absent, present = Tally("loop-backs of noise alone"), Tally("loop-backs under noise, 0 dB")
    for number in range(count):
        rng = np.random.default_rng([seed, number])
        kind = ("sweep", "noise", "clicks")[number % 3]
        sent = _sent(kind, rng)
        noise_kind = ("white", "red", "rumble", "impulses")[number % 4]
        frames = len(sent) + int(rng.integers(0, 30_000))
        noise = _noise(noise_kind, frames, rng)
        found = loopback_of(sent[None], noise[None], _RATE_HZ)
        said = f"{kind} in {noise_kind} noise"
        if found.found:
            absent.fault(
                f"seed {seed}, number {number}: {said} was found at {found.delay_frames:.1f}"
            )
        else:
            absent.note(said)
        if number % 10 == 0:
            delay = int(rng.integers(0, 20_000))
            back = np.zeros(len(sent) + delay)
            back[delay:] = 0.5 * sent
            power = float(np.mean((0.5 * sent) ** 2))
            back += np.sqrt(power) * rng.standard_normal(len(back))
            held = loopback_of(sent[None], back[None], _RATE_HZ).delay_frames
            if held is None or abs(held - delay) > _OFF_FRAMES:
                present.fault(
                    f"seed {seed}, number {number}: {kind} at {delay} was found at {held}"
                )
            else:
                present.note(kind)
    return [absent, present]
