"""What somebody has practised, kept in one file of theirs, and what comes back when."""

from verve.core.learning._offers import Offer, offer_at, offers_of
from verve.core.learning._progress import (
    Card,
    DayTimes,
    Grade,
    Progress,
    Review,
    Threshold,
    changed_day,
    learnt_of,
    progress_from_json,
    progress_to_json,
    read_progress,
    with_day,
    with_learnt,
    with_offered,
    with_threshold,
    write_progress,
)
from verve.core.learning._repetition import KNOWN_DAYS, due, known, reviewed

__all__ = [
    "KNOWN_DAYS",
    "Card",
    "DayTimes",
    "Grade",
    "Offer",
    "Progress",
    "Review",
    "Threshold",
    "changed_day",
    "due",
    "known",
    "learnt_of",
    "offer_at",
    "offers_of",
    "progress_from_json",
    "progress_to_json",
    "read_progress",
    "reviewed",
    "with_day",
    "with_learnt",
    "with_offered",
    "with_threshold",
    "write_progress",
]
