"""What becomes possible at all with something that may be bought."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from verve.core.connections import problem_of, solve
from verve.core.sensitivity import Purchase, Worth, worth_of
from verve.core.session import KitItem, Pass, Session, add_kit


def _is_possible(
    session: Session, item: Pass, is_cancelled: Callable[[], bool] | None = None
) -> bool:
    """Whether the kit has a way for every signal of a pass."""
    problem = problem_of(session, item, with_more=False, is_cancelled=is_cancelled)
    return not problem.signals or solve(problem) is not None


def purchases_worth(
    session: Session, things: Sequence[Purchase], is_cancelled: Callable[[], bool]
) -> tuple[Worth, ...]:
    """What each would change in the patch there is, and which passes that the kit cannot do it makes possible.

    raises: CancelledError if it is no longer wanted
    """
    found = worth_of(session, things, is_cancelled)
    lacking = [
        item for item in session.brief.passes if not _is_possible(session, item, is_cancelled)
    ]
    if not lacking:
        return found
    by_name = {wanted.name: wanted for wanted in things}
    told = []
    for worth in found:
        wanted = by_name[worth.name]
        bought = KitItem(id="bought", name=wanted.name[:80], device=wanted.figures)
        more, _ = add_kit(session, bought)
        passes = tuple(one.name for one in lacking if _is_possible(more, one, is_cancelled))
        told.append(replace(worth, passes=passes))
    return tuple(sorted(told, key=lambda worth: not worth.passes))
