"""Where things stand to one another: metres, degrees, milliseconds.

Angles are clockwise seen from above: 0 away from the viewer (+y), 90 to the right (+x).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from verve.core.errors import InputError
from verve.core.units import SPEED_OF_SOUND_M_PER_S


@dataclass(frozen=True, slots=True)
class Point:
    """A place in a room, in metres: x to the right, y away from the viewer, z up."""

    x_m: float
    y_m: float
    z_m: float = 0.0

    def to(self, other: Point) -> tuple[float, float, float]:
        """The way to another one, in metres."""
        return (other.x_m - self.x_m, other.y_m - self.y_m, other.z_m - self.z_m)


def direction(aim_deg: float, tilt_deg: float = 0.0) -> tuple[float, float, float]:
    """Unit vector of an aim over the floor, `tilt_deg` above the level."""
    aim, tilt = math.radians(aim_deg), math.radians(tilt_deg)
    level = math.cos(tilt)
    return (math.sin(aim) * level, math.cos(aim) * level, math.sin(tilt))


def distance_m(first: Point, second: Point) -> float:
    """How far apart two places are."""
    return math.hypot(*first.to(second))


def angle_between_deg(one: tuple[float, float, float], other: tuple[float, float, float]) -> float:
    """Angle in space, 0 to 180; exact near both ends, where an arc cosine is not.

    raises: InputError where one of them has no length
    """
    across = math.hypot(
        one[1] * other[2] - one[2] * other[1],
        one[2] * other[0] - one[0] * other[2],
        one[0] * other[1] - one[1] * other[0],
    )
    along = math.fsum(a * b for a, b in zip(one, other, strict=True))
    if across == 0.0 and along == 0.0:
        raise InputError("source", "must not be in the microphone")
    return math.degrees(math.atan2(across, along))


def bearing_deg(first: Point, second: Point) -> float:
    """Aim over the floor from one place to another, 0 to 360; 0 where one is above the other."""
    x_m, y_m, _ = first.to(second)
    return math.degrees(math.atan2(x_m, y_m)) % 360.0


def delay_ms(distance: float) -> float:
    """How long sound takes for so many metres; 0.343 m is 1 ms."""
    return 1000.0 * distance / SPEED_OF_SOUND_M_PER_S
