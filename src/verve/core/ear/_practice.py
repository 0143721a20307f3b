"""A drill under way: examples one after the other, answers, and at the end what they mean."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from verve.core.ear import _words as words
from verve.core.ear._drills import DRILLS, Drill
from verve.core.ear._sounds import Example, example_of
from verve.core.ear._staircase import Staircase
from verve.core.words import fill

LETTERS = ("A", "B")
_FINE = 10.0
"""Below this a tenth matters."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Session:
    """Where it is: which drill, its staircase, and what the last answer was told."""

    drill: Drill
    seed: int
    stairs: Staircase
    says: str = ""

    @staticmethod
    def of(key: str, seed: int, start_value: float | None = None) -> Session:
        """At the beginning; a known threshold begins a little easier than that.

        raises: KeyError for no such drill
        """
        drill = DRILLS[key]
        stairs = Staircase(scale=drill.scale)
        if start_value is not None:
            easier = max(0, round(drill.scale.position(start_value)) - 6)
            stairs = replace(stairs, position=easier)
        return Session(drill=drill, seed=seed, stairs=stairs)

    def example(self) -> Example:
        """What is compared now."""
        return example_of(
            self.drill, self.stairs.value, self.seed * 1000 + len(self.stairs.answers)
        )

    def answered(self, place: int, odd: int) -> Session:
        """Somebody has said that the first (0) or the second (1) is the odd one; `odd` is which one is."""
        is_right = place == odd
        said = words.RIGHT if is_right else words.WRONG
        return replace(
            self,
            stairs=self.stairs.answered(is_right),
            says=fill(said, letter=LETTERS[odd], what=self.drill.what),
        )

    @property
    def grade(self) -> Literal[1, 2, 3, 4]:
        """How well it was heard: 3 as well as with practice, 1 where nothing was told apart."""
        found, scale = self.stairs.threshold, self.drill.scale
        if found is None or scale.position(found) < 1.0:
            return 1
        return 3 if scale.position(found) >= scale.position(self.drill.good) else 2

    @property
    def is_over(self) -> bool:
        """Whether it is known well enough."""
        return self.stairs.is_over


def value_text(drill: Drill, value: float) -> str:
    """A value as it is told: "3 dB over", "28 dB below", "25 ms"."""
    amount, _, rest = drill.varied.partition(" ")
    form = f"{{value:.{int(value < _FINE)} {amount}}}"
    said = fill(form, value=value)
    return f"{said} {rest}".strip()


def result_text(session: Session) -> str:
    """What the result is, and what it means for one's recordings."""
    drill, found = session.drill, session.stairs.threshold
    if found is None:
        return words.NOT_YET
    is_good = session.grade == 3
    # What is below is told down to a value, what is over or late from a value on.
    said = words.DOWN_TO if drill.varied == "dB below" else words.FROM
    said = fill(said, value=value_text(drill, found))
    means = drill.means_good if is_good else drill.means_poor
    return f"{said} {fill(words.MEANS, means=means)}"
