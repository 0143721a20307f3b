"""Picking cables from the kit: the shortest that reaches and fits, for all connections at once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.errors import EditError
from verve.core.kind import CableFigures, DeviceFigures, Plug, SourceFigures
from verve.core.session import KitItem, Route, Session, routes, with_setup

SOURCE_M, STAGE_M, SHORT_M = 2.0, 4.0, 0.2
"""How far it usually is from an instrument to its box, from there to the recorder, and between two boxes
that hang together (typical)."""
_NO_FIT = 1e6
_SHORT_PER_M = 100.0
"""A metre too short is worse than any excess: it is taken only where nothing else is left."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """A connection that needs a cable: its two plugs, and how long it should be."""

    id: str
    name: str
    start: Plug
    end: Plug
    least_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Picked:
    """The cable of a run; `item` is None for one that is not in the kit."""

    run: Run
    item: KitItem | None
    cable: CableFigures


def _plain(run: Run) -> CableFigures:
    """What stands for a cable that is missing: typical, as long as it should be."""
    balanced = run.start == "xlr"
    return CableFigures(
        length_m=max(run.least_m, 0.5),
        capacitance_f_per_m=1e-10 if balanced else 1.1e-10,
        resistance_ohm_per_m=0.08,
        balanced=balanced,
        plugs=(run.start, run.end),
        origin="assumed",
    )


def fits(cable: CableFigures, run: Run) -> bool:
    """Whether a cable's plugs are those of a run, either way round; without stated plugs by kind."""
    if cable.plugs is None:
        return cable.balanced == (run.start == "xlr")
    return cable.plugs in {(run.start, run.end), (run.end, run.start)}


def pick(runs: Sequence[Run], kit: Sequence[KitItem]) -> tuple[Picked, ...]:
    """One cable for every run: none used twice, the least excess and the least missing in all.

    source: scipy.optimize.linear_sum_assignment (Jonker-Volgenant), exact
    """
    units = [item for item in kit if item.cable is not None for _ in range(item.there)]
    if not runs:
        return ()
    chosen: dict[int, KitItem] = {}
    if units:
        from scipy.optimize import linear_sum_assignment

        cost = np.array([[_cost(unit, run) for unit in units] for run in runs])
        at_run, at_unit = linear_sum_assignment(cost)
        chosen = {
            int(i): units[int(j)]
            for i, j in zip(at_run, at_unit, strict=True)
            if cost[i, j] < _NO_FIT
        }
    found = []
    for number, run in enumerate(runs):
        item = chosen.get(number)
        cable = _plain(run) if item is None or item.cable is None else item.cable
        found.append(Picked(run=run, item=item, cable=cable))
    return tuple(found)


def _cost(unit: KitItem, run: Run) -> float:
    assert unit.cable is not None
    if not fits(unit.cable, run):
        return _NO_FIT
    excess = unit.cable.length_m - run.least_m
    return excess if excess >= 0.0 else -_SHORT_PER_M * excess


def recabled(session: Session, line_id: str) -> Session:
    """The session with a cable that fits at the end of a line, from what the kit has left.

    Where the plugs already fit nothing changes; without a fitting one in the kit it is an assumed one.

    raises: EditError for an unknown line
    """
    route = next((r for r in routes(session.setup) if r.line.id == line_id), None)
    if route is None or route.recorder is None:
        raise EditError(f"{line_id}: must be a signal that ends in an interface")
    return _with_fitting(session, route, {route.recorder.link.id})


def recabled_beside(session: Session, before: Session) -> Session:
    """The session with fitting cables wherever something was put in, replaced or taken out since `before`.

    A box has its own sockets: a jack cable that led to an input does not lead on from a DI box.
    """
    had = {link.id: (link.start, link.end) for link in before.setup.links}
    figures = {device.id: device.figures for device in before.setup.devices}
    other = {d.id for d in session.setup.devices if figures.get(d.id) != d.figures}
    touched = {
        link.id
        for link in session.setup.links
        if had.get(link.id) != (link.start, link.end)
        or {link.start.split(":")[0], link.end.split(":")[0]} & other
    }
    for route in routes(session.setup):
        session = _with_fitting(session, route, touched)
    return session


def _runs(route: Route, wanted: Collection[str]) -> list[Run]:
    """Connections of a line, of those wanted, whose cable does not have their plugs."""
    found = []
    figures: DeviceFigures | SourceFigures | None = (
        route.source.figures if route.has_source else None
    )
    for step in route.steps:
        start = None if figures is None else figures.output_plug()
        end = step.figures.plug_at(step.in_port, step.mode)
        figures, cable = step.figures, step.link.cable
        if step.link.id not in wanted or cable is None or start is None or end is None:
            continue
        least_m = min(cable.length_m, STAGE_M)
        run = Run(id=step.link.id, name=route.line.name, start=start, end=end, least_m=least_m)
        if not fits(cable, run):
            found.append(run)
    return found


def _with_fitting(session: Session, route: Route, wanted: Collection[str]) -> Session:
    """The session with fitting cables for some connections of a line."""
    runs = _runs(route, wanted)
    if not runs:
        return session
    setup, own = session.setup, {run.id for run in runs}
    used = Counter(
        link.kit_item for link in setup.links if link.kit_item is not None and link.id not in own
    )
    left = [
        item.model_copy(update={"quantity": max(0, item.quantity - used[item.id])})
        for item in session.kit
    ]
    picked = {one.run.id: one for one in pick(runs, left)}
    links = []
    for link in setup.links:
        one = picked.get(link.id)
        if one is not None:
            key = None if one.item is None else one.item.id
            link = link.model_copy(update={"cable": one.cable, "kit_item": key})
        links.append(link)
    return with_setup(session, links=tuple(links))
