"""Why a line is off: everything that stands off its usual position, put back alone, and the line computed anew."""

from verve.core.causes._causes import Cause, Causes, causes_of, slip_of
from verve.core.causes._measured import measured_causes
from verve.core.causes._slips import HALF_CABLE_DB, PRIOR, Slip, slips_of
from verve.core.causes._stand import FLOOR_DBFS, Stand, stand_of, state_of
from verve.core.causes._usual import controls_on

__all__ = [
    "FLOOR_DBFS",
    "HALF_CABLE_DB",
    "PRIOR",
    "Cause",
    "Causes",
    "Slip",
    "Stand",
    "causes_of",
    "controls_on",
    "measured_causes",
    "slip_of",
    "slips_of",
    "stand_of",
    "state_of",
]
