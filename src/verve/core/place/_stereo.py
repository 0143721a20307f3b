"""Stereo with one press: both microphones of a pair put as a technique wants them, and what that gives."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from verve.core.acoustics import Point, StereoPair, Technique, bearing_deg, distance_m
from verve.core.air import PlacedMicrophone, Positions, aim_at, positions_of
from verve.core.errors import EditError
from verve.core.line import PRESSURE_SHARE
from verve.core.place import _words as words
from verve.core.session import Session, Setup, place_microphone
from verve.core.words import Fact, fill, number

_LEVEL_DB, _TIME_MS = 15.0, 1.1
"""So much between both sides, or so late, is heard wholly from one of them; typical, and both add up."""
_WIDEST_DEG = 90
_SHARE = 0.6
"""Of the angle covered, what a source should fill at most to be neither a point nor wall to wall; typical."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrangement:
    """How the two stand: between their axes, apart from one another; which patterns it takes."""

    technique: Technique
    opening_deg: float
    spacing_m: float
    needs_pattern: bool


ARRANGEMENTS: Final[Mapping[Technique, Arrangement]] = {
    "coincident": Arrangement(
        technique="coincident", opening_deg=90.0, spacing_m=0.0, needs_pattern=True
    ),
    "near_coincident": Arrangement(
        technique="near_coincident", opening_deg=110.0, spacing_m=0.17, needs_pattern=True
    ),
    "spaced": Arrangement(technique="spaced", opening_deg=0.0, spacing_m=0.5, needs_pattern=False),
    "middle_side": Arrangement(
        technique="middle_side", opening_deg=0.0, spacing_m=0.0, needs_pattern=True
    ),
}


def pairs_of(
    setup: Setup, positions: Positions
) -> tuple[tuple[PlacedMicrophone, PlacedMicrophone], ...]:
    """Left and right microphone of every stereo pair on one source."""
    ends = {link.id: link.end for link in setup.links}
    by_pair: dict[str, list[PlacedMicrophone]] = {}
    for line in setup.lines:
        mic = positions.microphone(ends[line.first_link])
        if line.pair is not None and mic is not None:
            by_pair.setdefault(line.pair, []).append(mic)
    return tuple(
        (both[0], both[1])
        for both in by_pair.values()
        if len(both) == 2 and both[0].wants[0] == both[1].wants[0] and both[0].id != both[1].id
    )


def pair_with(
    setup: Setup, positions: Positions, microphone: str
) -> tuple[PlacedMicrophone, PlacedMicrophone] | None:
    """The pair that a microphone is one side of."""
    return next(
        (pair for pair in pairs_of(setup, positions) if microphone in (pair[0].id, pair[1].id)),
        None,
    )


def arranged(session: Session, microphone: str, technique: Technique) -> Session:
    """Both microphones of a pair put so, about the middle between them, as far from the source as that is.

    raises: EditError if it is no pair, or its patterns cannot do that
    """
    positions = positions_of(session.setup)
    pair = pair_with(session.setup, positions, microphone)
    if pair is None:
        raise EditError(f"{microphone}: must be one side of a stereo pair on one source")
    _check_patterns(pair, ARRANGEMENTS[technique])
    source = positions.source(pair[0].wants[0])
    assert source is not None
    middle = Point(*(sum(xyz) / 2.0 for xyz in zip(_xyz(pair[0]), _xyz(pair[1]), strict=True)))
    away = distance_m(source.at, middle)
    if away < 0.02:
        raise EditError(f"{source.name}: must not be in the microphones")
    # Two in one point are as far away as the farther one was: the middle between them is nearer.
    far = max(pair[0].distance_m, pair[1].distance_m) if len({pair[0].at, pair[1].at}) > 1 else away
    stretched = far / away if technique in ("coincident", "middle_side") else 1.0
    centre = Point(
        source.at.x_m + (middle.x_m - source.at.x_m) * stretched,
        source.at.y_m + (middle.y_m - source.at.y_m) * stretched,
        source.at.z_m + (middle.z_m - source.at.z_m) * stretched,
    )
    front = bearing_deg(centre, source.at)
    for mic, at, aim in _places(pair, centre, front, ARRANGEMENTS[technique]):
        about, distance = aim_at(source, at)
        turn = (aim - bearing_deg(at, source.at) + 180.0) % 360.0 - 180.0
        about = about.model_copy(update={"turns_left": turn < 0.0})
        angle = None if mic.capsule.pattern is None else round(abs(turn), 1)
        session = place_microphone(
            session, mic.id, about, distance_m=round(distance, 4), angle_deg=angle
        )
    return session


