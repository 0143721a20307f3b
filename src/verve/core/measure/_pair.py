"""How the two channels of a stereo file go together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.fft import irfft, rfft

from verve.core.units import FloatArray, power_to_db

LAG_S = 0.005
_ONE_SIDED_DB = 30.0
_LEAST_CORRELATION = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """Left beside right; levels None beside a silence."""

    correlation: float | None
    level_difference_db: float | None
    one_sided: Literal["left", "right"] | None
    is_mono: bool
    polarity_inverted: bool


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Products:
    """Sums of a cell: of each side, of products, and how far the sides differ.

    shape: sums (2,), squares (2,), lagged (2 · n_lags + 1,)
    """

    frames: int
    sums: FloatArray
    squares: FloatArray
    product: float
    lagged: FloatArray | None
    """At every lag within 5 ms; None of a cell of which they are not looked for."""
    differs: float


def lags(rate_hz: int) -> int:
    """How many frames of lag on either side are looked at."""
    return math.ceil(LAG_S * rate_hz)


def read_products(
    samples: FloatArray, low: int, high: int, rate_hz: int, *, has_lags: bool
) -> Products:
    """Of a cell, samples[:, low:high]: the left one with the right one, with `has_lags` also up to 5 ms before and
    behind.

    shape: samples (2, n_frames)
    """
    inside = samples[:, low:high].astype(np.float64)
    return Products(
        frames=high - low,
        sums=inside.sum(axis=1),
        squares=np.vecdot(inside, inside),
        product=float(inside[0] @ inside[1]),
        lagged=_lagged(samples, low, high, rate_hz) if has_lags else None,
        differs=float(np.abs(inside[0] - inside[1]).max()),
    )


def _lagged(samples: FloatArray, low: int, high: int, rate_hz: int) -> FloatArray:
    reach = lags(rate_hz)
    size = 1 << max(12, (8 * reach).bit_length())
    step = size - 2 * reach
    count = -(-(high - low) // step)
    left = np.pad(samples[0, low:high], (0, count * step - (high - low))).reshape(count, step)
    right = samples[1, low - reach : low - reach + count * step + 2 * reach]
    right = np.pad(right, (0, count * step + 2 * reach - len(right)))
    # What of the right lies behind the cell and its lags meets the zeros of the left.
    blocks = np.lib.stride_tricks.sliding_window_view(right, size)[::step]
    spectrum = np.einsum("bf,bf->f", rfft(blocks), np.conj(rfft(left, size)), dtype=np.complex128)
    # A copy: what it is cut from is much larger, and would be kept with it.
    return np.asarray(irfft(spectrum, size)[: 2 * reach + 1].astype(np.float32))


def pair_of(cells: Sequence[Products], lsb: float) -> Pair:
    """What the sums of all cells tell; `lsb` is the step of the file."""
    frames = sum(cell.frames for cell in cells)
    sums = np.sum([cell.sums for cell in cells], axis=0)
    squares = np.sum([cell.squares for cell in cells], axis=0)
    variances = np.maximum(squares - sums * sums / frames, 0.0)
    # A constant has no variance: what single precision leaves of one is none.
    variances[variances < 1e-13 * squares] = 0.0
    scale = math.sqrt(float(variances[0] * variances[1]))
    is_mono = max(cell.differs for cell in cells) <= max(lsb, 1e-9) * 1.001
    levels = [power_to_db(float(power)) for power in variances]
    left_db, right_db = levels
    difference = None if left_db is None or right_db is None else left_db - right_db
    if scale == 0.0:
        correlation, is_inverted = None, False
    else:
        product = sum(cell.product for cell in cells) - float(sums[0] * sums[1]) / frames
        correlation = float(np.clip(product / scale, -1.0, 1.0))
        is_inverted = _is_inverted(cells)
    return Pair(
        correlation=correlation,
        level_difference_db=difference,
        one_sided=_one_sided(left_db, right_db),
        is_mono=is_mono,
        polarity_inverted=is_inverted,
    )


def _is_inverted(cells: Sequence[Products]) -> bool:
    """Whether the sides are alike most with one of them upside down, at whichever lag."""
    lagged = [cell.lagged for cell in cells if cell.lagged is not None]
    cells = [cell for cell in cells if cell.lagged is not None]
    frames = sum(cell.frames for cell in cells)
    sums = np.sum([cell.sums for cell in cells], axis=0)
    squares = np.sum([cell.squares for cell in cells], axis=0)
    scale = math.sqrt(float(np.prod(np.maximum(squares - sums * sums / frames, 0.0))))
    if scale == 0.0:
        return False
    crossed = (np.sum(lagged, axis=0) - sums[0] * sums[1] / frames) / scale
    return float(crossed[int(np.argmax(np.abs(crossed)))]) <= -_LEAST_CORRELATION


def _one_sided(left_db: float | None, right_db: float | None) -> Literal["left", "right"] | None:
    """The side that has all of it."""
    if left_db is None and right_db is None:
        return None
    if right_db is None or (left_db is not None and left_db - right_db >= _ONE_SIDED_DB):
        return "left"
    if left_db is None or right_db - left_db >= _ONE_SIDED_DB:
        return "right"
    return None
