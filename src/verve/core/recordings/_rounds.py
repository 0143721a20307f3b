"""Which of many files were recorded at one time: by their own clock, and by how often a name comes again."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

_TOGETHER_S = 2.0
"""Files of one take say the same second, or the next where the recorder opens them one after another."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """A file as far as this needs it: what it is called, what it says of when it was recorded, and what it holds."""

    stem: str
    recorded_at: str = ""
    signal: str | None = None


def rounds_of(files: Sequence[Named]) -> tuple[tuple[int, ...], ...]:
    """The numbers of the files in groups that were recorded together, in the order of time.

    Files that say when they were recorded and differ by more than 2 s are of different takes. Among those of one
    moment, or of none, a file named after a signal like another but for its digits (“Voice 01”, “Voice 02”) is the
    next round; whatever else there is belongs to the first.
    """
    groups: dict[tuple[str, int], list[int]] = {}
    counts: dict[tuple[str, str, str], int] = {}
    moments = moments_of([one.recorded_at for one in files])
    for number in sorted(range(len(files)), key=lambda one: in_order(files[one].stem)):
        one, moment = files[number], moments[number]
        round_ = 0
        if one.signal is not None:
            base = moment, one.signal, re.sub(r"\d+", "", one.stem).casefold()
            round_ = counts.get(base, 0)
            counts[base] = round_ + 1
        groups.setdefault((moment, round_), []).append(number)
    return tuple(tuple(sorted(group)) for _, group in sorted(groups.items()))


def moments_of(times: Sequence[str]) -> tuple[str, ...]:
    """Each of many ISO times as the earliest that is one moment with it; what is no time stays nothing."""
    found: dict[str, str] = {}
    begun: tuple[str, datetime] | None = None
    for text, at in sorted({(one, at) for one in times if (at := _at(one))}, key=lambda it: it[1]):
        if begun is None or (at - begun[1]).total_seconds() > _TOGETHER_S:
            begun = text, at
        found[text] = begun[0]
    return tuple(found.get(one, "") for one in times)


def in_order(stem: str) -> tuple[tuple[int, str], ...]:
    """By what names are sorted so that 10 comes after 9."""
    parts = re.split(r"(\d+)", stem.casefold())
    return tuple((int(part), "") if part.isdecimal() else (-1, part) for part in parts)


def _at(text: str) -> datetime | None:
    """By the clock on the wall, whose zone a recorder does not know."""
    try:
        return datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        return None
