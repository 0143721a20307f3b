"""From gear to physics: the stages a route is made of, and the computed state of a line."""

from verve.core.chain._meters import BusLevel, bus_levels
from verve.core.chain._phantom import (
    Fed,
    devices_in_need,
    devices_reached,
    devices_unfed,
    is_alive,
    is_fed,
    is_used,
    powered,
    splitter_of,
    switch_of,
)
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
    "Fed",
    "LineState",
    "Part",
    "StagedLine",
    "bus_levels",
    "clear_cache",
    "devices_in_need",
    "devices_reached",
    "devices_unfed",
    "is_alive",
    "is_fed",
    "is_physical",
    "is_used",
    "line_states",
    "microphone_response_db",
    "padded_ein_dbu",
    "pan_gain_db",
    "powered",
    "splitter_of",
    "stage_line",
    "switch_of",
]