def _xyz(mic: PlacedMicrophone) -> tuple[float, float, float]:
    return mic.at.x_m, mic.at.y_m, mic.at.z_m


def _places(
    pair: tuple[PlacedMicrophone, PlacedMicrophone],
    centre: Point,
    front_deg: float,
    how: Arrangement,
) -> Iterator[tuple[PlacedMicrophone, Point, float]]:
    """Each microphone, where it goes, and where it is aimed."""
    across = math.radians(front_deg + 90.0)
    if how.technique == "middle_side":
        side = next(m for m in pair if m.capsule.pattern == "figure_eight")
        for mic in pair:
            yield mic, centre, front_deg - 90.0 if mic is side else front_deg
        return
    for mic, sign in zip(pair, (-1.0, 1.0), strict=True):
        half = sign * how.spacing_m / 2.0
        at = Point(
            centre.x_m + math.sin(across) * half, centre.y_m + math.cos(across) * half, centre.z_m
        )
        yield mic, at, front_deg + sign * how.opening_deg / 2.0


def _check_patterns(pair: tuple[PlacedMicrophone, PlacedMicrophone], how: Arrangement) -> None:
    patterns = [one.capsule.pattern for one in pair]
    if how.technique == "middle_side":
        if patterns.count("figure_eight") != 1:
            raise EditError(
                "Mid/side: must have one figure-of-eight, which is the side, beside another one"
            )
        return
    if how.needs_pattern and any(pattern in (None, "omni") for pattern in patterns):
        raise EditError(
            "XY and near-coincident: must have microphones with a direction, cardioids for example"
        )


def as_pair(pair: tuple[PlacedMicrophone, PlacedMicrophone]) -> StereoPair:
    """The pair as it stands, in the figures that techniques have."""
    left, right = pair
    spacing = distance_m(left.at, right.at)
    opening = (right.aim_deg - left.aim_deg + 180.0) % 360.0 - 180.0
    pattern = left.capsule.pattern
    return StereoPair(
        technique="spaced"
        if spacing > 0.3
        else "near_coincident"
        if spacing > 0.02
        else "coincident",
        pressure_share=1.0 if pattern is None else PRESSURE_SHARE[pattern],
        opening_deg=abs(opening),
        spacing_m=spacing,
    )


def covered_deg(pair: StereoPair) -> float | None:
    """Half the angle that fills the picture from side to side; None where even 90° does not."""
    for angle in range(1, _WIDEST_DEG + 1):
        heard = pair.hears(float(angle))
        level = heard.level_difference_db
        share = 1.0 if level is None else abs(level) / _LEVEL_DB
        if share + abs(heard.time_difference_ms) / _TIME_MS >= 1.0:
            return float(angle)
    return None


def stereo_facts(setup: Setup, positions: Positions, microphone: str) -> tuple[Fact, ...]:
    """What a pair gives as it stands; nothing for a microphone that is no side of one."""
    pair = pair_with(setup, positions, microphone)
    if pair is None:
        return ()
    source = positions.source(pair[0].wants[0])
    assert source is not None
    stereo = as_pair(pair)
    far = (pair[0].distance_m + pair[1].distance_m) / 2.0
    extent = 0.0 if source.figures is None else source.figures.extent_m
    edge = math.degrees(math.atan2(extent, far))
    at_edge = stereo.hears(edge, far)
    covered, mono = covered_deg(stereo), stereo.mono_db(edge, far)
    level = at_edge.level_difference_db
    found = [
        _fact(
            words.COVERED,
            words.COVERED_NEVER if covered is None else f"{number(2.0 * covered, 0)}°",
            fill(words.COVERED_HOW, level_db=_LEVEL_DB, time_ms=_TIME_MS),
        ),
        _fact(
            words.SOURCE_WIDTH,
            f"{number(2.0 * edge, 0)}°",
            fill(words.SOURCE_WIDTH_HOW, size_cm=200.0 * extent, distance_cm=100.0 * far),
        ),
        _fact(
            words.AT_EDGE,
            fill(
                words.AT_EDGE_TEXT,
                level_db=0.0 if level is None else abs(level),
                time_ms=abs(at_edge.time_difference_ms),
            ),
            words.AT_EDGE_HOW,
        ),
    ]
    if mono is not None:
        found.append(_fact(words.MONO, f"{number(mono, 1)} dB", words.MONO_HOW))
    return tuple(found)


def _fact(label: str, text: str, how: str) -> Fact:
    return Fact(label=label, text=text, origin="computed", how=how)
