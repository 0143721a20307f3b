"""Why a line is off: everything that stands off its usual position, put back alone, and the line computed anew."""

from verve.core.causes._causes import Cause, Causes, causes_of, slip_of
from verve.core.causes._measured import measured_causes

__all__ = ["Cause", "Causes", "causes_of", "measured_causes", "slip_of"]
