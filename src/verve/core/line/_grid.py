"""The frequency axis on which a line is solved, and how powers on it are summed over the band.

The band is cut at the edges of the octaves, and every octave into 2^n panels; in each stand the seven
points of a Gauss-Kronrod rule over the logarithm of frequency. Its three inner Gauss points alone
give a second, coarser sum: the difference of the two tells whether the panels are fine enough.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, fields
from typing import Final

import numpy as np

from verve.core.units import BAND_HIGH_HZ, BAND_HZ, BAND_LOW_HZ, FloatArray, a_weighting_power

OCTAVES: Final = 10
"""Octaves around 31.25 Hz to 16 kHz; the outer two are cut off at 20 Hz and 20 kHz."""
MOST_HALVINGS: Final = 7

# source: Kronrod 1965; the 3-point Gauss rule with its 7-point extension, as in QUADPACK's tables
_KRONROD_NODES: Final = (0.960491268708020283, math.sqrt(0.6), 0.434243749346802558, 0.0)
_KRONROD_WEIGHTS: Final = (
    0.104656226026467265,
    0.268488089868333441,
    0.401397414775962223,
    0.450916538658474142,
)
_GAUSS_WEIGHTS: Final = (0.0, 5.0 / 9.0, 0.0, 8.0 / 9.0)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Grid:
    """Frequencies with their weights.

    `weights_hz` turns a density per hertz into its integral over the band: sum(density · weights);
    `coarse_weights_hz` does the same from the Gauss points alone. `octave` says in which octave a
    point stands, `octave_shares` what part of that octave's power it has when the power is even over
    the logarithm of frequency, finely and coarsely. `all_weights_hz` has flat, coarse flat, A-weighted and coarse
    A-weighted side by side, for one product.

    shape: (n_freq,); all_weights_hz (n_freq, 4); octave_shares (n_freq, 2)
    """

    hz: FloatArray
    weights_hz: FloatArray
    coarse_weights_hz: FloatArray
    a_weights_hz: FloatArray
    all_weights_hz: FloatArray
    octave: FloatArray
    octave_shares: FloatArray

    def __post_init__(self) -> None:
        for field in fields(self):
            getattr(self, field.name).setflags(write=False)

    def index_of(self, hz: float) -> int:
        """Which of its points is nearest to a frequency."""
        at = min(int(self.hz.searchsorted(hz)), len(self.hz) - 1)
        return at - 1 if at and hz - self.hz[at - 1] <= self.hz[at] - hz else at


def _edges(halvings: int) -> FloatArray:
    """Logarithms of the panels' edges, from 20 Hz to 20 kHz."""
    inner = 1000.0 * 2.0 ** (np.arange(1, OCTAVES) - 5.5)
    octaves = np.log(np.concatenate([[BAND_LOW_HZ], inner, [BAND_HIGH_HZ]]))
    parts = 2**halvings
    places = np.arange(OCTAVES * parts + 1) / parts
    return np.asarray(np.interp(places, np.arange(OCTAVES + 1), octaves))


def _mirrored(half: tuple[float, ...], sign: float) -> FloatArray:
    return np.array([*(sign * value for value in half), *half[-2::-1]])


def grid(halvings: int = 0) -> Grid:
    """The grid whose octaves are halved so many times: 70 points, 140, 280, …

    raises: ValueError for a negative number, or one above `MOST_HALVINGS`
    """
    if not 0 <= halvings <= MOST_HALVINGS:
        raise ValueError(f"halvings: must be 0 to {MOST_HALVINGS}; got {halvings}")
    return _GRIDS[halvings]


def _make(halvings: int) -> Grid:
    edges = _edges(halvings)
    middles, radii = (edges[1:] + edges[:-1]) / 2.0, (edges[1:] - edges[:-1]) / 2.0
    nodes = _mirrored(_KRONROD_NODES, -1.0)
    hz = np.exp(middles[:, None] + radii[:, None] * nodes).ravel()
    fine, rough = _mirrored(_KRONROD_WEIGHTS, 1.0), _mirrored(_GAUSS_WEIGHTS, 1.0)
    # df = f · d(ln f). Scaled by less than 1e-6, so that flat noise comes out exact.
    weights = (radii[:, None] * fine).ravel() * hz
    coarse = (radii[:, None] * rough).ravel() * hz
    weights *= BAND_HZ / weights.sum()
    coarse *= BAND_HZ / coarse.sum()
    a_power = a_weighting_power(hz)
    panels = 2**halvings
    columns = (weights, coarse, weights * a_power, coarse * a_power)
    return Grid(
        hz=hz,
        weights_hz=weights,
        coarse_weights_hz=coarse,
        a_weights_hz=columns[2],
        all_weights_hz=np.stack(columns, axis=1),
        octave=np.repeat(np.arange(OCTAVES), panels * len(nodes)),
        octave_shares=np.tile(
            np.stack([fine / fine.sum(), rough / rough.sum()], axis=1), (OCTAVES * panels, 1)
        )
        / panels,
    )


_GRIDS: Final = tuple(_make(halvings) for halvings in range(MOST_HALVINGS + 1))
_FLAT_NOISE_A_SHARE: Final = float(_GRIDS[4].a_weights_hz.sum() / BAND_HZ)


def flat_noise_a_share() -> float:
    """Power of flat noise after A-weighting, as a share of its power over the band: 0.624, −2.05 dB."""
    return _FLAT_NOISE_A_SHARE
