"""What goes wrong on such days: a deck that is drawn from by a seed, as often as one wants."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from verve.core.clock._plan import Day, Event


@dataclass(frozen=True, slots=True, kw_only=True)
class Incident:
    """One of them: what it is, what mending it takes, what would have kept it away; `during` are kinds of events."""

    key: str
    title: str
    seconds: float
    prevents: str
    during: tuple[str, ...]
    can_wait: bool = True


DECK: Final = (
    Incident(
        key="string",
        title="A string breaks",
        seconds=360.0,
        prevents="Spare strings beside the chair, new ones a day or two before.",
        during=("take", "tune"),
    ),
    Incident(
        key="late",
        title="Somebody comes late",
        seconds=1200.0,
        prevents="Ask for everybody half an hour before they are needed; begin with a layer of who is there.",
        during=("set_up", "wait", "check"),
        can_wait=False,
    ),
    Incident(
        key="cable",
        title="A cable has gone",
        seconds=180.0,
        prevents="One spare cable of each kind within reach, tested.",
        during=("check", "take", "change"),
    ),
    Incident(
        key="battery",
        title="A battery is empty",
        seconds=150.0,
        prevents="New batteries on the morning, and the old ones as spares.",
        during=("check", "take"),
    ),
    Incident(
        key="noise",
        title="Noise from outside: work in the street",
        seconds=480.0,
        prevents="Quiet takes early, or after five; ask the neighbours.",
        during=("take",),
    ),
    Incident(
        key="update",
        title="The computer wants to update, and starts again",
        seconds=720.0,
        prevents="Update the days before; on the day no network.",
        during=("set_up", "check", "take"),
        can_wait=False,
    ),
    Incident(
        key="hum",
        title="It hums, and nobody knows from where",
        seconds=600.0,
        prevents="All mains plugs into one strip; practise to find the fault.",
        during=("check", "change"),
    ),
    Incident(
        key="adapter",
        title="An adapter for the headphones is missing",
        seconds=300.0,
        prevents="The shopping list of Brief has every adapter.",
        during=("set_up", "check"),
    ),
    Incident(
        key="phone",
        title="A telephone rings in the best take",
        seconds=60.0,
        prevents="Telephones off, in another room.",
        during=("take",),
    ),
    Incident(
        key="voice",
        title="The voice is tired",
        seconds=900.0,
        prevents="What is loud and high comes last, or after a pause.",
        during=("take",),
    ),
    Incident(
        key="tuning",
        title="The tuning has drifted with the warm room",
        seconds=240.0,
        prevents="Tune after every take once it gets warm.",
        during=("take",),
    ),
    Incident(
        key="fuse",
        title="The light goes out: a fuse",
        seconds=900.0,
        prevents="Ask the caretaker beforehand who may touch the fuses, and where; nothing else on that circuit.",
        during=("set_up", "check", "take"),
        can_wait=False,
    ),
)


def drawn(day: Day, per_h: float, seed: int) -> dict[int, Incident]:
    """Incidents by the number of the event they fall into, so many an hour on average.

    source: Poisson, independent of each other; of one event at most one
    """
    rng = np.random.default_rng([seed, 18])
    found = {}
    for number, event in enumerate(day.events):
        hits = rng.random() < 1.0 - np.exp(-per_h * event.seconds / 3600.0)
        pick = int(rng.integers(1 << 30))
        fitting = fitting_in(event)
        if hits and fitting:
            found[number] = fitting[pick % len(fitting)]
    return found


def fitting_in(event: Event) -> Sequence[Incident]:
    """What can go wrong during an event."""
    return [one for one in DECK if event.kind in one.during]
