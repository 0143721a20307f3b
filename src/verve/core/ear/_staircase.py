"""Adaptive thresholds: two right answers make it harder, one wrong makes it easier."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

POSITIONS: Final = 24
"""From the easiest, 0, to the hardest."""
_STEPS: Final = (4, 2, 1)
_REVERSALS: Final = 8
_COUNTED: Final = 4
MOST_TRIALS: Final = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Scale:
    """What is varied: from its easiest to its hardest value, evenly, or by equal ratios."""

    easiest: float
    hardest: float
    is_ratio: bool = False

    def value(self, position: float) -> float:
        """The value at a position, 0 to 24; between two positions as well."""
        share = position / POSITIONS
        if self.is_ratio:
            return float(self.easiest * (self.hardest / self.easiest) ** share)
        return float(self.easiest + (self.hardest - self.easiest) * share)

    def position(self, value: float) -> float:
        """Where a value is: the other way round."""
        if self.is_ratio:
            return float(
                POSITIONS * np.log(value / self.easiest) / np.log(self.hardest / self.easiest)
            )
        return float(POSITIONS * (value - self.easiest) / (self.hardest - self.easiest))


@dataclass(frozen=True, slots=True, kw_only=True)
class Staircase:
    """Where a drill is: the position now, and every answer until now with its position.

    source: Levitt 1971, two down, one up: it settles where 70.7 % of the answers are right
    """

    scale: Scale
    position: int = 4
    answers: tuple[tuple[int, bool], ...] = ()
    reversals: tuple[int, ...] = ()
    _right: int = 0
    _way: int = 0

    @property
    def value(self) -> float:
        """What is played next."""
        return self.scale.value(self.position)

    @property
    def is_over(self) -> bool:
        """Whether enough turns have been heard."""
        return len(self.reversals) >= _REVERSALS or len(self.answers) >= MOST_TRIALS

    @property
    def threshold(self) -> float | None:
        """What is told apart in 70.7 % of all cases: the mean of the last turns; None before there are any."""
        last = self.reversals[-_COUNTED:]
        return self.scale.value(float(np.mean(last))) if len(last) >= 2 else None

    def answered(self, is_right: bool) -> Staircase:
        """After one more answer."""
        answers = (*self.answers, (self.position, is_right))
        if is_right and self._right == 0:
            return replace(self, answers=answers, _right=1)
        way = 1 if is_right else -1
        turns = self.reversals
        if self._way and way != self._way:
            turns = (*turns, self.position)
        step = _STEPS[min(len(turns) // 2, len(_STEPS) - 1)]
        position = int(np.clip(self.position + way * step, 0, POSITIONS))
        return replace(
            self, position=position, answers=answers, reversals=turns, _right=0, _way=way
        )
