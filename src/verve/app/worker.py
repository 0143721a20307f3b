"""Slow work beside the window: asked for by name, done in a thread, answered in the window's thread."""

from __future__ import annotations

import itertools
import threading
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from verve.core.errors import CancelledError, VerveError

Report = Callable[[float], None]
Stopped = Callable[[], bool]
Work = Callable[[Report, Stopped], object]


@dataclass(slots=True)
class _Job:
    number: int
    stop: threading.Event
    thread: threading.Thread | None
    done: Callable[[object], None]


class Worker(QObject):
    """Runs one piece of work for each name at a time; a newer one calls the older one off.

    What comes too late, from work that was called off, is dropped.
    """

    progressed = pyqtSignal(str, float)
    """How far the work of a name is, 0 to 1."""
    failed = pyqtSignal(str)
    busy_changed = pyqtSignal()
    _reported = pyqtSignal(str, int, float)
    _ended = pyqtSignal(str, int, object, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._numbers = itertools.count(1)
        self._jobs: dict[str, _Job] = {}
        self._reported.connect(self._on_report)
        self._ended.connect(self._on_end)

    def is_busy(self, name: str) -> bool:
        """Whether work of this name is going on."""
        return name in self._jobs

    def run(self, name: str, work: Work, done: Callable[[object], None]) -> None:
        """Begin; `done` gets what comes of it, in the window's thread, unless it is called off."""
        self.cancel(name)
        number, stop = next(self._numbers), threading.Event()

        def body() -> None:
            try:
                result = work(lambda share: self._reported.emit(name, number, share), stop.is_set)
            except CancelledError:
                self._ended.emit(name, number, None, "")
            except VerveError as error:
                self._ended.emit(name, number, None, str(error))
            else:
                self._ended.emit(name, number, result, "")

        thread = threading.Thread(target=body, name=f"{name} {number}", daemon=True)
        self._jobs[name] = _Job(number=number, stop=stop, thread=thread, done=done)
        thread.start()
        self.busy_changed.emit()

    def cancel(self, name: str) -> None:
        """Call off what is going on under a name."""
        job = self._jobs.pop(name, None)
        if job is not None:
            job.stop.set()
            self.busy_changed.emit()

    def cancel_all(self) -> None:
        """Call everything off, and wait for it: before the window goes."""
        threads = [job.thread for job in self._jobs.values()]
        for name in list(self._jobs):
            self.cancel(name)
        for thread in threads:
            if thread is not None:
                thread.join(timeout=5.0)

    def _on_report(self, name: str, number: int, share: float) -> None:
        job = self._jobs.get(name)
        if job is not None and job.number == number:
            self.progressed.emit(name, share)

    def _on_end(self, name: str, number: int, result: object, error: str) -> None:
        job = self._jobs.get(name)
        if job is None or job.number != number:
            return
        del self._jobs[name]
        self.busy_changed.emit()
        if error:
            self.failed.emit(error)
        elif result is not None:
            job.done(result)
