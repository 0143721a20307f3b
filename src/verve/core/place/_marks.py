"""The placement as marks of tape: what stands how far from what, at which height, on which stand."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from verve.core.acoustics import distance_m
from verve.core.air import PlacedMicrophone, PlacedSource, Positions
from verve.core.place import _words as words
from verve.core.units import METRES_PER_FOOT
from verve.core.words import fill, number

_LOW_M, _TALL_M = 0.6, 2.2
"""Under this a low stand will do; a usual boom stand reaches so high. Typical."""
_BOOM_DEG, _BOOM_M = 25.0, 0.35
"""Steeper over what it records than that, or so near to it, the stand must stand elsewhere: a boom."""
_BAR_M = 0.45
"""As far apart two microphones fit on one usual stereo bar."""
_SEATED_M = 1.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """One thing to measure with a tape; `from_` and `to` are names."""

    from_: str
    to: str
    metres: float

    @property
    def centimetres(self) -> str:
        """As a metric tape reads."""
        return f"{number(self.metres * 100.0, 0)} cm"

    @property
    def feet(self) -> str:
        """As the other tape reads: feet and whole inches."""
        inches = round(self.metres / METRES_PER_FOOT * 12.0)
        return f"{inches // 12} ft {inches % 12} in"


@dataclass(frozen=True, slots=True, kw_only=True)
class StandNeeded:
    """A stand, what it carries, and why it must be such a one."""

    kind: str
    carries: tuple[str, ...]
    why: str


def marks_of(positions: Positions) -> tuple[Mark, ...]:
    """Everything to measure: players from two walls, microphones from players, from the floor, from one another."""
    found: list[Mark] = []
    for source in (*positions.sources, *positions.surfaces):
        found.append(Mark(from_=words.LEFT_WALL, to=source.name, metres=source.at.x_m))
        found.append(Mark(from_=words.FRONT_WALL, to=source.name, metres=source.at.y_m))
        beside = [m for m in positions.microphones if m.wants[0] == source.id]
        if source.thing is not None:
            continue
        for mic in beside:
            found.append(Mark(from_=source.name, to=mic.name, metres=mic.distance_m))
            found.append(Mark(from_=words.FLOOR, to=mic.name, metres=mic.at.z_m))
        found += [
            Mark(from_=one.name, to=other.name, metres=distance_m(one.at, other.at))
            for number_, one in enumerate(beside)
            for other in beside[number_ + 1 :]
        ]
    return tuple(found)


def stands_of(positions: Positions) -> tuple[StandNeeded, ...]:
    """Stands and bars that the microphones need."""
    return tuple(_stands(positions))


def _stands(positions: Positions) -> Iterator[StandNeeded]:
    carried: set[str] = set()
    for mic in positions.microphones:
        if mic.id in carried:
            continue
        near = [
            one
            for one in positions.microphones
            if one.id not in carried
            and one.wants[0] == mic.wants[0]
            and distance_m(one.at, mic.at) <= _BAR_M
        ][:2]
        carried |= {one.id for one in near}
        source = positions.source(mic.wants[0])
        assert source is not None
        kind, why = _kind(mic, source)
        if len(near) == 2:
            kind = fill(words.WITH_BAR, stand=kind)
        yield StandNeeded(kind=kind, carries=tuple(one.name for one in near), why=why)


def _kind(mic: PlacedMicrophone, source: PlacedSource) -> tuple[str, str]:
    seated = words.SEATED if source.at.z_m <= _SEATED_M else words.STANDING
    if mic.at.z_m > _TALL_M:
        return words.TALL_STAND, fill(words.TALL_WHY, height_m=mic.at.z_m)
    if mic.at.z_m < _LOW_M:
        return words.LOW_STAND, fill(words.LOW_WHY, height_cm=mic.at.z_m * 100.0)
    if abs(mic.aim.rise_deg) > _BOOM_DEG or mic.distance_m < _BOOM_M:
        return words.BOOM_STAND, fill(words.BOOM_WHY, player=seated)
    return words.STRAIGHT_STAND, fill(words.STRAIGHT_WHY, player=seated)


def turn_words(mic: PlacedMicrophone) -> str:
    """Where a microphone is aimed, for who sets it up."""
    if mic.angle_deg < 0.5:
        return words.AIMED_AT
    side = words.TO_LEFT if mic.aim.turns_left else words.TO_RIGHT
    return fill(words.AIMED_PAST, angle_deg=mic.angle_deg, side=side)


def faces_words(source: PlacedSource) -> str:
    """Where a player faces, by the walls."""
    sides = (words.BACK, words.RIGHT, words.FRONT, words.LEFT)
    return sides[math.floor((source.facing_deg % 360.0 + 45.0) / 90.0) % 4]
