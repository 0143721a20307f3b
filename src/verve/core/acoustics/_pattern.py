"""First-order microphones: what they make of a direction, of nearness, and of a room all around."""

from __future__ import annotations

import math

from verve.core.units import SPEED_OF_SOUND_M_PER_S, power_to_db, ratio_to_db

FAINTEST_RATIO = 1e-9
"""−180 dB: what is below that is not heard, it is what arithmetic leaves of nothing."""


def response(pressure_share: float, angle_deg: float) -> float:
    """Signed response to a far source at an angle, 1 in front: A + (1 − A)·cos θ.

    source: Eargle, The Microphone Book; exactly 0 where nothing is heard
    """
    found = pressure_share + (1.0 - pressure_share) * math.cos(math.radians(angle_deg))
    return 0.0 if abs(found) < FAINTEST_RATIO else found


def near_response_db(
    pressure_share: float, *, hz: float, distance_m: float | None = None, angle_deg: float = 0.0
) -> float | None:
    """Response to a point at a distance (None: far), against a far one in front; None where nothing is heard.

    A pressure gradient sees the curvature of a near wave: the closer, the more bass.

    source: Eargle, The Microphone Book; A + B·cos θ·(1 + 1/(jkr)), with k for 2πf/c
    """
    far = response(pressure_share, angle_deg)
    gradient = (1.0 - pressure_share) * math.cos(math.radians(angle_deg))
    curved = 0.0
    if distance_m is not None:
        wave_number = 2.0 * math.pi * hz / SPEED_OF_SOUND_M_PER_S
        curved = gradient / (wave_number * distance_m)
    heard = math.hypot(far, curved)
    return None if heard < FAINTEST_RATIO else ratio_to_db(heard)


def diffuse_power(pressure_share: float) -> float:
    """Power picked up of sound from all around, against an omni: a third for a cardioid.

    source: random energy efficiency of a first-order pattern, A² + B²/3
    """
    return pressure_share**2 + (1.0 - pressure_share) ** 2 / 3.0


def diffuse_db(pressure_share: float) -> float:
    """The same as a level: −4.8 dB for a cardioid."""
    found = power_to_db(diffuse_power(pressure_share))
    assert found is not None
    return found


def distance_factor(pressure_share: float) -> float:
    """How much farther than an omni a microphone may stand for the same share of room; 1.7 for a cardioid."""
    return 1.0 / math.sqrt(diffuse_power(pressure_share))


def null_angle_deg(pressure_share: float) -> float | None:
    """Where a far source is not heard; None for patterns that hear all around (A > ½)."""
    if pressure_share > 0.5:
        return None
    return math.degrees(math.acos(-pressure_share / (1.0 - pressure_share)))
