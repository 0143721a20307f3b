"""Setting levels: schools, dials, the change that brings a line into its window."""

from verve.core.stage._buses import bus_facts
from verve.core.stage._certificate import Certificate, certificates
from verve.core.stage._dial import dial_hour, dial_words
from verve.core.stage._findings import LEAST_SNR_DB, findings, windows_of
from verve.core.stage._optimum import LIMIT_S, STEP_DB, Limit, Optimum, all_changes, optimum
from verve.core.stage._plan import MARGIN_DB, Plan, plan
from verve.core.stage._schools import SCHOOLS, SchoolText, Window, window
from verve.core.stage._ways_on import WayOn

__all__ = [
    "LEAST_SNR_DB",
    "LIMIT_S",
    "MARGIN_DB",
    "SCHOOLS",
    "STEP_DB",
    "Certificate",
    "Limit",
    "Optimum",
    "Plan",
    "SchoolText",
    "WayOn",
    "Window",
    "all_changes",
    "bus_facts",
    "certificates",
    "dial_hour",
    "dial_words",
    "findings",
    "optimum",
    "plan",
    "window",
    "windows_of",
]
