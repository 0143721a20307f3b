"""Takes: what was set when, and what has changed since."""

from verve.core.takes._differences import Difference, control_text, differences
from verve.core.takes._findings import findings

__all__ = ["Difference", "control_text", "differences", "findings"]
