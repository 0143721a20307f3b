"""Kits and passes of catalogue entries, and the plain rules that a choice must keep."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from verve.core.catalogue import catalogue
from verve.core.connections import Problem, Rated, cost_of, flaw_weight, kind_of
from verve.core.gear import AcousticFigures, InterfaceFigures
from verve.core.session import Brief, Capture, KitItem, Part, Pass, Principle, Session

ENTRIES = catalogue()


def kit(counts: dict[str, int]) -> tuple[KitItem, ...]:
    """Kit items of catalogue keys."""
    found = []
    for key, count in counts.items():
        if key in ENTRIES.devices:
            entry = ENTRIES.devices[key]
            found.append(KitItem(id=key, name=entry.name, quantity=count, device=entry.figures))
        elif key in ENTRIES.cables:
            cable = ENTRIES.cables[key]
            found.append(KitItem(id=key, name=cable.name, quantity=count, cable=cable.figures))
        else:
            name = key.replace("_", " ")
            found.append(KitItem(id=key, name=name, quantity=count, accessory=key))
    return tuple(found)


def part(
    key: str,
    *,
    name: str = "",
    plug: str = "",
    capture: Capture | None = None,
    principle: Principle | None = None,
    performer: str = "",
) -> Part:
    """A part that plays one catalogue source; with a plug besides, or a plug alone."""
    figures = ENTRIES.sources[key].figures
    sound = figures if isinstance(figures, AcousticFigures) else None
    wire = ENTRIES.sources[plug].figures if plug else None if sound is not None else figures
    return Part(
        id=(name or key).lower().replace(" ", "_"),
        name=name or ENTRIES.sources[key].name,
        performer=performer,
        sound=sound,
        plug=wire,
        capture=capture or ("microphone" if sound is not None else "plug"),
        principle=principle,
    )


def session_of(parts: Sequence[Part], counts: dict[str, int]) -> Session:
    """A session whose one pass has all these parts, and nothing patched yet."""
    one = Pass(id="all", name="All at once", parts=tuple(p.id for p in parts))
    return Session(brief=Brief(parts=tuple(parts), passes=(one,)), kit=kit(counts))


def is_allowed(problem: Problem, chosen: Sequence[Rated]) -> bool:
    """Whether a choice for all signals keeps every rule, told without rows and columns."""
    if len({rated.connection.recorder.id for rated in chosen}) > 1:
        return False
    for box in problem.stock.all():
        used = sum(box.id in {b.id for b in rated.connection.boxes} for rated in chosen)
        here = [rated for rated in chosen if rated.connection.recorder.id == box.id]
        if box in problem.stock.recorders:
            if here and box.count < 1:
                return False
            assert isinstance(box.figures, InterfaceFigures)
            budget = box.figures.phantom_budget_ma
            if budget is not None and sum(r.connection.current_ma for r in here) > budget + 1e-9:
                return False
        elif used > box.count - problem.taken.get(box.id, 0):
            return False
    for inputs in problem.stock.inputs:
        inside = [rated for rated in chosen if rated.connection.inputs.id == inputs.id]
        if len(inside) > len(inputs.names) - problem.taken.get(inputs.id, 0):
            return False
        powers = {rated.connection.power for rated in inside}
        if inputs.switch and {"needs", "never"} <= powers:
            return False
    kinds = {rated.connection.signal.id: kind_of(rated) for rated in chosen}
    return all(
        signal.partner is None or kinds[signal.id] == kinds[signal.partner]
        for signal in problem.signals
    )


def brute_force(problem: Problem) -> float | None:
    """The least cost of all choices there are; None where none is allowed."""
    weight = flaw_weight(problem)
    best: float | None = None
    options = [problem.connections[signal.id] for signal in problem.signals]
    for chosen in itertools.product(*options):
        cost = sum(cost_of(rated, weight) for rated in chosen)
        if (best is None or cost < best) and is_allowed(problem, chosen):
            best = cost
    return best
