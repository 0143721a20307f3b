"""Takes: what was set when, what has changed since, and how a recording lies in the song."""

from verve.core.takes._differences import Difference, differences, differences_of
from verve.core.takes._findings import Since, findings, since_takes, take_before, track_advice
from verve.core.takes._in_song import (
    FALSE_START_S,
    RecordPlan,
    Round,
    clicks,
    count_in,
    plan_of,
    rounds_of,
)
from verve.core.takes._ready import Knob, Ready, ReadyItem, armed_lines, ready_check

__all__ = [
    "FALSE_START_S",
    "Difference",
    "Knob",
    "Ready",
    "ReadyItem",
    "RecordPlan",
    "Round",
    "Since",
    "armed_lines",
    "clicks",
    "count_in",
    "differences",
    "differences_of",
    "findings",
    "plan_of",
    "ready_check",
    "rounds_of",
    "since_takes",
    "take_before",
    "track_advice",
]
