"""The rough mix in words."""

from __future__ import annotations

from collections.abc import Sequence

from verve.core.mix import Bounced
from verve.core.sheets._recordings import time_text
from verve.core.words import fill

_MIDDLE = 0.05
_BOUNCED = "{name}: {length}, {lufs:.1 LUFS}, true peak {peak_dbtp:.1 dBTP}"
_LIMITED = ", the limiter goes down by {limited_db:.1 dB} at most"


def pan_text(pan: float) -> str:
    """Where something stands between left and right."""
    if abs(pan) < _MIDDLE:
        return "the middle"
    side = "left" if pan < 0.0 else "right"
    return f"the far {side}" if abs(pan) > 1.0 - _MIDDLE else f"{abs(pan) * 100.0:.0f} % {side}"


def parsed_pan(pan: float, known: Sequence[float]) -> int:
    """Which of some places is nearest."""
    return min(range(len(known)), key=lambda index: abs(known[index] - pan))


def bounced_text(found: Bounced) -> str:
    """What was written: how long, how loud, how high; and what could not be."""
    said = fill(
        _BOUNCED,
        name=found.path.name,
        length=time_text(found.seconds, 0),
        lufs=found.lufs if found.lufs is not None else found.asked_lufs,
        peak_dbtp=found.true_peak_dbtp or 0.0,
    )
    if found.limited_db >= 0.1:
        said += fill(_LIMITED, limited_db=found.limited_db)
    return f"{said}. {found.said}".rstrip()
