"""The frequency grid on which a line is solved, and how powers on it are summed over the band."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np

from verve.core.units import BAND_HIGH_HZ, BAND_HZ, BAND_LOW_HZ, FloatArray, a_weighting_power

COARSEST_POINTS = 97


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Grid:
    """Frequencies evenly spaced in octaves, with Simpson weights.

    `weights_hz` turns a density per hertz into its integral over the band: sum(density · weights).
    `nested_weights_hz` does the same from every other point alone: the difference between the two
    tells whether the grid is fine enough for the line that stands on it.
    """

    hz: FloatArray
    weights_hz: FloatArray
    nested_weights_hz: FloatArray
    a_weights_hz: FloatArray
    nested_a_weights_hz: FloatArray

    def __post_init__(self) -> None:
        for name in (
            "hz",
            "weights_hz",
            "nested_weights_hz",
            "a_weights_hz",
            "nested_a_weights_hz",
        ):
            getattr(self, name).setflags(write=False)


def _simpson(points: int) -> FloatArray:
    weights = np.full(points, 2.0 / 3.0)
    weights[1::2] = 4.0 / 3.0
    weights[[0, -1]] = 1.0 / 3.0
    return weights


@cache
def grid(points: int = COARSEST_POINTS) -> Grid:
    """The grid of so many points from 20 Hz to 20 kHz; points − 1 must divide by 4."""
    if points < 5 or (points - 1) % 4:
        raise ValueError(f"points: must be 4·n + 1; got {points}")
    hz = np.geomspace(BAND_LOW_HZ, BAND_HIGH_HZ, points)
    step = np.log(BAND_HIGH_HZ / BAND_LOW_HZ) / (points - 1)
    weights = _simpson(points) * step * hz  # df = f · d(ln f)
    nested = np.zeros(points)
    nested[::2] = _simpson((points + 1) // 2) * 2.0 * step * hz[::2]
    # Simpson's rule is off by some 1e-7 on the constant; scaled, flat noise comes out exact.
    weights *= BAND_HZ / weights.sum()
    nested *= BAND_HZ / nested.sum()
    a_power = a_weighting_power(hz)
    return Grid(
        hz=hz,
        weights_hz=weights,
        nested_weights_hz=nested,
        a_weights_hz=weights * a_power,
        nested_a_weights_hz=nested * a_power,
    )


@cache
def flat_noise_a_share() -> float:
    """Power of flat noise after A-weighting, as a share of its power over the band: 0.624, −2.05 dB."""
    return float(grid(3073).a_weights_hz.sum() / BAND_HZ)
