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
from verve.core.check._moments import FULL_SCALE, peak_db
from verve.core.measure import Meter
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
_CHUNK_S, _OVERLAP_S = 10.0, 1.0
_APART_S = 2.0
"""Clipping within such a time is one mark."""
_SOUNDS_DBFS, _FEW = -50.0, 3
_ENOUGH_S = 15.0
_HUM_RISES_DB = 6.0
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
    _chunk: list[FloatArray] = field(default_factory=list)
    _chunk_frames: int = 0
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
        self._chunk.append(samples)
        self._chunk_frames += count
        if self._chunk_frames >= (_CHUNK_S + _OVERLAP_S) * self.rate_hz:
            found += self._read_chunk()
        return self._counted(found)

    def end(self) -> tuple[Mark, ...]:
        """What is left to be read when it is over, and levels that stayed under those of the last good take."""
        found = self._read_chunk() if self._chunk_frames > self.rate_hz // 2 else []
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

    def _read_chunk(self) -> list[Mark]:
        """Drop-outs, tops that an earlier stage cut, and hum, by the same analysers that read recordings."""
        samples = np.concatenate(self._chunk, axis=1)
        begins = self.frames - samples.shape[1]
        meter = Meter(channels=len(samples), rate_hz=self.rate_hz, bit_depth=None)
        read = meter.result(meter.fold(meter.start(), samples))
        overlap = round(_OVERLAP_S * self.rate_hz)
        # What lies in the last second comes once more, with what follows it.
        until = samples.shape[1] - overlap
        found = []
        for line, one in zip(self.lines, read.channels, strict=True):
            for gap in one.dropouts:
                if gap.start_frame < until:
                    found.append(
                        Mark(
                            at_s=(begins + gap.start_frame) / self.rate_hz,
                            line=line, kind="dropout", amount=float(gap.frames),
                        )
                    )  # fmt: skip
            early = [
                run
                for run in one.clipped_runs
                if run.kind == "below_full_scale"
                and run.start_frame < until
                and _EARLY_DBFS[0] <= run.level_dbfs <= _EARLY_DBFS[1]
            ]
            # A few tops that look cut are a wave's own; a stage that clips cuts many.
            if len(early) >= _MANY:
                at_s = (begins + early[0].start_frame) / self.rate_hz
                found.append(Mark(at_s=at_s, line=line, kind="clipped", amount=early[0].level_dbfs))
        found += self._hum_of(read.channels, begins / self.rate_hz)
        self._chunk = [samples[:, until:]]
        self._chunk_frames = samples.shape[1] - until
        return found

    def _hum_of(self, channels: Sequence[object], at_s: float) -> list[Mark]:
        found = []
        for number, (line, one) in enumerate(zip(self.lines, channels, strict=True)):
            hum = one.hum  # type: ignore[attr-defined]
            noise = one.noise_dbfs  # type: ignore[attr-defined]
            if noise is None:
                continue
            before = self._hums.get(number)
            level = hum.level_dbfs if hum.mains_hz is not None else None
            # What hummed from the beginning is in the noise of the beginning: that is no news.
            if level is not None and before is not None and level >= before + _HUM_RISES_DB:
                found.append(Mark(at_s=at_s, line=line, kind="hum", amount=float(hum.mains_hz)))
                self._hums[number] = level
            self._hums.setdefault(number, noise)
        return found


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
