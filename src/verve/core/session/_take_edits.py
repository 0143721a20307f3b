"""Edits of takes: logged, annotated, removed, restored; what was learnt since stays."""

from __future__ import annotations

from verve.core.bounds import bounds_of
from verve.core.errors import EditError
from verve.core.session._edits import clean_name
from verve.core.session._in_time import keep_patch, layer_of
from verve.core.session._learning_edits import with_playing_of
from verve.core.session._models import Session, Take


def next_take(session: Session) -> tuple[str, str]:
    """Identifier and name of the take that comes next."""
    taken = {take.id for take in session.takes} | {take.name for take in session.takes}
    number = len(session.takes) + 1
    while f"take_{number}" in taken or f"Take {number}" in taken:
        number += 1
    return f"take_{number}", f"Take {number}"


def add_take(session: Session, take: Take) -> Session:
    """Log a take, under a free id if another one of the session has its own."""
    if take.id in {one.id for one in session.takes}:
        take = take.model_copy(update={"id": next_take(session)[0]})
    return session.model_copy(update={"takes": (*session.takes, take)})


def _take_index(session: Session, take_id: str) -> int:
    for index, take in enumerate(session.takes):
        if take.id == take_id:
            return index
    raise EditError(f"{take_id}: must be a take of this session")


def edit_take(
    session: Session,
    take_id: str,
    *,
    name: str | None = None,
    notes: str | None = None,
    rating: int | None = None,
    start_s: float | None = None,
) -> Session:
    """Rename, annotate or rate a take, or say when in the song it begins; None leaves as it is.

    raises: EditError for an unknown take, an empty name, a rating outside 0 to 5, or a beginning that cannot be
    """
    index = _take_index(session, take_id)
    update: dict[str, object] = {}
    if name is not None:
        update["name"] = clean_name(name)
    if notes is not None:
        update["notes"] = notes
    if rating is not None:
        if not 0 <= rating <= 5:
            raise EditError(f"Rating: must be 0 to 5; got {rating}")
        update["rating"] = rating
    if start_s is not None:
        low, high = bounds_of("start_s")
        if not low <= start_s <= high:
            raise EditError(
                f"Beginning in the song: must be {low:g} to {high:g} s; got {start_s:g}"
            )
        update["start_s"] = start_s
    take = session.takes[index].model_copy(update=update)
    takes = (*session.takes[:index], take, *session.takes[index + 1 :])
    return session.model_copy(update={"takes": takes})


def remove_take(session: Session, take_id: str) -> Session:
    """Take a take off the list; its sound files stay where they are."""
    index = _take_index(session, take_id)
    takes = (*session.takes[:index], *session.takes[index + 1 :])
    return session.model_copy(update={"takes": takes})


def restore_take(session: Session, take_id: str) -> Session:
    """Put everything back as it was set for a take; what was learnt since of how loud somebody plays stays.

    A take of another layer sets that one up; what is set up now is kept for its own.

    raises: EditError for a take whose setup nobody can read
    """
    take = session.takes[_take_index(session, take_id)]
    if take.setup is None:
        raise EditError(f"{take.name}: what was set for it cannot be read: {take.snapshot.fault}")
    here = layer_of(session)
    is_other = take.layer is not None and here is not None and take.layer != here.id
    if is_other and any(one.id == take.layer for one in session.brief.passes):
        kept = keep_patch(session)
        patches = tuple(one for one in kept.patches if one.layer != take.layer)
        session = kept.model_copy(update={"layer": take.layer, "patches": patches})
    learnt = {one.id: one for one in session.setup.sources}
    sources = tuple(
        one.model_copy(
            update={
                "figures": with_playing_of(one.figures, learnt[one.id].figures),
                "over_test_db": learnt[one.id].over_test_db,
            }
        )
        if one.id in learnt and learnt[one.id].figures != one.figures
        else one
        for one in take.setup.sources
    )
    return session.model_copy(update={"setup": take.setup.model_copy(update={"sources": sources})})
