"""Edits of what performers hear, and of what is known of the computer's delays."""

from __future__ import annotations

from collections.abc import Mapping

from pydantic import ValidationError

from verve.core.errors import EditError, from_validation_error
from verve.core.session._edits import with_setup
from verve.core.session._models import Session
from verve.core.session._monitoring import Cue, LearnedTrip, Monitoring, RecordingOffset
from verve.core.session._setup import Setup

_MOST_TRIPS = 64


def listeners(setup: Setup) -> tuple[tuple[str, str], ...]:
    """Everybody who plays, by id and name: performers with a source, and sources that nobody is named for."""
    names = {one.id: one.name for one in setup.performers}
    found: dict[str, str] = {}
    for source in setup.sources:
        who = source.performer or source.id
        found.setdefault(who, names.get(who, source.name))
    return tuple(found.items())


def cue_of(setup: Setup, who: str) -> Cue:
    """What somebody hears: as it is said, else directly through closed headphones."""
    return next((one for one in setup.monitoring.cues if one.who == who), Cue(who=who))


def set_monitoring(session: Session, monitoring: Monitoring) -> Session:
    """Everything about monitoring at once.

    raises: EditError for what cannot be
    """
    return with_setup(session, monitoring=monitoring)


def change_cue(session: Session, who: str, update: Mapping[str, object]) -> Session:
    """Some things that somebody hears, otherwise.

    raises: EditError if nobody is called so, or it cannot be
    """
    if who not in dict(listeners(session.setup)):
        raise EditError(f"{who}: must be somebody who plays in this session")
    cue = cue_of(session.setup, who)
    try:
        changed = Cue.model_validate({**cue.model_dump(), **update})
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, who))) from error
    monitoring = session.setup.monitoring
    rest = tuple(one for one in monitoring.cues if one.who != who)
    order = [one for one, _ in listeners(session.setup)]
    cues = sorted(
        (*rest, changed), key=lambda one: order.index(one.who) if one.who in order else 99
    )
    return set_monitoring(session, monitoring.model_copy(update={"cues": tuple(cues)}))


def change_monitoring(session: Session, update: Mapping[str, object]) -> Session:
    """Some figures that all share, otherwise.

    raises: EditError if they cannot be
    """
    now = session.setup.monitoring
    try:
        changed = Monitoring.model_validate({**now.model_dump(), **update})
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, "monitoring"))) from error
    return set_monitoring(session, changed)


def learn_trip(session: Session, trip: LearnedTrip) -> Session:
    """A round trip of this computer more; one of the same size, rate and kind gives way.

    raises: EditError when there are too many
    """
    computer = session.computer
    rest = tuple(
        one
        for one in computer.round_trips
        if (one.buffer_frames, one.sample_rate_hz, one.is_measured)
        != (trip.buffer_frames, trip.sample_rate_hz, trip.is_measured)
    )
    if len(rest) >= _MOST_TRIPS:
        raise EditError(f"round trips: must be no more than {_MOST_TRIPS}; forget some")
    trips = tuple(sorted((*rest, trip), key=lambda one: (one.sample_rate_hz, one.buffer_frames)))
    update = {"round_trips": trips}
    return session.model_copy(update={"computer": computer.model_copy(update=update)})


def forget_trip(session: Session, trip: LearnedTrip) -> Session:
    """Without a round trip that was typed or measured.

    raises: EditError if it is not there
    """
    computer = session.computer
    if trip not in computer.round_trips:
        raise EditError("round trip: must be one of this session")
    trips = tuple(one for one in computer.round_trips if one != trip)
    update = {"round_trips": trips}
    return session.model_copy(update={"computer": computer.model_copy(update=update)})


def set_recording_offset(session: Session, offset: RecordingOffset | None) -> Session:
    """What is left after the recording software's compensation; None for not known."""
    update = {"recording_offset": offset}
    return session.model_copy(update={"computer": session.computer.model_copy(update=update)})
