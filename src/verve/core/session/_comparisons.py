"""Recordings of one phrase compared by ear: what differed, how often each was preferred, what was chosen and why."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, ValidationError, model_validator

from verve.core.errors import EditError, InputError, from_validation_error
from verve.core.kind import Frozen
from verve.core.session._brief import Name
from verve.core.session._placement import Identifier

MOST_COMPARED = 12


class Compared(Frozen):
    """One of them: where it lies, in what it differs from the first, and how often it was preferred."""

    name: Name
    file: Annotated[str, Field(min_length=1, max_length=4096)]
    channel: Annotated[int, Field(ge=0, le=255)] = 0
    differs: Annotated[str, Field(max_length=1000)] = ""
    votes: Annotated[int, Field(ge=0, le=10_000)] = 0


class Comparison(Frozen):
    """What was compared, when, whether blind; `chosen` is the number of one of them, from 0, and `reason` why."""

    id: Identifier
    at: Annotated[str, Field(max_length=40)]
    title: Name
    compared: Annotated[tuple[Compared, ...], Field(min_length=2, max_length=MOST_COMPARED)]
    is_blind: bool = False
    chosen: Annotated[int, Field(ge=0)] | None = None
    reason: Annotated[str, Field(max_length=4000)] = ""

    @model_validator(mode="after")
    def _holds_together(self) -> Comparison:
        if self.chosen is not None and self.chosen >= len(self.compared):
            raise InputError("chosen", f"must be one of {len(self.compared)}", self.chosen)
        return self


def checked_comparison(found: Comparison) -> Comparison:
    """raises: EditError for one that cannot be so"""
    try:
        return Comparison.model_validate(found.model_dump())
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, found.title))) from error
