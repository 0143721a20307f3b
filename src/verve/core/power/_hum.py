"""What may hum: earths that meet by way of an unbalanced cable between boxes on the mains."""

from __future__ import annotations

from verve.core.engine import Engine
from verve.core.session import Setup, routes


def hum_risks(setup: Setup, engine: Engine | None = None) -> tuple[str, ...]:
    """Sources that run on the mains and go unbalanced into another mains-powered box: they may hum."""
    found = []
    for route in routes(setup, engine):
        first = route.steps[0]
        if not route.has_source:
            continue
        boxes = first.figures.records or first.figures.mixes
        cable = first.cable
        is_output = route.source.figures.is_on_mains()
        if is_output and boxes and cable is not None and not cable.balanced:
            found.append(route.source.name)
    return tuple(dict.fromkeys(found))
