"""Rooms: how much they swallow, how long they ring, and how loud they are everywhere beside the direct sound."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.acoustics._pattern import diffuse_power, distance_factor, response
from verve.core.errors import InputError
from verve.core.units import SPEED_OF_SOUND_M_PER_S, power_to_db, ratio_to_db

SABINE_S_PER_M = 24.0 * math.log(10.0) / SPEED_OF_SOUND_M_PER_S
"""0.161: the reverberation time is that times volume by absorption."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Surface:
    """Some of a room's boundary, and which share of what meets it is swallowed."""

    area_m2: float
    absorption: float


def absorption_m2(surfaces: Sequence[Surface]) -> float:
    """Open windows that would swallow as much: Σ S·α."""
    return math.fsum(one.area_m2 * one.absorption for one in surfaces)


def mean_absorption(surfaces: Sequence[Surface]) -> float:
    """Share swallowed at each meeting, on average.

    raises: InputError for surfaces without any area
    """
    total_m2 = math.fsum(one.area_m2 for one in surfaces)
    if total_m2 <= 0.0:
        raise InputError("surfaces", "must have some area")
    return absorption_m2(surfaces) / total_m2


def rt60_sabine_s(volume_m3: float, surfaces: Sequence[Surface]) -> float | None:
    """Reverberation time by Sabine; None for a room that swallows nothing.

    source: Sabine, T = 24·ln 10·V/(c·A)
    """
    swallowed_m2 = absorption_m2(surfaces)
    return SABINE_S_PER_M * volume_m3 / swallowed_m2 if swallowed_m2 else None


def rt60_eyring_s(volume_m3: float, surfaces: Sequence[Surface]) -> float | None:
    """Reverberation time by Eyring, which is right for soft rooms too; None for a room that swallows nothing.

    source: Eyring 1930, −S·ln(1 − α) in place of A
    """
    mean = mean_absorption(surfaces)
    if mean <= 0.0:
        return None
    if mean >= 1.0:
        return 0.0
    total_m2 = math.fsum(one.area_m2 for one in surfaces)
    return SABINE_S_PER_M * volume_m3 / (-total_m2 * math.log1p(-mean))


def absorption_of_m2(volume_m3: float, rt60_s: float) -> float:
    """What a room must swallow to ring for so long: A = 24·ln 10·V/(c·T)."""
    return SABINE_S_PER_M * volume_m3 / rt60_s


def room_constant_m2(absorbing_m2: float, surface_m2: float) -> float:
    """R = A/(1 − A/S): what has met a wall once is what fills the room.

    raises: InputError where the walls would have to swallow more than meets them
    """
    if absorbing_m2 >= surface_m2:
        raise InputError(
            "surface_m2", f"must be more than the absorption, {absorbing_m2:.1f} m²", surface_m2
        )
    return absorbing_m2 / (1.0 - absorbing_m2 / surface_m2)


def critical_distance_m(absorbing_m2: float, directivity_q: float = 1.0) -> float:
    """Where the room is as loud as the direct sound, on the source's axis: √(Q·A/16π)."""
    return math.sqrt(directivity_q * absorbing_m2 / (16.0 * math.pi))


def critical_distance_at_microphone_m(
    absorbing_m2: float, directivity_q: float, pressure_share: float
) -> float:
    """The same as heard by a microphone that faces the source."""
    return critical_distance_m(absorbing_m2, directivity_q) * distance_factor(pressure_share)


def schroeder_hz(volume_m3: float, rt60_s: float) -> float:
    """Below it single modes of the room stand out, and no level of "the room" is true.

    source: Schroeder 1962, 2000·√(T/V)
    """
    return 2000.0 * math.sqrt(rt60_s / volume_m3)


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomLevel:
    """Mean levels of one source in a microphone, relative to its response in front; None where nothing is heard."""

    direct_db: float | None
    reverberant_db: float | None

    @property
    def total_db(self) -> float | None:
        """Both together, as powers."""
        return sum_of_powers_db([self.direct_db, self.reverberant_db])

    @property
    def direct_to_reverberant_db(self) -> float | None:
        """How much the direct sound stands above the room; None without both."""
        if self.direct_db is None or self.reverberant_db is None:
            return None
        return self.direct_db - self.reverberant_db


def room_level(
    *,
    level_at_1m_db: float,
    distance_m: float,
    absorbing_m2: float | None,
    directivity_q: float = 1.0,
    source_off_axis_db: float = 0.0,
    pressure_share: float = 1.0,
    angle_deg: float = 0.0,
) -> RoomLevel:
    """What a microphone hears of a source: straight, and from the room (`absorbing_m2`; None: free field).

    source: Kuttruff, Room Acoustics: direct power Q/4πr² on the axis, diffuse 4/A for the same source
    """
    heard_db = ratio_to_db(abs(response(pressure_share, angle_deg)))
    direct_db = reverberant_db = None
    if heard_db is not None:
        fall_db = 20.0 * math.log10(distance_m)
        direct_db = level_at_1m_db - fall_db + source_off_axis_db + heard_db
    if absorbing_m2 is not None:
        share = 16.0 * math.pi / (directivity_q * absorbing_m2) * diffuse_power(pressure_share)
        share_db = power_to_db(share)
        reverberant_db = None if share_db is None else level_at_1m_db + share_db
    return RoomLevel(direct_db=direct_db, reverberant_db=reverberant_db)


def sum_of_powers_db(levels_db: Sequence[float | None]) -> float | None:
    """Levels of sounds that have nothing to do with one another, together; None for nothing."""
    there = [level for level in levels_db if level is not None]
    if not there:
        return None
    most = max(there)
    return most + 10.0 * math.log10(math.fsum(10.0 ** ((level - most) / 10.0) for level in there))
