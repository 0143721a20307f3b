"""Set it by hand: gains, pads and distances set by ear, for a player who plays harder later than in the test."""

from verve.core.hand._exercise import (
    Exercise,
    Knob,
    Result,
    Score,
    Tested,
    exercise_of,
    knobs_of,
    played,
    settable_lines,
    shown_in_test,
    turned,
)

__all__ = [
    "Exercise",
    "Knob",
    "Result",
    "Score",
    "Tested",
    "exercise_of",
    "knobs_of",
    "played",
    "settable_lines",
    "shown_in_test",
    "turned",
]
