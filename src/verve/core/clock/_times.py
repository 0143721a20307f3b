"""How long things take: typical seconds, and what a person's own days have shown in their place."""

from __future__ import annotations

import statistics
from collections.abc import Mapping, Sequence
from datetime import datetime
from itertools import pairwise
from typing import Final

from verve.core.power import RunStep
from verve.core.session import Session, Take

STEP_S: Final[Mapping[str, float]] = {
    "monitors_down": 10.0, "monitors_up": 20.0, "listen": 60.0, "gain_down": 5.0, "gain_up": 60.0, "plug": 30.0,
    "unplug": 15.0, "power_on": 20.0, "power_off": 15.0, "phantom_on": 5.0, "phantom_off": 5.0, "wait": 10.0,
    "place": 120.0, "load": 60.0, "arm": 20.0,
}  # fmt: skip
"""By the kind of a step of a run sheet; typical."""
TYPICAL_S: Final[Mapping[str, float]] = {
    "check": 120.0, "tune": 60.0, "between_takes": 40.0, "pause": 900.0, "song": 240.0, "cable": 150.0,
}  # fmt: skip
"""A check of one signal, tuning for one player, from one take to the next, a pause, a song whose length nobody has
said, and a cable of a layer that is not connected yet; typical."""
PAUSE_EVERY_S: Final = 5400.0
LEAST: Final = 3
"""From so many times of one's own on they count."""
_LONGEST_GAP_S = 3600.0


class Pace:
    """Typical times, and learnt ones where there are enough."""

    def __init__(self, learnt: Mapping[str, Sequence[float]] | None = None) -> None:
        """`learnt` are seconds by what they are of; "change" is a ratio to what is typical."""
        self._learnt = {
            key: statistics.median(values)
            for key, values in (learnt or {}).items()
            if len(values) >= LEAST
        }

    def seconds(self, key: str) -> float:
        """How long one of these takes."""
        return self._learnt.get(key, TYPICAL_S[key])

    def is_learnt(self, key: str) -> bool:
        """Whether that is one's own."""
        return key in self._learnt

    def steps_s(self, steps: Sequence[RunStep]) -> float:
        """How long steps of a run sheet take."""
        return self._learnt.get("change", 1.0) * sum(STEP_S[step.kind] for step in steps)


def learnt_from(session: Session, expected_s: Mapping[str, float]) -> dict[str, tuple[float, ...]]:
    """What the takes of a session show: from one take to the next, and how long changes took against what was
    expected of them in seconds, by layer.

    source: times between takes of one day, less what was recorded; an hour and more was no change but a pause
    """
    takes = sorted(session.takes, key=lambda one: one.recorded_at)
    between: list[float] = []
    ratios: list[float] = []
    for one, two in pairwise(takes):
        gap = _gap_s(one, two)
        if gap is None:
            continue
        if one.layer == two.layer:
            between.append(gap)
        elif two.layer is not None and expected_s.get(two.layer):
            ratios.append(gap / expected_s[two.layer])
    found: dict[str, tuple[float, ...]] = {}
    if between:
        found["between_takes"] = tuple(between)
    if ratios:
        found["change"] = tuple(ratios)
    return found


def _gap_s(one: Take, two: Take) -> float | None:
    """Seconds from the end of a take to the beginning of the next; None where nobody knows, or for another day."""
    try:
        begins = [datetime.fromisoformat(take.recorded_at) for take in (one, two)]
        apart = (begins[1] - begins[0]).total_seconds() - one.seconds
    except (ValueError, TypeError):
        # What another program wrote, or with a time zone and without.
        return None
    return apart if 0.0 < apart < _LONGEST_GAP_S else None
