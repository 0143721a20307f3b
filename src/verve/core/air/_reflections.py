"""First reflections: the same sound once more, from floor, ceiling, wall or desk, as a path like any other."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from verve.core.acoustics import (
    Point,
    SumOfPaths,
    angle_between_deg,
    delay_ms,
    direction,
    distance_m,
    response,
)
from verve.core.air._directivity import shares_of
from verve.core.air._hearing import Hearing, extent_m, share_of
from verve.core.air._positions import PlacedMicrophone, PlacedSource
from verve.core.session import Furnishing
from verve.core.units import ratio_to_db

_AT_1_KHZ = 5
_LATEST_MS = 20.0
_FAINTEST_DB = -20.0
"""What is later is an echo or the room, what is fainter makes no ripple that is heard."""
SWALLOWED: Final[Mapping[Furnishing | None, float]] = {
    "bare": 0.05, "furnished": 0.15, "soft": 0.4, None: 0.15,
}  # fmt: skip
"""Share of a reflection that floor and walls take, by furnishing; typical."""
_HARD = 0.05
"""The same of a desk or a music stand; typical."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reflection:
    """One surface's copy of a source in a microphone; `level_db` is against the direct sound."""

    surface: str
    """"floor", "ceiling", "wall", or the id of what stands there."""
    extra_m: float
    level_db: float

    @property
    def sum(self) -> SumOfPaths:
        """What it makes of the direct sound."""
        return SumOfPaths(delay_ms=delay_ms(self.extra_m), level_difference_db=self.level_db)


def reflections(
    hearing: Hearing, microphone: int, source: int, furnishing: Furnishing | None
) -> tuple[Reflection, ...]:
    """Reflections that colour a source in a microphone, the strongest first.

    By image sources: the way over a mirror image, with the microphone's pattern and the source's directivity (at
    1 kHz) on that way, less what the surface takes.

    source: Kuttruff, Room Acoustics, image sources of first order
    """
    mic = hearing.positions.microphones[microphone]
    one = hearing.positions.sources[source]
    found = []
    direct_m = distance_m(one.at, mic.at)
    direct = _heard(mic, one, one.at, one.facing_deg, mirrored=None)
    if direct_m <= 0.0 or direct is None or direct == 0.0:
        return ()
    if not (hearing.positions.room.holds(mic.at) and hearing.positions.room.holds(one.at)):
        # A wall between both is no mirror.
        return ()
    size = extent_m(one)
    for surface, image, axis, taken in _images(hearing, mic, one, SWALLOWED[furnishing]):
        way_m = distance_m(image, mic.at)
        there = _heard(mic, one, image, one.facing_deg, mirrored=axis)
        if there is None or delay_ms(way_m - direct_m) > _LATEST_MS:
            continue
        falls = math.hypot(direct_m, size) / math.hypot(way_m, size)
        level = ratio_to_db(abs(there / direct) * falls * math.sqrt(1.0 - taken))
        if level is not None and level > _FAINTEST_DB:
            found.append(Reflection(surface=surface, extra_m=way_m - direct_m, level_db=level))
    return tuple(sorted(found, key=lambda reflection: -reflection.level_db))


def _images(
    hearing: Hearing, mic: PlacedMicrophone, source: PlacedSource, taken: float
) -> Iterator[tuple[str, Point, int, float]]:
    """Each surface with the mirror image of the source in it, the axis it stands across, and what it takes."""
    room, at = hearing.positions.room, source.at
    yield "floor", Point(at.x_m, at.y_m, -at.z_m), 2, taken
    yield "ceiling", Point(at.x_m, at.y_m, 2.0 * room.height_m - at.z_m), 2, taken
    walls = (
        (Point(-at.x_m, at.y_m, at.z_m), 0),
        (Point(2.0 * room.length_m - at.x_m, at.y_m, at.z_m), 0),
        (Point(at.x_m, -at.y_m, at.z_m), 1),
        (Point(at.x_m, 2.0 * room.width_m - at.y_m, at.z_m), 1),
    )
    image, axis = min(walls, key=lambda wall: distance_m(wall[0], mic.at))
    yield "wall", image, axis, taken
    for thing in hearing.positions.surfaces:
        height = thing.at.z_m
        if height < min(at.z_m, mic.at.z_m):
            yield thing.id, Point(at.x_m, at.y_m, 2.0 * height - at.z_m), 2, _HARD


def _heard(
    mic: PlacedMicrophone,
    source: PlacedSource,
    image: Point,
    facing_deg: float,
    *,
    mirrored: int | None,
) -> float | None:
    """Pattern times directivity on the way from an image; None where both are in one place."""
    way = mic.at.to(image)
    if not any(way):
        return None
    front = list(direction(facing_deg))
    if mirrored is not None:
        front[mirrored] = -front[mirrored]
    share = float(shares_of(source)[_AT_1_KHZ])
    aside = angle_between_deg((front[0], front[1], front[2]), (-way[0], -way[1], -way[2]))
    return response(share_of(mic), angle_between_deg(mic.toward, way)) * response(share, aside)
