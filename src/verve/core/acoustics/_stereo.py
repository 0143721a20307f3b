"""Two microphones as a pair: which levels and times they give to a source, and what is left of it in mono."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from verve.core.acoustics._geometry import delay_ms
from verve.core.acoustics._pattern import FAINTEST_RATIO, response
from verve.core.units import db_to_ratio, ratio_to_db

Technique = Literal["coincident", "near_coincident", "spaced", "middle_side"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """One source as both microphones hear it: signed gains, and the ways to them.

    In mid/side the two are what the decoder gives, left and right.
    """

    left: float
    right: float
    left_m: float
    right_m: float

    @property
    def level_difference_db(self) -> float | None:
        """Right above left; None where one hears nothing."""
        if abs(self.left) < FAINTEST_RATIO or abs(self.right) < FAINTEST_RATIO:
            return None
        return ratio_to_db(abs(self.right / self.left))

    @property
    def time_difference_ms(self) -> float:
        """Right before left."""
        return delay_ms(self.left_m - self.right_m)

    @property
    def is_inverted(self) -> bool:
        """Whether one hears it upside down."""
        heard = min(abs(self.left), abs(self.right)) >= FAINTEST_RATIO
        return heard and (self.left < 0.0) != (self.right < 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class StereoPair:
    """Two microphones about one point that face the same way; `opening_deg` is between their axes.

    `pressure_share` is that of both; in mid/side of the middle one, and the other is a figure of eight with
    `side_gain_db`.
    """

    technique: Technique
    pressure_share: float = 0.5
    opening_deg: float = 0.0
    spacing_m: float = 0.0
    side_gain_db: float = 0.0

    def hears(self, angle_deg: float, distance_m: float | None = None) -> Heard:
        """A source at an angle and distance from the middle of the pair (None: far away)."""
        if self.technique == "middle_side":
            middle = response(self.pressure_share, angle_deg)
            side = -math.sin(math.radians(angle_deg)) * db_to_ratio(self.side_gain_db)
            return Heard(left=middle + side, right=middle - side, left_m=0.0, right_m=0.0)
        left, left_m = self._one(-1.0, angle_deg, distance_m)
        right, right_m = self._one(1.0, angle_deg, distance_m)
        return Heard(left=left, right=right, left_m=left_m, right_m=right_m)

    def _one(self, side: float, angle_deg: float, distance_m: float | None) -> tuple[float, float]:
        """Signed gain of the microphone on that side, and the way to it (far: against the middle)."""
        aim_deg, at_m = side * self.opening_deg / 2.0, side * self.spacing_m / 2.0
        angle = math.radians(angle_deg)
        if distance_m is None:
            return response(self.pressure_share, angle_deg - aim_deg), -at_m * math.sin(angle)
        x_m, y_m = distance_m * math.sin(angle) - at_m, distance_m * math.cos(angle)
        way_m = math.hypot(x_m, y_m)
        seen_deg = math.degrees(math.atan2(x_m, y_m))
        return response(self.pressure_share, seen_deg - aim_deg) * distance_m / way_m, way_m

    def mono_db(self, angle_deg: float, distance_m: float | None = None) -> float | None:
        """Sum of both, delays aside, above that of a source in front and far; None if one of these is nothing."""
        front, here = self.hears(0.0), self.hears(angle_deg, distance_m)
        all_front, all_here = abs(front.left + front.right), abs(here.left + here.right)
        if min(all_front, all_here) < FAINTEST_RATIO:
            return None
        return ratio_to_db(all_here / all_front)
