"""What can be wrong with phantom power."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TypeAlias

from verve.core.findings import Finding, RuleWords
from verve.core.kind import phantom_channel
from verve.core.network import (
    devices_reached,
    devices_unfed,
    is_alive,
    is_fed,
    is_used,
    keeper_from,
    leg_to,
    legs,
    splitter_of,
    supplier_of,
    switch_of,
)
from verve.core.power import _words as words
from verve.core.power._phantom import (
    FEED_RESISTANCE_OHM,
    PHANTOM_SUPPLY_V,
    voltage_at_microphone_v,
)
from verve.core.power._states import amplifier_of
from verve.core.session import Change, Route, RouteStep
from verve.core.words import Fact, fill, number


def _switched(route: Route, *, on: bool) -> tuple[Change, ...] | None:
    """The edit that switches phantom power of a line; None where it has no switch."""
    supplier, switch = supplier_of(route), switch_of(route)
    if supplier is None or switch is None:
        return None
    return (
        Change(owner=supplier.owner, channel=phantom_channel(switch), name="phantom", value=on),
    )


_Sharing: TypeAlias = Mapping[tuple[str, str | None], Sequence[Route]]
"""Legs of lines by who gives them phantom power, and by its switch."""


def _by_switch(routes: Sequence[Route]) -> _Sharing:
    found: dict[tuple[str, str | None], list[Route]] = {}
    for route in routes:
        for leg in legs(route):
            supplier = supplier_of(leg)
            if supplier is not None:
                found.setdefault((supplier.owner, switch_of(leg)), []).append(leg)
    return found


def _shared_with(route: Route, sharing: _Sharing) -> tuple[Route, ...]:
    """Legs of other lines on the same phantom switch."""
    supplier, switch = supplier_of(route), switch_of(route)
    if supplier is None or switch is None:
        return ()
    return tuple(r for r in sharing[supplier.owner, switch] if r is not route)


def _missing(route: Route, sharing: _Sharing) -> Finding:
    for blocked in devices_unfed(route):
        keeper = keeper_from(leg_to(route, blocked.owner), blocked.owner)
        if keeper:
            # However the input is set, nothing arrives there.
            return _kept(route, keeper, blocked)
    needing = devices_unfed(route)[-1]
    leg = leg_to(route, needing.owner)
    supplier = supplier_of(leg)
    assert supplier is not None
    said, edits, harmed = _how_to_feed(leg, sharing)
    return Finding(
        rule="phantom_missing",
        severity="stop",
        line=route.line.id,
        words=said,
        places={
            "line": route.line.name,
            "device": needing.name,
            "place": supplier.place,
            "harmed": harmed,
        },
        edits=edits,
        facts=(
            Fact(label=needing.name, text=words.NEEDS_48_V, origin=needing.figures.origin),
            Fact(
                label=fill(words.PHANTOM_AT, input=supplier.port_name), text=words.OFF, origin="set"
            ),
        ),
    )


def _how_to_feed(
    route: Route, sharing: _Sharing
) -> tuple[RuleWords, tuple[Change, ...] | None, str]:
    """What switches phantom power on for a line, and what to do; only a microphone input gives it.

    Last of the three is what would be harmed by it.
    """
    supplier, switched = supplier_of(route), _switched(route, on=True)
    assert supplier is not None
    if switched is None:
        return words.MISSING_WITHOUT_SWITCH, None, ""
    for other in _shared_with(route, sharing):
        if any(fed.need == "never" for fed in devices_reached(other)):
            return words.MISSING_BUT_HARMS, None, other.line.name
    mode = supplier.controls.get("mode")
    if supplier.mode in {None, "microphone"}:
        return words.MISSING, switched, ""
    if mode is None or "microphone" not in mode.choices:
        return words.MISSING_ELSEWHERE, None, ""
    change = Change(owner=mode.owner, channel=mode.channel, name="mode", value="microphone")
    return words.MISSING_IN_OTHER_MODE, (change, *switched), ""


def _kept(route: Route, keeper: str, needing: RouteStep) -> Finding:
    """What needs phantom power stands behind something that lets none through."""
    splitter = splitter_of(route)
    edits = None
    if splitter is not None:
        edits = (Change(owner=splitter.owner, channel="in", name="fed_there", value=True),)
    return Finding(
        rule="phantom_blocked",
        severity="stop",
        line=route.line.id,
        words=words.KEPT if splitter is None else words.KEPT_BY_SPLITTER,
        places={"line": route.line.name, "keeper": keeper, "device": needing.name},
        edits=edits,
        facts=(Fact(label=needing.name, text=words.NEEDS_48_V, origin=needing.figures.origin),),
    )


def _harmful(route: Route) -> Finding | None:
    for fed in devices_reached(route):
        if fed.need == "never":
            return Finding(
                rule="phantom_harms",
                severity="stop",
                line=route.line.id,
                words=words.HARMS if fed.owner != route.source.id else words.HARMS_OUTPUT,
                places={"device": fed.name},
                edits=_switched(route, on=False),
                facts=(Fact(label=fed.name, text=words.MUST_NOT_GET_48_V, origin=fed.origin),),
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
        words=words.IDLE,
        edits=_switched(route, on=False),
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
            is_known = fed.least_v is not None
            how = words.ARRIVES_HOW if is_known else words.ARRIVES_HOW_TYPICAL
            return Finding(
                rule="phantom_sags",
                severity="mend" if is_known else "know",
                line=route.line.id,
                words=words.SAGS if is_known else words.MAY_SAG,
                places={"device": fed.name, "arrives_v": volts, "least_v": least},
                facts=(
                    Fact(
                        label=words.ARRIVES,
                        text=f"{number(volts, 1)} V",
                        origin="computed",
                        how=fill(
                            how,
                            feed_resistance_ohm=FEED_RESISTANCE_OHM,
                            current_ma=fed.current_ma,
                            least_v=least,
                        ),
                    ),
                ),
            )
    return None


def _over_jack(route: Route, sharing: _Sharing) -> Finding | None:
    """Phantom power on a cable with a jack: while it is plugged its contacts short the supply."""
    supplier = supplier_of(route)
    if supplier is None or supplier.cable is None or not is_fed(route):
        return None
    if supplier.mode not in {None, "microphone"}:
        return None
    plugs = supplier.cable.plugs or ()
    if not any(plug.startswith("jack") for plug in plugs):
        return None
    is_needed = any(is_used(other) for other in (route, *_shared_with(route, sharing)))
    return Finding(
        rule="phantom_over_jack",
        severity="mend",
        line=route.line.id,
        words=words.OVER_JACK_USED if is_needed else words.OVER_JACK,
        places={"line": route.line.name},
        edits=None if is_needed else _switched(route, on=False),
    )


def _loudspeaker_level(route: Route) -> Finding | None:
    """An amplifier's loudspeaker output into something that is made for far less."""
    if amplifier_of(route) is None:
        return None
    first = route.steps[0]
    if first.figures.bears_loudspeaker_level(first):
        return None
    return Finding(
        rule="loudspeaker_level",
        severity="stop",
        line=route.line.id,
        words=words.LOUDSPEAKER_LEVEL,
        places={"source": route.source.name, "device": first.name},
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
        words=words.WITHOUT_LOAD,
        places={"source": source.name},
        edits=(change,),
        facts=(Fact(label=words.LOADED_LABEL, text=words.NO, origin="set"),),
    )


