"""Takes: what was set when, what has changed since, and how a recording lies in the song."""

from verve.core.takes._differences import Difference, differences
from verve.core.takes._findings import Since, findings, since_takes, track_advice
from verve.core.takes._in_song import (
    FALSE_START_S,
    RecordPlan,
    Round,
    clicks,
    count_in,
    plan_of,
    rounds_of,
)

__all__ = [
    "FALSE_START_S",
    "Difference",
    "RecordPlan",
    "Round",
    "Since",
    "clicks",
    "count_in",
    "differences",
    "findings",
    "plan_of",
    "rounds_of",
    "since_takes",
    "track_advice",
]
