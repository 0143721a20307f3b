"""Moving and turning what stands in the room: pure edits, kept within the walls."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from verve.core.acoustics import Point
from verve.core.air import (
    LEVELS_DBA,
    PlacedMicrophone,
    PlacedSource,
    Positions,
    aim_at,
    positions_of,
)
from verve.core.errors import EditError
from verve.core.place import _words as words
from verve.core.session import (
    SILENT,
    Session,
    Stand,
    Thing,
    ThingKind,
    add_thing,
    change_thing,
    place_microphone,
    place_source,
    remove_beside,
    remove_thing,
)

Kind = Literal["source", "microphone", "thing"]
NEAREST_M, FARTHEST_M = 0.02, 10.0
"""How near to its source a microphone may stand, and how far away."""
_EDGE_M = 0.05


@dataclass(frozen=True, slots=True)
class Key:
    """What is moved: a source by its id, a microphone by `device:port`, a thing by its id."""

    kind: Kind
    id: str

    @property
    def text(self) -> str:
        """It as one word."""
        return f"{self.kind}/{self.id}"


def keys_of(positions: Positions) -> tuple[Key, ...]:
    """Everything that can be moved, sources with their microphones behind them, things last."""
    found = []
    for source in positions.sources:
        if source.thing is not None:
            found.append(Key("thing", source.id))
            continue
        found.append(Key("source", source.id))
        found += [
            Key("microphone", one.id) for one in positions.microphones if one.wants[0] == source.id
        ]
    return (*found, *(Key("thing", one.id) for one in positions.surfaces))


def placed(positions: Positions, key: Key) -> PlacedSource | PlacedMicrophone:
    """What a key stands for.

    raises: EditError if there is no such thing
    """
    found: PlacedSource | PlacedMicrophone | None
    if key.kind == "microphone":
        found = positions.microphone(key.id)
    else:
        is_thing = key.kind == "thing"
        found = next(
            (
                one
                for one in (*positions.sources, *positions.surfaces)
                if one.id == key.id and (one.thing is not None) == is_thing
            ),
            None,
        )
    if found is None:
        raise EditError(f"{key.id}: must stand in the room")
    return found


def name_of(positions: Positions, key: Key) -> str:
    """What it is called."""
    return placed(positions, key).name


def put(session: Session, key: Key, x_m: float, y_m: float, z_m: float | None = None) -> Session:
    """To a place, or the nearest one within the walls; a microphone stays aimed at its source as before.

    raises: EditError if there is no such thing
    """
    positions = positions_of(session.setup)
    one = placed(positions, key)
    room = positions.room
    x_m = min(max(x_m, _EDGE_M), max(_EDGE_M, room.length_m - _EDGE_M))
    y_m = min(max(y_m, _EDGE_M), max(_EDGE_M, room.width_m - _EDGE_M))
    z_m = one.at.z_m if z_m is None else min(max(z_m, 0.0), room.height_m)
    if isinstance(one, PlacedSource):
        facing = one.facing_deg
        return _stood(session, one, Stand(x_m=x_m, y_m=y_m, height_m=z_m, facing_deg=facing))
    source = positions.source(one.wants[0])
    assert source is not None
    aim, distance = aim_at(source, Point(x_m, y_m, z_m))
    aim = aim.model_copy(
        update={"turns_left": one.aim.turns_left, "has_shield": one.aim.has_shield}
    )
    distance = min(max(distance, NEAREST_M), FARTHEST_M)
    return place_microphone(session, one.id, aim, distance_m=distance)


def moved(session: Session, key: Key, right_m: float, away_m: float) -> Session:
    """By so much, over the floor.

    raises: EditError if there is no such thing
    """
    at = placed(positions_of(session.setup), key).at
    return put(session, key, at.x_m + right_m, at.y_m + away_m)


def turned(session: Session, key: Key, degrees: float) -> Session:
    """By so much, clockwise seen from above.

    raises: EditError if there is no such thing, or it hears alike to all sides
    """
    one = placed(positions_of(session.setup), key)
    if isinstance(one, PlacedSource):
        facing = (one.facing_deg + degrees) % 360.0
        stand = Stand(x_m=one.at.x_m, y_m=one.at.y_m, height_m=one.at.z_m, facing_deg=facing)
        return _stood(session, one, stand)
    if one.capsule.pattern is None:
        raise EditError(f"{one.name}: has no direction to turn, its pattern is not known")
    now = -one.angle_deg if one.aim.turns_left else one.angle_deg
    angle = (now + degrees + 180.0) % 360.0 - 180.0
    aim = one.aim.model_copy(update={"turns_left": angle < 0.0})
    return place_microphone(session, one.id, aim, angle_deg=abs(angle))


def _stood(session: Session, one: PlacedSource, stand: Stand) -> Session:
    if one.thing is not None:
        return change_thing(session, one.thing.model_copy(update={"stand": stand}))
    return place_source(session, one.id, stand)


def brought(session: Session, kind: ThingKind) -> tuple[Session, Key]:
    """Something else that sounds, in the middle of the wall on the right; where it is then can be changed."""
    room = positions_of(session.setup).room
    height_m = 0.75 if kind in SILENT else 1.0
    stand = Stand(
        x_m=round(max(_EDGE_M, room.length_m - 0.5), 2), y_m=round(room.width_m / 2.0, 2),
        height_m=height_m, facing_deg=270.0,
    )  # fmt: skip
    name = words.THING_NAMES[kind]
    thing = Thing(id=kind, name=name, kind=kind, stand=stand, level_dba=LEVELS_DBA[kind])
    session, key = add_thing(session, thing)
    return session, Key("thing", key)


Number = Literal[
    "x_m",
    "y_m",
    "height_m",
    "facing_deg",
    "distance_m",
    "bearing_deg",
    "rise_deg",
    "turn_deg",
    "level_dba",
]


def numbers_of(positions: Positions, key: Key) -> dict[Number, float]:
    """The figures of what stands somewhere, as they can be typed."""
    one = placed(positions, key)
    if isinstance(one, PlacedMicrophone):
        turn = -one.angle_deg if one.aim.turns_left else one.angle_deg
        return {
            "distance_m": one.distance_m,
            "bearing_deg": one.aim.bearing_deg,
            "rise_deg": one.aim.rise_deg,
            "turn_deg": turn,
        }
    found: dict[Number, float] = {
        "x_m": one.at.x_m, "y_m": one.at.y_m, "height_m": one.at.z_m, "facing_deg": one.facing_deg,
    }  # fmt: skip
    is_heard = one.thing is not None and one.thing.kind not in SILENT
    return {**found, "level_dba": one.thing.level_dba} if one.thing and is_heard else found


def with_number(session: Session, key: Key, name: Number, value: float) -> Session:
    """One of its figures set.

    raises: EditError if there is no such thing or figure, or it cannot be that
    """
    positions = positions_of(session.setup)
    one = placed(positions, key)
    numbers = numbers_of(positions, key)
    if name not in numbers:
        raise EditError(f"{one.name}: has no {name}")
    numbers[name] = value
    if isinstance(one, PlacedMicrophone):
        aim = one.aim.model_copy(
            update={
                "bearing_deg": numbers["bearing_deg"],
                "rise_deg": numbers["rise_deg"],
                "turns_left": numbers["turn_deg"] < 0.0,
            }
        )
        angle = None if name != "turn_deg" else abs(numbers["turn_deg"])
        distance = None if name != "distance_m" else value
        return place_microphone(session, one.id, aim, distance_m=distance, angle_deg=angle)
    if name == "level_dba":
        assert one.thing is not None
        return change_thing(session, one.thing.model_copy(update={"level_dba": value}))
    stand = Stand.model_construct(
        x_m=numbers["x_m"], y_m=numbers["y_m"], height_m=numbers["height_m"],
        facing_deg=numbers["facing_deg"],
    )  # fmt: skip
    _within(positions, one.name, stand)
    return _stood(session, one, stand)


def _within(positions: Positions, name: str, stand: Stand) -> None:
    room = positions.room
    for what, value, most in (
        ("left wall", stand.x_m, room.length_m),
        ("front wall", stand.y_m, room.width_m),
        ("floor", stand.height_m, room.height_m),
    ):
        if not 0.0 <= value <= most:
            raise EditError(
                f"{name}: must be 0 to {most:.2f} m from the {what}, within the room; got {value:g}"
            )


def switched(session: Session, thing_id: str, *, is_on: bool) -> Session:
    """Something that sounds switched on or off.

    raises: EditError if there is none
    """
    found = next((t for t in session.setup.placement.things if t.id == thing_id), None)
    if found is None:
        raise EditError(f"{thing_id}: must be something that stands in the room")
    return change_thing(session, found.model_copy(update={"is_on": is_on}))


def is_beside(positions: Positions, key: Key) -> bool:
    """Whether it is a source without a microphone of its own, which goes into that of the same person."""
    return key.kind == "source" and any(key.id in one.wants[1:] for one in positions.microphones)


def taken_out(session: Session, key: Key) -> Session:
    """Without a thing, or without what is played beside something else.

    raises: EditError if there is no such thing, or it is neither
    """
    if key.kind == "thing":
        return remove_thing(session, key.id)
    return remove_beside(session, key.id)


def shielded(session: Session, key: Key, *, is_there: bool) -> Session:
    """A microphone with a pop shield before it, or without one.

    raises: EditError if there is no such microphone
    """
    one = placed(positions_of(session.setup), key)
    if not isinstance(one, PlacedMicrophone):
        raise EditError(f"{one.name}: must be a microphone")
    return place_microphone(session, one.id, one.aim.model_copy(update={"has_shield": is_there}))
