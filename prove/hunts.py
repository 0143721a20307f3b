"""Practice is fair: every fault is found by what is seen alone, and no order that is let through harms anything."""

from __future__ import annotations

import random

from prove.report import Tally
from prove.second_model import SecondModel
from prove.sessions import session_of
from verve.core.engine import Engine
from verve.core.hunt import (
    Case,
    actions_of,
    cases_of,
    outcome,
    practice_session,
    searcher_of,
    signs_of,
)
from verve.core.order import Cards, Sheet, cards_of, lines_together

_BOUND_S = 900.0
_SIGNALS = 3
_SHEETS: tuple[Sheet, ...] = ("set up", "change", "tear down")


def hunted(count: int, first: int) -> Tally:
    """Each fault hidden on some signals of so many sessions, and looked for by who sees only what a person sees."""
    tally = Tally("faults hidden and found by an ideal searcher")
    for number in range(first, first + count):
        session = practice_session(session_of(number))
        for case in list(cases_of(session, Engine()))[:_SIGNALS]:
            _hunt(case, f"session {number}, {case.name}", tally)
    return tally


def _hunt(case: Case, where: str, tally: Tally) -> None:
    actions = actions_of(case)
    worlds = [case.world((fault,)) for fault in case.faults]
    searcher = searcher_of(worlds, actions)
    usual = {one.key: outcome(case.world(()), one) for one in actions}
    groups: dict[tuple[object, ...], list[int]] = {}
    for at, world in enumerate(worlds):
        groups.setdefault(signs_of(world).at_once, []).append(at)
    for group in groups.values():
        for at in group:
            fault, left, spent_s = case.faults[at], tuple(group), 0.0
            for trial in searcher.path(left, at):
                left = searcher.after(left, trial, at)
                spent_s += trial.seconds
            names = {case.faults[one].title for one in left}
            hands_on = any(
                outcome(worlds[at], one) != usual[one.key]
                for one in actions
                if one.kind != "listen"
            )
            if names != {fault.title}:
                tally.fault(f"{where}: {fault.key} is not told from {sorted(names)}")
            elif spent_s > _BOUND_S:
                tally.fault(f"{where}: {fault.key} takes {spent_s:.0f} s")
            elif not hands_on:
                tally.fault(f"{where}: {fault.key} is seen nowhere")
            else:
                tally.note("found")


def ordered(count: int, first: int) -> Tally:
    """Cards pressed at random: what is let through is walked in a second model of states."""
    tally = Tally("orders from memory, in a second model of states")
    for number in range(first, first + count):
        session = session_of(number)
        lines = lines_together(session, "")
        for sheet in _SHEETS:
            cards = cards_of(session, sheet, lines, number) if lines else None
            if cards is None:
                continue
            cards = _at_random(cards, random.Random(f"{number} {sheet}"))
            said = _walked(cards, sheet)
            if not cards.is_over:
                tally.fault(f"session {number}, {sheet}: stuck before {cards.left[0].words}")
            elif said:
                tally.fault(f"session {number}, {sheet}: {said[0]}")
            else:
                tally.note(sheet)
    return tally


def _at_random(cards: Cards, rng: random.Random) -> Cards:
    """Any card that is let through, until none is."""
    while not cards.is_over:
        order = list(cards.left)
        rng.shuffle(order)
        after = next((a for one in order if (a := cards.take(one.key)).stopped is None), None)
        if after is None:
            return cards
        cards = after
    return cards


def _walked(cards: Cards, sheet: Sheet) -> list[str]:
    model = SecondModel(cards.setup)
    if sheet == "set up":
        model.plugged = {link.id for link in cards.setup.links if link.cable is None}
    else:
        model = model.all_up()
    for step in cards.done:
        model.do(step)
    return [str(one) for one in model.said]
