"""What may hum: earths that meet by way of an unbalanced cable between boxes on the mains; how to tell hum apart."""

from __future__ import annotations

from verve.core.engine import Engine
from verve.core.power import _words as words
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


_STRUNG = {"plucked", "bowed"}


def hum_tests(setup: Setup) -> tuple[str, ...]:
    """Tests of ten seconds each that tell where a hum comes from: those that can be made here, the quickest first.

    The last is no test: what a tingle means, and that it is never to be mended by lifting an earth.
    """
    if not setup.lines:
        return ()
    figures = [source.figures for source in setup.sources]
    plugged = [one for one in figures if not one.is_acoustic and not one.is_on_mains()]
    found = []
    if any(one.player in _STRUNG for one in plugged):
        found.append(words.HUM_STRINGS)
    if any(one.hears_fields() for one in plugged):
        found.append(words.HUM_TURN)
    return (*found, words.HUM_LAPTOP, words.TINGLE)
