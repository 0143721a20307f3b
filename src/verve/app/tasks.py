"""The one road for slow work: a frozen request goes out, a pure function answers beside the window.

Each kind of work has a name and a lane of its own: a newer request calls the older one off and begins when
that has ended, without anybody waiting for it in the window's thread. What answers late is dropped; whatever
goes wrong is told as a sentence, and the lane is free again.
"""

from __future__ import annotations

import itertools
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from verve.core.errors import CancelledError, VerveError

Report = Callable[[Any], None]
"""Called by the work with how far it is: a share 0…1, or whatever its kind tells."""
Stopped = Callable[[], bool]
"""Asked by the work: whether it is still wanted."""
Work = Callable[[Report, Stopped], object]
_LONGEST_WAIT_S = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Request:
    """What was asked for: its number, never given twice, and its kind."""

    id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What came of a request: a result, or the sentence that says why there is none; neither if called off.

    Work that has nothing to give back has the result None.
    """

    id: int
    name: str
    result: object = None
    error: str = ""
    is_called_off: bool = False


@dataclass(slots=True)
class _Job:
    request: Request
    stop: threading.Event
    thread: threading.Thread | None
    done: Callable[[Any], None]
    failed: Callable[[str], None] | None
    reported: Callable[[Any], None] | None


def _told(error: Exception) -> str:
    """An error as a person is told: what Verve foresaw says it all, the rest names itself."""
    if isinstance(error, VerveError):
        return str(error)
    said = f"{type(error).__name__}: {error}".rstrip(": ")
    return f"This could not be worked out ({said}). Nothing has changed; try it again."


class Tasks(QObject):
    """Runs one piece of work for each name at a time. `is_inline` runs it at once, for tests."""

    progressed = pyqtSignal(str, object)
    """What the work of a name reports."""
    failed = pyqtSignal(str)
    """The sentence of a failure that nobody else takes."""
    busy_changed = pyqtSignal()
    _reported = pyqtSignal(object, object)
    _answered = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None, *, is_inline: bool = False) -> None:
        super().__init__(parent)
        self._is_inline = is_inline
        self._numbers = itertools.count(1)
        self._jobs: dict[str, _Job] = {}
        self._ending: dict[str, threading.Thread] = {}
        self._reported.connect(self._on_report)
        self._answered.connect(self._on_answer)

    def is_busy(self, name: str) -> bool:
        """Whether work of this name is going on."""
        return name in self._jobs

    def current(self, name: str) -> int:
        """The number of the request that is being worked on; 0 for none."""
        job = self._jobs.get(name)
        return 0 if job is None else job.request.id

    def run(
        self,
        name: str,
        work: Work,
        done: Callable[[Any], None],
        *,
        failed: Callable[[str], None] | None = None,
        reported: Callable[[Any], None] | None = None,
    ) -> int:
        """Begin; `done` gets what comes of it in the window's thread, unless it is called off. The number
        of the request is given back."""
        self.cancel(name)
        request = Request(id=next(self._numbers), name=name)
        stop = threading.Event()
        before = self._ending.pop(name, None)

        def report(what: object) -> None:
            if not stop.is_set():
                self._reported.emit(request, what)

        def body() -> None:
            if before is not None:
                # Two of one kind never work at once: they may write to one place.
                before.join()
            answer = answer_of(request, work, report, stop)
            # What was called off has nobody who listens any more; the window itself may be gone.
            if not stop.is_set():
                self._answered.emit(answer)

        job = _Job(
            request=request, stop=stop, thread=None, done=done, failed=failed, reported=reported
        )
        self._jobs[name] = job
        self.busy_changed.emit()
        if self._is_inline:
            body()
        else:
            job.thread = threading.Thread(target=body, name=f"{name} {request.id}", daemon=True)
            job.thread.start()
        return request.id

    def cancel(self, name: str) -> None:
        """Call off what is going on under a name; it ends by itself, and nobody waits."""
        job = self._jobs.pop(name, None)
        if job is not None:
            job.stop.set()
            if job.thread is not None:
                self._ending[name] = job.thread
            self.busy_changed.emit()

    def cancel_all(self, *, but: tuple[str, ...] = ()) -> None:
        """Call everything off but what must be finished, and wait for all of it: before the window goes."""
        for name in [n for n in self._jobs if n not in but]:
            self.cancel(name)
        self.wait()

    def wait(self) -> None:
        """Until everything has ended; a hanging piece of work is left behind after some seconds."""
        threads = [job.thread for job in self._jobs.values()] + list(self._ending.values())
        for thread in threads:
            if thread is not None:
                thread.join(timeout=_LONGEST_WAIT_S)

    def _on_report(self, request: Request, what: object) -> None:
        job = self._jobs.get(request.name)
        if job is None or job.request.id != request.id:
            return
        if job.reported is not None:
            job.reported(what)
        self.progressed.emit(request.name, what)

    def _on_answer(self, answer: Answer) -> None:
        job = self._jobs.get(answer.name)
        if job is None or job.request.id != answer.id:
            return
        del self._jobs[answer.name]
        self.busy_changed.emit()
        if answer.error:
            if job.failed is not None:
                job.failed(answer.error)
            else:
                self.failed.emit(answer.error)
        elif not answer.is_called_off:
            job.done(answer.result)


def answer_of(request: Request, work: Work, report: Report, stop: threading.Event) -> Answer:
    """Do the work of a request, whatever comes of it."""
    try:
        result = work(report, stop.is_set)
    except CancelledError:
        return Answer(id=request.id, name=request.name, is_called_off=True)
    except Exception as error:  # whatever it is, it ends as a told failure
        return Answer(id=request.id, name=request.name, error=_told(error))
    return Answer(id=request.id, name=request.name, result=result)
