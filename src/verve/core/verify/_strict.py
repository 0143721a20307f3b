"""What every case of a validation file has, and the ranges of its numbers."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]


def whole(value: object) -> object:
    """A whole number as such, however JSON wrote it."""
    return int(value) if isinstance(value, float) and value.is_integer() else value


Count = Annotated[int, BeforeValidator(whole), Field(ge=0)]
AtLeastOne = Annotated[int, BeforeValidator(whole), Field(ge=1)]


class Strict(BaseModel):
    """Nothing unknown, nothing converted, nothing that is not finite."""

    model_config = ConfigDict(
        frozen=True, strict=True, extra="forbid", allow_inf_nan=False, defer_build=True
    )


class Expectation(Strict):
    """One quantity with its expected value; `tolerance` None asks for equality."""

    quantity: str
    value: float | bool | str | None
    tolerance: NotNegative | None


class CaseOf(Strict):
    """A case of any kind."""

    name: str
    expect: tuple[Expectation, ...]
