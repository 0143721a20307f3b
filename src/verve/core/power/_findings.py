"""What can be wrong with phantom power."""

from __future__ import annotations

from collections.abc import Sequence

from verve.core.findings import Fact, Finding, Remedy
from verve.core.power._reach import (
    devices_in_need,
    devices_reached,
    is_alive,
    is_fed,
    switch_of,
)
from verve.core.session import Change, InterfaceFigures, Route, phantom_channel

CAUTION = "Monitors and headphones down first; then switch, and wait ten seconds."


def _switch(route: Route, *, on: bool) -> Remedy | None:
    recorder, switch = route.recorder, switch_of(route)
    if recorder is None or switch is None:
        return None
    change = Change(
        owner=recorder.device.id, channel=phantom_channel(switch), name="phantom", value=on
    )
    label = "Switch phantom on" if on else "Switch phantom off"
    return Remedy(label=label, changes=(change,))


def _shared_with(route: Route, routes: Sequence[Route]) -> tuple[Route, ...]:
    """Other lines on the same phantom switch."""
    recorder, switch = route.recorder, switch_of(route)
    if recorder is None or switch is None:
        return ()
    return tuple(
        other
        for other in routes
        if other is not route
        and other.recorder is not None
        and other.recorder.device.id == recorder.device.id
        and switch_of(other) == switch
    )


def _missing(route: Route, routes: Sequence[Route]) -> Finding:
    needing = devices_in_need(route)[-1].device
    recorder = route.recorder
    assert recorder is not None
    remedy = _switch(route, on=True)
    harmed = [
        other
        for other in _shared_with(route, routes)
        if any(fed.need == "never" for fed in devices_reached(other))
    ]
    advice = f"Switch phantom power on at {recorder.device.name}, input {recorder.in_port[3:]}."
    if remedy is None:
        advice = "Take an input that gives phantom power, or a box with a battery."
    elif harmed:
        remedy = None
        advice = (
            f"Not on this switch: {harmed[0].line.name} shares it and cannot take phantom power. "
            "Move one of them to another input."
        )
    return Finding(
        rule="phantom_missing",
        severity="stop",
        step="power",
        line=route.line.id,
        title=f"{needing.name} waits for phantom power",
        brief="silent: no phantom power",
        cost=f"{route.line.name} records nothing: {needing.name} is dead without 48 V.",
        advice=advice,
        remedy=remedy,
        caution=CAUTION,
        facts=(
            Fact(label=needing.name, text="needs 48 V", origin=needing.figures.origin),
            Fact(label=f"Phantom at input {recorder.in_port[3:]}", text="off", origin="set"),
        ),
    )


def _harmful(route: Route) -> Finding | None:
    for fed in devices_reached(route):
        if fed.need == "never":
            name = fed.hop.device.name
            return Finding(
                rule="phantom_harms",
                severity="stop",
                step="power",
                line=route.line.id,
                title=f"{name} must not get phantom power",
                brief="phantom power can harm it",
                cost=f"48 V can damage {name}; a fault in the cable is enough.",
                advice="Switch it off, wait, and only then plug or unplug.",
                remedy=_switch(route, on=False),
                caution=CAUTION,
                facts=(
                    Fact(
                        label=name, text="must not get 48 V", origin=fed.hop.device.figures.origin
                    ),
                ),
            )
    return None


def _idle(route: Route, routes: Sequence[Route]) -> Finding | None:
    sharing = (route, *_shared_with(route, routes))
    if any(devices_in_need(other) for other in sharing):
        return None
    return Finding(
        rule="phantom_idle",
        severity="know",
        step="power",
        line=route.line.id,
        title="Phantom power is on, and nothing here uses it",
        brief="phantom power without use",
        cost="Nothing while it stays plugged in; a bang or worse when something is plugged.",
        advice="Switch it off where nothing needs it.",
        remedy=_switch(route, on=False),
        caution=CAUTION,
    )


def _over_budget(routes: Sequence[Route]) -> list[Finding]:
    drawn: dict[str, float] = {}
    devices = {}
    for route in routes:
        recorder = route.recorder
        if recorder is None or not is_fed(route):
            continue
        devices[recorder.device.id] = recorder.device
        current = sum(fed.current_ma for fed in devices_reached(route))
        drawn[recorder.device.id] = drawn.get(recorder.device.id, 0.0) + current
    found = []
    for owner, total_ma in drawn.items():
        figures = devices[owner].figures
        assert isinstance(figures, InterfaceFigures)
        budget = figures.phantom_budget_ma
        if budget is not None and total_ma > budget:
            found.append(
                Finding(
                    rule="phantom_budget",
                    severity="mend",
                    step="power",
                    line=None,
                    title=f"{devices[owner].name} is asked for more phantom current than it has",
                    brief="phantom supply overdrawn",
                    cost="The voltage sags: microphones clip early, hiss or fall silent.",
                    advice="Power one of them otherwise, or use a box with a battery.",
                    facts=(
                        Fact(label="Asked for", text=f"{total_ma:.1f} mA", origin="computed"),
                        Fact(label="Supply", text=f"{budget:.1f} mA", origin=figures.origin),
                    ),
                )
            )
    return found


def findings(routes: Sequence[Route]) -> list[Finding]:
    """Everything about phantom power in all lines together."""
    found: list[Finding] = []
    for route in routes:
        if not route.is_complete:
            continue
        if is_fed(route):
            harmful = _harmful(route)
            idle = _idle(route, routes)
            found += [item for item in (harmful, None if harmful else idle) if item is not None]
        if not is_alive(route):
            found.append(_missing(route, routes))
    return found + _over_budget(routes)
