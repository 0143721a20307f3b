"""Steps of a run sheet as cards in no order; one takes them one by one, and the model of states watches."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from verve.core.network import devices_in_need
from verve.core.order import _words as words
from verve.core.power import (
    Hazard,
    RunStep,
    change_sheet,
    ends_alike,
    next_hazards,
    set_up_sheet,
    tear_down_sheet,
)
from verve.core.session import Session, Setup, only_lines, routes
from verve.core.words import fill

_MOST_STOPS = 3
Sheet = Literal["set up", "change", "tear down"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Stopped:
    """A card that was not taken: what it would have done, and when."""

    step: RunStep
    says: str
    is_harm: bool
    """Whether it itself would have harmed or banged; else a later card would have."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cards:
    """A sheet to be gone through from memory: what has been done, and what stopped."""

    setup: Setup
    sheet: tuple[RunStep, ...]
    shuffled: tuple[RunStep, ...]
    done: tuple[RunStep, ...] = ()
    stops: tuple[Stopped, ...] = ()
    stopped: Stopped | None = None
    """What the last card did, where it stopped."""

    @property
    def left(self) -> tuple[RunStep, ...]:
        """Cards that are still to be taken, in no order."""
        done = {step.key for step in self.done}
        return tuple(step for step in self.shuffled if step.key not in done)

    @property
    def is_over(self) -> bool:
        """Whether all cards are taken."""
        return not self.left

    def take(self, key: str) -> Cards:
        """Do this next; what would harm, bang or lead nowhere safe is not done, and told."""
        step = next(one for one in self.left if one.key == key)
        stopped = self._judge(step)
        if stopped is not None:
            return replace(self, stops=(*self.stops, stopped), stopped=stopped)
        return replace(self, done=(*self.done, step), stopped=None)

    def grade(self, hints: int) -> Literal[1, 2, 3, 4]:
        """How well it was known, with what was shown on the way: 1 missed, 4 at once."""
        missed = len(self.stops) + hints
        if missed > _MOST_STOPS:
            return 1
        return 4 if not missed else 3 if missed == 1 else 2

    def hint(self) -> RunStep:
        """A card that is safe now: the next one of the sheet."""
        taken = {step.key for step in self.done}
        return next(step for step in self.sheet if step.key not in taken)

    def says(self) -> str:
        """How it stands."""
        if self.stopped is not None:
            return self.stopped.says
        if not self.is_over:
            last = self.done[-1] if self.done else None
            return "" if last is None else f"{last.words} {last.reason}"
        if not self.stops:
            return words.DONE_AT_ONCE
        return f"{words.DONE} {fill(words.STOPS, stops=len(self.stops))}"

    def _judge(self, step: RunStep) -> Stopped | None:
        found = next_hazards(self.setup, self.sheet, self.done, step)
        if found:
            return _stopped(step, found[0])
        if step.kind == "wait" and not self._settles(step):
            what, instead = words.NOTHING_TO_WAIT_FOR
            said = fill(words.STOPPED, words=what, instead=instead)
            return Stopped(step=step, says=said, is_harm=False)
        done = (*self.done, step)
        taken = {one.key for one in done}
        for later in (one for one in self.sheet if one.key not in taken):
            found = next_hazards(self.setup, self.sheet, done, later)
            if found:
                said = fill(
                    words.TOO_EARLY,
                    step=later.words.rstrip("."),
                    words=found[0].words,
                    instead=found[0].instead,
                )
                return Stopped(step=step, says=said, is_harm=False)
            done = (*done, later)
        if not ends_alike(self.setup, self.sheet, done):
            what, instead = words.UNDONE_LATER
            said = fill(words.STOPPED, words=what, instead=instead)
            return Stopped(step=step, says=said, is_harm=False)
        return None

    def _settles(self, wait: RunStep) -> bool:
        """Whether every switch it waits for has been switched."""
        way = "phantom_on" if wait.key.endswith("on") else "phantom_off"
        switched = {step.subject for step in self.done if step.kind == way}
        return set(wait.subject.split(",")) <= switched


def _stopped(step: RunStep, hazard: Hazard) -> Stopped:
    said = fill(words.STOPPED, words=hazard.words, instead=hazard.instead)
    return Stopped(step=step, says=said, is_harm=True)


def lines_together(session: Session, line_id: str, most: int = 2) -> tuple[str, ...]:
    """A signal and another one to practise with it: one that needs phantom power, if the first does not."""
    found = [route for route in routes(session.setup) if route.is_complete]
    own = next((route for route in found if route.line.id == line_id), None)
    if own is None:
        return tuple(route.line.id for route in found[:most])
    others = [route for route in found if route.line.id != line_id]
    others.sort(key=lambda route: not any(True for _ in devices_in_need(route)))
    return (line_id, *(route.line.id for route in others[: most - 1]))


def cards_of(session: Session, sheet: Sheet, lines: Sequence[str], seed: int) -> Cards | None:
    """The cards of a sheet for some signals; None where nothing of them is whole. A change is of the first one."""
    setup = only_lines(session.setup, lines)
    match sheet:
        case "set up":
            steps = set_up_sheet(setup)
        case "change":
            steps = change_sheet(setup, lines[0]) if lines else ()
        case "tear down":
            steps = tear_down_sheet(setup)
    if not steps:
        return None
    shuffled = list(steps)
    random.Random(f"{sheet} {seed}").shuffle(shuffled)
    return Cards(setup=setup, sheet=steps, shuffled=tuple(shuffled))
