"""Takes looked at as playing, beside the window: against the beat, on their notes, beside each other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from verve.app.document import Document
from verve.app.recordings import log_label
from verve.app.tasks import Report, Stopped, Tasks
from verve.core.errors import VerveError
from verve.core.session import Session, Take, note_playing

if TYPE_CHECKING:
    from verve.core.playing import Playing, Tolerance, WorthHearing

_LANE, _DOUBLES = "looking at takes", "comparing a double"
_MOST_LINES = 4
"""Of a whole band nobody reads a sentence each; what is played alone is told."""


class Looking(QObject):
    """Keeps what is found with the takes, and tells it."""

    found = pyqtSignal(object, str)
    """A `Take`, and how it was played in a sentence."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks

    def begin(self, takes: Sequence[Take]) -> None:
        """Look at takes that have just been recorded."""
        session, number = self._document.session, self._document.number
        wanted = [take for take in takes if len(take.tracks) <= _MOST_LINES]
        if not wanted:
            return

        def work(_: Report, is_stopped: Stopped) -> object:
            from verve.core.playing import look

            found: list[Playing] = []
            for take in wanted:
                for track in take.tracks:
                    try:
                        one = look(session, take, track.line, lambda: not is_stopped())
                    except VerveError:
                        # A take that cannot be read is told by whoever plays it.
                        continue
                    if one is not None and (one.late_ms is not None or one.off_cents is not None):
                        found.append(one)
            return found

        def done(found: list[Playing]) -> None:
            if found and self._document.number == number:
                self._keep(wanted, found)

        self._tasks.run(_LANE, work, done, failed=lambda _: None)

    def _keep(self, takes: Sequence[Take], found: Sequence[Playing]) -> None:
        def change(session: Session) -> Session:
            known = {take.id for take in session.takes}
            for one in found:
                if one.take in known:
                    session = note_playing(session, one.take, one.line, one.late_ms, one.off_cents)
            return session

        self._document.complete(log_label(takes), change)
        for take in takes:
            said = " ".join(one.text for one in found if one.take == take.id)
            self.found.emit(take, said)

    def compare(
        self,
        first: tuple[Take, str],
        double: tuple[Take, str],
        tolerance: Tolerance,
        told: Callable[[tuple[WorthHearing, ...]], None],
        failed: Callable[[str], None],
    ) -> None:
        """The places of a double that are most worth hearing beside its first."""
        session = self._document.session

        def work(_: Report, is_stopped: Stopped) -> object:
            from verve.core.playing import compare_double

            return compare_double(session, first, double, tolerance, lambda: not is_stopped())

        self._tasks.run(_DOUBLES, work, told, failed=failed)
