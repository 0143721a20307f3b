"""Power: phantom voltage, current, reach, and what can be wrong with it."""

from verve.core.power._findings import findings
from verve.core.power._phantom import (
    FEED_RESISTANCE_OHM,
    PHANTOM_SUPPLY_V,
    is_within_budget,
    total_current_ma,
    voltage_at_microphone_v,
)
from verve.core.power._reach import devices_in_need, devices_reached, is_alive, is_fed

__all__ = [
    "FEED_RESISTANCE_OHM",
    "PHANTOM_SUPPLY_V",
    "devices_in_need",
    "devices_reached",
    "findings",
    "is_alive",
    "is_fed",
    "is_within_budget",
    "total_current_ma",
    "voltage_at_microphone_v",
]
