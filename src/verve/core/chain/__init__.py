"""From gear to physics: the stages a route is made of, and the computed state of a line."""

from verve.core.chain._meters import BusLevel, bus_levels
from verve.core.chain._staging import (
    Colour,
    Part,
    StagedLine,
    is_physical,
    microphone_response_db,
    padded_ein_dbu,
    pan_gain_db,
    stage_line,
)
from verve.core.chain._state import LineState, clear_cache, line_states

__all__ = [
    "BusLevel",
    "Colour",
    "LineState",
    "Part",
    "StagedLine",
    "bus_levels",
    "clear_cache",
    "is_physical",
    "line_states",
    "microphone_response_db",
    "padded_ein_dbu",
    "pan_gain_db",
    "stage_line",
]
