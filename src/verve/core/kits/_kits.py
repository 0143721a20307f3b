"""What to buy for a brief, as a few honest answers."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace

from verve.core.catalogue import catalogue
from verve.core.connections import problem_of
from verve.core.kits import _words as words
from verve.core.kits._solve import Kit, Pass, _Model, models_of
from verve.core.kits._things import Thing
from verve.core.session import Brief, KitItem, Package, Session, Wish
from verve.core.words import fill

WORTH_DB = 3.0
"""In sum over all signals, less than this is no step worth money."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """One answer: what it is, why, and the kit."""

    name: str
    why: str
    kit: Kit


@dataclass(frozen=True, slots=True, kw_only=True)
class Kits:
    """The answers to a brief; `said` says what keeps there from being one, or what the budget misses."""

    offers: tuple[Offer, ...]
    said: str = ""


def _passes(session: Session, brief: Brief, is_cancelled: Callable[[], bool]) -> list[Pass]:
    # What is patched already says nothing of what has to be there: every pass is looked at from nothing.
    bare = session.model_copy(
        update={
            "brief": brief,
            "setup": session.setup.model_copy(
                update={"lines": (), "links": (), "devices": (), "sources": ()}
            ),
        }
    )
    found = []
    for item in brief.passes:
        parts = brief.parts_of(item)
        people = len({part.performer for part in parts if part.performer}) or 1
        problem = problem_of(bare, item, with_more=True, is_cancelled=is_cancelled)
        if problem.signals:
            found.append(Pass(name=item.name, problem=problem, people=people))
    return found


def cheapest(models: Sequence[_Model]) -> Kit | None:
    """The kit with the fewest flaws, and of those the cheapest; None where there is none."""
    kits = [kit for model in models if (kit := model.solve()) is not None]
    return min(
        kits, key=lambda kit: (kit.flaws, round(kit.price, 2), -kit.quality_db), default=None
    )


def _best(models: Sequence[_Model], most: float, most_flaws: int) -> Kit | None:
    kits = [
        kit
        for model in models
        if (kit := model.solve(most=most, most_flaws=most_flaws, by_quality=True)) is not None
    ]
    return max(kits, key=lambda kit: (round(kit.quality_db, 2), -kit.price), default=None)


def _better(models: Sequence[_Model], than_db: float, most_flaws: int) -> Kit | None:
    kits = [
        kit
        for model in models
        if (kit := model.solve(least_quality_db=than_db, most_flaws=most_flaws)) is not None
    ]
    return min(kits, key=lambda kit: kit.price, default=None)


def _least_why(flaws: int) -> str:
    if not flaws:
        return words.LEAST_WHY
    return words.LEAST_WITH_FLAW if flaws == 1 else fill(words.LEAST_WITH_FLAWS, flaws=flaws)


def kits_of(
    session: Session,
    budget: float | None = None,
    *,
    also: Collection[str] = (),
    is_cancelled: Callable[[], bool] = lambda: False,
) -> Kits:
    """What to buy for all passes of the brief, with what is in the kit already.

    The cheapest complete kit; with a budget the best within it, and the next worthwhile step above; with a
    brief for later also the cheapest for both. `also` are names of `ALSO`: monitors, software. Each is exact for
    the prices that it reckons with.

    raises: CancelledError if it is no longer wanted
    """
    passes = _passes(session, session.brief, is_cancelled)
    if not passes:
        said = words.NO_INPUTS if session.brief.parts else words.NO_PARTS
        return Kits(offers=(), said=said)
    models = models_of(session, passes, is_cancelled, also)
    least = cheapest(models)
    if least is None:
        lost = [
            s.name
            for item in passes
            for s in item.problem.signals
            if not item.problem.connections[s.id]
        ] or [s.name for item in passes for s in item.problem.signals]
        return Kits(offers=(), said=fill(words.NO_WAY, signals=", ".join(lost)))
    currency = session.shopping.currency
    offers = [Offer(name=words.LEAST, why=_least_why(least.flaws), kit=least)]
    if budget is not None and least.price > budget:
        said = fill(words.TOO_LITTLE, cost=round(least.price), currency=currency)
        return Kits(offers=tuple(offers), said=said)
    best = least
    if budget is not None:
        best = _best(models, budget, least.flaws) or least
        if best.quality_db >= least.quality_db + WORTH_DB:
            offers.append(Offer(name=words.BEST, why=words.BEST_WHY, kit=best))
        else:
            best = least
    step = _better(models, best.quality_db + WORTH_DB, least.flaws)
    if step is not None and step.price > best.price:
        why = fill(words.NEXT_WHY, by_db=WORTH_DB)
        offers.append(Offer(name=words.NEXT, why=why, kit=step))
    if session.later is not None and session.later.passes:
        both = [*passes, *_passes(session, session.later, is_cancelled)]
        later = cheapest(models_of(session, both, is_cancelled, also))
        if later is not None:
            offers.append(Offer(name=words.LATER, why=words.LATER_WHY, kit=later))
    return Kits(offers=tuple(map(_as_proven, offers)))


def _as_proven(offer: Offer) -> Offer:
    """An answer that says so where the solver ran out of time before it had proven it."""
    if offer.kit.is_proven:
        return offer
    return replace(offer, why=fill(words.NOT_PROVEN, why=offer.why))


def wishes_of(session: Session, kit: Kit, package: Package = "both") -> tuple[Wish, ...]:
    """What a kit buys as wishes for the shopping list: prices are left to be typed."""
    found = []
    parts = {
        rated.connection.signal.name: rated.connection.signal.part.id
        for ways in kit.chosen.values()
        for rated in ways.values()
    }
    for number, one in enumerate(kit.bought, 1):
        item = _item(session, one.thing)
        if item is not None:
            found.append(
                Wish(
                    id=f"wish_{number}",
                    name=one.thing.name,
                    item=item,
                    quantity=one.count,
                    price=one.thing.price if one.thing.origin == "typed" else None,
                    package=package,
                    parts=tuple(dict.fromkeys(parts[u] for u in one.users if u in parts)),
                )
            )
    return tuple(found)


def _item(session: Session, one: Thing) -> KitItem | None:
    """A thing that can be had as an item of a kit."""
    entries = catalogue()
    own = next((item for item in session.kit if item.id == one.key), None)
    if own is not None:
        return own.model_copy(update={"quantity": 1})
    key = one.key.removeprefix("more_")
    if key in entries.devices:
        return KitItem(id=key, name=one.name, device=entries.devices[key].figures)
    if key in entries.cables:
        return KitItem(id=key, name=one.name, cable=entries.cables[key].figures)
    return KitItem(id=key, name=one.name, accessory=key)
