"""The corridor as outlines in its own units: stages to the right, dBu upwards. No pixels here."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from verve.core.assess import Assessment, LineAssessment
    from verve.core.explain import Edge, Span


Point = tuple[float, float]

_ENTERS = 0.05
_RISES = 0.36
_RISEN = 0.64
_LEAVES = 0.95
HANDLE_AT = _RISEN
"""Where within a stage the band is taken hold of."""
_LEAST_FLOOR_DBU = -150.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """Outlines of one line: band edges over all stages, walls and floor where there are any."""

    hardest: tuple[Point, ...]
    typical: tuple[Point, ...]
    softest: tuple[Point, ...]
    ceilings: tuple[tuple[Point, ...], ...]
    floor: tuple[Point, ...]
    stages: int

    def lowest(self) -> float | None:
        """The lowest point that has to be seen."""
        ys = [y for _, y in (*self.softest, *self.floor)]
        return max(min(ys), _LEAST_FLOOR_DBU) if ys else None

    def highest(self) -> float | None:
        """The highest point that has to be seen."""
        ys = [y for points in (self.hardest, *self.ceilings) for _, y in points]
        return max(ys) if ys else None


def _corners(
    index: int, left: float | None, right: float | None
) -> list[tuple[float, float | None]]:
    return [
        (index + _ENTERS, left),
        (index + _RISES, left),
        (index + _RISEN, right),
        (index + _LEAVES, right),
    ]


def _outline(spans: Sequence[Span], name: str) -> list[tuple[float, float | None]]:
    found: list[tuple[float, float | None]] = []
    for index, span in enumerate(spans):
        found += _corners(index, _side(span.left, name), _side(span.right, name))
    return found


def _side(edge: Edge, name: str) -> float | None:
    return {
        "hardest": edge.hardest_dbu,
        "ceiling": edge.ceiling_dbu,
        "floor": edge.floor_dbu,
    }[name]


def _runs(points: Sequence[tuple[float, float | None]]) -> tuple[tuple[Point, ...], ...]:
    runs: list[list[Point]] = [[]]
    for x, y in points:
        if y is None:
            runs.append([])
        else:
            runs[-1].append((x, y))
    return tuple(tuple(run) for run in runs if len(run) > 1)


def _solid(
    points: Sequence[tuple[float, float | None]], lower_by: float = 0.0
) -> tuple[Point, ...]:
    return tuple((x, y - lower_by) for x, y in points if y is not None)


def shape_of(item: LineAssessment) -> Shape:
    """The outlines of an assessed line; empty for one that cannot be computed."""
    # With its state, which is the same while other lines are moved, and goes with it.
    return item.state.once(shape_of, lambda: _shape(item))


def _shape(item: LineAssessment) -> Shape:
    spans, state = item.spans, item.state
    band = _outline(spans, "hardest")
    return Shape(
        hardest=_solid(band),
        typical=_solid(band, state.below_hardest_db("typical")),
        softest=_solid(band, state.below_hardest_db("softest")),
        ceilings=_runs(_outline(spans, "ceiling")),
        floor=_solid(_outline(spans, "floor")),
        stages=len(spans),
    )


def shared_scale(assessment: Assessment) -> tuple[float, float]:
    """One scale for all lines of a session, in dBu: lowest and highest, in whole tens."""
    shapes = [shape_of(item) for item in assessment.lines]
    lows = [y for shape in shapes if (y := shape.lowest()) is not None]
    highs = [y for shape in shapes if (y := shape.highest()) is not None]
    low = math.floor((min(lows, default=-130.0) - 4.0) / 10.0) * 10.0
    high = math.ceil((max(highs, default=20.0) + 4.0) / 10.0) * 10.0
    return min(low, -120.0), max(high, 30.0)
