"""How far phantom power reaches back from an interface input."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from verve.core.session import (
    ActiveDiFigures,
    Hop,
    MicrophoneFigures,
    PassiveDiFigures,
    PhantomNeed,
    PreampFigures,
    Route,
    input_figures,
    is_phantom_on,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fed:
    """A device that phantom power from the recorder's input arrives at, if it is on."""

    hop: Hop
    need: PhantomNeed
    current_ma: float


def _runs_on_battery(hop: Hop) -> bool:
    battery = hop.controls.get("battery")
    return battery is not None and bool(battery.value)


def _need(hop: Hop) -> Fed | None:
    figures = hop.device.figures
    if isinstance(figures, ActiveDiFigures) and _runs_on_battery(hop):
        return Fed(hop=hop, need="tolerates", current_ma=0.0)
    if isinstance(figures, MicrophoneFigures | PreampFigures | ActiveDiFigures):
        return Fed(hop=hop, need=figures.phantom, current_ma=figures.phantom_current_ma)
    if isinstance(figures, PassiveDiFigures):
        return Fed(hop=hop, need=figures.phantom, current_ma=0.0)
    return None


@lru_cache(maxsize=1024)
def devices_reached(route: Route) -> tuple[Fed, ...]:
    """Devices at which the input's phantom power arrives, nearest first.

    Inline preamps keep it from the microphone unless they say they pass it; transformers block it.
    """
    found: list[Fed] = []
    for hop in reversed(route.hops[:-1] if route.is_complete else ()):
        fed = _need(hop)
        if fed is None:
            break
        found.append(fed)
        figures = hop.device.figures
        if not (isinstance(figures, PreampFigures) and figures.passes_phantom):
            break
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
def is_alive(route: Route) -> bool:
    """Whether every device that needs phantom power on this line gets it."""
    reached = {fed.hop.device.id for fed in devices_reached(route)} if is_fed(route) else set()
    return all(hop.device.id in reached for hop in devices_in_need(route))
