"""Listening in while recording: marks with their time, told when the player stops.

Only a recording that has stopped by itself is told at once.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final, Literal

import numpy as np

from verve.core.check import words
from verve.core.check._moments import FULL_SCALE, peak_db, power_db
from verve.core.measure import LiveReader
from verve.core.session import Session, Take
from verve.core.units import FloatArray
from verve.core.words import fill

MarkKind = Literal["clipped", "dropout", "hum", "louder", "quieter", "lost"]
MOVED_DB: Final = 4.0
"""A level that is so far from that of the last good take has moved."""
SILENT_S: Final = 3.0
"""Digital silence on all lines for so long: nothing is recorded any more."""
STOPS_S: Final = 2.5
"""Who has played, and does not for so long, has stopped: then marks are told."""
_REST_S, _HUM_EVERY_S = 1.5, 4.0
"""Hum is looked for in rests of this length, of each line so often at most."""
_BELOW_PLAYING_DB = 25.0
_EDGE_S, _AGAIN_S = 0.2, 30.0
_PIECE_S = 0.1
_APART_S = 2.0
"""Clipping within such a time is one mark."""
_SOUNDS_DBFS, _FEW = -50.0, 3
_ENOUGH_S = 15.0
_HUM_RISES_DB = 6.0
_HARMONICS, _MOSTLY = 10, 0.6
_EARLY_DBFS, _MANY = (-24.0, -0.5), 12
_MOST_MARKS = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """Something that happened: when, on which line, how much of it (dB, frames, or Hz of mains)."""

    at_s: float
    line: str
    kind: MarkKind
    amount: float = 0.0


def reference_of(session: Session, line_id: str) -> tuple[str, float] | None:
    """The last good take of a line, and its peak in dBFS: rated 3 or better, else whole and clean; None for none."""

    def peak(take: Take) -> float | None:
        track = next((one for one in take.tracks if one.line == line_id), None)
        return None if track is None or track.clipped_frames else track.peak_dbfs.measured

    known = [(take, found) for take in session.takes if (found := peak(take)) is not None]
    good = [row for row in known if row[0].rating >= _FEW] or [
        row for row in known if row[0].ended == "whole" and row[0].rating != 1
    ]
    return (good[-1][0].name, good[-1][1]) if good else None


@dataclass(slots=True)
class Watch:
    """Hears all lines of a recording block by block; `feed` gives what is new.

    `references` are peaks of the last good take by line, in dBFS, with its name.
    """

    lines: Sequence[str]
    rate_hz: int
    references: Mapping[str, tuple[str, float]] = field(default_factory=dict)
    frames: int = 0
    is_silent: bool = False
    """Nothing but digital silence has come for a while."""
    _zero_frames: int = 0
    _quiet_frames: int = 0
    _played_frames: dict[int, int] = field(default_factory=dict)
    _peaks: dict[int, float] = field(default_factory=dict)
    _clipped_at: dict[int, float] = field(default_factory=dict)
    _louder: set[int] = field(default_factory=set)
    _hums: dict[int, float] = field(default_factory=dict)
    _resting: dict[int, list[FloatArray]] = field(default_factory=dict)
    _cut_at: dict[int, float] = field(default_factory=dict)
    _reader: LiveReader | None = None
    _hum_at_s: dict[int, float] = field(default_factory=dict)
    _marked: int = 0

    @property
    def seconds(self) -> float:
        """How long it has been going on."""
        return self.frames / self.rate_hz

    @property
    def has_played(self) -> bool:
        """Whether anybody has played at all."""
        return bool(self._played_frames)

    @property
    def has_stopped_playing(self) -> bool:
        """Whether somebody has played, and rests now: the moment to tell what was marked."""
        return self.has_played and self._quiet_frames >= STOPS_S * self.rate_hz

    def feed(self, samples: FloatArray) -> tuple[Mark, ...]:
        """One block more; the marks that are new.

        shape: samples (n_lines, n_frames)
        """
        piece = round(_PIECE_S * self.rate_hz)
        if samples.shape[1] > piece:
            # Much at once, as from a file: what happens in it has a time all the same.
            pieces = (samples[:, at : at + piece] for at in range(0, samples.shape[1], piece))
            return tuple(mark for one in pieces for mark in self.feed(one))
        at_s = self.seconds
        count = samples.shape[1]
        self.frames += count
        magnitude = np.abs(samples)
        peaks = magnitude.max(axis=1) if count else np.zeros(len(samples))
        self._zero_frames = 0 if peaks.any() else self._zero_frames + count
        self.is_silent = self._zero_frames >= SILENT_S * self.rate_hz
        found: list[Mark] = []
        is_loud = False
        for number, line in enumerate(self.lines):
            level = peak_db(float(peaks[number]))
            if level >= _SOUNDS_DBFS:
                is_loud = True
                self._played_frames[number] = self._played_frames.get(number, 0) + count
            self._peaks[number] = max(self._peaks.get(number, -200.0), level)
            if peaks[number] >= FULL_SCALE and (magnitude[number] >= FULL_SCALE).sum() >= _FEW:
                if at_s - self._clipped_at.get(number, -math.inf) >= _APART_S:
                    found.append(Mark(at_s=at_s, line=line, kind="clipped"))
                self._clipped_at[number] = at_s
            found += self._moved_up(number, line, at_s)
        self._quiet_frames = 0 if is_loud else self._quiet_frames + count
        found += self._read(samples, peaks)
        return self._counted(found)

    def end(self) -> tuple[Mark, ...]:
        """What is left to be read when it is over, and levels that stayed under those of the last good take."""
        # What lies in the last second is looked at as if silence followed.
        found = [
            mark
            for mark in self._seconds_of(np.zeros((len(self.lines), 2 * self.rate_hz)))
            if mark.at_s <= self.seconds - _EDGE_S
        ]
        for number, line in enumerate(self.lines):
            reference = self.references.get(line)
            played_s = self._played_frames.get(number, 0) / self.rate_hz
            if reference is None or played_s < _ENOUGH_S:
                continue
            under_db = reference[1] - self._peaks.get(number, -200.0)
            if under_db >= MOVED_DB:
                found.append(Mark(at_s=self.seconds, line=line, kind="quieter", amount=under_db))
        return self._counted(found)

    def lost(self) -> tuple[Mark, ...]:
        """Sound was lost on its way into the computer."""
        return self._counted([Mark(at_s=self.seconds, line="", kind="lost")])

    def _counted(self, found: list[Mark]) -> tuple[Mark, ...]:
        left = max(0, _MOST_MARKS - self._marked)
        self._marked += len(found)
        return tuple(sorted(found, key=lambda one: one.at_s)[:left])

    def _moved_up(self, number: int, line: str, at_s: float) -> list[Mark]:
        reference = self.references.get(line)
        if reference is None or number in self._louder:
            return []
        over_db = self._peaks[number] - reference[1]
        if over_db < MOVED_DB:
            return []
        self._louder.add(number)
        return [Mark(at_s=at_s, line=line, kind="louder", amount=over_db)]

    def _read(self, samples: FloatArray, peaks: FloatArray) -> list[Mark]:
        """Drop-outs and tops that an earlier stage cut; hum where a line rests."""
        found = self._seconds_of(samples)
        for number in range(len(self.lines)):
            resting = self._resting.setdefault(number, [])
            # What hums or hisses is a rest all the same, as long as it is far below the playing.
            rests_below = max(_SOUNDS_DBFS, self._peaks[number] - _BELOW_PLAYING_DB)
            is_over = peak_db(float(peaks[number])) >= rests_below or self.is_silent
            if not is_over:
                resting.append(np.asarray(samples[number], dtype=np.float32))
            rest_s = sum(len(part) for part in resting) / self.rate_hz
            if rest_s >= _REST_S and (is_over or rest_s >= 2.0 * _REST_S):
                if self.seconds - self._hum_at_s.get(number, -math.inf) >= _HUM_EVERY_S:
                    self._hum_at_s[number] = self.seconds
                    found += self._hum_of(number, resting)
                resting.clear()
            elif is_over:
                resting.clear()
        return found

    def _seconds_of(self, samples: FloatArray) -> list[Mark]:
        if self._reader is None:
            self._reader = LiveReader(channels=len(self.lines), rate_hz=self.rate_hz)
        found = []
        for second in self._reader.fold(samples):
            line = self.lines[second.channel]
            found += [
                Mark(
                    at_s=gap.start_frame / self.rate_hz,
                    line=line,
                    kind="dropout",
                    amount=float(gap.frames),
                )
                for gap in second.dropouts
            ]
            cut = [
                run for run in second.clipped if _EARLY_DBFS[0] <= run.level_dbfs <= _EARLY_DBFS[1]
            ]
            at_s = second.start_frame / self.rate_hz
            # A few tops that look cut are a wave's own; a stage that clips cuts many.
            if len(cut) >= _MANY and at_s - self._cut_at.get(second.channel, -math.inf) >= _AGAIN_S:
                self._cut_at[second.channel] = at_s
                found.append(Mark(at_s=at_s, line=line, kind="clipped", amount=cut[0].level_dbfs))
        return found

    def _hum_of(self, number: int, resting: Sequence[FloatArray]) -> list[Mark]:
        """Whether a line that rests hums more than it did at first."""
        heard = np.concatenate(resting).astype(np.float64)
        level, mains_hz = power_db(float(np.mean(heard**2))), _mains_of(heard, self.rate_hz)
        before = self._hums.setdefault(number, level)
        # What hummed from the beginning is in the noise of the beginning: that is no news.
        if mains_hz is None or level < before + _HUM_RISES_DB:
            return []
        self._hums[number] = level
        at_s = self.seconds - len(heard) / self.rate_hz
        return [Mark(at_s=at_s, line=self.lines[number], kind="hum", amount=mains_hz)]


def _mains_of(heard: FloatArray, rate_hz: int) -> float | None:
    """50 or 60 Hz, if a rest is mostly their harmonics; None for other noise.

    A second or two tell no frequency to a hundredth, but one of the two from the other.
    """
    window = np.hanning(len(heard))
    found = []
    spectrum = np.abs(np.fft.rfft((heard - heard.mean()) * window)) ** 2
    step_hz = rate_hz / len(heard)
    reach = max(2, round(1.5 / step_hz))
    whole = float(spectrum.sum())
    for mains_hz in (50.0, 60.0):
        at = [round(n * mains_hz / step_hz) for n in range(1, _HARMONICS + 1)]
        lines = sum(float(spectrum[max(0, i - reach) : i + reach + 1].sum()) for i in at)
        found.append((lines, mains_hz))
    most, mains_hz = max(found)
    return mains_hz if whole > 0.0 and most >= _MOSTLY * whole else None


def mark_text(mark: Mark, name: str, reference: tuple[str, float] | None = None) -> str:
    """A mark as a sentence, with its time."""
    minutes, seconds = divmod(int(mark.at_s), 60)
    template = {
        "clipped": words.MARK_CLIPPED if not mark.amount else words.MARK_CLIPPED_EARLY,
        "dropout": words.MARK_DROPOUT,
        "hum": words.MARK_HUM,
        "louder": words.MARK_LOUDER,
        "quieter": words.MARK_QUIETER,
        "lost": words.MARK_LOST,
    }[mark.kind]
    said = fill(
        template, name=name, amount=mark.amount, count=round(mark.amount),
        take="the last good take" if reference is None else reference[0],
    )  # fmt: skip
    return f"{minutes}:{seconds:02d}  {said}"
