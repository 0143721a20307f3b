"""The guided check: silence first, then an easy phrase and the loudest passage of whoever plays, hands free.

Moments in, a new state out. Nothing here knows sound files, devices or sessions. Signals may be selected together:
one player sounds on both sides of a pair, and on pickup and microphone alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Final, Literal

import numpy as np

from verve.core.check._moments import MOMENTS_PER_S, Moment, peak_db, power_db
from verve.core.units import FloatArray

Phase = Literal["silence", "wait", "easy", "turn", "loudest", "done"]
SILENCE_S: Final = 3.0
_LONGEST_SILENCE_S = 20.0
"""Where it never gets quiet, the quietest that was heard is taken, and that is said."""
_CALM_DB = 8.0
"""How far levels of a silence may lie apart."""
_DEAD_QUIET_DBFS = -75.0
ABOVE_DB: Final = 15.0
"""A signal sounds where it stands so far above what was heard of it in silence."""
_LEAST_SOUND_DBFS = -65.0
_BEGINS_S, _WITHIN_S = 0.3, 0.6
"""Somebody plays where a signal sounds for so long within such a time."""
EASY_S: Final = 3.0
_REST_S: Final = 0.4
_LONGEST_PASSAGE_S: Final = 8.0
_LEAST_PASSAGE_S = 0.3
AGREE_DB: Final = 2.0
_LOUD_DB = 3.0
"""A passage counts as loud where it comes so near to the loudest one."""
_TURNS_S = 1.0
"""Who turns a knob does not play for so long."""
_GIVES_WAY_S = 4.0
"""Whoever rests for so long gives way to somebody else who plays."""
_NEAR_DB = 20.0
"""Bleed is further below what a signal should peak at."""
_MOST_MOMENTS = int(_LONGEST_SILENCE_S * MOMENTS_PER_S)


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal:
    """A signal that is checked: its channel in the moments, whom it is played by, and what is computed of it.

    Those of one `group` sound together. `spread_db` is how far its loudest is above its usual playing.
    """

    line: str
    group: int
    predicted_peak_dbfs: float
    spread_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Passage:
    """A stretch of playing: its peak by signal in dBFS, and whether it touched full scale."""

    peaks_dbfs: tuple[float, ...]
    is_clipped: tuple[bool, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Guide:
    """Where a check is: the phase, who is being checked, and what has been heard."""

    signals: tuple[Signal, ...]
    phase: Phase = "silence"
    group: int | None = None
    quiet_peaks_dbfs: tuple[float, ...] = ()
    """What every signal shows in silence."""
    was_quiet: bool = True
    """Whether there was a silence, or only the quietest that could be had."""
    quiet_from_s: float | None = None
    """Where the silence begins that was used."""
    easy_s: float = 0.0
    easy: Passage | None = None
    passages: tuple[Passage, ...] = ()
    at_s: float = 0.0
    level_dbfs: tuple[float, ...] = ()
    """What is heard just now."""
    held_dbfs: tuple[float, ...] = ()
    """The highest since the phase began, by signal."""
    done: frozenset[int] = frozenset()
    """Groups that have been checked."""
    turns: int = 0
    """How often this player was asked to turn something before the loudest passage."""
    _silence: tuple[Moment, ...] = field(default=(), repr=False)
    _sounded: tuple[tuple[bool, ...], ...] = field(default=(), repr=False)
    _current: tuple[FloatArray, FloatArray, float] | None = field(default=None, repr=False)
    _rest_s: float = 0.0

    @staticmethod
    def of(signals: Sequence[Signal]) -> Guide:
        """At the beginning: be quiet."""
        return Guide(signals=tuple(signals))

    # ── what is told ──────────────────────────────────────────────────────────────────────────
    @property
    def selected(self) -> tuple[int, ...]:
        """The numbers of the signals that are being checked."""
        return tuple(n for n, one in enumerate(self.signals) if one.group == self.group)

    @property
    def silence_share(self) -> float:
        """How much of the silence there has been, 0 to 1."""
        return min(1.0, len(self._silence) / (SILENCE_S * MOMENTS_PER_S))

    @property
    def is_resting(self) -> bool:
        """Whether nothing of what is checked sounds just now."""
        return self._rest_s > 0.0

    def hardest_dbfs(self, number: int) -> float | None:
        """The peak of the loudest passage of a signal; None before there is one."""
        peaks = [one.peaks_dbfs[number] for one in self.passages]
        return max(peaks, default=None)

    def is_clipped(self, number: int) -> bool:
        """Whether a signal touched full scale in any passage."""
        heard = (self.easy, *self.passages)
        return any(one.is_clipped[number] for one in heard if one is not None)

    # ── what is done by hand ──────────────────────────────────────────────────────────────────
    def again(self) -> Guide:
        """The same player once more, from the easy phrase on."""
        return self if self.group is None else self._begun(self.group)

    def turn(self) -> Guide:
        """Something has to be turned before they play their loudest: the easy phrase comes once more after that."""
        return replace(self, phase="turn", turns=self.turns + 1, _rest_s=0.0, _current=None)

    def turned(self, by_db: float) -> Guide:
        """Something has been turned: what was heard is so much louder or softer now, the easy phrase comes again."""
        if self.group is None:
            return self
        quiet = tuple(
            q + by_db if one.group == self.group else q
            for q, one in zip(self.quiet_peaks_dbfs, self.signals, strict=True)
        )
        begun = self._begun(self.group)
        return replace(begun, quiet_peaks_dbfs=quiet, turns=self.turns)

    def choose(self, group: int) -> Guide:
        """Check this player now, whoever sounds."""
        return self._begun(group)

    def skip(self) -> Guide:
        """Take what has been heard for the loudest, or leave this player for now."""
        if self.phase == "silence":
            return self._end_of_silence(was_quiet=False)
        if self.phase in {"easy", "turn"}:
            return replace(self._closed(), phase="loudest", held_dbfs=())
        if self.phase == "loudest" and (self.passages or self._current is not None):
            return self._finished(self._closed())
        return replace(self, phase="wait", group=None)

    # ── hearing ───────────────────────────────────────────────────────────────────────────────
    def fold(self, moment: Moment) -> Guide:
        """20 ms more."""
        level = tuple(peak_db(float(p)) for p in moment.peaks)
        held = level if not self.held_dbfs else tuple(map(max, self.held_dbfs, level))
        now = replace(self, at_s=moment.at_s, level_dbfs=level, held_dbfs=held)
        if self.phase == "silence":
            return now._listen_to_silence(moment)
        now = now._note_who_sounds(level)
        other = now._who_begins()
        if other is not None and now._may_change_to(other):
            return now._begun(other)
        if now.phase in {"easy", "turn", "loudest"}:
            return now._listen_to_player(moment)
        return now

    def _listen_to_silence(self, moment: Moment) -> Guide:
        heard = (*self._silence, moment)[-_MOST_MOMENTS:]
        if moment.full.any() or not _is_calm(heard):
            wanted = int(SILENCE_S * MOMENTS_PER_S)
            if moment.at_s >= _LONGEST_SILENCE_S:
                return replace(self, _silence=heard[-wanted:])._end_of_silence(was_quiet=False)
            # It begins anew with what is calm of it.
            return replace(
                self, _silence=heard[-int(0.1 * MOMENTS_PER_S) :] if len(heard) > 5 else heard
            )
        now = replace(self, _silence=heard)
        if len(heard) >= SILENCE_S * MOMENTS_PER_S:
            return now._end_of_silence(was_quiet=True)
        return now

    def _end_of_silence(self, *, was_quiet: bool) -> Guide:
        heard = self._silence
        if heard:
            peaks = np.array([one.peaks for one in heard])
            highest = np.percentile(peaks, 100.0 if was_quiet else 10.0, axis=0)
            quiet = tuple(peak_db(float(p)) for p in highest)
        else:
            quiet = (_DEAD_QUIET_DBFS,) * len(self.signals)
        return replace(
            self,
            phase="wait",
            quiet_peaks_dbfs=quiet,
            was_quiet=was_quiet,
            quiet_from_s=heard[0].at_s if heard else None,
            held_dbfs=(),
        )

    def _threshold_dbfs(self, number: int) -> float:
        return max(self.quiet_peaks_dbfs[number] + ABOVE_DB, _LEAST_SOUND_DBFS)

    def _sounds(self, level: tuple[float, ...], number: int) -> bool:
        return level[number] >= self._threshold_dbfs(number)

    def _plays(self, number: int) -> bool:
        """Whether it is its own player who sounds, not somebody else who bleeds into it."""
        one, level = self.signals[number], self.level_dbfs
        if not self._sounds(level, number):
            return False
        is_nearest = bool(self._sounded) and self._sounded[-1][one.group]
        return is_nearest or level[number] >= one.predicted_peak_dbfs - _NEAR_DB

    def _note_who_sounds(self, level: tuple[float, ...]) -> Guide:
        """Of all that sound, the group that comes nearest to its own loudest: others only bleed into theirs."""
        near = [
            (level[n] - one.predicted_peak_dbfs, one.group)
            for n, one in enumerate(self.signals)
            if self._sounds(level, n)
        ]
        first = max(near)[1] if near else None
        groups = tuple(g == first for g in range(self._groups))
        kept = int(_WITHIN_S * MOMENTS_PER_S)
        return replace(self, _sounded=(*self._sounded, groups)[-kept:])

    @property
    def _groups(self) -> int:
        return 1 + max(one.group for one in self.signals)

    def _who_begins(self) -> int | None:
        needed = _BEGINS_S * MOMENTS_PER_S
        for group in range(self._groups):
            if sum(row[group] for row in self._sounded) >= needed:
                return group
        return None

    def _may_change_to(self, group: int) -> bool:
        if self.phase == "wait":
            return True
        if self.phase == "done":
            return group != self.group and group not in self.done
        return group != self.group and self._rest_s >= _GIVES_WAY_S

    def _begun(self, group: int) -> Guide:
        return replace(
            self, phase="easy", group=group, easy_s=0.0, easy=None, passages=(), held_dbfs=(),
            done=self.done - {group}, turns=0, _sounded=(), _current=None, _rest_s=0.0,
        )  # fmt: skip

    def _listen_to_player(self, moment: Moment) -> Guide:
        own = self.selected
        step_s = 1.0 / MOMENTS_PER_S
        is_on = any(self._plays(number) for number in own)
        if self.phase == "turn":
            if is_on and self._rest_s >= _TURNS_S:
                assert self.group is not None
                return replace(self._begun(self.group), turns=self.turns)
            return replace(self, _rest_s=self._rest_s if is_on else self._rest_s + step_s)
        if is_on:
            now = replace(self._added(moment, step_s), _rest_s=0.0)
            if self.phase == "easy":
                now = replace(now, easy_s=self.easy_s + step_s)
                if now.easy_s >= EASY_S:
                    now = replace(now._closed(), phase="loudest", held_dbfs=())
                return now
            assert now._current is not None
            is_long = now._current[2] >= _LONGEST_PASSAGE_S
            return now._judged() if is_long else now
        now = replace(self, _rest_s=self._rest_s + step_s)
        if self.phase == "loudest" and self._current is not None and now._rest_s >= _REST_S:
            return now._judged()
        return now

    def _added(self, moment: Moment, step_s: float) -> Guide:
        if self._current is None:
            return replace(self, _current=(moment.peaks, moment.full, step_s))
        peaks, full, seconds = self._current
        grown = (np.maximum(peaks, moment.peaks), full + moment.full, seconds + step_s)
        return replace(self, _current=grown)

    def _closed(self) -> Guide:
        """What is being played, as a passage: the easy one, or one more of the loud ones."""
        if self._current is None:
            return self
        peaks, full, seconds = self._current
        passage = Passage(
            peaks_dbfs=tuple(peak_db(float(p)) for p in peaks),
            is_clipped=tuple(bool(f >= 1.0) for f in full),
        )
        if self.phase == "easy":
            return replace(self, easy=passage, _current=None)
        if seconds < _LEAST_PASSAGE_S and self.passages:
            return replace(self, _current=None)
        return replace(self, passages=(*self.passages, passage), _current=None)

    def _judged(self) -> Guide:
        """A passage has ended: whether the last two loud ones agree."""
        now = self._closed()
        loud = now._loud_ones()
        if len(loud) >= 2 and abs(loud[-1] - loud[-2]) <= AGREE_DB:
            return now._finished(now)
        return now

    def _loud_ones(self) -> list[float]:
        """The peaks of the passages that are loud, of that signal of the group which comes nearest to full scale."""
        own = self.selected
        peaks = [max(one.peaks_dbfs[n] for n in own) for one in self.passages]
        highest = max(peaks, default=0.0)
        return [peak for peak in peaks if peak >= highest - _LOUD_DB]

    @staticmethod
    def _finished(now: Guide) -> Guide:
        assert now.group is not None
        return replace(now, phase="done", done=now.done | {now.group}, _sounded=())


def _is_calm(heard: Sequence[Moment]) -> bool:
    """Whether no level changes much: nobody plays, and nothing starts or stops."""
    # Tenths of a second: single moments of a hum or of noise scatter by themselves.
    powers = np.array([one.powers for one in heard])
    whole = len(powers) // 5 * 5
    if not whole:
        return True
    tenths = powers[:whole].reshape(-1, 5, powers.shape[1]).mean(axis=1)
    for highest, lowest in zip(tenths.max(axis=0), tenths.min(axis=0), strict=True):
        high = power_db(float(highest))
        if high > _DEAD_QUIET_DBFS and high - power_db(float(lowest)) > _CALM_DB:
            return False
    return True
