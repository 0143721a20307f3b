"""Hear it: listening drills whose differences are made by a known amount, with adaptive thresholds."""

from verve.core.ear._drills import DRILLS, Drill
from verve.core.ear._picture import (
    balance_db,
    comes_again,
    later_ms,
    pause_dbfs,
    picture_for,
    picture_of,
)
from verve.core.ear._practice import LETTERS, Session, result_text, value_text
from verve.core.ear._sounds import (
    COMB_MS,
    ECHO_MS,
    LOUDNESS_LUFS,
    RATE_HZ,
    REST_S,
    Example,
    example_of,
    loudness_lufs,
)
from verve.core.ear._staircase import MOST_TRIALS, POSITIONS, Scale, Staircase
from verve.core.ear._words import CAUTION

__all__ = [
    "CAUTION",
    "COMB_MS",
    "DRILLS",
    "ECHO_MS",
    "LETTERS",
    "LOUDNESS_LUFS",
    "MOST_TRIALS",
    "POSITIONS",
    "RATE_HZ",
    "REST_S",
    "Drill",
    "Example",
    "Scale",
    "Session",
    "Staircase",
    "balance_db",
    "comes_again",
    "example_of",
    "later_ms",
    "loudness_lufs",
    "pause_dbfs",
    "picture_for",
    "picture_of",
    "result_text",
    "value_text",
]
