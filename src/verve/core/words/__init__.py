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
    percent_text,
    plural,
    range_text,
    short_name,
    two_digits,
)
from verve.core.words._templates import NO_PLACES, Place, Places, fill, places_of

__all__ = [
    "NO_PLACES",
    "ORIGIN_WORDS",
    "Fact",
    "FactOrigin",
    "Origin",
    "Place",
    "Places",
    "article",
    "capital",
    "clock_list",
    "db_text",
    "fill",
    "level_text",
    "listed",
    "number",
    "ohm_text",
    "percent_text",
    "places_of",
    "plural",
    "range_text",
    "short_name",
    "two_digits",
]
