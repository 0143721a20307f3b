"""The one who sets gains: targets, positions, and the exact solver that everybody asks."""

from verve.core.gain._dial import (
    FIRST_HOUR,
    HOURS,
    curve,
    dial_hour,
    dial_hours,
    dial_range,
    dial_short,
    dial_words,
    fitted_bend,
    gain_of_hour,
    gains_of_hours,
    hour_words,
)
from verve.core.gain._optimum import (
    LIMIT_S,
    all_changes,
    optimum,
    settled,
    with_best_gains,
)
from verve.core.gain._positions import STEP_DB, gains_set, together_with
from verve.core.gain._solve import is_solvable
from verve.core.gain._targets import (
    MARGIN_DB,
    TARGETS,
    TargetText,
    Window,
    meter_zero_dbfs,
    window,
    windows_of,
)
from verve.core.gain._told import Limit, Optimum

__all__ = [
    "FIRST_HOUR",
    "HOURS",
    "LIMIT_S",
    "MARGIN_DB",
    "STEP_DB",
    "TARGETS",
    "Limit",
    "Optimum",
    "TargetText",
    "Window",
    "all_changes",
    "curve",
    "dial_hour",
    "dial_hours",
    "dial_range",
    "dial_short",
    "dial_words",
    "fitted_bend",
    "gain_of_hour",
    "gains_of_hours",
    "gains_set",
    "hour_words",
    "is_solvable",
    "meter_zero_dbfs",
    "optimum",
    "settled",
    "together_with",
    "window",
    "windows_of",
    "with_best_gains",
]
