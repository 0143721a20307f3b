"""Where everything stands in the room: whoever plays, each microphone about its source, and what else sounds."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from verve.core.kind import Frozen, FrozenDict, FrozenMap

FARTHEST_M = 200.0
HIGHEST_M = 30.0

Identifier = Annotated[str, Field(pattern=r"^[a-z0-9_]+$", max_length=80)]
Furnishing = Literal["bare", "furnished", "soft"]
ThingKind = Literal[
    "loudspeaker", "wedge", "fan", "heater", "fridge", "computer", "projector", "window", "other",
    "desk", "music_stand", "open_headphones", "closed_headphones", "in_ears",
]  # fmt: skip
"""What is in the room beside whoever plays: two that give back what is recorded, usual noises, two that reflect, and
what leaks out of headphones."""
HEADPHONES: frozenset[ThingKind] = frozenset({"open_headphones", "closed_headphones", "in_ears"})
"""What is worn; its level is that at the ear."""
GIVES_BACK: frozenset[ThingKind] = HEADPHONES | {"loudspeaker", "wedge"}
"""What plays something that is heard, and is no noise."""
SILENT: frozenset[ThingKind] = frozenset({"desk", "music_stand"})
"""What does not sound itself."""

_Across = Annotated[float, Field(ge=-FARTHEST_M, le=FARTHEST_M)]


class Stand(Frozen):
    """Where something sounds, in metres from the room's left corner near the viewer, and where it faces.

    `facing_deg` is clockwise seen from above: 0 away from the viewer, 90 to the right.
    """

    x_m: _Across
    y_m: _Across
    height_m: Annotated[float, Field(ge=0.0, le=HIGHEST_M)] = 1.2
    facing_deg: Annotated[float, Field(ge=-360.0, le=360.0)] = 180.0


class Aim(Frozen):
    """Where a microphone is about its source, at the distance that is set on it.

    `bearing_deg` is clockwise from where the source faces, seen from above; `rise_deg` is above the level of what
    sounds. By how much the microphone is turned past its source is set on it; `turns_left` tells to which side.
    `has_shield` says that a pop shield hangs before it.
    """

    bearing_deg: Annotated[float, Field(ge=-360.0, le=360.0)] = 0.0
    rise_deg: Annotated[float, Field(ge=-90.0, le=90.0)] = 0.0
    turns_left: bool = False
    has_shield: bool = False


class Thing(Frozen):
    """Something that sounds or reflects and is not recorded on purpose.

    `level_dba` is what it gives at a metre; of headphones what they give at the ear.
    """

    id: Identifier
    name: str
    kind: ThingKind
    stand: Stand
    level_dba: Annotated[float, Field(ge=0.0, le=140.0)]
    is_on: bool = True


class Placement(Frozen):
    """What somebody has put somewhere; all else stands where it usually would.

    `stands` are those of sources by their ids, `aims` those of microphones by `device:port`.
    """

    stands: FrozenMap[str, Stand] = Field(default_factory=FrozenDict)
    aims: FrozenMap[str, Aim] = Field(default_factory=FrozenDict)
    things: tuple[Thing, ...] = ()


class Spot(Frozen):
    """A place that a microphone was tried at, about its source; `sound` is a recording of the session made there.

    `chosen_at` is when it became the placement, empty where it did not.
    """

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=80)]
    microphone: Annotated[str, Field(pattern=r"^[a-z0-9_]+:[a-z0-9_.]+$", max_length=200)]
    aim: Aim
    distance_m: Annotated[float, Field(gt=0.0, le=FARTHEST_M)]
    angle_deg: Annotated[float, Field(ge=0.0, le=180.0)] = 0.0
    sound: Identifier | None = None
    chosen_at: Annotated[str, Field(max_length=40)] = ""
