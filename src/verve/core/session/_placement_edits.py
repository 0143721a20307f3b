"""Edits of where things stand."""

from __future__ import annotations

from pydantic import ValidationError

from verve.core.errors import EditError, from_validation_error
from verve.core.gear import DEFAULT_DISTANCE_M
from verve.core.kind import NOTHING_SET, FrozenDict
from verve.core.session._brief_edits import free_key
from verve.core.session._edits import (
    Change,
    apply_changes,
    free_identifier,
    free_name,
    with_setup,
)
from verve.core.session._models import Session
from verve.core.session._placement import Aim, Placement, Spot, Stand, Thing
from verve.core.session._setup import Performer, Source, split_port


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


def add_beside(session: Session, source_id: str, source: Source) -> tuple[Session, str]:
    """Something else that the same person plays and that goes into the same microphone, as a guitar to a song.

    Its id and name are made free, the id is given back. raises: EditError if there is no such source
    """
    setup = session.setup
    beside = next((one for one in setup.sources if one.id == source_id), None)
    if beside is None:
        raise EditError(f"{source_id}: must be a source of this session")
    performers, sources = setup.performers, setup.sources
    performer = beside.performer
    if performer is None:
        performer = free_identifier(setup, beside.name)
        performers = (*performers, Performer(id=performer, name=beside.name))
        sources = tuple(
            one.model_copy(update={"performer": performer}) if one.id == source_id else one
            for one in sources
        )
    key = free_identifier(setup.model_copy(update={"performers": performers}), source.id)
    name = free_name(source.name, [one.name for one in sources])
    added = source.model_copy(update={"id": key, "name": name, "performer": performer})
    return with_setup(session, performers=performers, sources=(*sources, added)), key


def remove_beside(session: Session, source_id: str) -> Session:
    """Take away what is played beside something else and has no signal of its own.

    raises: EditError if there is none, or it has a signal
    """
    if all(one.id != source_id for one in session.setup.sources):
        raise EditError(f"{source_id}: must be a source of this session")
    if any(split_port(link.start)[0] == source_id for link in session.setup.links):
        raise EditError(f"{source_id}: has a signal of its own, which has to be removed in Patch")
    sources = tuple(one for one in session.setup.sources if one.id != source_id)
    return with_setup(session, sources=sources)


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


def note_spot(session: Session, microphone: str, aim: Aim, name: str = "") -> tuple[Session, str]:
    """Note where a microphone is now, to compare it with other places; its id is given back.

    Without a name it is called "Spot" with a number. raises: EditError if it is no microphone of the session
    """
    owner, port = split_port(microphone)
    device = next((one for one in session.setup.devices if one.id == owner), None)
    if device is None or device.figures.capsule(port) is None:
        raise EditError(f"{microphone}: must be a microphone of this session")
    settings = device.settings.get(port, NOTHING_SET)
    mine = [one.name for one in session.spots if one.microphone == microphone]
    key = free_key("spot", (one.id for one in session.spots))
    spot = Spot(
        id=key,
        name=free_name(name.strip() or f"Spot {len(mine) + 1}", mine),
        microphone=microphone,
        aim=aim,
        distance_m=DEFAULT_DISTANCE_M if settings.distance_m is None else settings.distance_m,
        angle_deg=settings.angle_deg or 0.0,
    )
    return session.model_copy(update={"spots": (*session.spots, spot)}), key


def spot_of(session: Session, spot_id: str) -> Spot:
    """One by its id.

    raises: EditError if there is none
    """
    found = next((one for one in session.spots if one.id == spot_id), None)
    if found is None:
        raise EditError(f"{spot_id}: must be a spot of this session")
    return found


def change_spot(session: Session, changed: Spot) -> Session:
    """The same spot with another name or recording.

    raises: EditError if there is none, it cannot be so, or its recording is none of the session's
    """
    spot_of(session, changed.id)
    try:
        checked = Spot.model_validate(changed.model_dump())
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, changed.name))) from error
    if checked.sound is not None and all(one.id != checked.sound for one in session.sounds):
        raise EditError(f"{checked.sound}: must be a sound file of this session")
    spots = tuple(checked if one.id == changed.id else one for one in session.spots)
    return session.model_copy(update={"spots": spots})


def choose_spot(session: Session, spot_id: str, chosen_at: str) -> Session:
    """The microphone at a spot that was noted; `chosen_at` says when, and stays with it.

    raises: EditError if there is no such spot or microphone
    """
    spot = spot_of(session, spot_id)
    session = place_microphone(
        session, spot.microphone, spot.aim, distance_m=spot.distance_m, angle_deg=_angle(session, spot)
    )  # fmt: skip
    return change_spot(session, spot.model_copy(update={"chosen_at": chosen_at}))


def _angle(session: Session, spot: Spot) -> float | None:
    """What is set on a microphone that has a direction."""
    owner, port = split_port(spot.microphone)
    device = next((one for one in session.setup.devices if one.id == owner), None)
    capsule = None if device is None else device.figures.capsule(port)
    return None if capsule is None or capsule.pattern is None else spot.angle_deg


def remove_spot(session: Session, spot_id: str) -> Session:
    """Forget a spot.

    raises: EditError if there is none
    """
    spot_of(session, spot_id)
    spots = tuple(one for one in session.spots if one.id != spot_id)
    return session.model_copy(update={"spots": spots})
