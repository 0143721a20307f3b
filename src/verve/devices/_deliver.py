"""What the simulated interface really delivers on one line."""

from __future__ import annotations

import numpy as np

from verve.core.assess import assess
from verve.core.session import Session
from verve.devices._simulated import SimulatedInterface

_SECONDS = 2.0


def delivered_peak_dbfs(session: Session, line_id: str) -> float | None:
    """Peak of two seconds of the hardest playing; None for nothing, or a line that does not arrive."""
    interface = SimulatedInterface(assess(session))
    if line_id not in interface.inputs():
        return None
    peak = 0.0
    for block in interface.blocks((line_id,), "hardest", _SECONDS):
        peak = max(peak, float(np.abs(block.samples[line_id]).max()))
    return float(20.0 * np.log10(peak)) if peak > 0.0 else None
