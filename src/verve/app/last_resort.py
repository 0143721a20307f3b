"""The last resort: an error that nobody foresaw ends nothing; a copy is kept, it is told, and work goes on."""

from __future__ import annotations

import contextlib
import sys
import threading
import time
import traceback
from datetime import datetime
from types import TracebackType

from PyQt6.QtCore import QObject, pyqtSignal

from verve.app.window import MainWindow

_LOG = "errors.log"
_LARGEST_BYTES = 1_000_000
_QUIET_S = 2.0
"""Errors that come one after the other, as from each painting of a picture, are told once."""


class LastResort(QObject):
    """Takes every error that reaches the top, in whatever thread."""

    happened = pyqtSignal(str)
    """Queued: what is told is told in the window's thread."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window = window
        self._told_s = -_QUIET_S
        self.happened.connect(self._tell)

    def take(
        self, kind: type[BaseException], error: BaseException | None, trace: TracebackType | None
    ) -> None:
        """Note an error, and see to it that it is told."""
        lines = "".join(traceback.format_exception(kind, error, trace))
        self._note(lines)
        sys.stderr.write(lines)
        self.happened.emit(f"{kind.__name__}: {error}".rstrip(": "))

    def _note(self, lines: str) -> None:
        place = self._window.files.state_folder / _LOG
        with contextlib.suppress(OSError):
            place.parent.mkdir(parents=True, exist_ok=True)
            if place.exists() and place.stat().st_size > _LARGEST_BYTES:
                place.unlink()
            with place.open("a", encoding="utf-8", errors="replace") as file:
                file.write(f"{datetime.now().astimezone().isoformat()}\n{lines}\n")

    def _tell(self, what: str) -> None:
        now_s = time.monotonic()
        if now_s - self._told_s < _QUIET_S:
            return
        self._told_s = now_s
        kept = ""
        if not self._window.document.is_saved:
            self._window.files.keep()
            kept = " A copy of your session is kept."
        self._window.say(
            f"Something in Verve went wrong ({what[:200]}).{kept} You can go on; if it happens again, undo "
            "what came before it, or start Verve anew."
        )


def install(window: MainWindow) -> LastResort:
    """Take the errors of all threads from now on."""
    resort = LastResort(window)
    sys.excepthook = resort.take

    def of_thread(args: threading.ExceptHookArgs) -> None:
        resort.take(args.exc_type, args.exc_value, args.exc_traceback)

    threading.excepthook = of_thread
    return resort
