"""What can be wrong with phantom power."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TypeAlias

from verve.core.findings import Finding, Remedy
from verve.core.kind import phantom_channel
from verve.core.network import (
    devices_reached,
    devices_unfed,
    is_alive,
    is_fed,
    is_used,
    splitter_of,
    switch_of,
)
from verve.core.power._phantom import (
    FEED_RESISTANCE_OHM,
    PHANTOM_SUPPLY_V,
    voltage_at_microphone_v,
)
from verve.core.power._states import amplifier_of
from verve.core.session import Change, Route, RouteStep
from verve.core.words import Fact

CAUTION = "Monitors and headphones down first; then switch, and wait ten seconds."


def _switch(route: Route, *, on: bool) -> Remedy | None:
    recorder, switch = route.recorder, switch_of(route)
    if recorder is None or switch is None:
        return None
    change = Change(owner=recorder.owner, channel=phantom_channel(switch), name="phantom", value=on)
    label = "Switch phantom on" if on else "Switch phantom off"
    return Remedy(label=label, changes=(change,))


_Sharing: TypeAlias = Mapping[tuple[str, str | None], Sequence[Route]]
"""Lines by recorder and phantom switch."""


def _by_switch(routes: Sequence[Route]) -> _Sharing:
    found: dict[tuple[str, str | None], list[Route]] = {}
    for route in routes:
        if route.recorder is not None:
            key = (route.recorder.owner, switch_of(route))
            found.setdefault(key, []).append(route)
    return found


def _shared_with(route: Route, sharing: _Sharing) -> tuple[Route, ...]:
    """Other lines on the same phantom switch."""
    recorder, switch = route.recorder, switch_of(route)
    if recorder is None or switch is None:
        return ()
    return tuple(r for r in sharing[recorder.owner, switch] if r is not route)


def _missing(route: Route, sharing: _Sharing) -> Finding:
    needing = devices_unfed(route)[-1]
    recorder = route.recorder
    assert recorder is not None
    reached = devices_reached(route)
    if reached and needing.owner not in {fed.owner for fed in reached}:
        return _kept(route, reached[-1].name, needing)
    remedy, advice = _how_to_feed(route, sharing)
    return Finding(
        rule="phantom_missing",
        severity="stop",
        line=route.line.id,
        title=f"{needing.name} waits for phantom power",
        brief="silent: no phantom power",
        cost=f"{route.line.name} records nothing: {needing.name} is dead without 48 V.",
        to_do=advice,
        offered=remedy,
        caution=CAUTION,
        facts=(
            Fact(label=needing.name, text="needs 48 V", origin=needing.figures.origin),
            Fact(label=f"Phantom at {recorder.port_name}", text="off", origin="set"),
        ),
    )


def _how_to_feed(route: Route, sharing: _Sharing) -> tuple[Remedy | None, str]:
    """What switches phantom power on for a line, and what to do; only a microphone input gives it."""
    recorder, switch = route.recorder, _switch(route, on=True)
    assert recorder is not None
    where = recorder.place
    if switch is None:
        return None, "Take an input that gives phantom power, or a box with a battery."
    harmed = [
        other
        for other in _shared_with(route, sharing)
        if any(fed.need == "never" for fed in devices_reached(other))
    ]
    if harmed:
        return None, (
            f"Not on this switch: {harmed[0].line.name} shares it and cannot take phantom power. "
            "Move one of them to another input."
        )
    mode = recorder.controls.get("mode")
    if recorder.mode == "microphone":
        return switch, f"Switch phantom power on at {where}."
    if mode is None or "microphone" not in mode.choices:
        return (
            None,
            f"Move the line to a microphone input: {where} is none, and gives no phantom power.",
        )
    change = Change(owner=mode.owner, channel=mode.channel, name="mode", value="microphone")
    remedy = Remedy(label="Make it a microphone input", changes=(change, *switch.changes))
    return remedy, f"Make {where} a microphone input, and switch its phantom power on."


def _kept(route: Route, keeper: str, needing: RouteStep) -> Finding:
    """What needs phantom power stands behind something that lets none through."""
    splitter = splitter_of(route)
    remedy = None
    advice = f"Take {keeper} out, or put {needing.name} on an input of its own."
    if splitter is not None:
        change = Change(owner=splitter.owner, channel="in", name="fed_there", value=True)
        remedy = Remedy(label="The other desk gives it", changes=(change,))
        advice = (
            "Ask the other desk, on the direct output, to give phantom power; or take the direct output "
            "yourself."
        )
    return Finding(
        rule="phantom_kept",
        severity="stop",
        line=route.line.id,
        title=f"{keeper} keeps phantom power from {needing.name}",
        brief="silent: no phantom power",
        cost=f"{route.line.name} records nothing: {keeper} lets no phantom power through.",
        to_do=advice,
        offered=remedy,
        caution=CAUTION,
        facts=(Fact(label=needing.name, text="needs 48 V", origin=needing.figures.origin),),
    )


def _harmful(route: Route) -> Finding | None:
    for fed in devices_reached(route):
        if fed.need == "never":
            name = fed.name
            return Finding(
                rule="phantom_harms",
                severity="stop",
                line=route.line.id,
                title=f"{name} must not get phantom power",
                brief="phantom power can harm it",
                cost=f"48 V can damage {name}; a fault in the cable is enough."
                if fed.owner != route.source.id
                else f"48 V meets the output of {name}, which is made to give and not to take.",
                to_do="Switch it off, wait, and only then plug or unplug.",
                offered=_switch(route, on=False),
                caution=CAUTION,
                facts=(Fact(label=name, text="must not get 48 V", origin=fed.origin),),
            )
    return None


def _idle(route: Route, sharing: _Sharing) -> Finding | None:
    together = (route, *_shared_with(route, sharing))
    if any(is_used(other) for other in together):
        return None
    return Finding(
        rule="phantom_idle",
        severity="know",
        line=route.line.id,
        title="Phantom power is on, and nothing here uses it",
        brief="phantom power without use",
        cost="Nothing while it stays plugged in; a bang or worse when something is plugged.",
        to_do="Switch it off where nothing needs it.",
        offered=_switch(route, on=False),
        caution=CAUTION,
    )


LEAST_AT_MICROPHONE_V = 30.0
"""Below this many microphones lose headroom or fall silent (typical; some live on 11 V)."""


def _sags(route: Route) -> Finding | None:
    """What draws so much that the feed resistors leave too little voltage for it."""
    for fed in devices_reached(route):
        volts = voltage_at_microphone_v(
            supply_v=PHANTOM_SUPPLY_V,
            feed_resistance_ohm=FEED_RESISTANCE_OHM,
            current_ma=fed.current_ma,
        )
        least = fed.least_v or LEAST_AT_MICROPHONE_V
        if fed.need == "needs" and volts < least:
            name = fed.name
            is_known = fed.least_v is not None
            return Finding(
                rule="phantom_sags",
                severity="mend" if is_known else "know",
                line=route.line.id,
                title=f"Only {volts:.0f} V arrive at {name}",
                brief=f"{volts:.0f} V of phantom power",
                cost=f"It wants {least:g} V: below that it clips early, hisses or falls silent."
                if is_known
                else "It may clip early or hiss; look into its data sheet for the least it wants.",
                to_do="A supply of its own, or another box, if it sounds strained.",
                facts=(
                    Fact(
                        label="Arrives",
                        text=f"{volts:.1f} V",
                        origin="computed",
                        how=f"48 V − {FEED_RESISTANCE_OHM:g} Ω × {fed.current_ma:g} mA ÷ 2; at least "
                        f"{least:g} V is wanted" + ("" if is_known else " (typical)"),
                    ),
                ),
            )
    return None


def _over_jack(route: Route) -> Finding | None:
    """Phantom power on a cable with a jack: while it is plugged its contacts short the supply."""
    recorder = route.recorder
    if recorder is None or recorder.cable is None or not is_fed(route):
        return None
    if recorder.mode != "microphone":
        return None
    plugs = recorder.cable.plugs or ()
    if not any(plug.startswith("jack") for plug in plugs):
        return None
    return Finding(
        rule="phantom_over_jack",
        severity="mend",
        line=route.line.id,
        title=f"Phantom power goes over a jack on the way to {route.line.name}",
        brief="phantom over a jack",
        cost="While a jack is plugged or pulled it shorts 48 V to the signal: that can destroy.",
        to_do="Take a cable with three pins at both ends, or switch phantom power off.",
        offered=_switch(route, on=False),
        caution=CAUTION,
    )


def _loudspeaker_level(route: Route) -> Finding | None:
    """An amplifier's loudspeaker output into something that is made for far less."""
    if amplifier_of(route) is None:
        return None
    first = route.hops[0]
    if first.figures.bears_loudspeaker_level(first):
        return None
    return Finding(
        rule="loudspeaker_level",
        severity="stop",
        line=route.line.id,
        title=f"{route.source.name} gives loudspeaker level into {first.name}",
        brief="loudspeaker level",
        cost="Tens of volts: they can destroy an input that is made for one.",
        to_do="Only a box made for loudspeaker level, with its pad in, and the loudspeaker stays connected.",
        caution="A valve amplifier never runs without its load: the loudspeaker stays plugged in. Inside an "
        "amplifier are deadly voltages; that is for a licensed technician.",
    )


