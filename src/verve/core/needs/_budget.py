"""The phantom supply of every interface: what it gives, who draws it, what it asks of the computer."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.engine import Engine
from verve.core.kind import DeviceFigures
from verve.core.needs import _words as words
from verve.core.needs._computer import socket_power
from verve.core.power import (
    FEED_RESISTANCE_OHM,
    PHANTOM_SUPPLY_V,
    budget,
    voltage_at_microphone_v,
)
from verve.core.session import Setup
from verve.core.words import Fact, fill


@dataclass(frozen=True, slots=True, kw_only=True)
class BudgetBar:
    """One phantom supply: what it gives, and who draws how much of it.

    unit: mA; `supply_ma` is None where it is not known; `bus` says what is asked of a computer's socket
    that powers it, converters, lamps and headphones counted
    """

    name: str
    supply_ma: float | None
    drawn: tuple[tuple[str, str, float], ...]
    bus: str = ""

    @property
    def total_ma(self) -> float:
        """Everything that is drawn."""
        return sum(ma for _, _, ma in self.drawn)

    def facts(self) -> tuple[Fact, ...]:
        """The draw of each, and the voltage that is left for it."""
        found = []
        for name, line, ma in self.drawn:
            volts = voltage_at_microphone_v(
                supply_v=PHANTOM_SUPPLY_V, feed_resistance_ohm=FEED_RESISTANCE_OHM, current_ma=ma
            )
            found.append(
                Fact(
                    label=f"{name} ({line})",
                    text=fill(words.CURRENT, current_ma=ma),
                    origin="typical",
                    how=fill(
                        words.ARRIVES,
                        volts_v=volts,
                        supply_v=PHANTOM_SUPPLY_V,
                        feed_resistance_ohm=FEED_RESISTANCE_OHM,
                        current_ma=ma,
                    ),
                )
            )
        return tuple(found)


def budget_bars(setup: Setup, engine: Engine | None = None) -> tuple[BudgetBar, ...]:
    """The supply of every interface that feeds something."""
    found = []
    for device in setup.devices:
        if device.figures.records:
            own = budget(setup, device.id, engine)
            if own:
                drawn_ma = sum(ma for _, _, ma in own)
                found.append(
                    BudgetBar(
                        name=device.name,
                        supply_ma=device.figures.phantom_supply_ma(),
                        drawn=own,
                        bus=_bus(device.figures, drawn_ma),
                    )
                )
    return tuple(found)


def _bus(figures: DeviceFigures, drawn_ma: float) -> str:
    check = socket_power(figures, drawn_ma)
    if check is None:
        return ""
    return check.text if check.is_well else fill(words.TOO_MUCH, power=check.text)
