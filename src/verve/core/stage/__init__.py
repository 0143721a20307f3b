"""Setting levels: schools, dials, the change that brings a line into its window."""

from verve.core.stage._buses import bus_facts
from verve.core.stage._dial import dial_hour, dial_words
from verve.core.stage._findings import findings, windows_of
from verve.core.stage._plan import Plan, plan
from verve.core.stage._schools import SCHOOLS, SchoolText, Window, window

__all__ = [
    "SCHOOLS",
    "Plan",
    "SchoolText",
    "Window",
    "bus_facts",
    "dial_hour",
    "dial_words",
    "findings",
    "plan",
    "window",
    "windows_of",
]
