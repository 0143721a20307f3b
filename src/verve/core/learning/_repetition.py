"""When something comes back: sooner if it was missed, later and later if it was known. By a library (FSRS)."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Final

from verve.core.learning._progress import MOST_REVIEWS, Card, Grade, Progress, Review

if TYPE_CHECKING:
    import fsrs

_RETENTION: Final = 0.9
KNOWN_DAYS: Final = 30.0
"""What will be remembered for so long is known: it is left out where there is something else."""


def _scheduler() -> fsrs.Scheduler:
    # Imported here: nobody needs it before something was practised.
    import fsrs

    return fsrs.Scheduler(desired_retention=_RETENTION, enable_fuzzing=False)


def reviewed(
    progress: Progress, key: str, grade: Grade, at: datetime, seconds: float = 0.0
) -> Progress:
    """It was practised: how it went decides when it comes back. `at` has a time zone."""
    import fsrs

    old = progress.card(key)
    card = fsrs.Card(card_id=0, due=at)
    if old is not None:
        card = fsrs.Card(
            card_id=0,
            state=fsrs.State(old.state),
            step=old.step,
            stability=old.stability,
            difficulty=old.difficulty,
            due=_time(old.due),
            last_review=None if old.last_review is None else _time(old.last_review),
        )
    utc = at.astimezone(UTC)
    new, _ = _scheduler().review_card(card, fsrs.Rating(grade), utc)
    kept = Card(
        key=key,
        due=new.due.isoformat(),
        state=int(new.state),
        step=new.step,
        stability=new.stability,
        difficulty=new.difficulty,
        last_review=None if new.last_review is None else new.last_review.isoformat(),
    )
    review = Review(key=key, at=utc.isoformat(timespec="seconds"), grade=grade, seconds=seconds)
    cards = tuple(one for one in progress.cards if one.key != key)
    return progress.model_copy(
        update={
            "cards": (*cards, kept),
            "reviews": (*progress.reviews, review)[-MOST_REVIEWS:],
        }
    )


def due(progress: Progress, at: datetime, among: Iterable[str] = ()) -> tuple[str, ...]:
    """What should come back by now, the longest overdue first; of `among` where any are given."""
    wanted = set(among)
    rows = [
        (_time(card.due), card.key)
        for card in progress.cards
        if (not wanted or card.key in wanted) and _time(card.due) <= at
    ]
    return tuple(key for _, key in sorted(rows))


def known(progress: Progress, at: datetime) -> Collection[str]:
    """What is known well, and not due: it goes."""
    return frozenset(
        card.key
        for card in progress.cards
        if (card.stability or 0.0) >= KNOWN_DAYS and _time(card.due) > at
    )


def _time(text: str) -> datetime:
    return datetime.fromisoformat(text)
