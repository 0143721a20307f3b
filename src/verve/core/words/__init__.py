"""Numbers and words for people: how a figure is written, and what a figure is that reaches a person."""

from verve.core.words._facts import ORIGIN_WORDS, Fact, FactOrigin, Origin
from verve.core.words._format import (
    article,
    capital,
    clock_list,
    db_text,
    level_text,
    listed,
    number,
    ohm_text,
    plural,
    range_text,
    short_name,
)

__all__ = [
    "ORIGIN_WORDS",
    "Fact",
    "FactOrigin",
    "Origin",
    "article",
    "capital",
    "clock_list",
    "db_text",
    "level_text",
    "listed",
    "number",
    "ohm_text",
    "plural",
    "range_text",
    "short_name",
]
