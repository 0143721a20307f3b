"""Standing by: the armed signals are heard all the time; a recording begins at once, nothing played is lost.

One worker listens to the device from the moment somebody stands by. What comes is kept for a while; a recording takes
its blocks from there, beginning where the cue began to play; the device is never opened or closed in between.
"""

from __future__ import annotations

import queue
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

import numpy as np

from verve.core.assess import Assessment, assess
from verve.core.errors import FileError, VerveError
from verve.core.session import Play, Session, Take, next_take
from verve.core.takes import FALSE_START_S, RecordPlan
from verve.core.units import FloatArray
from verve.devices._record import (
    LONGEST_LIVE_S,
    Live,
    RecordRequest,
    Streams,
    free_folder,
    lost_words,
    wait,
)
from verve.devices._writing import Writing, peak_dbfs, reason_of

KEPT_S = 180.0
"""So much of what was played while nothing recorded can be kept afterwards."""
LONGEST_STAND_S = 8 * 3600.0
_LEAST_KEPT_S = 1.0
_QUICK = 25.0
"""How many times as quick as real players those are that nobody waits for, as in tests."""

Deed = Literal["begin", "stop", "again", "mark", "keep", "session", "leave"]
State = Literal["ready", "counting", "recording"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StandRequest:
    """Which signals are armed, where takes go, and what plays: a device of this machine, or simulated players."""

    id: int
    session: Session
    lines: tuple[str, ...]
    play: Play
    base: Path
    is_paced: bool = True
    live: Live | None = None
    variation: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """Something to do now. `plan` belongs to a beginning, `cue` is the sound file that is heard with it.

    With another `session` comes what is set now, and which `lines` are armed; to `leave` ends what is going on.
    """

    deed: Deed
    plan: RecordPlan | None = None
    cue: Path | None = None
    loop_s: tuple[float, float] | None = None
    session: Session | None = None
    lines: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """How it stands: what is going on, where in the song, which round, and the peaks of the last block in dBFS.

    `counts` is how many beats are still counted in.
    """

    id: int
    state: State
    seconds: float
    song_s: float | None
    round: int
    counts: int
    marks: int
    peaks_dbfs: Mapping[str, float | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Begun:
    """A recording has begun, so long after it was asked for."""

    id: int
    plan: RecordPlan
    after_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Recorded:
    """A recording is over: its takes, none where nothing was heard yet or nothing could be kept; what nobody recorded
    on purpose is `is_kept` from what was played before."""

    id: int
    takes: tuple[Take, ...]
    session: Session
    is_kept: bool = False


Report = Callable[[Standing | Begun | Recorded | str], None]
"""A string is a sentence that somebody should know."""


class Orders:
    """What is asked of the one who stands by, from another thread."""

    def __init__(self) -> None:
        self._waiting: queue.SimpleQueue[tuple[Order, float]] = queue.SimpleQueue()

    def put(self, order: Order) -> None:
        """Ask for something."""
        self._waiting.put((order, time.monotonic()))

    def next(self) -> tuple[Order, float] | None:
        """What was asked for first, and when; None where nothing is."""
        try:
            return self._waiting.get_nowait()
        except queue.Empty:
            return None


@dataclass(slots=True)
class _Ring:
    """The last minutes of all signals."""

    rate_hz: int
    blocks: deque[Mapping[str, Any]] = field(default_factory=deque)
    frames: int = 0
    """How many have come in all."""
    held: int = 0

    def add(self, block: Mapping[str, FloatArray]) -> None:
        count = len(next(iter(block.values())))
        single = {key: samples.astype(np.float32) for key, samples in block.items()}
        self.blocks.append(single)
        self.frames += count
        self.held += count
        while self.held - len(next(iter(self.blocks[0].values()))) > KEPT_S * self.rate_hz:
            gone = self.blocks.popleft()
            self.held -= len(next(iter(gone.values())))

    def all(self) -> list[Mapping[str, FloatArray]]:
        """All that is still there."""
        return [
            {key: samples.astype(np.float64) for key, samples in block.items()}
            for block in self.blocks
        ]

    def forget(self) -> None:
        """What has become a take need not be kept."""
        self.blocks.clear()
        self.held = 0


@dataclass(slots=True)
class _Recording:
    """One that is going on: what is written, and what was marked in it."""

    writing: Writing
    plan: RecordPlan
    order: Order
    first: int
    """The frame of the device at which it begins: where its cue did."""
    marks_s: list[float] = field(default_factory=list)

    @property
    def seconds(self) -> float:
        """How long it is until now."""
        return self.writing.frames / self.writing.rate_hz

    @property
    def is_over(self) -> bool:
        """Whether it has come to its end by itself."""
        longest = self.plan.seconds
        if longest is None:
            longest = LONGEST_LIVE_S
        return self.seconds >= longest


class _Stand:
    def __init__(self, request: StandRequest, report: Report) -> None:
        self._request, self._report = request, report
        self._session = request.session
        self._assessment: Assessment = assess(request.session)
        self._rate_hz: int = request.session.setup.audio.sample_rate_hz
        self._ring = _Ring(rate_hz=self._rate_hz)
        self._lines = request.lines
        self._recording: _Recording | None = None
        self._streams: Streams | None = None
        self._blocks: Iterator[Mapping[str, FloatArray]] = iter(())
        self._is_cancelled: Callable[[], bool] = lambda: False

    def run(self, orders: Orders, is_cancelled: Callable[[], bool]) -> None:
        self._is_cancelled = is_cancelled
        self._open()
        began, at_first = time.monotonic(), 0
        try:
            while not is_cancelled():
                block = next(self._blocks, None)
                if block is None:
                    break
                is_left = False
                while (asked := orders.next()) is not None:
                    is_left = is_left or asked[0].deed == "leave"
                    self._do(*asked)
                if is_left or is_cancelled():
                    break
                if set(block) != set(self._lines):
                    # Other signals are armed now: what is heard next is theirs.
                    continue
                self._take(block)
                if self._request.live is None:
                    pace = 1.0 if self._request.is_paced else _QUICK
                    at_s = (self._ring.frames - at_first) / self._rate_hz / pace
                    wait(at_s - (time.monotonic() - began), is_cancelled)
        except VerveError as error:
            if self._recording is None:
                raise
            self._end("cut_off", reason_of(error))
            self._report(str(error))
        finally:
            if self._recording is not None:
                self._end("stopped")
            if self._streams is not None:
                self._streams.close()

    def _open(self) -> None:
        """Listen to what is armed, as it is set now; a device that is open stays so."""
        request = self._request
        if self._streams is not None and request.live is not None:
            self._streams = self._streams.listening_to(self._lines, request.live)
        else:
            self._streams = Streams.of(
                self._assessment,
                self._lines,
                request.play,
                LONGEST_STAND_S,
                live=request.live,
                variation=request.variation,
                is_cancelled=self._is_cancelled,
                gives=request.live is not None,
            )
        self._blocks = self._streams.blocks()

    def _change(self, order: Order) -> None:
        """Something else is set, or armed; what is being recorded goes on as it was."""
        if order.session is None or self._recording is not None:
            return
        if set(order.lines) != set(self._lines):
            self._ring.forget()
        is_set = order.session.setup is self._session.setup and order.lines == self._lines
        self._session, self._lines = order.session, order.lines
        if not is_set:
            self._assessment = assess(order.session)
            self._open()

    # ── blocks ────────────────────────────────────────────────────────────────────────────────
    def _take(self, block: Mapping[str, FloatArray]) -> None:
        self._ring.add(block)
        recording = self._recording
        peaks = {key: peak_dbfs(samples) for key, samples in block.items()}
        if recording is not None:
            try:
                self._write(recording, block)
            except FileError as error:
                self._end("cut_off", reason_of(error))
                self._report(str(error))
                recording = None
        self._say(peaks)
        if recording is not None and recording.is_over:
            self._end("whole")

    def _write(self, recording: _Recording, block: Mapping[str, FloatArray]) -> None:
        count = len(next(iter(block.values())))
        early = recording.first - (self._ring.frames - count)
        if early > 0:
            block = {key: samples[early:] for key, samples in block.items()}
        longest = recording.plan.seconds
        if longest is not None:
            left = round(longest * self._rate_hz) - recording.writing.frames
            block = {key: samples[:left] for key, samples in block.items()}
        if len(next(iter(block.values()))):
            recording.writing.write(block)

    def _say(self, peaks: Mapping[str, float | None]) -> None:
        recording = self._recording
        if recording is None:
            self._report(
                Standing(
                    id=self._request.id, state="ready", seconds=0.0, song_s=None, round=0, counts=0,
                    marks=0, peaks_dbfs=peaks,
                )
            )  # fmt: skip
            return
        seconds, plan = recording.seconds, recording.plan
        song_s = plan.song_s(seconds)
        counts = sum(1 for beat_s in plan.count_in_s if beat_s > plan.start_s + seconds)
        is_counting = seconds < plan.lead_s
        self._report(
            Standing(
                id=self._request.id,
                state="counting" if is_counting else "recording",
                seconds=seconds,
                song_s=song_s,
                round=plan.round(seconds),
                counts=counts,
                marks=len(recording.marks_s),
                peaks_dbfs=peaks,
            )
        )

    # ── orders ────────────────────────────────────────────────────────────────────────────────
    def _do(self, order: Order, asked_at: float) -> None:
        match order.deed:
            case "begin":
                if self._recording is None and order.plan is not None:
                    self._begin(order, asked_at)
            case "stop":
                self._end("stopped")
            case "again":
                self._again(asked_at)
            case "mark":
                if self._recording is not None:
                    self._recording.marks_s.append(self._recording.seconds)
            case "keep":
                self._keep()
            case "session":
                self._change(order)
            case "leave":
                self._end("stopped")

    def _begin(self, order: Order, asked_at: float) -> None:
        plan = order.plan
        assert plan is not None
        assert self._streams is not None
        request = self._record_request(plan)
        writing = Writing.of(request, self._assessment)
        try:
            writing.begin()
        except VerveError as error:
            writing.discard()
            self._report(str(error))
            return
        first = self._streams.play(order.cue, order.loop_s) if order.cue is not None else None
        # What a device records before its cue begins to play is none of it.
        begin = self._ring.frames if first is None else first
        self._recording = _Recording(writing=writing, plan=plan, order=order, first=begin)
        after_ms = (time.monotonic() - asked_at) * 1000.0
        self._report(Begun(id=self._request.id, plan=plan, after_ms=after_ms))

    def _record_request(self, plan: RecordPlan | None, name: str = "") -> RecordRequest:
        take_id, take_name = next_take(self._session)
        request = self._request
        return RecordRequest(
            id=request.id,
            session=self._session,
            lines=self._lines,
            play=request.play,
            seconds=LONGEST_LIVE_S,
            folder=free_folder(request.base, name or take_name),
            take_id=take_id,
            take_name=name or take_name,
            recorded_at=datetime.now().astimezone().isoformat(timespec="seconds"),
            is_paced=False,
            live=request.live,
            variation=request.variation,
            plan=plan,
            is_standing=True,
        )

    def _end(self, ended: str, reason: str = "", *, aside: bool = False) -> None:
        recording, self._recording = self._recording, None
        if recording is None:
            return
        assert self._streams is not None
        self._streams.silence()
        if not recording.writing.frames:
            # Stopped before the first sound: there is nothing to keep, and it is over all the same.
            recording.writing.discard()
            self._told(())
            return
        try:
            takes = recording.writing.finish(
                ended,
                reason,
                notes=lost_words(self._streams.lost),
                aside=aside,
                marks_s=tuple(recording.marks_s),
            )
        except VerveError as error:
            self._report(str(error))
            self._told(())
            return
        self._ring.forget()
        self._told(takes)

    def _told(self, takes: tuple[Take, ...], *, is_kept: bool = False) -> None:
        self._report(
            Recorded(id=self._request.id, takes=takes, session=self._session, is_kept=is_kept)
        )
        # What comes next has a number of its own, whatever the window does with these.
        self._session = self._session.model_copy(update={"takes": (*self._session.takes, *takes)})

    def _again(self, asked_at: float) -> None:
        recording = self._recording
        if recording is None:
            return
        played_s = recording.seconds - recording.plan.lead_s
        self._end("stopped", aside=played_s < FALSE_START_S)
        self._begin(recording.order, asked_at)

    def _keep(self) -> None:
        """What was played since the last take, as a take that has no place in the song."""
        blocks = self._ring.all()
        held_s = self._ring.held / self._rate_hz
        if self._recording is not None or held_s < _LEAST_KEPT_S:
            self._report("Nothing was played since the last take that could be kept.")
            return
        writing = Writing.of(self._record_request(None), self._assessment)
        try:
            writing.begin()
            for block in blocks:
                writing.write(block)
            takes = writing.finish("whole", notes="Kept after it was played.")
        except VerveError as error:
            self._report(str(error))
            return
        self._ring.forget()
        self._told(takes, is_kept=True)


def stand(
    request: StandRequest, orders: Orders, report: Report, is_cancelled: Callable[[], bool]
) -> None:
    """Listen to the armed signals until cancelled, and record when it is asked for.

    A recording that is going on when it ends is kept.

    raises: DeviceError if a device cannot be opened; InputError for a signal that arrives nowhere
    """
    _Stand(request, report).run(orders, is_cancelled)
