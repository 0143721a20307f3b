"""A gain knob without a scale, told as an hour on a clock, and how sure that hour is.

Real knobs are not straight: many put 10 to 20 dB into their last quarter. Of a knob that nobody has measured a range
is told, between a straight one and one that is as bent as is usual; takes at two of its positions teach its curve.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np

from verve.core.kind import Control
from verve.core.units import FloatArray

FIRST_HOUR: Final = 7.0
HOURS: Final = 10.0
_LAST_QUARTER_DB: Final = 20.0
"""As much as is usual at most."""
_MOST_BENT: Final = 0.95
_POINTS = 21
_TURNED: Final = np.linspace(0.0, 1.0, _POINTS)
_SURE_HOURS = 0.3
"""A range that is narrower than this is told as one hour."""
_HALVES = {
    0.0: "{hour} o’clock",
    0.5: "half past {hour}",
}


def _share_of_gain(turned: FloatArray, bend: float) -> FloatArray:
    """The share of its gain that a knob gives at a share of its turn.

    source: derivation, one parameter between straight (0) and flat at its beginning (1); it never falls
    """
    return np.asarray(turned + bend * (turned**3 - turned))


def usual_bend(span_db: float) -> float:
    """The bend of a knob whose last quarter gives 20 dB; a knob of few decibels is never bent so far."""
    quarter = 1.0 - 0.75
    # In the last quarter: 0.25 + 0.328 · bend of the span.
    return float(
        np.clip((_LAST_QUARTER_DB / max(span_db, 1e-9) - quarter) / 0.328125, 0.0, _MOST_BENT)
    )


def curve(low_db: float, high_db: float, bend: float) -> tuple[tuple[float, float], ...]:
    """Hours and gains of such a knob."""
    gains = low_db + (high_db - low_db) * _share_of_gain(_TURNED, min(bend, _MOST_BENT))
    hours = FIRST_HOUR + HOURS * _TURNED
    return tuple(
        (round(float(h), 4), round(float(g), 4)) for h, g in zip(hours, gains, strict=True)
    )


def fitted_bend(span_db: float, steps: Sequence[tuple[float, float, float]]) -> float:
    """The bend that fits what was measured: from one hour to another, so many dB more. By least squares.

    source: derivation, the share of gain is linear in the bend
    """
    top, bottom = 0.0, 0.0
    for begin, end, by_db in steps:
        first, second = ((hour - FIRST_HOUR) / HOURS for hour in (begin, end))
        straight = second - first
        slope = (second**3 - second) - (first**3 - first)
        top += slope * (by_db / span_db - straight)
        bottom += slope * slope
    return float(np.clip(top / bottom, 0.0, _MOST_BENT)) if bottom > 0.0 else 0.0


def _hour(dial: Sequence[tuple[float, float]], gain_db: float) -> float:
    hours, gains_db = zip(*dial, strict=True)
    return float(np.interp(gain_db, gains_db, hours))


def _hour_of_share(share: float, bend: float) -> float:
    """The same read off a curve that need not be written down first; every line that is worked out asks."""
    return FIRST_HOUR + HOURS * float(np.interp(share, _share_of_gain(_TURNED, bend), _TURNED))


def dial_hour(control: Control, gain_db: float) -> float:
    """Hour of a gain on a dial from 7 o'clock (lowest) over noon to 5 (highest).

    A measured table of the knob counts where there is one, read straight between its points.

    range: 7 to 17; 12 is straight up
    source: derivation, 300° of turn; without a table the middle between a straight and a bent knob (typical)
    """
    low, high = dial_range(control, gain_db)
    return (low + high) / 2.0


def gains_of_hours(control: Control, hours: Sequence[float]) -> tuple[float, ...]:
    """The gains of a knob that stands at some hours, 7 to 17: what `dial_hour` tells of, the other way round.

    unit: dB
    source: derivation, `dial_hour` rises with the gain; it is read off backwards between its points
    """
    shares = np.linspace(0.0, 1.0, _POINTS * 4)
    span = control.maximum - control.minimum
    gains = control.minimum + span * shares
    if control.dial is not None:
        marks, gains_db = zip(*control.dial, strict=True)
        at = np.interp(gains, gains_db, marks)
    else:
        # All at once, as `dial_hour` does it for one.
        bends = (0.0, usual_bend(span))
        turned = [np.interp(shares, _share_of_gain(_TURNED, bend), _TURNED) for bend in bends]
        at = FIRST_HOUR + HOURS * np.mean(turned, axis=0)
    return tuple(float(gain) for gain in np.interp(hours, at, gains))


def gain_of_hour(control: Control, hour: float) -> float:
    """The same of one hour."""
    return gains_of_hours(control, (hour,))[0]


def dial_range(control: Control, gain_db: float) -> tuple[float, float]:
    """The earliest and the latest hour at which a gain may be; one and the same where the knob is known."""
    if control.dial is not None:
        hour = _hour(control.dial, gain_db)
        return hour, hour
    span = control.maximum - control.minimum
    if span <= 0.0:
        return FIRST_HOUR, FIRST_HOUR
    share = (gain_db - control.minimum) / span
    hours = [_hour_of_share(share, bend) for bend in (0.0, usual_bend(span))]
    return min(hours), max(hours)


def hour_words(hour: float) -> str:
    """The nearest half hour, in words: "half past 2"."""
    halves = round(hour * 2.0) / 2.0
    number = int(halves) % 12 or 12
    return _HALVES[halves - int(halves)].format(hour=number)


def dial_words(control: Control, gain_db: float) -> str:
    """The hour of a gain, with how sure it is: "about half past 2, measured", "between 2 and 3 o'clock, a guess"."""
    if control.dial is not None:
        origin = "measured" if control.is_dial_learned else "from its data sheet"
    else:
        origin = "a guess"
    return f"{dial_hours(control, gain_db)}, {origin}"


def dial_short(control: Control, gain_db: float) -> str:
    """The same as short as it can be told: "about half past 2", "2 to 3 o'clock"."""
    return dial_hours(control, gain_db).removeprefix("between ").replace(" and ", " to ")


def dial_hours(control: Control, gain_db: float) -> str:
    """The same without how sure it is: "about half past 2", "between 2 and 3 o'clock"."""
    low, high = dial_range(control, gain_db)
    first, last = hour_words(low), hour_words(high)
    if high - low < _SURE_HOURS or first == last:
        return f"about {hour_words((low + high) / 2.0)}"
    return f"between {first.removesuffix(' o’clock')} and {last}"
