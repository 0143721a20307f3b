"""What somebody has practised: when each thing comes back, thresholds over time, times of real days.

One file of theirs. Nothing of it belongs to a session, and nothing is sent anywhere.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Final, Literal

from pydantic import Field, ValidationError

from verve.core.errors import from_validation_error
from verve.core.files import read_text, write_atomically
from verve.core.forms import body_of
from verve.core.kind import Frozen, FrozenDict, FrozenMap, NotNegative

FORMAT: Final = "verve-practice"
VERSION: Final = 1
MOST_REVIEWS, MOST_TIMES = 4000, 60
"""So much is kept of each; the oldest goes."""
_LARGEST_BYTES = 20_000_000
_Key = Annotated[str, Field(min_length=1, max_length=120)]
_Time = Annotated[str, Field(min_length=10, max_length=40)]
Grade = Literal[1, 2, 3, 4]
"""1 missed, 2 with trouble, 3 well, 4 at once."""


class Card(Frozen):
    """One thing to know, and when it comes back: the figures of the repetition as its library keeps them."""

    key: _Key
    due: _Time
    state: Annotated[int, Field(ge=1, le=3)]
    step: Annotated[int, Field(ge=0)] | None = None
    stability: Annotated[float, Field(gt=0.0)] | None = None
    difficulty: Annotated[float, Field(ge=1.0, le=10.0)] | None = None
    last_review: _Time | None = None


class Review(Frozen):
    """It was practised once: when, how it went, how long that took."""

    key: _Key
    at: _Time
    grade: Grade
    seconds: NotNegative = 0.0


class Threshold(Frozen):
    """The smallest difference that was told apart in a listening drill, in the drill's unit."""

    drill: _Key
    at: _Time
    value: float


class DayTimes(Frozen):
    """When the day begins and ends, and who arrives when, in hours since midnight; by performer."""

    begin_h: Annotated[float, Field(ge=0.0, lt=24.0)] = 10.0
    end_h: Annotated[float, Field(gt=0.0, le=48.0)] = 18.0
    arrivals_h: FrozenMap[str, Annotated[float, Field(ge=0.0, le=30.0)]] = Field(
        default_factory=FrozenDict
    )
    takes: Annotated[int, Field(ge=1, le=50)] = 3
    incidents_per_h: Annotated[float, Field(ge=0.0, le=6.0)] = 0.0


class Progress(Frozen):
    """All of it. `learnt` is what real days have shown, in seconds or as a ratio; `days` is by session title."""

    format: Literal["verve-practice"] = "verve-practice"
    version: Literal[1] = 1
    cards: tuple[Card, ...] = ()
    reviews: tuple[Review, ...] = ()
    thresholds: tuple[Threshold, ...] = ()
    learnt: FrozenMap[str, tuple[float, ...]] = Field(default_factory=FrozenDict)
    days: FrozenMap[str, DayTimes] = Field(default_factory=FrozenDict)
    offered: tuple[_Key, ...] = ()

    def card(self, key: str) -> Card | None:
        """What is known of one thing; None for what was never practised."""
        return next((one for one in self.cards if one.key == key), None)


def progress_from_json(text: str, place: str) -> Progress:
    """raises: InputError naming place and remedy if it is none, or of a newer version"""
    body = body_of(text, place, form=FORMAT, newest=VERSION, what="a practice file")
    try:
        return Progress.model_validate_json(json.dumps(body))
    except ValidationError as error:
        raise from_validation_error(error, f"{place}: practice") from None


def progress_to_json(progress: Progress) -> str:
    """As the file has it."""
    return progress.model_dump_json(indent=1, exclude_defaults=False)


def read_progress(path: Path) -> Progress:
    """What was practised until now; nothing from a file that is not there.

    raises: FileError if it cannot be read; InputError if it is something else
    """
    if not path.exists():
        return Progress()
    text = read_text(path, largest_bytes=_LARGEST_BYTES, what="practice")
    return progress_from_json(text, path.name)


def write_progress(path: Path, progress: Progress) -> None:
    """Whole, or not at all.

    raises: FileError if it cannot be written
    """
    write_atomically(path, progress_to_json(progress) + "\n")


def with_threshold(progress: Progress, drill: str, at: str, value: float) -> Progress:
    """One more result of a listening drill."""
    found = Threshold(drill=drill, at=at, value=value)
    return progress.model_copy(update={"thresholds": (*progress.thresholds, found)[-MOST_REVIEWS:]})


def with_offered(progress: Progress, key: str) -> Progress:
    """It was offered once: never again."""
    if key in progress.offered:
        return progress
    return progress.model_copy(update={"offered": (*progress.offered, key)})


def with_day(progress: Progress, title: str, day: DayTimes) -> Progress:
    """The times of a session's day."""
    return progress.model_copy(update={"days": FrozenDict({**progress.days, title: day})})


def changed_day(day: DayTimes, changes: Mapping[str, object]) -> DayTimes:
    """Other times of a day. An end that is not after the beginning is one after midnight.

    raises: InputError for times that no day has
    """
    wanted = {name: getattr(day, name) for name in DayTimes.model_fields} | dict(changes)
    begin_h, end_h = wanted["begin_h"], wanted["end_h"]
    if isinstance(end_h, float) and isinstance(begin_h, float) and end_h <= begin_h:
        wanted["end_h"] = end_h + 24.0
    try:
        return DayTimes.model_validate(wanted)
    except ValidationError as error:
        raise from_validation_error(error, "") from None


def with_learnt(progress: Progress, title: str, found: Mapping[str, tuple[float, ...]]) -> Progress:
    """What the days of a session have taken, in the place of what was known of them."""
    kept = {
        f"{key}:{title}": tuple(values[-MOST_TIMES:]) for key, values in found.items() if values
    }
    return progress.model_copy(update={"learnt": FrozenDict({**progress.learnt, **kept})})


def learnt_of(progress: Progress) -> Mapping[str, tuple[float, ...]]:
    """The same of all sessions together, by what it is of."""
    found: dict[str, tuple[float, ...]] = {}
    for key, values in progress.learnt.items():
        what = key.partition(":")[0]
        found[what] = (*found.get(what, ()), *values)
    return found
