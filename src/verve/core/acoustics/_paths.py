"""One sound by two paths that are added: what cancels, what rises, and how far apart both are."""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass

from verve.core.acoustics._pattern import FAINTEST_RATIO
from verve.core.units import db_to_ratio, ratio_to_db


def first_null_hz(delay_ms: float) -> float | None:
    """Lowest frequency at which the sum of both paths dips; None for no delay.

    source: half a period of delay, f = 1/(2·τ)
    """
    return 500.0 / delay_ms if delay_ms else None


def ripple_db(level_difference_db: float) -> float | None:
    """Peak to dip of the sum of two paths; 6 dB of difference leaves 9.6 dB. None when equal.

    source: (1 + g)/(1 − g), g = 10^(−|ΔL|/20)
    """
    weaker = db_to_ratio(-abs(level_difference_db))
    if weaker >= 1.0:
        return None
    return ratio_to_db((1.0 + weaker) / (1.0 - weaker))


def spacing_level_difference_db(near_m: float, far_m: float) -> float:
    """Near above far by the inverse distance law; 3:1 is 9.54 dB."""
    difference = ratio_to_db(far_m / near_m)
    assert difference is not None
    return difference


def _level_db(ratio: float) -> float | None:
    return None if ratio < FAINTEST_RATIO else ratio_to_db(ratio)


@dataclass(frozen=True, slots=True, kw_only=True)
class SumOfPaths:
    """The same sound twice, the weaker one later or the other way round, above the stronger alone."""

    delay_ms: float
    level_difference_db: float
    polarity_inverted: bool = False

    @property
    def _weaker(self) -> float:
        """Signed ratio of the weaker to the stronger."""
        ratio = db_to_ratio(-abs(self.level_difference_db))
        return -ratio if self.polarity_inverted else ratio

    def response_db(self, hz: float) -> float | None:
        """At one frequency; None where nothing is left."""
        turned = cmath.exp(-2j * math.pi * hz * self.delay_ms / 1000.0)
        return _level_db(abs(1.0 + self._weaker * turned))

    @property
    def first_null_hz(self) -> float | None:
        """Lowest frequency above 0 at which the sum dips; None without delay."""
        if not self.delay_ms:
            return None
        return (1000.0 if self.polarity_inverted else 500.0) / self.delay_ms

    @property
    def first_peak_hz(self) -> float | None:
        """Lowest frequency above 0 at which the sum is highest; None without delay."""
        if not self.delay_ms:
            return None
        return (500.0 if self.polarity_inverted else 1000.0) / self.delay_ms

    @property
    def peak_db(self) -> float | None:
        """Highest of all frequencies; without delay they are all alike."""
        return _level_db(1.0 + (abs(self._weaker) if self.delay_ms else self._weaker))

    @property
    def dip_db(self) -> float | None:
        """Lowest of all frequencies; None where nothing is left."""
        return _level_db(1.0 - abs(self._weaker) if self.delay_ms else 1.0 + self._weaker)

    @property
    def ripple_db(self) -> float | None:
        """Peak to dip; None for two that are equal, 0 without delay."""
        if not self.delay_ms:
            return 0.0
        return None if self.peak_db is None or self.dip_db is None else self.peak_db - self.dip_db
