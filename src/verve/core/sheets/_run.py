"""The run sheet as paper, and the phantom budget in numbers."""

from __future__ import annotations

import csv
import html
import io
from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.kind import DeviceFigures
from verve.core.needs import checks_of
from verve.core.power import (
    FEED_RESISTANCE_OHM,
    PHANTOM_SUPPLY_V,
    RunStep,
    budget,
    voltage_at_microphone_v,
)
from verve.core.session import Computer, Setup, routes
from verve.core.sheets._patch import PAPER_STYLE, TABLE
from verve.core.words import Fact

LEAST_PHANTOM_V = 44.0
"""What P48 gives at least without load, IEC 61938 (48 V ± 4 V); most microphones live on far less."""


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
                    text=f"{ma:.1f} mA",
                    origin="typical",
                    how=f"{volts:.1f} V arrive: {PHANTOM_SUPPLY_V:g} V − {FEED_RESISTANCE_OHM:g} Ω × "
                    f"{ma:g} mA ÷ 2, half the current through each leg",
                )
            )
        return tuple(found)


def budget_bars(setup: Setup) -> tuple[BudgetBar, ...]:
    """The supply of every interface that feeds something."""
    found = []
    for device in setup.devices:
        if device.figures.records:
            own = budget(setup, device.id)
            if own:
                drawn_ma = sum(ma for _, _, ma in own)
                found.append(
                    BudgetBar(
                        name=device.name,
                        supply_ma=device.figures.phantom_supply_ma(),
                        drawn=own,
                        bus=_bus(setup, device.figures, drawn_ma),
                    )
                )
    return tuple(found)


def _bus(setup: Setup, figures: DeviceFigures, drawn_ma: float) -> str:
    for check in checks_of(0, setup.audio, Computer(), figures, drawn_ma):
        if check.label == "Power from the socket":
            return (
                check.text
                if check.is_well
                else f"{check.text}: too much, take a supply or a powered hub"
            )
    return ""


def run_sheet_csv(steps: Sequence[RunStep]) -> str:
    """One row a step, with a column to tick."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("done", "step", "what", "why"))
    for number, step in enumerate(steps, 1):
        writer.writerow(("", number, step.words, step.reason))
    return out.getvalue()


def run_sheet_html(title: str, steps: Sequence[RunStep]) -> str:
    """The sheet as a page: large, numbered, a box to tick for every step."""
    # A reason that holds for a row of steps stands beside the first of them.
    reasons = ["", *(step.reason for step in steps)]
    rows = "".join(
        f'<tr><td class="box">☐</td><td class="line">{number}</td><td>{html.escape(step.words)}</td>'
        f"<td>{html.escape(step.reason) if step.reason != reasons[number - 1] else ''}</td></tr>"
        for number, step in enumerate(steps, 1)
    )
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8">'
        f"<title>{html.escape(title)}</title><style>{PAPER_STYLE}</style></head><body>"
        f"<h1>{html.escape(title)}</h1><p>Never lift a mains safety earth; work on mains wiring is for a "
        "licensed electrician under local code. A valve amplifier never runs without its load.</p>"
        f"{TABLE}{rows}</table></body></html>"
    )


def hum_risks(setup: Setup) -> tuple[str, ...]:
    """Sources that run on the mains and go unbalanced into another mains-powered box: they may hum."""
    found = []
    for route in routes(setup):
        first = route.hops[0]
        if not route.has_source:
            continue
        boxes = first.figures.records or first.figures.mixes
        cable = first.cable
        is_output = "line" in route.source.figures.direct_modes
        if is_output and boxes and cable is not None and not cable.balanced:
            found.append(route.source.name)
    return tuple(dict.fromkeys(found))
