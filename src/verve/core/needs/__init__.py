"""What a pass needs, what is missing for it, the ways out, what gear would change, the computer."""

from verve.core.needs._answer import Answered, answer
from verve.core.needs._budget import BudgetBar, budget_bars
from verve.core.needs._computer import Check, checks_of, stream_mb_per_s
from verve.core.needs._leaving import leaving, parse_until
from verve.core.needs._microphones import MicrophoneRow, microphone_rows
from verve.core.needs._needs import (
    FEEDS_OF_SPLITTER,
    WITHOUT_STAND,
    Need,
    needs_of,
    plugs_text,
    spare_devices,
)
from verve.core.needs._outs import Option, options_of

__all__ = [
    "FEEDS_OF_SPLITTER",
    "WITHOUT_STAND",
    "Answered",
    "BudgetBar",
    "Check",
    "MicrophoneRow",
    "Need",
    "Option",
    "answer",
    "budget_bars",
    "checks_of",
    "leaving",
    "microphone_rows",
    "needs_of",
    "options_of",
    "parse_until",
    "plugs_text",
    "spare_devices",
    "stream_mb_per_s",
]
