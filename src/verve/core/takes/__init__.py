"""Takes: what was set when, and what has changed since."""

from verve.core.takes._differences import Difference, differences
from verve.core.takes._findings import findings, track_advice

__all__ = ["Difference", "differences", "findings", "track_advice"]
