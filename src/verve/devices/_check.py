"""A guided check at work: sound comes in, live or of simulated players, and what it tells is reported as it comes."""

from __future__ import annotations

import queue
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final, Literal

import numpy as np

from verve.core.assess import Assessment, assess
from verve.core.check import (
    SILENCE_S,
    Answer,
    Guide,
    Levels,
    Silence,
    answers_of,
    signals_of,
    turn_first,
)
from verve.core.engine import Engine
from verve.core.errors import InputError
from verve.core.measure import Meter
from verve.core.session import Change, Session, apply_changes
from verve.core.units import FloatArray
from verve.devices._players import CheckPlayers, Wish
from verve.devices._record import Live, wait
from verve.devices._system import SystemInterface

_KEPT_S: Final = 24.0
"""So much of what was heard last is kept: a silence that is used lies within it."""
_REPORTS_PER_S = 20
_MOST_TURNS = 2
_TOOK: Final = 0.5
"""An easy phrase that has moved by at least this share of what was asked shows that somebody has turned the knob."""
Deed = Literal["skip", "again", "choose", "turned", "told"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Command:
    """What somebody does by hand: go on, once more, check that one, it is turned; with the session as it is then.

    `told` is a session that has caught up with what is so already: nothing is louder or softer for it.
    """

    deed: Deed
    group: int = 0
    session: Session | None = None


class Commands:
    """From the window to the check: posted by one thread, taken by another."""

    def __init__(self) -> None:
        self._waiting: queue.SimpleQueue[Command] = queue.SimpleQueue()

    def post(self, command: Command) -> None:
        """Do this next."""
        self._waiting.put(command)

    def taken(self) -> Iterator[Command]:
        """Everything that waits, in order."""
        while True:
            try:
                yield self._waiting.get_nowait()
            except queue.Empty:
                return


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckRequest:
    """Which signals of a session are checked, and where their sound comes from: simulated players unless live.

    `said` is how a source that was measured says so: "in the check of 4 May 2026".
    """

    session: Session
    lines: tuple[str, ...]
    said: str
    live: Live | None = None
    variation: int = 0
    is_paced: bool = True

    def __post_init__(self) -> None:
        if not self.lines:
            raise InputError("lines", "must have at least one signal")


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckState:
    """Where a check is, and everything it has found: by signal its silence and its answer.

    `deeds` is what to turn before the loudest passage; `took` are changes that a player has made by hand as told, as
    their sound shows; `known` is the session with the sources as loud as they were measured, where that is new.
    """

    guide: Guide
    silences: Mapping[str, Silence] = field(default_factory=dict)
    answers: Mapping[str, Answer] = field(default_factory=dict)
    deeds: str = ""
    changes: tuple[Change, ...] = ()
    took: tuple[Change, ...] = ()
    known: Session | None = None
    lost: int = 0


def check(
    request: CheckRequest,
    report: Callable[[CheckState], None],
    is_cancelled: Callable[[], bool],
    commands: Commands,
) -> None:
    """Check until cancelled; after each twentieth of a second where it is, and at once what it has found.

    raises: DeviceError if the device cannot be opened, or has gone; InputError for a signal that arrives nowhere
    """
    _Check(request, commands).run(report, is_cancelled)


class _Check:
    """The work of one check."""

    def __init__(self, request: CheckRequest, commands: Commands) -> None:
        self._request, self._commands = request, commands
        self._engine = Engine()
        self._session = request.session
        self._assessment: Assessment = assess(self._session, self._engine)
        self._rate_hz = self._session.setup.audio.sample_rate_hz
        self._levels = Levels(channels=len(request.lines), rate_hz=self._rate_hz)
        self._guide = Guide.of(signals_of(self._assessment, request.lines))
        self._silences: tuple[Silence, ...] = ()
        self._answers: dict[str, Answer] = {}
        self._deeds, self._changes, self._took = "", (), ()
        self._easy_before: tuple[int, float, float] | None = None
        self._known: Session | None = None
        self._kept: deque[FloatArray] = deque()
        self._kept_frames, self._frames = 0, 0
        self._system: SystemInterface | None = None
        self._players: CheckPlayers | None = None

    _changes: tuple[Change, ...]
    _took: tuple[Change, ...]

    def run(self, report: Callable[[CheckState], None], is_cancelled: Callable[[], bool]) -> None:
        """Until cancelled."""
        state, began, told = self._levels.start(), time.monotonic(), -1.0
        try:
            for samples in self._blocks(is_cancelled):
                if is_cancelled():
                    return
                is_new = self._obey()
                self._keep(samples)
                state, moments = self._levels.fold(state, samples)
                for moment in moments:
                    before = self._guide
                    self._guide = before.fold(moment)
                    is_new |= self._follow(before)
                now_s = self._frames / self._rate_hz
                if is_new or now_s - told >= 1.0 / _REPORTS_PER_S:
                    told = now_s
                    report(self._state())
                    self._took, self._known = (), None
                if self._players is not None and self._request.is_paced:
                    wait(now_s - (time.monotonic() - began), is_cancelled)
        finally:
            if self._system is not None:
                self._system.close()

    def _blocks(self, is_cancelled: Callable[[], bool]) -> Iterator[FloatArray]:
        live, lines = self._request.live, self._request.lines
        if live is None:
            self._players = CheckPlayers(self._assessment, lines, variation=self._request.variation)
            players: CheckPlayers | None = None
            stream: Iterator[FloatArray] = iter(())
            while True:
                if self._players is not players:
                    # Something was turned: from here on it sounds so.
                    players = self._players
                    stream = players.blocks()
                self._players.wish = self._wish()
                yield next(stream)
        self._system = live.open(self._rate_hz)
        rows = [live.channels[line] for line in lines]
        for block in self._system.blocks(is_cancelled=is_cancelled):
            yield block.samples[rows]

    def _wish(self) -> Wish:
        """What the simulated players do: as they are told, and the next one begins when one is done."""
        guide = self._guide
        if guide.phase == "silence":
            return Wish()
        group = guide.group
        if guide.phase in {"wait", "done"}:
            left = [one.group for one in guide.signals if one.group not in guide.done]
            if not left or (guide.phase == "done" and self._is_off(group)):
                return Wish()
            group = left[0]
        if guide.phase == "turn":
            return Wish()
        play = "hardest" if guide.phase == "loudest" else "typical"
        sources = set()
        for one in guide.signals:
            item = self._assessment.line(one.line)
            if one.group == group and item is not None and item.route.has_source:
                sources.add(item.route.source.id)
        return Wish(sources=frozenset(sources), play="hardest" if play == "hardest" else "typical")

    def _is_off(self, group: int | None) -> bool:
        """Whether something of a group that is done has to be turned."""
        own = [one.line for one in self._guide.signals if one.group == group]
        return any(self._answers[line].changes for line in own if line in self._answers)

    # ── what is done by hand ──────────────────────────────────────────────────────────────────
    def _obey(self) -> bool:
        is_new = False
        for command in self._commands.taken():
            is_new = True
            if command.session is not None:
                self._change_session(command.session, is_told=command.deed == "told")
            if command.deed == "skip":
                before, self._guide = self._guide, self._guide.skip()
                self._follow(before)
            elif command.deed == "again":
                self._guide = self._guide.again()
            elif command.deed == "choose":
                self._guide = self._guide.choose(command.group)
            if command.deed not in {"skip", "told"}:
                self._deeds, self._changes, self._easy_before = "", (), None
        return is_new

    def _change_session(self, session: Session, *, is_told: bool) -> None:
        """The session is another one now: so is what is computed of it, and what simulated players play through."""
        before = {one.line: one.predicted_peak_dbfs for one in self._guide.signals}
        self._session = session
        self._assessment = assess(session, self._engine)
        signals = signals_of(self._assessment, self._request.lines)
        if len(signals) != len(self._guide.signals):
            return
        own = [one for one in signals if one.group == self._guide.group]
        by_db = own[0].predicted_peak_dbfs - before[own[0].line] if own else 0.0
        guide = replace(self._guide, signals=signals)
        is_moved = (
            not is_told and abs(by_db) > 0.05 and guide.phase in {"easy", "turn", "loudest", "done"}
        )
        self._guide = guide.turned(by_db) if is_moved else guide
        if self._players is not None:
            self._players = CheckPlayers(
                assess(self._true(session), self._engine),
                self._request.lines,
                variation=self._request.variation,
            )

    def _true(self, session: Session) -> Session:
        """A session with the players as they were at first: what was learnt of them does not change how they play."""
        first = {one.id: one for one in self._request.session.setup.sources}
        sources = tuple(
            one.model_copy(update={"figures": first[one.id].figures}) if one.id in first else one
            for one in session.setup.sources
        )
        setup = session.setup.model_copy(update={"sources": sources})
        return session.model_copy(update={"setup": setup})

    # ── what follows from what is heard ───────────────────────────────────────────────────────
    def _follow(self, before: Guide) -> bool:
        """What a change of phase brings; whether there was one."""
        guide = self._guide
        if guide.phase == before.phase and guide.group == before.group:
            return False
        if before.phase == "silence":
            self._silences = self._figures_of_silence(guide)
        if guide.phase == "loudest" and before.phase == "easy":
            self._after_easy(guide)
        elif guide.phase == "done":
            self._answer(guide)
        elif guide.phase == "easy" and guide.group != before.group:
            self._deeds, self._changes, self._easy_before = "", (), None
        return True

    def _after_easy(self, guide: Guide) -> None:
        """Whether something has to be turned first, and whether somebody has done as they were told."""
        easy = guide.easy
        if easy is None or not guide.selected:
            return
        number = guide.selected[0]
        if self._easy_before is not None and self._changes:
            _, peak, by_db = self._easy_before
            moved = easy.peaks_dbfs[number] - peak
            if moved * by_db > 0.0 and abs(moved) >= _TOOK * abs(by_db):
                self._took = self._changes
        self._deeds, self._changes = "", ()
        if guide.turns < _MOST_TURNS:
            deeds, changes = turn_first(self._session, guide, self._engine)
            if deeds:
                self._deeds, self._changes = deeds, changes
                by_db = self._moves_by_db(changes, guide.signals[number].line)
                self._easy_before = (number, easy.peaks_dbfs[number], by_db)
                self._guide = guide.turn()

    def _moves_by_db(self, changes: tuple[Change, ...], line: str) -> float:
        """What some changes do to the level of a line."""
        after = assess(apply_changes(self._session, changes), self._engine).line(line)
        before = self._assessment.line(line)
        peaks = [None if one is None else one.state.peak_dbfs for one in (before, after)]
        return 0.0 if peaks[0] is None or peaks[1] is None else peaks[1] - peaks[0]

    def _answer(self, guide: Guide) -> None:
        known, answers = answers_of(
            self._session, guide, self._silences, self._request.said, self._engine
        )
        self._answers |= {one.line: one for one in answers}
        if known is not self._session:
            self._known, self._session = known, known
            self._assessment = assess(known, self._engine)
            self._guide = replace(guide, signals=signals_of(self._assessment, self._request.lines))

    def _keep(self, samples: FloatArray) -> None:
        self._kept.append(samples)
        self._kept_frames += samples.shape[1]
        self._frames += samples.shape[1]
        while self._kept_frames - self._kept[0].shape[1] > _KEPT_S * self._rate_hz:
            self._kept_frames -= self._kept.popleft().shape[1]

    def _figures_of_silence(self, guide: Guide) -> tuple[Silence, ...]:
        """Noise and hum of the silence that was used, by the same analysers that read recordings."""
        if guide.quiet_from_s is None:
            return tuple(Silence(was_quiet=False) for _ in guide.signals)
        heard = np.concatenate(list(self._kept), axis=1)
        first = self._frames - heard.shape[1]
        begin = max(0, round(guide.quiet_from_s * self._rate_hz) - first)
        part = heard[:, begin : begin + round(SILENCE_S * self._rate_hz)]
        if not part.size:
            return tuple(Silence(was_quiet=False) for _ in guide.signals)
        meter = Meter(channels=len(part), rate_hz=self._rate_hz, bit_depth=None)
        found = meter.result(meter.fold(meter.start(), part))
        return tuple(
            Silence(noise_dbfs_a=one.noise_dbfs_a, hum=one.hum, was_quiet=guide.was_quiet)
            for one in found.channels
        )

    def _state(self) -> CheckState:
        lines: Sequence[str] = self._request.lines
        return CheckState(
            guide=self._guide,
            silences=dict(zip(lines, self._silences, strict=False)),
            answers=dict(self._answers),
            deeds=self._deeds,
            changes=self._changes,
            took=self._took,
            known=self._known,
            lost=0 if self._system is None else self._system.lost,
        )
