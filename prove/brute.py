"""Gains and connections against trying everything: the same answer, or none by both."""

from __future__ import annotations

import math
import random

from tests.core.connections.builders import brute_force, is_allowed, part
from tests.core.connections.builders import session_of as session_of_parts
from tests.core.gain.test_optimum import coarse
from tests.core.gain.test_solve import check, every_option

from prove.report import Tally
from verve.core.catalogue import add_chain, catalogue
from verve.core.connections import cost_of, flaw_weight, problem_of, solve
from verve.core.errors import EditError
from verve.core.gain import gains_set
from verve.core.network import line_states, powered
from verve.core.session import Session, routes

_MOST_COMBINATIONS = 3000
_SOUNDS = ("voice_singing", "violin", "hand_drum", "trumpet")
_PLUGS = ("bass_pickup", "double_coil", "piezo_bridge", "keyboard_output")
_KIT = (
    ("moving_coil", 2),
    ("ribbon", 1),
    ("condenser_small", 2),
    ("inline_preamp", 1),
    ("active_di", 1),
    ("passive_di", 1),
    ("interface_two", 1),
    ("interface_two_shared", 1),
    ("interface_one", 1),
)


def gains(count: int, first: int) -> Tally:
    """The solver's settings of a chain are those of the best of all combinations of its positions."""
    tally, number = Tally("gains, against every combination"), first
    while tally.tries < count:
        rng = random.Random(f"gains {number}")
        number += 1
        chain = rng.choice(catalogue().chains)
        try:
            session, line = add_chain(Session(), catalogue(), chain)
        except EditError:
            continue
        for route in routes(session.setup):
            session = powered(session, route)
        session = coarse(session, rng.choice((4.0, 6.0, 10.0)))
        wanted = [row.id for row in session.setup.lines if row.pair is None and row.id == line]
        if not wanted:
            continue
        (state,) = (s for s in line_states(session.setup) if s.line.id == line)
        settable = gains_set(state)
        # The gain of a pedal is part of the sound: nobody sets it for the level.
        options = {
            keys: places
            for keys, places in every_option(session, wanted, 6.0).items()
            if keys[0][2] != "gain_db" or keys[0][:2] in settable
        }
        if math.prod(len(places) for places in options.values()) > _MOST_COMBINATIONS:
            continue
        try:
            check(session, options, wanted)
        except AssertionError as wrong:
            tally.fault(f"{chain.id}, try {number - 1}: {str(wrong).splitlines()[:1]}")
        else:
            tally.note("the best")
    return tally


def connections(count: int, first: int) -> Tally:
    """What the routing finds costs as little as the cheapest of all choices that keep every rule."""
    tally = Tally("connections, against every choice")
    for number in range(first, first + count):
        rng = random.Random(f"connections {number}")
        sound = rng.choice(_SOUNDS)
        parts = [part(sound, name="One", capture="pair" if rng.random() < 0.5 else None)]
        if parts[0].capture != "pair":
            parts.append(part(rng.choice((*_SOUNDS, *_PLUGS)), name="Two"))
        session = session_of_parts(parts, {key: rng.randint(0, most) for key, most in _KIT})
        problem = problem_of(session, session.brief.passes[0], with_more=False)
        answer, best = solve(problem), brute_force(problem)
        if answer is None or best is None:
            same = answer is None and best is None
        else:
            chosen = [answer.chosen[signal.id] for signal in problem.signals]
            weight = flaw_weight(problem)
            cost = sum(cost_of(rated, weight) for rated in chosen)
            same = is_allowed(problem, chosen) and abs(cost - best) < 1e-6
        if same:
            tally.note("none" if answer is None else "the cheapest")
        else:
            tally.fault(f"try {number}: another than the cheapest")
    return tally
