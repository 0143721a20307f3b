"""One hunt: what is hidden, what has been done about it, how long that took; and what is told at its end."""

from __future__ import annotations

import random
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations
from typing import Final, Literal

from verve.core.engine import Engine
from verve.core.hunt import _words as words
from verve.core.hunt._actions import (
    Action,
    actions_of,
    back_text,
    is_possible,
    live_text,
    meter_text,
    outcome,
    pause_text,
    shown,
)
from verve.core.hunt._faults import Fault
from verve.core.hunt._search import Searcher, Trial
from verve.core.hunt._world import Case, World, case_of, signs_of
from verve.core.pressing import pressed
from verve.core.session import Session
from verve.core.words import fill

_AGAIN_S: Final = 5.0
"""To play once more after something was mended, and to look at the meter."""
_MOST_WORLDS: Final = 600
_LEAST_S: Final = 10.0
"""Two quick looks are never held against anybody, though the meter alone would have told it."""
_IN_A_ROW, _WELL = 3, 3
_AT_ONCE, _TROUBLE = 1.5, 4.0
"""So many times as long as the quickest search."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """Something that was done: its words, what it took, what it showed; `fault` is one that was named."""

    text: str
    seconds: float
    says: str
    action: str = ""
    fault: str = ""
    is_right: bool = False


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Hunt:
    """A hunt under way. `hidden` are the faults, `mended` those that were found, by their keys."""

    case: Case
    hidden: tuple[Fault, ...]
    mended: frozenset[str] = frozenset()
    steps: tuple[Step, ...] = ()
    is_given_up: bool = False
    actions: tuple[Action, ...] = field(default=(), repr=False)

    @property
    def world(self) -> World:
        """How it is now."""
        return self.case.world([one for one in self.hidden if one.key not in self.mended])

    @property
    def spent_s(self) -> float:
        """What all of it has taken, in seconds."""
        return sum(step.seconds for step in self.steps)

    @property
    def is_over(self) -> bool:
        """Whether everything is mended, or told."""
        return self.is_given_up or len(self.mended) == len(self.hidden)

    @property
    def at_once(self) -> str:
        """What is seen from the stool now."""
        return meter_text(signs_of(self.world))

    def do(self, key: str) -> Hunt:
        """Look, listen, swap or switch."""
        action = next(one for one in self.actions if one.key == key)
        says = shown(self.world, action)
        step = Step(text=action.text, seconds=action.seconds, says=says, action=key)
        return replace(self, steps=(*self.steps, step))

    def name(self, title: str) -> Hunt:
        """Say what it is, and mend that; what was not it costs its time all the same."""
        named = [one for one in self.case.faults if one.title == title]
        right = next((one for one in self.hidden if one.title == title), None)
        is_right = right is not None and right.key not in self.mended
        said = words.NAMED_RIGHT if is_right else words.NAMED_WRONG
        step = Step(
            text=named[0].mend,
            seconds=named[0].mend_s + _AGAIN_S,
            says=fill(said, title=title),
            fault=named[0].key if right is None else right.key,
            is_right=is_right,
        )
        mended = self.mended | {right.key} if right is not None else self.mended
        return replace(self, steps=(*self.steps, step), mended=mended)

    def give_up(self) -> Hunt:
        """Be told."""
        return replace(self, is_given_up=True)

    def names(self) -> tuple[str, ...]:
        """Everything it may be, in words, each once, in the order of the signal path."""
        return tuple(dict.fromkeys(one.title for one in self.case.faults))


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """A step of the quickest search: what is done, its time, and how many possibilities are left after it."""

    text: str
    seconds: float
    says: str
    left: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Debrief:
    """What it was, how it showed, the quickest search beside one's own, and the take as it would have been.

    `expected_s` is what the quickest search takes on average from such signs, `quickest_s` what it takes for this
    fault; `is_exact` whether everything was tried to find it. Mending is in neither. `looked_s` is one's own time
    without mending.
    """

    faults: tuple[Fault, ...]
    showed: str
    quickest: tuple[Told, ...]
    expected_s: float
    quickest_s: float
    is_exact: bool
    steps: tuple[Step, ...]
    looked_s: float
    wrong: int
    take: str
    is_given_up: bool

    @property
    def times_quickest(self) -> float:
        """How many times as long one has searched as the quickest search does on average; at least 1."""
        return max(1.0, self.looked_s / max(self.expected_s, _LEAST_S))


def practice_session(session: Session) -> Session:
    """A copy to practise on: everything that a press can put right is right in it."""
    return pressed(session).session


def cases_of(session: Session, engine: Engine) -> Iterator[Case]:
    """Every signal of a session that is set up right on which a fault can be hidden."""
    for line in session.setup.lines:
        found = case_of(session, line.id, engine)
        if found is not None and found.faults:
            yield found


def hunt_of(
    case: Case, seed: int, count: int = 1, wanted: Collection[str] = (), known: Collection[str] = ()
) -> Hunt:
    """Hide so many faults, by chance and by how usual they are.

    `wanted` are kinds that are taken first, `known` those that are taken only where there is no other.
    """
    rng = random.Random(f"{seed} {case.line}")
    hidden = _drawn(case, rng, wanted, known)
    if count > 1:
        others = [
            (hidden, one)
            for one in case.faults
            if one.kind != hidden.kind and _show_together(case, (hidden, one))
        ]
        if others:
            pair = rng.choices(others, [two.prior for _, two in others])[0]
            return _begun(case, pair)
    return _begun(case, (hidden,))


def _drawn(
    case: Case, rng: random.Random, wanted: Collection[str], known: Collection[str]
) -> Fault:
    for pool in (
        [one for one in case.faults if one.kind in wanted],
        [one for one in case.faults if one.kind not in known],
        list(case.faults),
    ):
        if pool:
            # By kind first: what stands on many controls is not hidden more often for that.
            kinds = list(dict.fromkeys(one.kind for one in pool))
            kind = rng.choice(kinds)
            own = [one for one in pool if one.kind == kind]
            return rng.choices(own, [one.prior for one in own])[0]
    raise AssertionError("a case has faults")


def _show_together(case: Case, faults: tuple[Fault, Fault]) -> bool:
    """Whether each of two shows beside the other: mending either changes what is perceived."""
    both = case.world(faults)
    if not is_possible(both):
        return False
    signs = signs_of(both)
    return all(signs_of(case.world((one,))) != signs for one in faults)


def _begun(case: Case, hidden: tuple[Fault, ...]) -> Hunt:
    return Hunt(case=case, hidden=hidden, actions=actions_of(case))


def debrief(hunt: Hunt) -> Debrief:
    """What is told at the end. With two faults it takes some seconds: every pair is gone through."""
    case = hunt.case
    whole = case.world(hunt.hidden)
    signs = signs_of(whole)
    worlds = _possible(case, len(hunt.hidden), signs.at_once, whole)
    at = next(
        number
        for number, one in enumerate(worlds)
        if {f.key for f in one.faults} == {f.key for f in hunt.hidden}
    )
    searcher = searcher_of(worlds, hunt.actions)
    left = tuple(range(len(worlds)))
    plan = searcher.plan(left)
    quickest = tuple(_told(searcher, left, at, worlds[at], hunt.actions))
    own = [step for step in hunt.steps if not step.fault]
    return Debrief(
        faults=hunt.hidden,
        showed=f"{meter_text(signs)} {live_text(signs)} {pause_text(signs)}",
        quickest=quickest,
        expected_s=plan.expected_s,
        quickest_s=sum(one.seconds for one in quickest),
        is_exact=plan.is_exact,
        steps=hunt.steps,
        looked_s=sum(step.seconds for step in own)
        + sum(step.seconds for step in hunt.steps if step.fault and not step.is_right),
        wrong=sum(bool(step.fault) and not step.is_right for step in hunt.steps),
        take=back_text(signs),
        is_given_up=hunt.is_given_up,
    )


def _possible(
    case: Case, count: int, at_once: tuple[object, ...], hidden: World
) -> tuple[World, ...]:
    """All that could show so at once: single faults, or pairs, the likeliest where there are very many."""
    sets: list[tuple[Fault, ...]] = [(one,) for one in case.faults]
    if count > 1:
        sets = [pair for pair in combinations(case.faults, 2) if pair[0].kind != pair[1].kind]
        sets.sort(key=lambda pair: -pair[0].prior * pair[1].prior)
    found = []
    for one in sets:
        world = case.world(one)
        if is_possible(world) and signs_of(world).at_once == at_once:
            found.append(world)
        if len(found) >= _MOST_WORLDS:
            break
    own = {f.key for f in hidden.faults}
    if all({f.key for f in world.faults} != own for world in found):
        found.append(hidden)
    return tuple(found)


def searcher_of(worlds: Sequence[World], actions: Sequence[Action]) -> Searcher:
    """The quickest search among some worlds, by the priors of their faults."""
    trials = [
        Trial(
            key=action.key,
            seconds=action.seconds,
            outcomes=tuple(outcome(world, action) for world in worlds),
        )
        for action in actions
    ]
    priors, names = [], []
    for world in worlds:
        weight = 1.0
        for one in world.faults:
            weight *= one.prior
        priors.append(weight)
        names.append(frozenset(one.title for one in world.faults))
    return Searcher(priors, trials, names)


def _told(
    searcher: Searcher, left: tuple[int, ...], at: int, world: World, actions: Sequence[Action]
) -> Iterator[Told]:
    by_key = {action.key: action for action in actions}
    for trial in searcher.path(left, at):
        left = searcher.after(left, trial, at)
        action = by_key[trial.key]
        yield Told(
            text=action.text, seconds=action.seconds, says=shown(world, action), left=len(left)
        )


def grade_of(found: Debrief) -> Literal[1, 2, 3, 4]:
    """How well a fault was found, as it decides when it comes back: 1 missed, 4 at once."""
    if found.is_given_up or found.wrong > 1:
        return 1
    if found.wrong or found.times_quickest > _TROUBLE:
        return 2
    return 4 if found.times_quickest <= _AT_ONCE else 3


def how_many(grades: Sequence[int]) -> int:
    """How many faults are hidden next, by how the hunts until now went: two, once three in a row went well."""
    last = grades[-_IN_A_ROW:]
    return 2 if len(last) == _IN_A_ROW and min(last) >= _WELL else 1
