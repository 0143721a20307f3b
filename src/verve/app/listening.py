"""What the tuner listens to: a simulated player, a file, or the machine's input, one at a time."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from verve.app.hearing import Input, find_input
from verve.app.tasks import Report, Stopped, Tasks
from verve.core.measure import Heard, Reading, Tuner
from verve.devices import TuneRequest, tune

FindInput = Callable[[int], Input | str]
_LANE = "tuner"
_POLL_MS = 20


class Listening(QObject):
    """Tells what is heard, until it is stopped."""

    heard = pyqtSignal(object)
    """A `Reading`, or None in a rest."""
    state_changed = pyqtSignal()
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(self, tasks: Tasks, find: FindInput = find_input) -> None:
        super().__init__()
        self._tasks, self.find = tasks, find
        self._input: Input | None = None
        self._tuner: Tuner | None = None
        self._state = Heard()
        self._timer = QTimer(self)
        self._timer.setInterval(_POLL_MS)
        self._timer.timeout.connect(self._poll)

    @property
    def is_on(self) -> bool:
        """Whether it listens."""
        return self._input is not None or self._tasks.is_busy(_LANE)

    def begin(self, request: TuneRequest) -> None:
        """Listen to a player or a file."""
        self.stop()

        def work(report: Report, is_stopped: Stopped) -> object:
            tune(request, report, is_stopped)
            return None

        def failed(sentence: str) -> None:
            self.told.emit(sentence)
            self.state_changed.emit()

        self._tasks.run(
            _LANE, work, lambda _: self.state_changed.emit(), failed=failed, reported=self._on_heard
        )
        self.state_changed.emit()

    def begin_live(self, rate_hz: int, a4_hz: float) -> None:
        """Listen to the machine's input."""
        self.stop()
        found = self.find(rate_hz)
        if isinstance(found, str):
            self.told.emit(found)
            return
        self._input = found
        self._tuner = Tuner(rate_hz=found.rate_hz, a4_hz=a4_hz)
        self._state = self._tuner.start()
        self._timer.start()
        self.state_changed.emit()

    def stop(self) -> None:
        """Listen no longer."""
        if not self.is_on:
            return
        self._timer.stop()
        self._tasks.cancel(_LANE)
        if self._input is not None:
            self._input.stop()
            self._input = None
        self.state_changed.emit()

    def _on_heard(self, reading: Reading | None) -> None:
        self.heard.emit(reading)

    def _poll(self) -> None:
        if self._input is None or self._tuner is None:
            return
        block = self._input.read()
        if len(block):
            self._state = self._tuner.fold(self._state, block)
            self.heard.emit(self._state.reading)
