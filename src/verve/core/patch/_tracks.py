"""Tracks of a recorder: one for each line, the two sides of a pair on neighbouring inputs as one."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.session import Route


@dataclass(frozen=True, slots=True, kw_only=True)
class Track:
    """What is recorded as one: its name, its colour's number, the device and its inputs, one or two."""

    name: str
    colour: int
    recorder: str
    inputs: tuple[str, ...]


def _number(route: Route) -> str:
    recorder = route.recorder
    return "" if recorder is None else recorder.in_port.removeprefix("in.")


def _place(route: Route) -> tuple[str, int, str]:
    recorder, number = route.recorder, _number(route)
    name = "" if recorder is None else recorder.name
    return name, int(number) if number.isdigit() else 999, number


def _together(one: str, other: str) -> str:
    """What two sides of a pair are called together: what their names have in common at the beginning."""
    alike = itertools.takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False))
    common = "".join(letter for letter, _ in alike).rstrip(" ,;:·-–—(+")
    return common or f"{one} + {other}"


def _is_other_side(one: Route, other: Route) -> bool:
    """Whether a route ends beside another, as the other side of its pair."""
    first, second = one.recorder, other.recorder
    if first is None or second is None or one is other or first.owner != second.owner:
        return False
    if one.line.pair is None or one.line.pair != other.line.pair:
        return False
    left, right = _number(one), _number(other)
    return left.isdigit() and right.isdigit() and int(right) == int(left) + 1


def tracks_of(routes: Sequence[Route]) -> tuple[Track, ...]:
    """Tracks in the order of devices and inputs."""
    arriving = sorted((r for r in routes if r.recorder is not None), key=_place)
    found: list[Track] = []
    done: set[str] = set()
    for route in arriving:
        if route.line.id in done or route.recorder is None:
            continue
        partner = next((other for other in arriving if _is_other_side(route, other)), None)
        done |= {route.line.id} | (set() if partner is None else {partner.line.id})
        name = route.line.name
        inputs: tuple[str, ...] = (_number(route),)
        if partner is not None:
            name = _together(name, partner.line.name)
            inputs = (*inputs, _number(partner))
        found.append(
            Track(name=name, colour=route.line.colour, recorder=route.recorder.name, inputs=inputs)
        )
    return tuple(found)
