"""Check: prove it before the take, by a rehearsal, by recordings, and in tune."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QHideEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.rehearsal import Rehearsal
from verve.app.tasks import Tasks
from verve.app.views.check.guided import GuidedPage
from verve.app.views.check.rehearse import RehearsePage
from verve.app.widgets.pages import Page, Pages

if TYPE_CHECKING:
    from verve.app.importing import Importing
    from verve.app.player import Player
    from verve.app.views.check.compare import ComparePage
    from verve.app.views.check.recordings import RecordingsPage
    from verve.app.views.check.tuner import TunerPage
    from verve.app.views.check.watch import WatchPage

PAGES = ("Guided check", "Rehearsal", "Recordings", "Compare", "Watch", "Tuner")
_SAYS = (
    "Silence, an easy phrase, the loudest passage, hands free: what to turn, by how much",
    "The players play on the simulated interface: seen live, recorded, measured",
    "Sound files measured, heard, assigned to signals; the backing track",
    "Recordings of one phrase, equally loud, at a key each, blind if wanted",
    "Listening in while your recording software records: clipping, drop-outs, hum, levels that moved",
    "The note that sounds, and how far off it is",
)


class CheckView(QWidget):
    """The pages of Check; each is made when somebody first turns to it."""

    alarmed = pyqtSignal(object)
    """Something must be seen at once, whatever is in front: its `SignText`."""

    def __init__(
        self,
        document: Document,
        tasks: Tasks,
        rehearsal: Rehearsal,
        take_folder: Callable[[], Path],
        importing: Importing,
        player: Callable[[], Player],
    ) -> None:
        """`player` gives what plays sound files, made when it is first wanted."""
        super().__init__()
        self._document, self._tasks = document, tasks
        self._importing, self._player = importing, player
        self.guided = GuidedPage(document, tasks)
        self.rehearse = RehearsePage(document, rehearsal, take_folder, self.guided.sound.live)
        makes: tuple[Callable[[], QWidget], ...] = (
            lambda: self.guided,
            lambda: self.rehearse,
            self._make_recordings,
            self._make_compare,
            self._make_watch,
            self._make_tuner,
        )
        pages = zip(PAGES, _SAYS, makes, strict=True)
        self._pages = Pages(
            "Ways to check",
            "By a rehearsal, by recordings, in tune",
            [Page(name=name, says=says, make=make) for name, says, make in pages],
        )
        self.tabs = self._pages.tabs
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._pages)
        # ── connections ──
        self._pages.turned.connect(self._turned)

    def _make_recordings(self) -> QWidget:
        # Imported here: nobody needs it before the first sound file.
        from verve.app.views.check.recordings import RecordingsPage

        return RecordingsPage(self._document, self._importing, self._player())

    def _make_compare(self) -> QWidget:
        from verve.app.views.check.compare import ComparePage

        return ComparePage(self._document, self._tasks, self._player())

    def _make_watch(self) -> QWidget:
        from verve.app.views.check.watch import WatchPage

        page = WatchPage(self._document, self._tasks, self.guided.sound.watch_request)
        page.alarmed.connect(self.alarmed.emit)
        return page

    def _make_tuner(self) -> QWidget:
        from verve.app.views.check.tuner import TunerPage

        return TunerPage(self._document, self._tasks)

    @property
    def recordings(self) -> RecordingsPage:
        """The page of sound files."""
        return cast("RecordingsPage", self._pages.page("Recordings"))

    @property
    def compare(self) -> ComparePage:
        """The page of recordings side by side."""
        return cast("ComparePage", self._pages.page("Compare"))

    @property
    def watch(self) -> WatchPage:
        """The page that listens in while something records; it goes on whatever page is in front."""
        return cast("WatchPage", self._pages.page("Watch"))

    @property
    def tuner(self) -> TunerPage:
        """The page of the tuner."""
        return cast("TunerPage", self._pages.page("Tuner"))

    def turn_to(self, page: str) -> None:
        """Put a page in front, by its name."""
        self._pages.turn_to(page)

    def _turned(self, name: str) -> None:
        if name != "Tuner" and self._pages.is_made("Tuner"):
            self.tuner.stop()
        if name != "Guided check":
            self.guided.checking.stop()

    def refresh(self) -> None:
        """Draw the document as it is now."""
        self._pages.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.guided.checking.stop()
        if self._pages.is_made("Tuner"):
            self.tuner.stop()
