"""The room of a session in figures: its lengths, how much it swallows, how long it rings, and how sure that is."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.acoustics import (
    Point,
    Surface,
    absorption_of_m2,
    critical_distance_m,
    rt60_eyring_s,
    schroeder_hz,
)
from verve.core.session import Furnishing, Room

Size = Literal["small", "medium", "large"]

LENGTHS_M: Final[Mapping[Size, tuple[float, float, float]]] = {
    "small": (4.0, 3.0, 2.5),
    "medium": (7.0, 5.0, 2.8),
    "large": (16.0, 10.0, 5.5),
}
"""Typical: a bedroom, a rehearsal room, a hall; length, width, height."""
MEAN_ABSORPTION: Final[Mapping[Furnishing, float]] = {"bare": 0.07, "furnished": 0.18, "soft": 0.35}
"""Typical, of all surfaces and the middle octaves: plaster and boards; with furniture; with carpets and curtains."""
FURNISHING_FACTOR: Final = 1.6
"""How far a reverberation time by furnishing may be off, either way: typical of such estimates."""
_SHAPE = (1.6, 1.25, 1.0)
"""Length, width and height of a room of which the volume alone is known; typical."""
_SHORTEST_S, _LONGEST_S = 0.05, 12.0
_LEAST_M = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomFigures:
    """A room as it is computed with; a guess where nobody has said what it is like."""

    length_m: float
    width_m: float
    height_m: float
    volume_m3: float
    rt60_s: float
    is_size_known: bool
    is_decay_known: bool
    wrong: tuple[str, ...]
    """What has been said of it and cannot be, which is left aside; in the words of `_words`."""

    @property
    def surface_m2(self) -> float:
        """Of all six walls."""
        a, b, c = self.length_m, self.width_m, self.height_m
        return 2.0 * (a * b + b * c + a * c)

    @property
    def absorbing_m2(self) -> float:
        """What it swallows."""
        return absorption_of_m2(self.volume_m3, self.rt60_s)

    @property
    def schroeder_hz(self) -> float:
        """Below it there are modes, and no level of "the room"."""
        return schroeder_hz(self.volume_m3, self.rt60_s)

    @property
    def critical_distance_m(self) -> float:
        """For a source that sounds alike to all sides, and a microphone that hears so."""
        return critical_distance_m(self.absorbing_m2)

    def holds(self, at: Point) -> bool:
        """Whether a place is within its walls."""
        return (
            0.0 <= at.x_m <= self.length_m
            and 0.0 <= at.y_m <= self.width_m
            and 0.0 <= at.z_m <= self.height_m
        )

    @property
    def least_rt60_s(self) -> float:
        """How short it may ring."""
        return self.rt60_s if self.is_decay_known else self.rt60_s / FURNISHING_FACTOR

    @property
    def most_rt60_s(self) -> float:
        """How long it may ring."""
        return self.rt60_s if self.is_decay_known else self.rt60_s * FURNISHING_FACTOR


def size_of(room: Room) -> Size | None:
    """Which of the three sizes somebody has pressed; None for numbers of its own."""
    lengths = (room.length_m, room.width_m)
    found = (size for size, (length, width, _) in LENGTHS_M.items() if lengths == (length, width))
    return None if room.volume_m3 is not None else next(found, None)


def of_size(room: Room, size: Size) -> Room:
    """The room with the lengths of a size; what was said of its volume goes."""
    length, width, height = LENGTHS_M[size]
    update = {"length_m": length, "width_m": width, "height_m": height, "volume_m3": None}
    return room.model_copy(update=update)


def of_furnishing(room: Room, furnishing: Furnishing) -> Room:
    """The room furnished so; what was said of its reverberation and its surfaces goes."""
    return room.model_copy(
        update={
            "furnishing": furnishing,
            "reverberation_s": None,
            "floor_absorption": None,
            "ceiling_absorption": None,
            "walls_absorption": None,
        }
    )


def figures_of(room: Room) -> RoomFigures:
    """The room in figures. What is not said is guessed, what cannot be is left aside and told."""
    wrong: list[str] = []
    length, width, height, is_size_known = _lengths(room, wrong)
    volume = length * width * height
    if room.volume_m3 is not None and room.volume_m3 >= _LEAST_M**3:
        volume = room.volume_m3
    decay = room.reverberation_s
    if decay is not None and not _SHORTEST_S <= decay <= _LONGEST_S:
        wrong.append("reverberation")
        decay = None
    is_decay_known = decay is not None
    if decay is None:
        decay = rt60_eyring_s(volume, _surfaces(room, length, width, height))
        assert decay is not None
    return RoomFigures(
        length_m=length,
        width_m=width,
        height_m=height,
        volume_m3=volume,
        rt60_s=decay,
        is_size_known=is_size_known,
        is_decay_known=is_decay_known,
        wrong=tuple(wrong),
    )


def _surfaces(room: Room, length: float, width: float, height: float) -> list[Surface]:
    """Floor, ceiling and walls; what is not said of one is as the room is furnished."""
    mean = MEAN_ABSORPTION[room.furnishing or "furnished"]
    return [
        Surface(area_m2=area, absorption=mean if said is None else said)
        for area, said in (
            (length * width, room.floor_absorption),
            (length * width, room.ceiling_absorption),
            (2.0 * (length + width) * height, room.walls_absorption),
        )
    ]


def _lengths(room: Room, wrong: list[str]) -> tuple[float, float, float, bool]:
    said = (room.length_m, room.width_m, room.height_m)
    usual = LENGTHS_M["medium"]
    if any(one is not None and one < _LEAST_M for one in said):
        wrong.append("lengths")
        said = (None, None, None)
    if room.length_m is None and room.width_m is None and room.volume_m3 is not None:
        if room.volume_m3 < _LEAST_M**3:
            wrong.append("volume")
            return (*usual, False)
        # A room of which the volume alone is known: a usual shape of that size.
        one = (room.volume_m3 / math.prod(_SHAPE)) ** (1.0 / 3.0)
        return (_SHAPE[0] * one, _SHAPE[1] * one, _SHAPE[2] * one, True)
    length, width, height = (a if a is not None else b for a, b in zip(said, usual, strict=True))
    return length, width, height, said[0] is not None and said[1] is not None
