"""Rehearsals beside the window: listening and recording, one at a time."""

from __future__ import annotations

import itertools
import threading
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from verve.app.tasks import Report, Stopped, Tasks, Work
from verve.core.errors import CancelledError
from verve.core.session import Play, Session, next_take

if TYPE_CHECKING:
    from verve.devices import Live

State = Literal["idle", "listening", "recording"]
_NAME = "rehearsal"
_NOTHING = "nothing"


class Rehearsal(QObject):
    """Runs one rehearsal at a time on the simulated interface."""

    state_changed = pyqtSignal()
    progressed = pyqtSignal(object)
    """A `Progress` of the running rehearsal."""
    recorded = pyqtSignal(object)
    """The finished `Take`."""
    failed = pyqtSignal(str)

    def __init__(self, tasks: Tasks, *, is_paced: bool = True) -> None:
        super().__init__()
        self._tasks = tasks
        self._is_paced = is_paced
        self._numbers = itertools.count(1)
        self._state: State = "idle"
        self.lines: tuple[str, ...] = ()
        self.owner = 0
        """The session that is being recorded for, by its number in the document."""
        self._finishing = threading.Event()
        self._then: Callable[[], None] | None = None

    @property
    def state(self) -> State:
        """What is going on."""
        return self._state

    @property
    def current(self) -> int:
        """The number of the running rehearsal; 0 for none."""
        return self._tasks.current(_NAME)

    def record(
        self,
        session: Session,
        lines: tuple[str, ...],
        play: Play,
        seconds: float,
        base: Path,
        owner: int = 0,
        live: Live | None = None,
    ) -> None:
        """Begin to record a take into a new folder under `base`; `owner` is the session it belongs to.

        What is live is recorded until it is stopped; simulated players play otherwise in each take.
        """
        take_id, take_name = next_take(session)
        recorded_at = datetime.now().astimezone().isoformat(timespec="seconds")
        number, is_paced = next(self._numbers), self._is_paced
        # What nobody waits for, as in tests, is played exactly as announced.
        variation = len(session.takes) + 1 if is_paced else 0
        self.owner, self._then, finishing = owner, None, threading.Event()
        self._finishing = finishing

        def work(report: Report, is_cancelled: Stopped) -> object:
            # Imported here: sound files and players are not needed before the first paint.
            from verve.devices import LONGEST_LIVE_S, RecordRequest, free_folder, record

            request = RecordRequest(
                id=number,
                session=session,
                lines=lines,
                play=play,
                seconds=seconds if live is None else LONGEST_LIVE_S,
                live=live,
                variation=variation,
                folder=free_folder(base, take_name),
                take_id=take_id,
                take_name=take_name,
                recorded_at=recorded_at,
                is_paced=is_paced,
            )
            try:
                return record(request, report, is_cancelled, finishing.is_set)
            except CancelledError:
                # Stopped before the first sound: there is nothing to keep, and that is an answer.
                return _NOTHING

        self._begin("recording", lines, work)

    def listen(
        self, session: Session, lines: tuple[str, ...], play: Play, live: Live | None = None
    ) -> None:
        """Begin to play the lines without recording."""
        number = next(self._numbers)

        def work(report: Report, is_stopped: Stopped) -> None:
            from verve.devices import ListenRequest, listen

            request = ListenRequest(id=number, session=session, lines=lines, play=play, live=live)
            listen(request, report, is_stopped)

        self._begin("listening", lines, work)

    def _begin(self, state: State, lines: tuple[str, ...], work: Work) -> None:
        self._state, self.lines = state, lines
        self.state_changed.emit()
        self._tasks.run(
            _NAME,
            work,
            self._on_done,
            failed=self._on_failure,
            reported=self.progressed.emit,
        )

    def stop(self) -> None:
        """End what is going on; of a recording, what was recorded until now is kept."""
        if self._state == "recording":
            self.finish()
        else:
            self.cancel()

    def finish(self, then: Callable[[], None] | None = None) -> None:
        """Stop recording and keep it; `then` is done when the take is there."""
        if self._state == "recording":
            self._then = then
            self._finishing.set()

    def cancel(self) -> None:
        """End what is going on; a recording is deleted."""
        self._tasks.cancel(_NAME)
        self._end()

    def _end(self) -> None:
        if self._state != "idle":
            self._state = "idle"
            self.state_changed.emit()

    def _on_done(self, found: object) -> None:
        then, self._then = self._then, None
        self._end()
        if found is not _NOTHING:
            self.recorded.emit(found)
        if then is not None:
            then()

    def _on_failure(self, sentence: str) -> None:
        self._then = None
        self._end()
        self.failed.emit(sentence)
