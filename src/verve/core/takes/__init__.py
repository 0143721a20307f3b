"""Takes: what was set when, and what has changed since."""

from verve.core.takes._differences import Difference, differences
from verve.core.takes._findings import Since, findings, since_takes, track_advice

__all__ = ["Difference", "Since", "differences", "findings", "since_takes", "track_advice"]
