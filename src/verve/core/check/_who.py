"""Who is it? Each signal is sounded in its turn; where it arrives is named, and held against where it should."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final, Literal

from verve.core.check._moments import MOMENTS_PER_S, Moment, peak_db

Found = Literal["proven", "swapped", "elsewhere", "on both", "nowhere"]
NOWHERE_S: Final = 12.0
"""Who has been asked to sound a signal, and is not heard for so long, does not arrive anywhere."""
_ABOVE_DB = 18.0
_LEAST_DBFS = -60.0
_SOUNDS_S = 0.4
_QUIET_S = 0.6
_BETWEEN_S = 0.8
"""So long it must be quiet between two signals."""
_CLEAR_DB = 3.0
"""So far the strongest channel stands above the next one; nearer, and alike, it is one signal on both."""
_ALIKE = 0.95


@dataclass(frozen=True, slots=True, kw_only=True)
class Expected:
    """A signal, the channel it should arrive on, and the other side of its pair, if it has one."""

    line: str
    channel: int
    partner: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Proof:
    """What came of one signal: where it arrives; `other` is the signal that belongs there."""

    line: str
    found: Found
    channel: int | None = None
    other: str | None = None
    level_dbfs: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Who:
    """Which signal is asked for, and what has been found."""

    expected: tuple[Expected, ...]
    number: int = 0
    proofs: tuple[Proof, ...] = ()
    quiet_dbfs: tuple[float, ...] = ()
    """The highest of each channel while it was quiet; empty until it has been."""
    level_dbfs: tuple[float, ...] = ()
    _calm: int = 0
    _waited: int = 0
    _sounding: tuple[tuple[float, ...], ...] = ()
    _likeness: tuple[tuple[tuple[float, ...], ...], ...] = ()
    _pause: int = 0

    @staticmethod
    def of(expected: Sequence[Expected]) -> Who:
        """Before the first one."""
        return Who(expected=tuple(expected))

    @property
    def asked(self) -> Expected | None:
        """The signal that should be sounded now; None when all have been, or before it was quiet."""
        if not self.quiet_dbfs or self.number >= len(self.expected):
            return None
        return self.expected[self.number]

    @property
    def is_between(self) -> bool:
        """Whether it has to be quiet for a moment, before the next one is asked for."""
        return self._pause > 0

    @property
    def is_done(self) -> bool:
        """Whether all have been asked for."""
        return self.number >= len(self.expected)

    def skip(self) -> Who:
        """Leave this signal out."""
        return replace(self, number=self.number + 1, _waited=0, _sounding=(), _likeness=())

    def fold(self, moment: Moment) -> Who:
        """20 ms more."""
        level = tuple(peak_db(float(p)) for p in moment.peaks)
        now = replace(self, level_dbfs=level)
        if not self.quiet_dbfs:
            return now._learn_quiet(level)
        if self.is_done:
            return now
        loud = [n for n, db in enumerate(level) if db >= self._threshold(n)]
        if self._pause > 0:
            # The one before still rings: whatever sounds now is no answer to the next question.
            return replace(now, _pause=self._pause - 1 if not loud else self._pause)
        if not loud:
            waited = self._waited + 1
            if waited >= NOWHERE_S * MOMENTS_PER_S:
                return now._proved(Proof(line=self.expected[self.number].line, found="nowhere"))
            return replace(now, _waited=waited)
        likeness = tuple(tuple(float(x) for x in row) for row in moment.likeness)
        now = replace(
            now, _sounding=(*self._sounding, level), _likeness=(*self._likeness, likeness)
        )
        if len(now._sounding) >= _SOUNDS_S * MOMENTS_PER_S:
            return now._proved(now._judged())
        return now

    def _learn_quiet(self, level: tuple[float, ...]) -> Who:
        """The quietest stretch at the beginning; who cannot be quiet is asked all the same."""
        calm = self._calm + 1
        highest = level if not self._sounding else tuple(map(max, self._sounding[0], level))
        if calm >= _QUIET_S * MOMENTS_PER_S:
            return replace(self, quiet_dbfs=highest, level_dbfs=level, _sounding=(), _calm=0)
        return replace(self, level_dbfs=level, _calm=calm, _sounding=(highest,))

    def _threshold(self, channel: int) -> float:
        return max(self.quiet_dbfs[channel] + _ABOVE_DB, _LEAST_DBFS)

    def _judged(self) -> Proof:
        expected = self.expected[self.number]
        count = len(self._sounding)
        # By how far each stands above what is quiet there: gains differ, and bleed is everywhere.
        heights = [
            sum(row[n] for row in self._sounding) / count - max(quiet, _LEAST_DBFS - _ABOVE_DB)
            for n, quiet in enumerate(self.quiet_dbfs)
        ]
        order = sorted(range(len(heights)), key=lambda n: -heights[n])
        first = order[0]
        level = max(row[first] for row in self._sounding)
        if len(order) > 1 and heights[first] - heights[order[1]] < _CLEAR_DB:
            second = order[1]
            alike = sum(abs(rows[first][second]) for rows in self._likeness) / count
            if alike >= _ALIKE:
                other = self._line_on(second if first == expected.channel else first)
                return Proof(
                    line=expected.line,
                    found="on both",
                    channel=first,
                    other=other,
                    level_dbfs=level,
                )
            if expected.channel in (first, second):
                first = expected.channel
        if first == expected.channel:
            return Proof(line=expected.line, found="proven", channel=first, level_dbfs=level)
        other = self._line_on(first)
        is_swapped = other is not None and other == expected.partner
        return Proof(
            line=expected.line,
            found="swapped" if is_swapped else "elsewhere",
            channel=first,
            other=other,
            level_dbfs=level,
        )

    def _line_on(self, channel: int) -> str | None:
        return next((one.line for one in self.expected if one.channel == channel), None)

    def _proved(self, proof: Proof) -> Who:
        return replace(
            self,
            proofs=(*self.proofs, proof),
            number=self.number + 1,
            _waited=0,
            _sounding=(),
            _likeness=(),
            _pause=int(_BETWEEN_S * MOMENTS_PER_S),
        )


def channels_after(who: Who) -> dict[str, int]:
    """By signal, the channel it was found on; those that were not found stay where they should be."""
    found = {one.line: one.channel for one in who.expected}
    for proof in who.proofs:
        if proof.channel is not None and proof.found in {"proven", "swapped", "elsewhere"}:
            found[proof.line] = proof.channel
    return found
