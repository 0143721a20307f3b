"""The one who sets gains: targets, positions, and the exact solver that everybody asks."""

from verve.core.gain._dial import dial_hour, dial_words
from verve.core.gain._optimum import (
    LIMIT_S,
    all_changes,
    optimum,
    settled,
    with_best_gains,
)
from verve.core.gain._positions import STEP_DB, gains_set, together_with
from verve.core.gain._solve import is_solvable
from verve.core.gain._targets import MARGIN_DB, TARGETS, TargetText, Window, window, windows_of
from verve.core.gain._told import Limit, Optimum

__all__ = [
    "LIMIT_S",
    "MARGIN_DB",
    "STEP_DB",
    "TARGETS",
    "Limit",
    "Optimum",
    "TargetText",
    "Window",
    "all_changes",
    "dial_hour",
    "dial_words",
    "gains_set",
    "is_solvable",
    "optimum",
    "settled",
    "together_with",
    "window",
    "windows_of",
    "with_best_gains",
]
