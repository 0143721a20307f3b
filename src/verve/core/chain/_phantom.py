"""How far phantom power reaches back from an interface input."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from verve.core.session import (
    ActiveDiFigures,
    Change,
    Hop,
    InterfaceFigures,
    LineOutputFigures,
    MicrophoneFigures,
    Origin,
    PhantomNeed,
    PreampFigures,
    Route,
    Session,
    SplitterFigures,
    current_mode,
    input_figures,
    is_phantom_on,
    set_control,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fed:
    """A device that phantom power from the recorder's input arrives at, if it is on."""

    owner: str
    name: str
    origin: Origin
    need: PhantomNeed
    current_ma: float
    least_v: float | None = None


def _runs_on_battery(hop: Hop) -> bool:
    battery = hop.controls.get("battery")
    return battery is not None and bool(battery.value)


def _need(hop: Hop) -> Fed | None:
    """What a device does with phantom power at its output."""
    figures = hop.device.figures
    if isinstance(figures, InterfaceFigures):
        return None
    fed = Fed(
        owner=hop.device.id,
        name=hop.device.name,
        origin=figures.origin,
        need=figures.phantom,
        current_ma=0.0,
    )
    if isinstance(figures, ActiveDiFigures) and _runs_on_battery(hop):
        return replace(fed, need="tolerates")
    if isinstance(figures, MicrophoneFigures | PreampFigures | ActiveDiFigures):
        drawn, least = figures.phantom_current_ma, figures.phantom_least_v
        return replace(fed, current_ma=drawn, least_v=least)
    return fed


def _passes(hop: Hop) -> bool:
    """Whether phantom power goes on from a device's output to its input."""
    figures = hop.device.figures
    if isinstance(figures, SplitterFigures):
        return hop.out_port != "isolated"
    return isinstance(figures, PreampFigures) and figures.passes_phantom


def splitter_of(route: Route) -> Hop | None:
    """The splitter of a line whose isolated output it takes: from there phantom power comes no further."""
    for hop in route.hops:
        if isinstance(hop.device.figures, SplitterFigures) and hop.out_port == "isolated":
            return hop
    return None


def _fed_by_the_other_desk(route: Route) -> set[str]:
    """Devices before a splitter that get their phantom power from the desk on its direct output."""
    splitter = splitter_of(route)
    if splitter is None or not splitter.controls["fed_there"].value:
        return set()
    found: set[str] = set()
    for hop in reversed(route.hops[: route.hops.index(splitter)]):
        found.add(hop.device.id)
        if not _passes(hop):
            break
    return found


@lru_cache(maxsize=1024)
def devices_reached(route: Route) -> tuple[Fed, ...]:
    """Devices at which the input's phantom power arrives, nearest first.

    Inline preamps keep it from the microphone unless they say they pass it; transformers block it. Only an
    input in its microphone mode gives it. An output that is plugged in there gets it too.
    """
    recorder = route.recorder
    if recorder is None or current_mode(recorder.device, recorder.in_port) != "microphone":
        return ()
    found: list[Fed] = []
    for hop in reversed(route.hops[:-1]):
        fed = _need(hop)
        if fed is None:
            return tuple(found)
        found.append(fed)
        if not _passes(hop):
            return tuple(found)
    figures_out = route.source.figures
    if isinstance(figures_out, LineOutputFigures):
        found.append(
            Fed(
                owner=route.source.id,
                name=route.source.name,
                origin=figures_out.origin,
                need=figures_out.phantom,
                current_ma=0.0,
            )
        )
    return tuple(found)


@lru_cache(maxsize=1024)
def devices_in_need(route: Route) -> tuple[Hop, ...]:
    """Devices on the way that are dead without phantom power."""
    return tuple(
        hop for hop in route.hops if (fed := _need(hop)) is not None and fed.need == "needs"
    )


@lru_cache(maxsize=1024)
def is_fed(route: Route) -> bool:
    """Whether the recorder's input gives phantom power."""
    recorder = route.recorder
    return recorder is not None and is_phantom_on(recorder.device, recorder.in_port)


@lru_cache(maxsize=1024)
def switch_of(route: Route) -> str | None:
    """Name of the phantom switch of the recorder's input; None if it has none."""
    recorder = route.recorder
    return (
        None
        if recorder is None
        else input_figures(recorder.device, recorder.in_port).phantom_switch
    )


@lru_cache(maxsize=1024)
def devices_unfed(route: Route) -> tuple[Hop, ...]:
    """Devices on the way that need phantom power and do not get it."""
    reached = {fed.owner for fed in devices_reached(route)} if is_fed(route) else set()
    reached |= _fed_by_the_other_desk(route)
    return tuple(hop for hop in devices_in_need(route) if hop.device.id not in reached)


@lru_cache(maxsize=1024)
def is_used(route: Route) -> bool:
    """Whether anything that the input's phantom power reaches needs it."""
    return any(fed.need == "needs" for fed in devices_reached(route))


def is_alive(route: Route) -> bool:
    """Whether every device that needs phantom power on this line gets it."""
    return not devices_unfed(route)


def powered(session: Session, route: Route) -> Session:
    """The session with phantom power on where this line is dead without it and has a switch for it."""
    recorder = route.recorder
    if recorder is None or is_alive(route) or is_fed(route):
        return session
    switch = recorder.controls.get("phantom")
    if switch is None:
        return session
    change = Change(owner=switch.owner, channel=switch.channel, name=switch.name, value=True)
    return set_control(session, change)
