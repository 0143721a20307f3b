"""Power: phantom voltage, current, reach, and what can be wrong with it."""

from verve.core.power._findings import findings
from verve.core.power._hum import hum_risks, hum_tests
from verve.core.power._phantom import (
    FEED_RESISTANCE_OHM,
    PHANTOM_SUPPLY_V,
    is_within_budget,
    total_current_ma,
    voltage_at_microphone_v,
)
from verve.core.power._sheet import (
    between_sheet,
    budget,
    change_sheet,
    set_up_sheet,
    tear_down_sheet,
)
from verve.core.power._states import (
    WAIT_S,
    Hazard,
    RunStep,
    advice,
    ends_alike,
    hazards,
    hazards_between,
    next_hazards,
)
from verve.core.power._switches import SwitchRow, switch_rows
from verve.core.power._words import CAUTION

__all__ = [
    "CAUTION",
    "FEED_RESISTANCE_OHM",
    "PHANTOM_SUPPLY_V",
    "WAIT_S",
    "Hazard",
    "RunStep",
    "SwitchRow",
    "advice",
    "between_sheet",
    "budget",
    "change_sheet",
    "ends_alike",
    "findings",
    "hazards",
    "hazards_between",
    "hum_risks",
    "hum_tests",
    "is_within_budget",
    "next_hazards",
    "set_up_sheet",
    "switch_rows",
    "tear_down_sheet",
    "total_current_ma",
    "voltage_at_microphone_v",
]