def _without_load(route: Route) -> Finding | None:
    """A valve amplifier that nothing loads."""
    source, figures = route.source, amplifier_of(route)
    if figures is None or not figures.is_valve_output() or source.settings.load is not False:
        return None
    change = Change(owner=source.id, channel="out", name="load", value=True)
    return Finding(
        rule="valve_without_load",
        severity="stop",
        line=route.line.id,
        title=f"{source.name} runs without its load",
        brief="valve amplifier without load",
        cost="Without loudspeaker or load its output transformer can be destroyed within seconds.",
        to_do="Switch it off, plug the loudspeaker or a load made for it in, and only then switch it on.",
        offered=Remedy(label="It is plugged in now", changes=(change,)),
        caution="Inside a valve amplifier are deadly voltages, also when it is off; that is for a licensed "
        "technician.",
        facts=(Fact(label="Loudspeaker connected", text="no", origin="set"),),
    )


def _over_budget(routes: Sequence[Route]) -> list[Finding]:
    drawn: dict[str, float] = {}
    devices: dict[str, RouteStep] = {}
    for route in routes:
        recorder = route.recorder
        if recorder is None or not is_fed(route):
            continue
        devices[recorder.owner] = recorder
        current = sum(fed.current_ma for fed in devices_reached(route))
        drawn[recorder.owner] = drawn.get(recorder.owner, 0.0) + current
    found = []
    for owner, total_ma in drawn.items():
        figures = devices[owner].figures
        budget = figures.phantom_supply_ma()
        if budget is not None and total_ma > budget:
            found.append(
                Finding(
                    rule="phantom_budget",
                    severity="mend",
                    line=None,
                    title=f"{devices[owner].name} is asked for more phantom current than it has",
                    brief="phantom supply overdrawn",
                    cost="The voltage sags: microphones clip early, hiss or fall silent.",
                    to_do="Power one of them otherwise, or use a box with a battery.",
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
    sharing = _by_switch(routes)
    for route in routes:
        if route.is_complete:
            found += _remembered(route, sharing)
    return found + _over_budget(routes)


def _remembered(route: Route, sharing: _Sharing) -> list[Finding]:
    """Findings of one line, kept with its route as long as the lines on its switch are the very same."""
    beside = tuple(_shared_with(route, sharing))
    known = route.memory.get("power")
    if (
        known is not None
        and len(known[0]) == len(beside)
        and all(a is b for a, b in zip(known[0], beside, strict=True))
    ):
        remembered: list[Finding] = known[1]
        return remembered
    found = _of_route(route, sharing)
    route.memory["power"] = (beside, found)
    return found


def _of_route(route: Route, sharing: _Sharing) -> list[Finding]:
    found: list[Finding | None] = []
    if is_fed(route):
        harmful = _harmful(route)
        found += [harmful or _idle(route, sharing), _sags(route), _over_jack(route)]
    found += [_loudspeaker_level(route), _without_load(route)]
    if not is_alive(route):
        found.append(_missing(route, sharing))
    return [item for item in found if item is not None]
