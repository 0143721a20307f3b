"""The map of one microphone's ears: how loud a player as loud as its own source would be heard, standing anywhere."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verve.core.acoustics import diffuse_power
from verve.core.air._directivity import band_powers, shares_of
from verve.core.air._hearing import (
    DEAFEST,
    WAVE_NUMBERS,
    Hearing,
    extent_m,
    response_of,
    share_of,
)
from verve.core.units import FloatArray

_STEP_M = 0.1
_LEAST_POINTS = 48
_MOST_POINTS = 96
_MOST_LINES = 7
_STEPS_DB = (3.0, 6.0, 12.0)


@dataclass(frozen=True, kw_only=True, eq=False)
class EarMap:
    """Levels over the floor, in dB against the microphone's own source where it is.

    shape: x_m (n_x,), y_m (n_y,), level_db (n_y, n_x)
    """

    x_m: FloatArray
    y_m: FloatArray
    level_db: FloatArray

    def lines(self) -> list[tuple[float, list[FloatArray]]]:
        """Lines of equal loudness below its own source: a level, and its lines as points; shape (n_points, 2) each.

        They are 3 dB apart, or as far as keeps them few.
        """
        from contourpy import LineType, contour_generator

        low = float(self.level_db.min())
        step = next((one for one in _STEPS_DB if -low / one <= _MOST_LINES), _STEPS_DB[-1])
        levels = [-step * number for number in range(_MOST_LINES + 1) if -step * number > low]
        made = contour_generator(self.x_m, self.y_m, self.level_db, line_type=LineType.Separate)
        return [(level, [np.asarray(line) for line in made.lines(level)]) for level in levels]


def ear_map(
    hearing: Hearing, microphone: int, part: tuple[float, float, float, float] | None = None
) -> EarMap:
    """The map of a microphone over a part of the floor (left, front, right, back in metres; None: all of it).

    Whoever stands there is as loud, as high and as large as its own source, and faces it.

    The direct sound is summed over the octaves in closed form: the pattern and its nearness are a square and a
    square over r², so two sums of powers are all it takes.
    """
    mic = hearing.positions.microphones[microphone]
    own = hearing.wanted[microphone][0]
    source, room = hearing.positions.sources[own], hearing.positions.room
    left, front, right, back = part or (0.0, 0.0, room.length_m, room.width_m)
    x_m, y_m = _axis(left, right), _axis(front, back)
    dx, dy = x_m[None, :] - mic.at.x_m, y_m[:, None] - mic.at.y_m
    dz = source.at.z_m - mic.at.z_m
    distance = np.sqrt(np.maximum(dx * dx + dy * dy + dz * dz, 1e-4))
    ax, ay, az = mic.toward
    towards = (dx * ax + dy * ay + dz * az) / distance
    powers, shares = band_powers(source) * response_of(mic), shares_of(source)
    counted2 = distance * distance + extent_m(source) ** 2
    share = share_of(mic)
    gradient = (1.0 - share) * towards
    far, near = float(powers.sum()), float((powers / WAVE_NUMBERS**2).sum())
    direct = np.maximum(far * (share + gradient) ** 2, far * DEAFEST)
    direct = (direct + near * gradient**2 / counted2) / counted2
    all_around = shares**2 + (1.0 - shares) ** 2 / 3.0
    spread = 16.0 * np.pi / room.absorbing_m2 * diffuse_power(share)
    total = direct + float((powers * all_around).sum()) * spread
    level = 10.0 * np.log10(total / hearing.total_power[microphone, own])
    return EarMap(x_m=x_m, y_m=y_m, level_db=np.asarray(level))


def _axis(low_m: float, high_m: float) -> FloatArray:
    """Points along one wall, ends included."""
    count = min(_MOST_POINTS, max(_LEAST_POINTS, round((high_m - low_m) / _STEP_M) + 1))
    return np.linspace(low_m, high_m, count)
