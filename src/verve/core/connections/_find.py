"""The door: a pass in, a way for every signal out, or what is missing for one."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from verve.core.catalogue import catalogue
from verve.core.connections import _words as words
from verve.core.connections._build import build, locked_of
from verve.core.connections._cables import Picked
from verve.core.connections._possible import (
    Connection,
    Progress,
    Rated,
    connections_of,
    is_short_of_inputs,
    rate,
)
from verve.core.connections._signals import Signal, signals_of
from verve.core.connections._solve import Answer, Problem, kind_of, solve
from verve.core.connections._stock import Stock, stock_of
from verve.core.session import Brief, KitItem, Pass, Session, Setup, routes
from verve.core.words import fill

BUYABLE = (
    "moving_coil",
    "condenser_small",
    "condenser_large",
    "ribbon",
    "inline_preamp",
    "passive_di",
    "active_di",
    "piezo_di",
    "interface_one",
    "interface_two",
    "interface_four",
    "interface_eight",
    "interface_sixteen",
)
"""Of the catalogue, what may be proposed where something is missing: one of each usual kind."""
_SAME_DB = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Alternative:
    """Another way of one signal: what it is, how it compares, and why it was not taken."""

    words: str
    worse_db: float
    why_not: str
    is_equal: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """The way of one signal with the reason for it."""

    signal: Signal
    rated: Rated
    reason: str
    alternatives: tuple[Alternative, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Missing:
    """Something that would have to be got: what, how many, and for which signals."""

    item: KitItem
    count: int
    signals: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """A way for every signal: the choices, the session with the patch in it, the cables picked.

    `missing` is empty where the kit suffices; else the smallest set of things that would make it do,
    and the choices and session are those with them. `gap_db` is 0 when proven the best.
    """

    choices: tuple[Choice, ...]
    session: Session
    cables: tuple[Picked, ...]
    missing: tuple[Missing, ...]
    gap_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class NoSuggestion:
    """No way even with more gear: for which signals, and why."""

    signals: tuple[str, ...]
    why: str


def problem_of(
    session: Session,
    item: Pass,
    *,
    with_more: bool,
    keeps_small: bool = False,
    brief: Brief | None = None,
    progress: Progress | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> Problem:
    """A pass as a problem: its signals, all their ways rated, what is taken by fixed lines.

    Recorders with fewer sockets than there are signals are left out, unless it `keeps_small`: for looking
    at parts of the pass.

    raises: CancelledError if it is no longer wanted
    """
    kept = locked_of(session.setup)
    fixed = {source.part for source in kept.sources}
    parts = [p for p in (brief or session.brief).parts_of(item) if p.id not in fixed]
    signals = signals_of(parts)
    extra = buyable() if with_more else ()
    least = 1 if keeps_small else len(signals)
    stock = stock_of(
        [item for item in session.kit if _has_inputs(item, least)],
        [item for item in extra if _has_inputs(item, least)],
    )
    is_short = is_short_of_inputs(stock, sum(signal.is_air for signal in signals))
    connections: list[Connection] = []
    owners: list[tuple[str, int, Connection]] = []
    known: dict[tuple[object, ...], int] = {}
    # Both sides of a pair are one calculation, as are equal parts at one place.
    first_of: dict[tuple[object, ...], str] = {}
    same_as: dict[str, str] = {}
    for signal in signals:
        key = (
            id(signal.figures),
            signal.is_air,
            signal.distance_m,
            signal.part.principle,
        )
        same_as[signal.id] = first_of.setdefault(key, signal.id)
        if same_as[signal.id] == signal.id:
            for connection in connections_of(signal, stock, is_short=is_short):
                at = known.setdefault((signal.id, connection.physics), len(connections))
                if at == len(connections):
                    connections.append(connection)
                owners.append((signal.id, at, connection))
    rated = rate(session.setup, connections, progress, is_cancelled)
    by_signal: dict[str, list[Rated]] = {signal.id: [] for signal in signals}
    for owner, at, connection in owners:
        found = rated[at]
        if found is not None:
            by_signal[owner].append(replace(found, connection=connection))
    taken, taken_ma, recorder = _taken(kept, stock)
    return Problem(
        signals=signals,
        connections={
            signal.id: tuple(_for(r, signal) for r in by_signal[same_as[signal.id]])
            for signal in signals
        },
        stock=stock,
        taken=taken,
        taken_ma=taken_ma,
        recorder=recorder,
        may_add=tuple(box.id for box in stock.all()) if with_more else (),
    )


def _has_inputs(item: KitItem, least: int) -> bool:
    """Whether a thing is no recorder, or one with so many sockets."""
    device = item.device
    return device is None or not device.records or len(device.input_ports()) >= least


def _for(rated: Rated, signal: Signal) -> Rated:
    if rated.connection.signal.id == signal.id:
        return rated
    return replace(rated, connection=replace(rated.connection, signal=signal))


def _taken(kept: Setup, stock: Stock) -> tuple[dict[str, int], dict[str, float], str | None]:
    """What the fixed lines use of boxes, sockets and phantom current, and where they end."""
    taken: dict[str, int] = {}
    for device in kept.devices:
        if device.kit_item is not None:
            sides = device.figures.lines_kept_apart()
            taken[device.kit_item] = taken.get(device.kit_item, 0) + sides
    ends = {link.end for link in kept.links}
    recorders = {box.id for box in stock.recorders}
    recorder = None
    for device in kept.devices:
        if device.kit_item in recorders:
            recorder = device.kit_item
            taken.pop(device.kit_item or "", None)
            used = {p for p in device.figures.input_ports() if f"{device.id}:{p}" in ends}
            for inputs in stock.inputs:
                if inputs.recorder == device.kit_item:
                    count = len(used & set(inputs.names))
                    if count:
                        taken[inputs.id] = count
    current: dict[str, float] = {}
    for route in routes(kept):
        recorder_id = None if route.recorder is None else route.recorder.owner
        key = next((d.kit_item for d in kept.devices if d.id == recorder_id), None)
        if key is not None:
            drawn = sum(step.figures.drawn_ma() for step in route.steps)
            current[key] = current.get(key, 0.0) + drawn
    return taken, current, recorder


def buyable() -> tuple[KitItem, ...]:
    """One of each usual kind, as kit items of which there are none."""
    devices = catalogue().devices
    return tuple(
        KitItem(id=f"more_{key}", name=devices[key].name, quantity=0, device=devices[key].figures)
        for key in BUYABLE
    )


def suggest_connections(
    session: Session,
    item: Pass,
    *,
    progress: Progress | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> Suggestion | NoSuggestion:
    """The best way in for all signals of a pass; where the kit does not do, with the fewest things more.

    raises: CancelledError if it is no longer wanted
    """
    problem = problem_of(
        session, item, with_more=False, progress=progress, is_cancelled=is_cancelled
    )
    answer = solve(problem)
    if answer is None:
        problem = problem_of(
            session, item, with_more=True, progress=progress, is_cancelled=is_cancelled
        )
        if not problem.stock.recorders:
            names = tuple(signal.name for signal in problem.signals)
            return NoSuggestion(signals=names, why=words.TOO_FEW_SOCKETS)
        lost = [s.name for s in problem.signals if not problem.connections[s.id]]
        if lost:
            return NoSuggestion(signals=tuple(lost), why=_no_way(problem))
        answer = solve(problem)
        if answer is None:
            names = tuple(signal.name for signal in problem.signals)
            return NoSuggestion(signals=names, why=words.TOO_FEW_FITTING_SOCKETS)
    built, cables = build(session, problem.signals, answer)
    return suggestion_of(problem, answer, built, cables)


def _no_way(problem: Problem) -> str:
    lost = [s for s in problem.signals if not problem.connections[s.id]]
    if any(s.part.principle is not None for s in lost):
        return words.NO_MICROPHONE
    return words.NO_WAY


def suggestion_of(
    problem: Problem, answer: Answer, built: Session, cables: tuple[Picked, ...]
) -> Suggestion:
    """What was chosen with the reason for each, and the session in which it is patched."""
    return Suggestion(
        choices=tuple(_choice(problem, answer, signal) for signal in problem.signals),
        session=built,
        cables=cables,
        missing=_missing(problem, answer),
        gap_db=answer.gap_db,
    )


def _missing(problem: Problem, answer: Answer) -> tuple[Missing, ...]:
    boxes = {box.id: box for box in problem.stock.all()}
    found = []
    for key, count in answer.added.items():
        users = tuple(
            rated.connection.signal.name
            for rated in answer.chosen.values()
            if key in {box.id for box in (*rated.connection.boxes, rated.connection.recorder)}
        )
        found.append(Missing(item=boxes[key].item, count=count, signals=users))
    return tuple(found)


def _free(problem: Problem, answer: Answer, signal: Signal) -> Mapping[str, int]:
    """How many of each box and kind of socket the other signals leave."""
    left = {box.id: box.count - problem.taken.get(box.id, 0) for box in problem.stock.all()}
    for key, count in answer.added.items():
        left[key] = left.get(key, 0) + count
    for inputs in problem.stock.inputs:
        left[inputs.id] = len(inputs.names) - problem.taken.get(inputs.id, 0)
    for rated in answer.chosen.values():
        if rated.connection.signal.id != signal.id:
            for key in (*(box.id for box in rated.connection.boxes), rated.connection.inputs.id):
                left[key] -= 1
    return left


def _blocked(problem: Problem, answer: Answer, signal: Signal, rated: Rated) -> str:
    """What keeps a better way from being taken; empty where nothing does."""
    connection = rated.connection
    chosen = answer.chosen[signal.id].connection
    if connection.recorder.id != chosen.recorder.id:
        return fill(words.ONE_RECORDER, recorder=chosen.recorder.name)
    left = _free(problem, answer, signal)
    for box in connection.boxes:
        if left.get(box.id, 0) < 1:
            users = [
                r.connection.signal.name
                for r in answer.chosen.values()
                if r.connection.signal.id != signal.id
                and box.id in {b.id for b in r.connection.boxes}
            ]
            return (
                fill(words.BOX_IN_USE, box=box.name, users=", ".join(users))
                if users
                else fill(words.NO_BOX, box=box.name)
            )
    if left.get(connection.inputs.id, 0) < 1:
        return fill(words.NO_FREE_INPUT, mode=connection.mode)
    if signal.partner is not None:
        return words.PAIR_ALIKE
    if connection.inputs.switch:
        return fill(words.SWITCH_SHARED, switch=connection.inputs.switch)
    return ""


def _choice(problem: Problem, answer: Answer, signal: Signal) -> Choice:
    chosen = answer.chosen[signal.id]
    others: dict[tuple[object, ...], Rated] = {}
    for rated in problem.connections[signal.id]:
        key = kind_of(rated)
        if key != kind_of(chosen):
            best = others.get(key)
            if best is None or rated.quality_db > best.quality_db:
                others[key] = rated
    ranked = sorted(
        others.values(), key=lambda r: (r.flaws, -r.quality_db, len(r.connection.boxes))
    )
    alternatives = tuple(_alternative(problem, answer, signal, rated) for rated in ranked[:4])
    return Choice(
        signal=signal,
        rated=chosen,
        reason=_reason(chosen, ranked, alternatives),
        alternatives=alternatives,
    )


def _alternative(problem: Problem, answer: Answer, signal: Signal, rated: Rated) -> Alternative:
    chosen = answer.chosen[signal.id]
    worse_db = chosen.quality_db - rated.quality_db
    is_equal = False
    if rated.flaws > chosen.flaws:
        why = rated.why
    elif worse_db > _SAME_DB:
        why = fill(words.NEARER_TO_NOISE, worse_db=worse_db)
    elif blocked := _blocked(problem, answer, signal, rated):
        why = blocked
    elif worse_db < -_SAME_DB:
        why = words.OTHER_GAINS_MORE
    else:
        is_equal = len(rated.connection.boxes) <= len(chosen.connection.boxes)
        why = words.EQUAL if is_equal else words.MORE_BOXES
    return Alternative(
        words=rated.connection.words, worse_db=worse_db, why_not=why, is_equal=is_equal
    )


def _reason(chosen: Rated, ranked: Sequence[Rated], others: Sequence[Alternative]) -> str:
    said = fill(words.ABOVE_NOISE, snr_db=chosen.snr_db)
    if not ranked:
        return fill(words.ONLY_WAY, said=said)
    better = next((a for a in others if a.worse_db < -_SAME_DB and a.why_not), None)
    if better is not None:
        return fill(
            words.BETTER_WOULD_BE, said=said, connection=better.words, why_not=better.why_not
        )
    first = others[0]
    if first.is_equal:
        return fill(words.AS_WITH, said=said, connection=first.words)
    return fill(words.NEXT_BEST, said=said, connection=first.words, why_not=first.why_not)
