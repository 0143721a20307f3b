"""Edits of where things stand."""

from __future__ import annotations

from pydantic import ValidationError

from verve.core.errors import EditError, from_validation_error
from verve.core.kind import FrozenDict
from verve.core.session._brief_edits import free_key
from verve.core.session._edits import Change, apply_changes, free_name, with_setup
from verve.core.session._models import Session
from verve.core.session._placement import Aim, Placement, Stand, Thing
from verve.core.session._setup import split_port


def set_placement(session: Session, placement: Placement) -> Session:
    """Everything that stands anywhere, at once.

    raises: EditError for a place that cannot be
    """
    return with_setup(session, placement=placement)


def place_source(session: Session, source: str, stand: Stand) -> Session:
    """Put what a source is to a place; its microphones go along.

    raises: EditError if it is none of the session, or the place cannot be
    """
    if all(one.id != source for one in session.setup.sources):
        raise EditError(f"{source}: must be a source of this session")
    placement = session.setup.placement
    stands = FrozenDict({**placement.stands, source: stand})
    return set_placement(session, placement.model_copy(update={"stands": stands}))


def place_microphone(
    session: Session,
    microphone: str,
    aim: Aim,
    *,
    distance_m: float | None = None,
    angle_deg: float | None = None,
) -> Session:
    """Put a microphone, `device:port`, to a place about its source; None leaves a figure as it is.

    raises: EditError if it is no microphone of the session, or cannot stand or be turned so
    """
    owner, port = split_port(microphone)
    device = next((one for one in session.setup.devices if one.id == owner), None)
    if device is None or device.figures.capsule(port) is None:
        raise EditError(f"{microphone}: must be a microphone of this session")
    given = (("distance_m", distance_m), ("angle_deg", angle_deg))
    session = apply_changes(
        session,
        [
            Change(owner=owner, channel=port, name=name, value=value)
            for name, value in given
            if value is not None
        ],
    )
    placement = session.setup.placement
    aims = FrozenDict({**placement.aims, microphone: aim})
    return set_placement(session, placement.model_copy(update={"aims": aims}))


def _with_things(session: Session, things: tuple[Thing, ...]) -> Session:
    return set_placement(session, session.setup.placement.model_copy(update={"things": things}))


def add_thing(session: Session, thing: Thing) -> tuple[Session, str]:
    """Something else that sounds; its id and name are made free, the id is given back.

    raises: EditError for one that cannot be
    """
    things = session.setup.placement.things
    key = free_key(thing.id, (one.id for one in things))
    name = free_name(thing.name, [one.name for one in things])
    added = thing.model_copy(update={"id": key, "name": name})
    return _with_things(session, (*things, added)), key


def _known_thing(session: Session, thing_id: str) -> None:
    if all(one.id != thing_id for one in session.setup.placement.things):
        raise EditError(f"{thing_id}: must be something that stands in the room")


def change_thing(session: Session, changed: Thing) -> Session:
    """The same thing otherwise: elsewhere, off, louder.

    raises: EditError if there is none, or it cannot be so
    """
    _known_thing(session, changed.id)
    try:
        checked = Thing.model_validate(changed.model_dump())
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, changed.name))) from error
    things = session.setup.placement.things
    return _with_things(session, tuple(checked if one.id == changed.id else one for one in things))


def remove_thing(session: Session, thing_id: str) -> Session:
    """Take it out of the room.

    raises: EditError if there is none
    """
    _known_thing(session, thing_id)
    things = session.setup.placement.things
    return _with_things(session, tuple(one for one in things if one.id != thing_id))
