"""Starting points: where a microphone for an instrument or a voice usually goes, and what moving it does. Typical."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field

from verve.core.air import PlacedMicrophone, positions_of
from verve.core.errors import EditError
from verve.core.kind import Frozen, Positive
from verve.core.place import _words as words
from verve.core.session import Aim, Session, place_microphone
from verve.core.words import Fact, fill

_FILE = Path(__file__).resolve().parents[2] / "data" / "starting_points.json"


class StartingPoint(Frozen):
    """Where to begin with some kinds of source, and what each way from there does; all of it typical."""

    entries: tuple[str, ...]
    distance_m: Positive
    bearing_deg: float
    rise_deg: Annotated[float, Field(ge=-90, le=90)]
    turn_deg: Annotated[float, Field(ge=-180, le=180)]
    aim: str
    closer: str
    farther: str
    aside: str
    avoid: str
    needs_shield: bool


class _File(Frozen):
    format: Literal["verve-starting-points"]
    version: Literal[1]
    points: tuple[StartingPoint, ...]


@cache
def starting_points() -> Mapping[str, StartingPoint]:
    """All of them, by the entries of the catalogue."""
    found = _File.model_validate_json(_FILE.read_text(encoding="utf-8"))
    return {entry: point for point in found.points for entry in point.entries}


def starting_point(session: Session, microphone: str) -> StartingPoint | None:
    """The one for what a microphone records; None where there is none."""
    positions = positions_of(session.setup)
    mic = positions.microphone(microphone)
    source = None if mic is None else positions.source(mic.wants[0])
    if source is None or source.figures is None:
        return None
    return starting_points().get(source.figures.entry or "")


def put_at_start(session: Session, microphone: str) -> Session:
    """The microphone at its starting point.

    raises: EditError if there is none for what it records
    """
    point = starting_point(session, microphone)
    mic = positions_of(session.setup).microphone(microphone)
    if point is None or mic is None:
        raise EditError(f"{microphone}: has no usual place for what it records")
    aim = Aim(
        bearing_deg=point.bearing_deg,
        rise_deg=point.rise_deg,
        turns_left=point.turn_deg < 0.0,
        has_shield=mic.aim.has_shield,
    )
    angle = None if mic.capsule.pattern is None else abs(point.turn_deg)
    return place_microphone(session, microphone, aim, distance_m=point.distance_m, angle_deg=angle)


def starting_facts(session: Session, microphone: str) -> tuple[Fact, ...]:
    """The starting point in words, with what the microphone itself asks for."""
    point = starting_point(session, microphone)
    mic = positions_of(session.setup).microphone(microphone)
    if point is None or mic is None:
        return ()
    text = fill(words.START_AT, distance_cm=point.distance_m * 100.0, aim=point.aim)
    found = [
        _fact(words.START, text),
        _fact(words.CLOSER_IS, point.closer),
        _fact(words.FARTHER_IS, point.farther),
        _fact(words.ASIDE_IS, point.aside),
        _fact(words.AVOID, point.avoid),
        _fact(words.LIVE_SIDE, words.LIVE[mic.capsule.addressed_from]),
    ]
    if point.needs_shield:
        found.append(_fact(words.SHIELD, words.SHIELD_TEXT))
        if (cost := _foam_cost_db(mic)) is not None:
            found.append(_fact(words.FOAM, fill(words.FOAM_TEXT, treble_db=cost)))
    return tuple(found)


def _foam_cost_db(mic: PlacedMicrophone) -> float | None:
    """What foam takes at 8 kHz; None for a microphone that has none."""
    foam = mic.capsule.foam_db
    return None if foam is None else -foam[8]


def _fact(label: str, text: str) -> Fact:
    return Fact(label=label, text=text, origin="typical")


def start_text(session: Session, microphone: str) -> str:
    """The same as lines to read."""
    return "\n".join(f"{one.label}: {one.text}" for one in starting_facts(session, microphone))
