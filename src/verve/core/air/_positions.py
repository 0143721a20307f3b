"""Where everything stands: what somebody has placed, and where the rest usually would be."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from verve.core.acoustics import Point, direction
from verve.core.air._room import RoomFigures, figures_of
from verve.core.gear import DEFAULT_DISTANCE_M, AcousticFigures
from verve.core.kind import NOTHING_SET, Capsule
from verve.core.session import SILENT, Aim, Setup, Stand, Thing, split_port

_HEIGHTS_M: Mapping[str, float] = {
    "voice": 1.5, "plucked": 0.9, "bowed": 0.9, "struck": 0.8, "keys": 1.0,
}  # fmt: skip
"""Where what sounds usually is above the floor; typical."""
_APART_M = 1.6
_FROM_WALL_M = 1.2


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedSource:
    """A sound in the room, on purpose or not."""

    id: str
    name: str
    at: Point
    facing_deg: float
    figures: AcousticFigures | None
    """None for what is no source of the session, which `thing` is then."""
    thing: Thing | None = None
    performer: str | None = None
    is_given: bool = True
    """Whether somebody has put it there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedMicrophone:
    """A microphone about the source that it is there for, which is the first of `wants`."""

    id: str
    """`device:port`."""
    name: str
    at: Point
    aim_deg: float
    tilt_deg: float
    capsule: Capsule
    wants: tuple[str, ...]
    distance_m: float
    angle_deg: float
    aim: Aim
    is_given: bool = True

    @property
    def toward(self) -> tuple[float, float, float]:
        """Unit vector of where it is aimed."""
        return direction(self.aim_deg, self.tilt_deg)


@dataclass(frozen=True, slots=True, kw_only=True)
class Positions:
    """Everything that sounds and everything that hears, in the room."""

    room: RoomFigures
    sources: tuple[PlacedSource, ...]
    microphones: tuple[PlacedMicrophone, ...]
    surfaces: tuple[PlacedSource, ...] = ()
    """What only reflects."""

    def extent(self, around_m: float) -> tuple[float, float, float, float]:
        """The part of the room that something stands in, with so much around it: left, front, right, back."""
        everything = [one.at for one in self.sources] + [one.at for one in self.microphones]
        everything += [one.at for one in self.surfaces]
        if not everything:
            return (0.0, 0.0, self.room.length_m, self.room.width_m)
        xs, ys = [at.x_m for at in everything], [at.y_m for at in everything]
        left, right = max(0.0, min(xs) - around_m), min(self.room.length_m, max(xs) + around_m)
        front, back = max(0.0, min(ys) - around_m), min(self.room.width_m, max(ys) + around_m)
        return (left, front, max(right, left + 0.5), max(back, front + 0.5))

    def source(self, source_id: str) -> PlacedSource | None:
        """One by its id."""
        return next((one for one in self.sources if one.id == source_id), None)

    def microphone(self, microphone_id: str) -> PlacedMicrophone | None:
        """One by its id."""
        return next((one for one in self.microphones if one.id == microphone_id), None)


def positions_of(setup: Setup) -> Positions:
    """Where everything of a session stands; what nobody has placed stands where it usually would."""
    room = figures_of(setup.room)
    heard = _heard(setup)
    sources = _sources(setup, room)
    by_id = {one.id: one for one in sources}
    microphones = _microphones(setup, heard, by_id)
    things = [
        PlacedSource(
            id=one.id,
            name=one.name,
            at=point_of(one.stand),
            facing_deg=one.stand.facing_deg,
            figures=None,
            thing=one,
        )
        for one in setup.placement.things
    ]
    silent = {one.id for one in setup.placement.things if one.kind in SILENT}
    return Positions(
        room=room,
        sources=(*sources, *(one for one in things if one.id not in silent)),
        microphones=microphones,
        surfaces=tuple(one for one in things if one.id in silent),
    )


def point_of(stand: Stand) -> Point:
    """Where that is."""
    return Point(stand.x_m, stand.y_m, stand.height_m)


def _heard(setup: Setup) -> dict[str, list[str]]:
    """Microphones, and which sources each is there for: the one that is led into it, and what else the same person
    plays that no microphone is led from, as a guitar to a song."""
    acoustic = {one.id for one in setup.sources if isinstance(one.figures, AcousticFigures)}
    found: dict[str, list[str]] = {}
    for link in setup.links:
        owner = split_port(link.start)[0]
        if owner in acoustic:
            found.setdefault(link.end, []).append(owner)
    performers = {one.id: one.performer for one in setup.sources}
    led = {owner for owners in found.values() for owner in owners}
    for source in setup.sources:
        if source.id not in acoustic or source.id in led or source.performer is None:
            continue
        microphone = next(
            (key for key, owners in found.items() if performers[owners[0]] == source.performer),
            None,
        )
        if microphone is not None:
            found[microphone].append(source.id)
    return found


