"""Ways out of a pass that the kit cannot do: get the least, split it, or take less of it."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from verve.core.connections import Missing, Problem, Suggestion, problem_of, solve
from verve.core.errors import CancelledError
from verve.core.needs import _words as words
from verve.core.session import (
    Part,
    Pass,
    Session,
    Wish,
    add_kit,
    add_wish,
    change_part,
    split_pass,
)
from verve.core.words import fill

_MOST_TRIES = 240
"""Splits tried before one says that none was found; each takes about a twentieth of a second."""
_LESS: Mapping[str, tuple[str, ...]] = {
    "pair": ("microphone",),
    "stereo": ("plug",),
    "both": ("plug", "microphone"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """Something that makes a pass possible: what, what it costs in the music, and the edit."""

    kind: str
    label: str
    says: str
    apply: Callable[[Session], Session]


def _is_planned(session: Session, missing: Missing) -> bool:
    """Whether so many of a thing are to be bought already."""
    same = (i for i in session.kit if i.status == "wished" and i.device == missing.item.device)
    return sum(item.quantity for item in same) >= missing.count


def _get(session: Session, suggestion: Suggestion) -> list[Option]:
    things = ", ".join(
        f"{m.count} × {m.item.name}" if m.count > 1 else m.item.name for m in suggestion.missing
    )
    whom = ", ".join(dict.fromkeys(name for m in suggestion.missing for name in m.signals))
    count = sum(m.count for m in suggestion.missing)
    says = fill(words.ONE_MISSING if count == 1 else words.MISSING, count=count, whom=whom)

    users = {c.signal.name: c.signal.part.id for c in suggestion.choices}

    def borrow(session: Session) -> Session:
        for missing in suggestion.missing:
            item = missing.item.model_copy(update={"quantity": missing.count, "status": "borrowed"})
            session, _ = add_kit(session, item)
        return session

    def buy(session: Session) -> Session:
        for missing in suggestion.missing:
            item = missing.item.model_copy(update={"quantity": missing.count})
            wish = Wish(
                id="wish",
                name=item.name,
                item=item,
                quantity=missing.count,
                parts=tuple(dict.fromkeys(users[s] for s in missing.signals if s in users)),
            )
            session, _ = add_wish(session, wish)
            session, _ = add_kit(session, item.model_copy(update={"status": "wished"}))
        return session

    found = [
        Option(
            kind="borrow",
            label=fill(words.BORROW, things=things),
            says=fill(words.BORROW_SAYS, missing=says),
            apply=borrow,
        ),
    ]
    if not all(_is_planned(session, missing) for missing in suggestion.missing):
        found.append(
            Option(
                kind="buy",
                label=fill(words.BUY, things=things),
                says=fill(words.BUY_SAYS, missing=says),
                apply=buy,
            )
        )
    return found


def _without(problem: Problem, parts: set[str]) -> Problem:
    signals = tuple(s for s in problem.signals if s.part.id not in parts)
    return replace(
        problem, signals=signals, connections={s.id: problem.connections[s.id] for s in signals}
    )


def _split(
    problem: Problem, item: Pass, parts: Sequence[Part], is_cancelled: Callable[[], bool] | None
) -> Option | None:
    """The fewest parts that, played later over the others, make both passes possible."""
    ids = [part.id for part in parts]
    names = {part.id: part.name for part in parts}
    tries = 0
    for size in range(1, len(ids) // 2 + 1):
        for later in itertools.combinations(ids, size):
            tries += 1
            if tries > _MOST_TRIES:
                return None
            if is_cancelled is not None and is_cancelled():
                raise CancelledError
            first = solve(_without(problem, set(later)))
            if first is None:
                continue
            second = solve(_without(problem, set(ids) - set(later)))
            if second is None:
                continue
            said = " and ".join(names[key] for key in later)

            def split(session: Session, later: tuple[str, ...] = later) -> Session:
                return split_pass(session, item.id, later)

            return Option(
                kind="split",
                label=fill(words.SPLIT, parts=said),
                says=fill(words.SPLIT_SAYS, parts=said),
                apply=split,
            )
    return None


def _less(session: Session, item: Pass, is_cancelled: Callable[[], bool] | None) -> list[Option]:
    """One part taken with fewer signals, where that alone is enough."""
    found = []
    for part in session.brief.parts_of(item):
        for capture in _LESS.get(part.capture, ()):
            if is_cancelled is not None and is_cancelled():
                raise CancelledError
            try:
                changed = change_part(session, part.model_copy(update={"capture": capture}))
            except ValueError:
                continue
            if solve(problem_of(changed, item, with_more=False)) is None:
                continue
            said = {
                "microphone": words.ONE_MICROPHONE,
                "plug": words.PLUG_ALONE,
            }[capture]

            def take_less(now: Session, part_id: str = part.id, capture: str = capture) -> Session:
                there = next(p for p in now.brief.parts if p.id == part_id)
                return change_part(now, there.model_copy(update={"capture": capture}))

            found.append(
                Option(
                    kind="less",
                    label=fill(words.TAKE_SO, part=part.name, how=said),
                    says=words.TAKE_SO_SAYS,
                    apply=take_less,
                )
            )
    return found


def options_of(
    session: Session,
    item: Pass,
    suggestion: Suggestion,
    *,
    is_cancelled: Callable[[], bool] | None = None,
) -> tuple[Option, ...]:
    """What to do about a pass whose way in lacks something, the cheapest first.

    Splitting and taking less cost no money, borrowing costs a call, buying comes last; each was
    computed to be enough.

    raises: CancelledError if it is no longer wanted
    """
    if not suggestion.missing:
        return ()
    parts = session.brief.parts_of(item)
    problem = problem_of(
        session, item, with_more=False, keeps_small=True, is_cancelled=is_cancelled
    )
    found: list[Option] = _less(session, item, is_cancelled)
    split = _split(problem, item, parts, is_cancelled)
    if split is not None:
        found.insert(0, split)
    return (*found, *_get(session, suggestion))
