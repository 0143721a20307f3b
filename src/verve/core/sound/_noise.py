"""What is computed of a line's noise, in the thirds of octaves in which pauses of recordings are read."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from verve.core.measure import BANDS_HZ, band_weights
from verve.core.network import LineState, Origin
from verve.core.sound._render import Renderer
from verve.core.units import FloatArray

_BLOCK = 512


def noise_thirds(state: LineState, *, is_alive: bool, rate_hz: int) -> Mapping[Origin, FloatArray]:
    """By origin the mean square in each third, in full scales squared; empty for a line that cannot be computed.

    shape: (n_bands,), as `measure.BANDS_HZ`
    """
    if state.staged is None or state.levels is None:
        return {}
    renderer = Renderer([(state, is_alive)], rate_hz=rate_hz, block_frames=_BLOCK)
    (one,) = renderer.inputs
    hz = renderer.frequencies_hz
    weights = np.array([band_weights(hz, middle) for middle in BANDS_HZ])
    step_hz = float(hz[2] - hz[1])
    return {
        origin: np.asarray(weights @ (np.abs(density) ** 2)) * step_hz / one.full_scale_v**2
        for origin, density in one.noise.items()
    }
