"""Two microphones and one sound: level differences, delays and what adding them cancels."""

from __future__ import annotations

from verve.core.units import SPEED_OF_SOUND_M_PER_S, db_to_ratio, ratio_to_db


def path_delay_ms(path_difference_m: float) -> float:
    """Delay of a longer path; 0.343 m is 1 ms."""
    return 1000.0 * path_difference_m / SPEED_OF_SOUND_M_PER_S


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
