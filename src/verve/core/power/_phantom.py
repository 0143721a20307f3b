"""Phantom power: the voltage that arrives and the current that is drawn."""

from __future__ import annotations

PHANTOM_SUPPLY_V = 48.0
"""P48, IEC 61938."""
FEED_RESISTANCE_OHM = 6810.0
"""Each leg of P48, IEC 61938 (6.8 kΩ nominal)."""


def voltage_at_microphone_v(
    *, supply_v: float, feed_resistance_ohm: float, current_ma: float
) -> float:
    """What is left behind the feed resistors; each leg carries half the current.

    source: Ohm's law, V = Vs − R·I/2
    """
    return supply_v - feed_resistance_ohm * current_ma / 2000.0


def total_current_ma(*, current_ma: float, microphones: int) -> float:
    """What so many equal microphones draw together."""
    return current_ma * microphones


def is_within_budget(total_ma: float, budget_ma: float | None) -> bool:
    """True up to the budget itself, and without one."""
    return budget_ma is None or total_ma <= budget_ma
