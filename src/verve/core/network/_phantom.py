"""How far phantom power reaches back from whatever gives it: a recorder's input, a mixer's channel, a preamp.

A line is looked at leg by leg: from its source to each place that can give phantom power, and to its end. What
is said here of a route holds for a leg of one.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TypeVar

from verve.core.kind import PhantomNeed
from verve.core.session import Change, Route, RouteStep, Session, set_control
from verve.core.words import Origin

_Made = TypeVar("_Made")


@dataclass(frozen=True, slots=True, kw_only=True)
class PhantomConsumer:
    """A device that phantom power from the recorder's input arrives at, if it is on."""

    owner: str
    name: str
    origin: Origin
    need: PhantomNeed
    current_ma: float
    least_v: float | None = None


def _once(route: Route, key: str, make: Callable[[], _Made]) -> _Made:
    """What is worked out of a route, the first time it is asked for."""
    if key not in route.memory:
        route.memory[key] = make()
    found: _Made = route.memory[key]
    return found


def legs(route: Route) -> tuple[Route, ...]:
    """The line up to each device before its end that can give phantom power, and the whole of it, last."""
    # The whole of it is not kept in its own memory: what goes in circles is not freed at once.
    return (*_once(route, "legs", lambda: _legs_before_the_end(route)), route)


def _legs_before_the_end(route: Route) -> tuple[Route, ...]:
    return tuple(
        replace(route, steps=route.steps[: at + 1], memory={})
        for at, step in enumerate(route.steps[:-1])
        if step.phantom_switch is not None
    )


def supplier_of(leg: Route) -> RouteStep | None:
    """The device at the end of a leg, whose phantom power it would be; None for a line that ends before one."""
    if leg.recorder is not None or (leg.steps and leg.steps[-1].phantom_switch is not None):
        return leg.steps[-1]
    return None


def leg_to(route: Route, owner: str) -> Route:
    """The leg on which phantom power would come to a device: that of the next one behind it which gives any."""
    for leg in legs(route):
        if any(step.owner == owner for step in leg.steps[:-1]):
            return leg
    return route


def _consumer(step: RouteStep) -> PhantomConsumer | None:
    """What a device does with phantom power at its output; None for one that has no output."""
    draw = step.at_phantom
    if draw is None:
        return None
    return PhantomConsumer(
        owner=step.owner,
        name=step.name,
        origin=step.figures.origin,
        need=draw.need,
        current_ma=draw.current_ma,
        least_v=draw.least_v,
    )


def splitter_of(route: Route) -> RouteStep | None:
    """The splitter of a line whose isolated output it takes: from there phantom power comes no further."""
    return next((step for step in route.steps if step.figures.splits_off(step)), None)


def _fed_by_the_other_desk(route: Route) -> set[str]:
    """Devices before a splitter that get their phantom power from the desk on its direct output."""
    splitter = splitter_of(route)
    if splitter is None or not splitter.figures.is_fed_elsewhere(splitter):
        return set()
    found: set[str] = set()
    for step in reversed(route.steps[: route.steps.index(splitter)]):
        found.add(step.owner)
        if not step.figures.lets_phantom_through(step):
            break
    return found


def devices_reached(route: Route) -> tuple[PhantomConsumer, ...]:
    """Devices at which the input's phantom power arrives, nearest first.

    Inline preamps keep it from the microphone unless they say they pass it; transformers block it. Only an
    input in its microphone mode gives it. An output that is plugged in there gets it too.
    """
    supplier = supplier_of(route)
    if supplier is None or supplier.mode not in {None, "microphone"}:
        return ()
    return devices_in_reach(route)


def devices_in_reach(route: Route) -> tuple[PhantomConsumer, ...]:
    """Devices at which phantom power would arrive if the input were in its microphone mode, nearest first."""
    return _once(route, "reached", lambda: _reached(route))


def keeper_from(route: Route, owner: str) -> str:
    """What stands between the input and a device, and lets no phantom power through; empty for nothing."""
    for step in reversed(route.steps[:-1]):
        if step.owner == owner:
            return ""
        if _consumer(step) is None or not step.figures.lets_phantom_through(step):
            return step.name
    return ""


def _reached(route: Route) -> tuple[PhantomConsumer, ...]:
    found: list[PhantomConsumer] = []
    for step in reversed(route.steps[:-1]):
        consumer = _consumer(step)
        if consumer is None:
            return tuple(found)
        found.append(consumer)
        if not step.figures.lets_phantom_through(step):
            return tuple(found)
    source = route.source_or_none
    need = None if source is None else source.figures.at_phantom()
    if source is not None and need is not None:
        found.append(
            PhantomConsumer(
                owner=source.id,
                name=source.name,
                origin=source.figures.origin,
                need=need,
                current_ma=0.0,
            )
        )
    return tuple(found)


def devices_in_need(route: Route) -> tuple[RouteStep, ...]:
    """Devices on the way that do not work without phantom power."""
    return _once(
        route,
        "needing",
        lambda: tuple(
            step
            for step in route.steps
            if (draw := step.at_phantom) is not None and draw.need == "needs"
        ),
    )


def is_fed(route: Route) -> bool:
    """Whether the end of a leg gives phantom power."""
    supplier = supplier_of(route)
    return supplier is not None and _once(route, "fed", lambda: supplier.has_phantom_on)


def switch_of(route: Route) -> str | None:
    """Name of the phantom switch at the end of a leg; None if it has none."""
    supplier = supplier_of(route)
    return None if supplier is None else _once(route, "switch", lambda: supplier.phantom_switch)


def devices_unfed(route: Route) -> tuple[RouteStep, ...]:
    """Devices on the way that need phantom power and do not get it."""
    return _once(route, "unfed", lambda: _unfed(route))


def _unfed(route: Route) -> tuple[RouteStep, ...]:
    reached = {fed.owner for leg in legs(route) if is_fed(leg) for fed in devices_reached(leg)}
    reached |= _fed_by_the_other_desk(route)
    return tuple(step for step in devices_in_need(route) if step.owner not in reached)


def is_used(route: Route) -> bool:
    """Whether anything that the input's phantom power reaches needs it."""
    return _once(route, "used", lambda: any(fed.need == "needs" for fed in devices_reached(route)))


def is_alive(route: Route) -> bool:
    """Whether every device that needs phantom power on this line gets it."""
    return not devices_unfed(route)


def powered(session: Session, route: Route) -> Session:
    """The session with phantom power on where this line is dead without it and has a switch for it."""
    for device in devices_unfed(route):
        leg = leg_to(route, device.owner)
        supplier = supplier_of(leg)
        switch = None if supplier is None else supplier.controls.get("phantom")
        if switch is not None and not is_fed(leg):
            change = Change(
                owner=switch.owner, channel=switch.channel, name=switch.name, value=True
            )
            session = set_control(session, change)
    return session
