"""The quickest search: which test first, so that on average the least time goes by until one cause is left.

Exact by dynamic programming over what is still possible, where that is little; of more than that the test that tells
most for its time is taken, and from there on it is exact again.
"""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Final

EXACT: Final = 14
"""So many causes, apart from those that no test tells apart, are searched exhaustively."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A test: what it takes in seconds, and what it shows for each cause.

    shape: outcomes (n_causes,)
    """

    key: str
    seconds: float
    outcomes: tuple[Hashable, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """From here on: the time it takes on average, and the test to begin with; None where none tells more."""

    expected_s: float
    trial: Trial | None
    is_exact: bool = True


def classes_of(trials: Sequence[Trial], causes: Sequence[int]) -> tuple[tuple[int, ...], ...]:
    """Causes that no test tells apart, together."""
    found: dict[tuple[Hashable, ...], list[int]] = {}
    for cause in causes:
        found.setdefault(tuple(one.outcomes[cause] for one in trials), []).append(cause)
    return tuple(tuple(group) for group in found.values())


class Searcher:
    """Knows the quickest search from every set of causes that is left; what it has found it keeps."""

    def __init__(
        self, priors: Sequence[float], trials: Sequence[Trial], names: Sequence[Hashable] = ()
    ) -> None:
        """`priors` are weights of the causes; they need not add up to 1. Causes of one name are one."""
        self._priors = tuple(priors)
        self._trials = tuple(sorted(trials, key=lambda one: one.seconds))
        self._known: dict[frozenset[int], Plan] = {}
        self._names = tuple(names) or tuple(range(len(self._priors)))
        self._class: dict[int, int] = {
            cause: number
            for number, group in enumerate(classes_of(self._trials, range(len(self._priors))))
            for cause in group
        }

    def plan(self, left: Sequence[int]) -> Plan:
        """The quickest search among the causes that are left."""
        key = frozenset(left)
        found = self._known.get(key)
        if found is None:
            found = self._known[key] = self._plan(key)
        return found

    def after(self, left: Sequence[int], trial: Trial, cause: int) -> tuple[int, ...]:
        """What is left when a test has shown what it shows for a cause."""
        return tuple(one for one in left if trial.outcomes[one] == trial.outcomes[cause])

    def is_found(self, left: Sequence[int]) -> bool:
        """Whether what is left cannot be told apart by any test."""
        alike = len({self._class[one] for one in left}) <= 1
        return alike or len({self._names[one] for one in left}) <= 1

    def path(self, left: Sequence[int], cause: int) -> tuple[Trial, ...]:
        """The tests of the quickest search where a certain cause is the one."""
        found: list[Trial] = []
        now = tuple(left)
        while (trial := self.plan(now).trial) is not None:
            found.append(trial)
            now = self.after(now, trial, cause)
        return tuple(found)

    def _plan(self, left: frozenset[int]) -> Plan:
        if self.is_found(tuple(left)):
            return Plan(expected_s=0.0, trial=None)
        splits = self._splits(left)
        if len({self._class[one] for one in left}) > EXACT:
            # Too much to try everything: bits told for each second, as in the questions of the diagnosis.
            trial, parts = max(splits, key=lambda row: self._bits(row[1]) / row[0].seconds)
            return Plan(expected_s=self._expected_s(trial, parts), trial=trial, is_exact=False)
        best: tuple[float, Trial] | None = None
        for trial, parts in splits:
            if best is not None and trial.seconds >= best[0]:
                break
            expected_s = self._expected_s(trial, parts)
            if best is None or expected_s < best[0]:
                best = (expected_s, trial)
        assert best is not None
        return Plan(expected_s=best[0], trial=best[1])

    def _splits(self, left: frozenset[int]) -> list[tuple[Trial, list[frozenset[int]]]]:
        """Every test that tells anything here, the quickest first; of two that tell the same only that one."""
        found = []
        seen: set[frozenset[frozenset[int]]] = set()
        for trial in self._trials:
            groups: dict[Hashable, set[int]] = {}
            for one in left:
                groups.setdefault(trial.outcomes[one], set()).add(one)
            parts = [frozenset(group) for group in groups.values()]
            if len(parts) > 1 and frozenset(parts) not in seen:
                seen.add(frozenset(parts))
                found.append((trial, parts))
        return found

    def _weight(self, part: frozenset[int]) -> float:
        return math.fsum(self._priors[one] for one in part)

    def _expected_s(self, trial: Trial, parts: Sequence[frozenset[int]]) -> float:
        """source: derivation, the time of the test and what comes after it, by how likely each answer is"""
        weights = [self._weight(part) for part in parts]
        whole = math.fsum(weights)
        return trial.seconds + math.fsum(
            weight / whole * self.plan(tuple(part)).expected_s
            for weight, part in zip(weights, parts, strict=True)
        )

    def _bits(self, parts: Sequence[frozenset[int]]) -> float:
        """source: derivation, entropy of the answer, which follows from the cause"""
        weights = [self._weight(part) for part in parts]
        whole = math.fsum(weights)
        return -math.fsum(w / whole * math.log2(w / whole) for w in weights if w > 0.0)
