"""The day against the clock: planned, played through with what goes wrong, and learnt from real days."""

from verve.core.clock._incidents import DECK, Incident, drawn, fitting_in
from verve.core.clock._plan import (
    Day,
    Event,
    clock_text,
    day_of,
    expected_changes_s,
    parse_clock,
    span_text,
)
from verve.core.clock._run import DayRun, Played, choices
from verve.core.clock._sheet import day_clock_csv, day_clock_html
from verve.core.clock._times import STEP_S, TYPICAL_S, Pace, learnt_from

__all__ = [
    "DECK",
    "STEP_S",
    "TYPICAL_S",
    "Day",
    "DayRun",
    "Event",
    "Incident",
    "Pace",
    "Played",
    "choices",
    "clock_text",
    "day_clock_csv",
    "day_clock_html",
    "day_of",
    "drawn",
    "expected_changes_s",
    "fitting_in",
    "learnt_from",
    "parse_clock",
    "span_text",
]
