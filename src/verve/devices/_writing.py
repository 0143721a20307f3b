"""A take that is being written: its files, what is measured of them meanwhile, and its log beside them."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from verve.core.assess import Assessment
from verve.core.errors import FileError, InputError, VerveError
from verve.core.measure import Measurement, Meter
from verve.core.monitor import usable_offset_frames
from verve.core.session import Figure, Take, TakeTrack, layer_of, next_take
from verve.core.soundfiles import Said, WavWriter, content_of, file_stem
from verve.core.takes import Round, rounds_of
from verve.core.units import FloatArray, to_thousandth
from verve.devices._log import forget_log, with_measured, write_log

if TYPE_CHECKING:
    from verve.devices._record import RecordRequest


def peak_dbfs(samples: FloatArray) -> float | None:
    """The largest magnitude; None for silence."""
    peak = float(np.max(np.abs(samples))) if len(samples) else 0.0
    return float(20.0 * np.log10(peak)) if peak > 0.0 else None


def reason_of(error: VerveError) -> str:
    """Why a recording ended, without the place and the remedy."""
    return error.why if isinstance(error, FileError) else str(error)


def paths_of(request: RecordRequest, assessment: Assessment) -> dict[str, Path]:
    """By signal, the file that it is recorded into.

    raises: InputError for what is no signal of the session
    """
    found: dict[str, Path] = {}
    taken: set[str] = set()
    for line_id in request.lines:
        item = assessment.line(line_id)
        if item is None:
            raise InputError("lines", "must be signals of the session", line_id)
        stem = wanted = file_stem(item.line.name)
        number = 2
        while stem.casefold() in taken:
            stem = f"{wanted} {number}"
            number += 1
        taken.add(stem.casefold())
        found[line_id] = request.folder / f"{stem}.wav"
    return found


@dataclass(slots=True)
class Writing:
    """Takes blocks until it is finished or discarded; whatever happens meanwhile, what was written is kept."""

    request: RecordRequest
    assessment: Assessment
    paths: Mapping[str, Path]
    frames: int = 0
    _writers: dict[str, WavWriter] = field(default_factory=dict)
    _meter: Meter | None = None
    _states: dict[str, object] = field(default_factory=dict)
    _measured: list[dict[str, Measurement]] = field(default_factory=list)
    _bounds: list[int] = field(default_factory=list)
    _held: dict[str, tuple[str | None, int | None]] = field(default_factory=dict)

    @staticmethod
    def of(request: RecordRequest, assessment: Assessment) -> Writing:
        """raises: InputError for a line that is no signal of the session"""
        return Writing(request=request, assessment=assessment, paths=paths_of(request, assessment))

    @property
    def rate_hz(self) -> int:
        """What it is recorded at."""
        return self.request.session.setup.audio.sample_rate_hz

    def begin(self) -> None:
        """Open the files and leave a log beside them.

        raises: FileError
        """
        audio, names = self.request.session.setup.audio, self._names()
        self._meter = Meter(channels=1, rate_hz=audio.sample_rate_hz, bit_depth=audio.bit_depth)
        self._restart()
        self._bounds = self._round_bounds()
        for line_id, path in self.paths.items():
            self._writers[line_id] = WavWriter(
                path,
                rate_hz=audio.sample_rate_hz,
                bit_depth=audio.bit_depth,
                said=Said(
                    description=f"{names[line_id]}, {self.request.take_name}",
                    at=self.request.recorded_at,
                ),
            )
        write_log(self._take({key: self._planned(key) for key in self.paths}))

    def _names(self) -> dict[str, str]:
        return {item.line.id: item.line.name for item in self.assessment.lines}

    def _restart(self) -> None:
        assert self._meter is not None
        self._states = {line_id: self._meter.start() for line_id in self.paths}

    def _round_bounds(self) -> list[int]:
        """Frames at which what is measured begins and ends: the sections of a song, or the rounds of a loop."""
        plan = self.request.plan
        if plan is None:
            return []
        round_s = plan.round_s
        if round_s is not None:
            longest = round(4 * 3600 / round_s)
            return [round((plan.lead_s + n * round_s) * self.rate_hz) for n in range(longest + 1)]
        if plan.until_s is None:
            return []
        return [
            round(plan.lead_s * self.rate_hz),
            round((plan.until_s - plan.start_s) * self.rate_hz),
        ]

    def write(self, block: Mapping[str, FloatArray]) -> dict[str, float | None]:
        """One more block of all signals; by signal its peak in dBFS.

        raises: FileError if the disk is full
        """
        peaks = {}
        count = len(next(iter(block.values())))
        for line_id, samples in block.items():
            self._writers[line_id].write(samples)
            peaks[line_id] = peak_dbfs(samples)
        self._measure(block, count)
        self.frames += count
        return peaks

    def _measure(self, block: Mapping[str, FloatArray], count: int) -> None:
        """Fold a block, cut where a stretch that is measured by itself begins or ends."""
        assert self._meter is not None
        at = 0
        for bound in [
            b - self.frames for b in self._bounds if self.frames < b <= self.frames + count
        ]:
            self._fold(block, at, bound)
            at = bound
            self._cut()
        self._fold(block, at, count)

    def _fold(self, block: Mapping[str, FloatArray], begin: int, end: int) -> None:
        assert self._meter is not None
        if end <= begin:
            return
        for line_id, samples in block.items():
            state = self._states[line_id]
            self._states[line_id] = self._meter.fold(state, samples[None, begin:end])  # type: ignore[arg-type]

    def _cut(self) -> None:
        assert self._meter is not None
        self._measured.append(self._results())
        self._restart()

    def _results(self) -> dict[str, Measurement]:
        assert self._meter is not None
        found = {}
        for line_id, state in self._states.items():
            if state.frames:  # type: ignore[attr-defined]
                found[line_id] = self._meter.result(state).channels[0]  # type: ignore[arg-type]
        return found

    def discard(self) -> None:
        """Nothing is left of it but folders that others may use too."""
        for writer in self._writers.values():
            writer.discard()
        forget_log(self._take({key: self._planned(key) for key in self.paths}))
        with contextlib.suppress(OSError):
            next(iter(self.paths.values())).parent.rmdir()

    def finish(
        self,
        ended: str,
        reason: str = "",
        *,
        notes: str = "",
        aside: bool = False,
        marks_s: tuple[float, ...] = (),
    ) -> tuple[Take, ...]:
        """Close the files and give back what is a take of its own: of a loop each round.

        raises: FileError if nothing of it could be kept
        """
        kept: list[str] = []
        lost: list[FileError] = []
        for line_id in self.paths:
            try:
                self._writers[line_id].finish()
            except FileError as error:
                lost.append(error)
                continue
            kept.append(line_id)
        if lost:
            ended, reason = "cut_off", reason_of(lost[0])
        if not kept:
            raise lost[0]
        self._measured.append(self._results())
        self._held = {key: _held(self.paths[key]) for key in kept}
        seconds = self.frames / self.rate_hz
        plan = self.request.plan
        whole = Round(begin_s=0.0, seconds=seconds, start_s=0.0, wanted_s=(0.0, seconds))
        rounds = (whole,) if plan is None else rounds_of(plan, seconds)
        if plan is not None and plan.loops and ended == "stopped" and len(rounds) > 1:
            ended = "whole"
        takes: list[Take] = []
        for number, one in enumerate(rounds):
            tracks = {key: self._track(key, number, one, len(rounds)) for key in kept}
            takes.append(
                self._round_take(takes, number, one, tracks, ended, reason, notes, marks_s)
            )
        if aside:
            takes = [take.model_copy(update={"aside": True}) for take in takes]
        # Its log is all that knows of it until it is in a session; on a full disk the planned one stays.
        with contextlib.suppress(FileError):
            write_log(
                takes[0] if len(takes) == 1 else self._long_take(kept, seconds, ended, reason)
            )
        return tuple(takes)

    def _long_take(self, kept: list[str], seconds: float, ended: str, reason: str) -> Take:
        """All rounds as one: what the log beside the files knows."""
        tracks = {key: self._planned(key) for key in kept}
        return self._take(tracks, seconds=seconds, ended=ended, reason=reason)

    def _round_take(
        self, before: list[Take], number: int, one: Round, tracks: Mapping[str, TakeTrack],
        ended: str, reason: str, notes: str, marks_s: tuple[float, ...],
    ) -> Take:  # fmt: skip
        request = self.request
        take = self._take(tracks, seconds=one.seconds, ended=ended, reason=reason, notes=notes)
        update: dict[str, object] = {}
        if request.plan is not None:
            update["start_s"] = one.start_s - self._shift_s()
            own = tuple(m - one.begin_s for m in marks_s if one.wanted_s[0] <= m < one.wanted_s[1])
            if own:
                update |= {"marks_s": own, "rating": 4}
        if number:
            session = request.session.model_copy(
                update={"takes": (*request.session.takes, *before)}
            )
            update["id"], update["name"] = next_take(session)
        return take.model_copy(update=update)

    def _shift_s(self) -> float:
        """By how much what was played over something lies late in the file; nothing that nobody has measured."""
        frames = usable_offset_frames(self.request.session) if self.request.live else None
        return 0.0 if frames is None else frames / self.rate_hz

    def _track(self, line_id: str, number: int, one: Round, count: int) -> TakeTrack:
        content, size_bytes = self._held[line_id]
        track = replace(self._planned(line_id), content=content, size_bytes=size_bytes)
        if one.begin_s:
            track = replace(track, begin_frame=round(one.begin_s * self.rate_hz))
        measured = self._measured_of(line_id, number, count)
        return track if measured is None else with_measured(track, measured)

    def _measured_of(self, line_id: str, number: int, count: int) -> Measurement | None:
        """Of a song's section what was measured between its ends; of a loop, in that round; else the whole."""
        if not self._bounds:
            return self._measured[0].get(line_id)
        # The stretch before the first bound is the lead-in, where there is one.
        plan = self.request.plan
        number += 1 if plan is not None and plan.lead_s > 0.0 else 0
        wanted = self._measured[number] if len(self._measured) > number else {}
        found = wanted.get(line_id)
        if found is None and count == 1:
            found = next((m[line_id] for m in self._measured if line_id in m), None)
        return found

    def _planned(self, line_id: str) -> TakeTrack:
        """A track before anything of it is recorded."""
        item = self.assessment.line(line_id)
        assert item is not None
        return TakeTrack(
            line=line_id,
            name=item.line.name,
            file=str(self.paths[line_id]),
            peak_dbfs=Figure(
                measured=None,
                predicted=to_thousandth(item.predicted_peak_dbfs(self.request.play)),
            ),
            noise_dbfs_a=Figure(measured=None, predicted=to_thousandth(item.noise_dbfs_a)),
            clipped_frames=0,
        )

    def _take(
        self,
        tracks: Mapping[str, TakeTrack],
        *,
        seconds: float | None = None,
        ended: str = "cut_off",
        reason: str = "",
        notes: str = "",
    ) -> Take:
        request = self.request
        layer = layer_of(request.session)
        return Take.model_validate(
            {
                "id": request.take_id,
                "name": request.take_name,
                "recorded_at": request.recorded_at,
                "seconds": request.seconds if seconds is None else seconds,
                "play": request.play,
                "tracks": tuple(tracks.values()),
                "setup": request.session.setup,
                "ended": ended,
                "reason": reason,
                "notes": notes,
                "layer": None if layer is None else layer.id,
                "section": None if request.plan is None else request.plan.section,
                "start_s": None if request.plan is None else request.plan.start_s,
            }
        )


def _held(path: Path) -> tuple[str | None, int | None]:
    """What a file holds, as a digest, and how long it is; nothing where it cannot be read again."""
    try:
        return content_of(path), path.stat().st_size
    except (FileError, OSError):
        return None, None
