"""What the simulated interface really delivers on one line."""

from __future__ import annotations

import numpy as np

from verve.core.assess import assess
from verve.core.session import Session
from verve.devices._device import arrivals
from verve.devices._simulated import SimulatedInterface

_SECONDS = 2.0


def delivered_peak_dbfs(session: Session, line_id: str) -> float | None:
    """Peak of two seconds of the hardest playing; None for nothing, or a line that does not arrive."""
    assessment = assess(session)
    arrival = arrivals(assessment).get(line_id)
    if arrival is None:
        return None
    interface = SimulatedInterface(
        assessment,
        arrival.device,
        play="hardest",
        seconds=_SECONDS,
        wanted=frozenset({arrival.channel}),
    )
    peak = 0.0
    for block in interface.blocks(round(_SECONDS * interface.sample_rate_hz)):
        peak = max(peak, float(np.abs(block.samples[arrival.channel]).max()))
    return float(20.0 * np.log10(peak)) if peak > 0.0 else None
