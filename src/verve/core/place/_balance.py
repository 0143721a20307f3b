"""One microphone for two sources: the place where both are equally loud in it."""

from __future__ import annotations

import itertools

from verve.core.air import hearing_of, positions_of
from verve.core.errors import EditError
from verve.core.place import _words as words
from verve.core.session import Aim, Session, place_microphone
from verve.core.words import fill

_RISES_DEG = range(-85, 86, 5)
_FACTORS = (1.0, 1.25, 0.8, 1.6, 0.63, 2.0, 0.5, 3.0)
_NEAREST_M, _FARTHEST_M = 0.2, 3.0
_HALVINGS = 12


def has_two(session: Session, microphone: str) -> bool:
    """Whether it is there for two sources, or more."""
    mic = positions_of(session.setup).microphone(microphone)
    return mic is not None and len(mic.wants) > 1


def balance_db(session: Session, microphone: str) -> float:
    """How far the second source of a microphone is above the first one in it, at typical playing.

    raises: EditError if it is not there for two
    """
    hearing = hearing_of(positions_of(session.setup))
    number = next(
        (n for n, one in enumerate(hearing.positions.microphones) if one.id == microphone), None
    )
    if number is None or len(hearing.wanted[number]) < 2:
        raise EditError(f"{microphone}: must be there for two sources")
    found = hearing.balance_db(number, hearing.wanted[number][1])
    return 0.0 if found is None else found


def balanced(session: Session, microphone: str) -> Session:
    """The microphone higher or lower before its first source, where the second one is as loud.

    As far away as now where that is possible, else a little nearer or farther; of several places the one nearest to
    where it is. raises: EditError if it is not there for two, or no place does it
    """
    positions = positions_of(session.setup)
    mic = positions.microphone(microphone)
    if mic is None or len(mic.wants) < 2:
        raise EditError(f"{microphone}: must be there for two sources")
    for factor in _FACTORS:
        distance_m = round(min(max(mic.distance_m * factor, _NEAREST_M), _FARTHEST_M), 2)

        def at(rise_deg: float, distance_m: float = distance_m) -> Session:
            update = {"rise_deg": rise_deg}
            return place_microphone(
                session, mic.id, mic.aim.model_copy(update=update), distance_m=distance_m
            )

        def off(rise_deg: float) -> float:
            return balance_db(at(rise_deg), microphone)

        known = [(float(rise), off(float(rise))) for rise in _RISES_DEG]
        crossings = [
            (low, high)
            for (low, before), (high, after) in itertools.pairwise(known)
            if before * after <= 0.0
        ]
        if not crossings:
            continue
        low, high = min(crossings, key=lambda pair: abs(sum(pair) / 2.0 - mic.aim.rise_deg))
        begins = off(low)
        for _ in range(_HALVINGS):
            middle = (low + high) / 2.0
            if off(middle) * begins > 0.0:
                low = middle
            else:
                high = middle
        return at(round((low + high) / 2.0, 1))
    names = [s.name for one in mic.wants[:2] if (s := positions.source(one)) is not None]
    raise EditError(fill(words.NOT_BALANCED, microphone=mic.name, first=names[0], second=names[1]))


def balanced_text(session: Session, microphone: str) -> str:
    """Where that is, in words; empty where it is there for one source only, or there is no such place."""
    if not has_two(session, microphone):
        return ""
    try:
        there = balanced(session, microphone)
    except EditError as error:
        return str(error)
    positions = positions_of(there.setup)
    mic = positions.microphone(microphone)
    assert mic is not None
    names = [s.name for one in mic.wants[:2] if (s := positions.source(one)) is not None]
    aim: Aim = mic.aim
    return fill(
        words.BALANCED, first=names[0], second=names[1], distance_cm=mic.distance_m * 100.0,
        rise_deg=aim.rise_deg,
    )  # fmt: skip
