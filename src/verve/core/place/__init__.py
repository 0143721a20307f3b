"""Placing microphones: distances, and the arithmetic of two paths."""

from verve.core.place._paths import (
    first_null_hz,
    path_delay_ms,
    ripple_db,
    spacing_level_difference_db,
)

__all__ = ["first_null_hz", "path_delay_ms", "ripple_db", "spacing_level_difference_db"]
