"""What of the kit will soon be gone: borrowed, or on approval until a date."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from verve.core.errors import InputError
from verve.core.needs import _words as words
from verve.core.session import KitItem
from verve.core.words import fill

SOON_DAYS = 7


def parse_until(text: str) -> str | None:
    """A date as typed, 2026-12-03 or 3.12.2026; None for nothing.

    raises: InputError for what is no date
    """
    said = text.strip().rstrip(".")
    if not said:
        return None
    try:
        if "." in said:
            day, month, year = (int(part) for part in said.split("."))
            return date(year, month, day).isoformat()
        return date.fromisoformat(said).isoformat()
    except ValueError:
        raise InputError("Until", "must be a date like 2026-12-03 or 3.12.2026", text) from None


def leaving(kit: Sequence[KitItem], today: date) -> tuple[str, ...]:
    """A sentence for each thing that is gone by now, or will be within a week, the earliest first."""
    found = []
    for item in kit:
        if item.until is None or not item.there:
            continue
        days = (date.fromisoformat(item.until) - today).days
        if days < 0:
            found.append((days, fill(words.GONE, thing=item.name, until=item.until)))
        elif days <= SOON_DAYS:
            said = (
                words.GOES_TODAY if days == 0 else words.GOES_TOMORROW if days == 1 else words.GOES
            )
            found.append((days, fill(said, thing=item.name, days=days, until=item.until)))
    return tuple(said for _, said in sorted(found))
