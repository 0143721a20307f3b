"""Hearing a sound file: from a place, over and over if wanted; reading it goes on beside the window."""

from __future__ import annotations

import queue
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from verve.app.hearing import Output, find_output
from verve.app.tasks import Report, Stopped, Tasks
from verve.core.soundfiles import Playback, PlayRequest
from verve.core.units import FloatArray

FindOutput = Callable[[int], Output | str]
_LANE = "player"
_TICK_MS = 30
_BLOCK_FRAMES = 2048
_AHEAD_BLOCKS = 16
_PUT_S = 0.05


@dataclass(slots=True)
class _Running:
    """What is being played: where it is heard, and the blocks that were read ahead."""

    output: Output
    blocks: queue.Queue[FloatArray | None]
    playback: Playback | None = None
    left: FloatArray | None = None
    written: int = 0
    is_read: bool = False


class Player(QObject):
    """Plays one sound file at a time."""

    state_changed = pyqtSignal()
    moved = pyqtSignal(float)
    """Where in the file one is, in seconds."""
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(self, tasks: Tasks, find: FindOutput | None = None) -> None:
        super().__init__()
        self._tasks, self._find = tasks, find or find_output
        self._running: _Running | None = None
        self.request: PlayRequest | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._feed)

    @property
    def is_playing(self) -> bool:
        """Whether something is being played."""
        return self._running is not None

    def play(self, request: PlayRequest, rate_hz: int) -> bool:
        """Begin, in the place of what was played; `rate_hz` is the file's own. Whether it is heard."""
        self.stop()
        output = self._find(rate_hz)
        if isinstance(output, str):
            self.told.emit(output)
            return False
        running = _Running(output=output, blocks=queue.Queue(maxsize=_AHEAD_BLOCKS))
        self._running, self.request = running, request

        def work(report: Report, is_stopped: Stopped) -> object:
            with Playback(request, output.rate_hz, lambda: not is_stopped()) as playback:
                report(playback)
                while not is_stopped():
                    block = playback.read(_BLOCK_FRAMES)
                    if not _put(running.blocks, block, is_stopped) or not len(block):
                        break
                _put(running.blocks, None, is_stopped)
            return None

        def opened(playback: Playback) -> None:
            if self._running is running:
                running.playback = playback
                output.start()
                self._timer.start()

        self._tasks.run(_LANE, work, lambda _: None, failed=self._on_failure, reported=opened)
        self.state_changed.emit()
        return True

    def stop(self) -> None:
        """Be silent."""
        if self._running is None:
            return
        running, self._running = self._running, None
        self._timer.stop()
        self._tasks.cancel(_LANE)
        running.output.stop()
        self.state_changed.emit()

    def _on_failure(self, sentence: str) -> None:
        self.stop()
        self.told.emit(sentence)

    def _feed(self) -> None:
        """Give the output what it takes; tell where one is."""
        running = self._running
        if running is None or running.playback is None:
            return
        room = running.output.room()
        while room > 0:
            if running.left is None or not len(running.left):
                running.left = self._next(running)
                if running.left is None:
                    break
            block, running.left = running.left[:room], running.left[room:]
            running.output.write(block)
            running.written += len(block)
            room -= len(block)
        heard = min(running.output.heard(), running.written)
        self.moved.emit(running.playback.place_s(heard))
        if running.is_read and heard >= running.written and self._running is running:
            self.stop()

    @staticmethod
    def _next(running: _Running) -> FloatArray | None:
        try:
            block = running.blocks.get_nowait()
        except queue.Empty:
            return None
        if block is None:
            running.is_read = True
        return block


def _put(
    blocks: queue.Queue[FloatArray | None], block: FloatArray | None, is_stopped: Stopped
) -> bool:
    """Wait until there is room for a block, unless it is not wanted any more."""
    while not is_stopped():
        try:
            blocks.put(block, timeout=_PUT_S)
        except queue.Full:
            continue
        return True
    return False