def _over_budget(routes: Sequence[Route]) -> list[Finding]:
    drawn: dict[str, float] = {}
    devices: dict[str, RouteStep] = {}
    for leg in (leg for route in routes for leg in legs(route)):
        supplier = supplier_of(leg)
        if supplier is None or not is_fed(leg):
            continue
        devices[supplier.owner] = supplier
        current = sum(fed.current_ma for fed in devices_reached(leg))
        drawn[supplier.owner] = drawn.get(supplier.owner, 0.0) + current
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
                    words=words.OVER_BUDGET,
                    places={"device": devices[owner].name},
                    facts=(
                        Fact(
                            label=words.ASKED_FOR,
                            text=f"{number(total_ma, 1)} mA",
                            origin="computed",
                        ),
                        Fact(
                            label=words.SUPPLY,
                            text=f"{number(budget, 1)} mA",
                            origin=figures.origin,
                        ),
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
    beside = tuple(other for leg in legs(route) for other in _shared_with(leg, sharing))
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
    for leg in legs(route):
        if is_fed(leg):
            harmful = _harmful(leg)
            found += [harmful or _idle(leg, sharing), _sags(leg), _over_jack(leg, sharing)]
    found += [_loudspeaker_level(route), _without_load(route)]
    if not is_alive(route):
        found.append(_missing(route, sharing))
    return [item for item in found if item is not None]
