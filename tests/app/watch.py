"""An application that knows how much of its own processor time each event took: none may take long."""

from __future__ import annotations

import time
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication

LONGEST_MS = 50.0


@dataclass(frozen=True, slots=True)
class SlowEvent:
    """An event that took long: what kind, to whom it went, and its processor time.

    unit: ms
    """

    kind: str
    receiver: str
    cpu_ms: float


class WatchedApplication(QApplication):
    """Notes every single event that takes more than its share of the thread's own time.

    What a dialog does while it is open is counted with its own events, not with the one that opened it.
    """

    def __init__(self, arguments: list[str]) -> None:
        super().__init__(arguments)
        self.slow: list[SlowEvent] = []
        self.longest_ms = 0.0
        self.painted_at = 0.0
        """When a window had been painted last, as `time.perf_counter` says it."""
        self._inner_s: list[float] = []

    def notify(self, receiver: QObject | None, event: QEvent | None) -> bool:
        self._inner_s.append(0.0)
        began = time.thread_time()
        try:
            return super().notify(receiver, event)
        finally:
            whole_s = time.thread_time() - began
            own_ms = (whole_s - self._inner_s.pop()) * 1000.0
            if self._inner_s:
                self._inner_s[-1] += whole_s
            self.longest_ms = max(self.longest_ms, own_ms)
            if event is not None and event.type() == QEvent.Type.UpdateRequest:
                self.painted_at = time.perf_counter()
            if own_ms > LONGEST_MS and event is not None:
                self.slow.append(
                    SlowEvent(event.type().name, type(receiver).__name__, round(own_ms, 1))
                )