def _sources(setup: Setup, room: RoomFigures) -> tuple[PlacedSource, ...]:
    stands = setup.placement.stands
    acoustic = [one for one in setup.sources if isinstance(one.figures, AcousticFigures)]
    # Whoever has two sources, a voice and a guitar, stands once.
    people: dict[str, int] = {}
    for source in acoustic:
        people.setdefault(source.performer or source.id, len(people))
    found = []
    for source in acoustic:
        stand = stands.get(source.id)
        is_given = stand is not None
        if stand is None:
            person = source.performer or source.id
            beside = next(
                (
                    stands[s.id]
                    for s in acoustic
                    if (s.performer or s.id) == person and s.id in stands
                ),
                None,
            )
            height = _HEIGHTS_M[source.figures.player]
            stand = (
                beside.model_copy(update={"height_m": height})
                if beside is not None
                else _usual(people[person], len(people), height, room)
            )
        assert isinstance(source.figures, AcousticFigures)
        found.append(
            PlacedSource(
                id=source.id,
                name=source.name,
                at=point_of(stand),
                facing_deg=stand.facing_deg,
                figures=source.figures,
                performer=source.performer,
                is_given=is_given,
            )
        )
    return tuple(found)


def _usual(number: int, count: int, height_m: float, room: RoomFigures) -> Stand:
    """One of some who stand in an arc and face its middle, in the middle of the room.

    The arc is as wide as the room allows, so that all have their distance where there is room for it.
    """
    across, deep = room.length_m, room.width_m
    if count == 1:
        return Stand(x_m=across / 2.0, y_m=deep * 0.6, height_m=height_m, facing_deg=180.0)
    wanted_m = _APART_M * count / math.pi
    radius_m = max(0.3, min(wanted_m, across / 2.0 - _FROM_WALL_M, deep / 2.0))
    turn = math.pi * (number + 0.5) / count
    x_m, y_m = (
        across / 2.0 - radius_m * math.cos(turn),
        deep * 0.45 + radius_m * math.sin(turn) / 2.0,
    )
    middle = (across / 2.0 - x_m, deep * 0.2 - y_m)
    facing = math.degrees(math.atan2(*middle)) % 360.0
    return Stand(x_m=round(x_m, 2), y_m=round(y_m, 2), height_m=height_m, facing_deg=round(facing))


def _microphones(
    setup: Setup, heard: Mapping[str, Sequence[str]], sources: Mapping[str, PlacedSource]
) -> tuple[PlacedMicrophone, ...]:
    found = []
    sides = _sides(heard)
    for device in setup.devices:
        for port in device.figures.input_ports():
            capsule = device.figures.capsule(port)
            key = f"{device.id}:{port}"
            if capsule is None or key not in heard:
                continue
            settings = device.settings.get(port, NOTHING_SET)
            distance = DEFAULT_DISTANCE_M if settings.distance_m is None else settings.distance_m
            angle = settings.angle_deg or 0.0
            given = setup.placement.aims.get(key)
            aim = given or Aim(bearing_deg=sides.get(key, 0.0))
            at, toward, tilt = _about(sources[heard[key][0]], aim, distance, angle)
            found.append(
                PlacedMicrophone(
                    id=key,
                    name=device.name,
                    at=at,
                    aim_deg=toward,
                    tilt_deg=tilt,
                    capsule=capsule,
                    wants=tuple(heard[key]),
                    distance_m=distance,
                    angle_deg=angle,
                    aim=aim,
                    is_given=given is not None,
                )
            )
    return tuple(found)


def _sides(heard: Mapping[str, Sequence[str]]) -> dict[str, float]:
    """Bearings of several microphones of one source, which do not stand in one another: side by side.

    The first is on the left of who looks at the source, as the left one of a pair is.
    """
    by_source: dict[str, list[str]] = {}
    for microphone, wanted in heard.items():
        by_source.setdefault(wanted[0], []).append(microphone)
    return {
        microphone: 40.0 * ((len(group) - 1) / 2.0 - number)
        for group in by_source.values()
        if len(group) > 1
        for number, microphone in enumerate(group)
    }


def _about(
    source: PlacedSource, aim: Aim, distance_m: float, angle_deg: float
) -> tuple[Point, float, float]:
    """Where a microphone is, where it is aimed, and how far up."""
    bearing = source.facing_deg + aim.bearing_deg
    x, y, z = direction(bearing, aim.rise_deg)
    at = Point(
        source.at.x_m + x * distance_m,
        source.at.y_m + y * distance_m,
        max(0.0, source.at.z_m + z * distance_m),
    )
    turned = -angle_deg if aim.turns_left else angle_deg
    return at, (bearing + 180.0 + turned) % 360.0, -aim.rise_deg


def aim_at(source: PlacedSource, at: Point) -> tuple[Aim, float]:
    """How a microphone at that place is about a source, aimed at it, and how far away."""
    x, y, z = source.at.to(at)
    level = math.hypot(x, y)
    distance = math.hypot(level, z)
    bearing = (math.degrees(math.atan2(x, y)) - source.facing_deg + 180.0) % 360.0 - 180.0
    return Aim(bearing_deg=bearing, rise_deg=math.degrees(math.atan2(z, level))), distance
