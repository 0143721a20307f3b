"""Edits of the brief, the kit, the shopping list and the computer; each gives a new session."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Iterable

from pydantic import BaseModel, ValidationError

from verve.core.errors import EditError, from_validation_error
from verve.core.session._brief import (
    MOST_PARTS,
    Brief,
    Computer,
    KitItem,
    Part,
    Pass,
    Shopping,
    Wish,
)
from verve.core.session._edits import free_name
from verve.core.session._models import Session


def free_key(wish: str, taken: Iterable[str]) -> str:
    """A key like `wish` that is not taken; names in any script get one."""
    ascii_only = unicodedata.normalize("NFKD", wish).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "_", ascii_only).strip("_")[:60] or "item"
    known = set(taken)
    key, number = stem, 2
    while key in known:
        key, number = f"{stem}_{number}", number + 1
    return key


def _checked(model: BaseModel, what: str) -> None:
    """raises: EditError for a value that a copy with changes must not have"""
    try:
        type(model).model_validate(model.model_dump())
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, what))) from None


def set_brief(session: Session, brief: Brief) -> Session:
    """Another brief.

    raises: EditError if it does not hold together
    """
    if len(brief.parts) > MOST_PARTS:
        raise EditError(f"Parts: must be at most {MOST_PARTS}; got {len(brief.parts)}")
    _checked(brief, "Brief")
    return session.model_copy(update={"brief": brief})


def _pass(session: Session, pass_id: str) -> Pass:
    for item in session.brief.passes:
        if item.id == pass_id:
            return item
    raise EditError(f"{pass_id}: must be a pass of this session")


def _with_pass(brief: Brief, changed: Pass) -> tuple[Pass, ...]:
    return tuple(changed if item.id == changed.id else item for item in brief.passes)


def add_pass(session: Session, name: str) -> tuple[Session, str]:
    """One more pass, empty, and its id."""
    brief = session.brief
    cleaned = free_name(" ".join(name.split()) or "Pass", {item.name for item in brief.passes})
    key = free_key(cleaned, (item.id for item in brief.passes))
    passes = (*brief.passes, Pass(id=key, name=cleaned[:80]))
    return set_brief(session, brief.model_copy(update={"passes": passes})), key


def change_pass(session: Session, changed: Pass) -> Session:
    """A pass with another name, other parts, played over others.

    raises: EditError for an unknown pass, part or pass it is played over
    """
    _pass(session, changed.id)
    _checked(changed, changed.name or "Pass")
    brief = session.brief
    return set_brief(session, brief.model_copy(update={"passes": _with_pass(brief, changed)}))


def remove_pass(session: Session, pass_id: str) -> Session:
    """Take a pass away; parts that stand in no other pass go with it."""
    gone = _pass(session, pass_id)
    brief = session.brief
    passes = tuple(
        item.model_copy(update={"over": tuple(o for o in item.over if o != pass_id)})
        for item in brief.passes
        if item.id != pass_id
    )
    used = {part for item in passes for part in item.parts}
    parts = tuple(p for p in brief.parts if p.id in used or p.id not in gone.parts)
    session = session.model_copy(
        update={
            "patches": tuple(one for one in session.patches if one.layer != pass_id),
            "layer": None if session.layer == pass_id else session.layer,
        }
    )
    return set_brief(session, brief.model_copy(update={"passes": passes, "parts": parts}))


def add_part(session: Session, pass_id: str, part: Part) -> tuple[Session, str]:
    """One more part in a pass, and its id; a name that is taken gets a number.

    raises: EditError for an unknown pass, or too many parts
    """
    item, brief = _pass(session, pass_id), session.brief
    key = free_key(part.name, (p.id for p in brief.parts))
    name = free_name(part.name, {p.name for p in brief.parts})
    fresh = part.model_copy(update={"id": key, "name": name[:80]})
    changed = item.model_copy(update={"parts": (*item.parts, key)})
    update = {"parts": (*brief.parts, fresh), "passes": _with_pass(brief, changed)}
    return set_brief(session, brief.model_copy(update=update)), key


def change_part(session: Session, changed: Part) -> Session:
    """A part with another name, player, source or way of being taken.

    raises: EditError for an unknown part, or one that cannot be taken so
    """
    brief = session.brief
    if all(part.id != changed.id for part in brief.parts):
        raise EditError(f"{changed.id}: must be a part of this session")
    _checked(changed, changed.name or "Part")
    parts = tuple(changed if part.id == changed.id else part for part in brief.parts)
    return set_brief(session, brief.model_copy(update={"parts": parts}))


def remove_part(session: Session, part_id: str) -> Session:
    """Take a part away from every pass."""
    brief = session.brief
    parts = tuple(part for part in brief.parts if part.id != part_id)
    passes = tuple(
        item.model_copy(update={"parts": tuple(p for p in item.parts if p != part_id)})
        for item in brief.passes
    )
    return set_brief(session, brief.model_copy(update={"parts": parts, "passes": passes}))


def split_pass(session: Session, pass_id: str, parts: tuple[str, ...]) -> Session:
    """Some parts of a pass into a pass of their own, played over what stays."""
    item = _pass(session, pass_id)
    stay = tuple(part for part in item.parts if part not in parts)
    session = change_pass(session, item.model_copy(update={"parts": stay}))
    session, key = add_pass(session, f"{item.name}, second part")
    added = _pass(session, key)
    return change_pass(session, added.model_copy(update={"parts": parts, "over": (pass_id,)}))


def change_later(session: Session, change: Callable[[Session], Session]) -> Session:
    """An edit of the brief, made to what is wanted later; without one it begins with an empty pass."""
    later = session.later or Brief(passes=(Pass(id="later", name="Later"),))
    return set_later(session, change(session.model_copy(update={"brief": later})).brief)


def set_later(session: Session, brief: Brief | None) -> Session:
    """What is wanted later, to be compared; None for nothing."""
    return session.model_copy(update={"later": brief})


def set_kit(session: Session, kit: tuple[KitItem, ...]) -> Session:
    """Another kit.

    raises: EditError if two things have one id, or a quantity cannot be
    """
    ids = [item.id for item in kit]
    for key in ids:
        if ids.count(key) > 1:
            raise EditError(f"{key}: must stand only once in the kit")
    for item in kit:
        _checked(item, item.name)
    return session.model_copy(update={"kit": kit})


def add_kit(session: Session, item: KitItem) -> tuple[Session, str]:
    """One more kind of thing in the kit, and its id; more of what is there already is counted to it."""
    for there in session.kit:
        # Alike in all but its id and how many there are.
        alike = item.model_copy(update={"id": there.id, "quantity": there.quantity})
        if alike == there:
            more = there.model_copy(update={"quantity": there.quantity + item.quantity})
            kit = tuple(more if x.id == there.id else x for x in session.kit)
            return set_kit(session, kit), there.id
    key = free_key(item.name, (x.id for x in session.kit))
    name = free_name(item.name, {x.name for x in session.kit})
    return set_kit(session, (*session.kit, item.model_copy(update={"id": key, "name": name}))), key


def set_shopping(session: Session, shopping: Shopping) -> Session:
    """Another shopping list.

    raises: EditError if a quantity, price or tax cannot be
    """
    _checked(shopping, "Shopping")
    return session.model_copy(update={"shopping": shopping})


def add_wish(session: Session, wish: Wish) -> tuple[Session, str]:
    """One more thing on the list, and its id."""
    shopping = session.shopping
    key = free_key(wish.name, (x.id for x in shopping.wishes))
    wishes = (*shopping.wishes, wish.model_copy(update={"id": key}))
    return set_shopping(session, shopping.model_copy(update={"wishes": wishes})), key


def _on_the_list(shopping: Shopping, wish_id: str) -> None:
    if all(wish.id != wish_id for wish in shopping.wishes):
        raise EditError(f"{wish_id}: must be on the shopping list")


def remove_wish(session: Session, wish_id: str) -> Session:
    """Take a thing off the list; what came in its set stands by itself again.

    raises: EditError for something that is not on it
    """
    shopping = session.shopping
    _on_the_list(shopping, wish_id)
    wishes = tuple(
        wish.model_copy(update={"within": None}) if wish.within == wish_id else wish
        for wish in shopping.wishes
        if wish.id != wish_id
    )
    return set_shopping(session, shopping.model_copy(update={"wishes": wishes}))


def put_in_set(session: Session, wish_id: str, within: str | None) -> Session:
    """A thing on the list that the price of another one covers, as in a set; None for a price of its own.

    raises: EditError for one that leads a set itself, for a set or a thing that is not there
    """
    shopping = session.shopping
    _on_the_list(shopping, wish_id)
    wishes = tuple(
        wish.model_copy(update={"within": within}) if wish.id == wish_id else wish
        for wish in shopping.wishes
    )
    return set_shopping(session, shopping.model_copy(update={"wishes": wishes}))


def set_computer(session: Session, computer: Computer) -> Session:
    """Another computer.

    raises: EditError for a figure that cannot be
    """
    _checked(computer, "Computer")
    return session.model_copy(update={"computer": computer})


def fix_line(session: Session, line_id: str, *, is_fixed: bool) -> Session:
    """Whether a line stays as it is when a way in is sought.

    raises: EditError for an unknown line
    """
    setup = session.setup
    if all(line.id != line_id for line in setup.lines):
        raise EditError(f"{line_id}: must be a signal of this session")
    lines = tuple(
        line.model_copy(update={"is_fixed": is_fixed}) if line.id == line_id else line
        for line in setup.lines
    )
    return session.model_copy(update={"setup": setup.model_copy(update={"lines": lines})})
