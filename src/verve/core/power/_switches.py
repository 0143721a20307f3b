"""Every phantom switch with what hangs on it: who needs it, bears it, must not get it, and what keeps it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.engine import Engine
from verve.core.kind import Control
from verve.core.network import PhantomConsumer, devices_reached, legs, supplier_of, switch_of
from verve.core.power import _words as words
from verve.core.power._phantom import (
    FEED_RESISTANCE_OHM,
    PHANTOM_SUPPLY_V,
    voltage_at_microphone_v,
)
from verve.core.power._states import complete_routes
from verve.core.session import Route, Setup
from verve.core.words import fill


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchRow:
    """One switch: its control, the lines on it, and what it does to each, in sentences."""

    control: Control
    name: str
    lines: tuple[str, ...]
    notes: tuple[str, ...]

    @property
    def is_shared(self) -> bool:
        """Whether it feeds more than one line."""
        return len(self.lines) > 1


def _fed_note(fed: PhantomConsumer, *, is_on: bool) -> str:
    if fed.need == "never":
        return fill(words.NOTE_NEVER, device=fed.name)
    if fed.need == "tolerates":
        return fill(words.NOTE_TOLERATES, device=fed.name)
    if not is_on:
        return fill(words.NOTE_WAITS, device=fed.name)
    volts = voltage_at_microphone_v(
        supply_v=PHANTOM_SUPPLY_V,
        feed_resistance_ohm=FEED_RESISTANCE_OHM,
        current_ma=fed.current_ma,
    )
    return fill(
        words.NOTE_NEEDS if fed.least_v is None else words.NOTE_NEEDS_LEAST,
        device=fed.name,
        arrives_v=volts,
        least_v=fed.least_v or 0.0,
    )


def _kept_note(route: Route, reached: Sequence[PhantomConsumer]) -> str | None:
    """What keeps phantom power, and from what; None where it arrives everywhere."""
    owners = {fed.owner for fed in reached}
    before = [step.name for step in route.steps if step.owner not in owners][:-1]
    if not reached or (not before and route.source.figures.is_acoustic):
        return None
    if reached[-1].owner == route.source.id:
        return None
    device = before[-1] if before else route.source.name
    return fill(words.NOTE_KEPT, keeper=reached[-1].name, device=device)


def switch_rows(setup: Setup, engine: Engine | None = None) -> tuple[SwitchRow, ...]:
    """All phantom switches of microphone inputs that something is plugged into, in the order of the lines."""
    found: dict[tuple[str, str], list[Route]] = {}
    for leg in (leg for route in complete_routes(setup, engine) for leg in legs(route)):
        supplier, switch = supplier_of(leg), switch_of(leg)
        if supplier is None or switch is None:
            continue
        if supplier.mode in {None, "microphone"}:
            found.setdefault((supplier.owner, switch), []).append(leg)
    rows = []
    for (_, switch), routes in found.items():
        supplier = supplier_of(routes[0])
        assert supplier is not None
        control = supplier.controls["phantom"]
        notes: list[str] = []
        for route in routes:
            reached = devices_reached(route)
            own = [_fed_note(fed, is_on=bool(control.value)) for fed in reached]
            kept = _kept_note(route, reached)
            notes += [note for note in (*own, kept) if note is not None and note not in notes]
        rows.append(
            SwitchRow(
                control=control,
                name=fill(words.SWITCH, device=supplier.name, switch=switch),
                lines=tuple(route.line.name for route in routes),
                notes=tuple(notes),
            )
        )
    return tuple(rows)
