"""A gain knob without a scale, told as an hour on a clock."""

from __future__ import annotations

import numpy as np

from verve.core.kind import Control

_FIRST_HOUR = 7.0
_HOURS = 10.0
_HALVES = {
    0.0: "{hour} o’clock",
    0.5: "half past {hour}",
}


def dial_hour(control: Control, gain_db: float) -> float:
    """Hour of a gain on a dial from 7 o'clock (lowest) over noon to 5 (highest).

    A measured table of the knob counts where there is one, read straight between its points.

    range: 7 to 17; 12 is straight up
    source: derivation, 300° of turn spread evenly over the gain range (typical, not measured)
    """
    if control.dial is not None:
        hours, gains_db = zip(*control.dial, strict=True)
        return float(np.interp(gain_db, gains_db, hours))
    span = control.maximum - control.minimum
    share = (gain_db - control.minimum) / span if span > 0.0 else 0.0
    return _FIRST_HOUR + _HOURS * min(max(share, 0.0), 1.0)


def dial_words(control: Control, gain_db: float) -> str:
    """The same to the nearest half hour, in words: "half past 2"."""
    halves = round(dial_hour(control, gain_db) * 2.0) / 2.0
    hour = int(halves) % 12 or 12
    return _HALVES[halves - int(halves)].format(hour=hour)
