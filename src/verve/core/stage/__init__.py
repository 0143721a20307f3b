"""Setting levels: schools, dials, the change that brings a line into its window."""

from verve.core.stage._buses import bus_facts
from verve.core.stage._dial import dial_hour, dial_words
from verve.core.stage._findings import LEAST_SNR_DB, findings, windows_of
from verve.core.stage._plan import MARGIN_DB, Plan, plan
from verve.core.stage._schools import SCHOOLS, SchoolText, Window, window

__all__ = [
    "LEAST_SNR_DB",
    "MARGIN_DB",
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
