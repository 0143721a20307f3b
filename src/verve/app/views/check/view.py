"""Check: prove it before the take, by a rehearsal, by recordings, and in tune."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent
from PyQt6.QtWidgets import QStackedWidget, QTabBar, QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.rehearsal import Rehearsal
from verve.app.tasks import Tasks
from verve.app.views.check.guided import GuidedPage
from verve.app.views.check.rehearse import RehearsePage

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


class _Pages(QStackedWidget):
    """As high as the page in front needs, not as the highest one."""

    def sizeHint(self) -> QSize:
        page = self.currentWidget()
        return super().sizeHint() if page is None else page.sizeHint()

    def minimumSizeHint(self) -> QSize:
        page = self.currentWidget()
        return super().minimumSizeHint() if page is None else page.minimumSizeHint()

    def hasHeightForWidth(self) -> bool:
        page = self.currentWidget()
        return page is not None and page.hasHeightForWidth()

    def heightForWidth(self, width: int) -> int:
        page = self.currentWidget()
        return super().heightForWidth(width) if page is None else page.heightForWidth(width)


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
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("Ways to check")
        self.tabs.setToolTip("By a rehearsal, by recordings, in tune")
        self.tabs.setProperty("small", "true")
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        for index, name in enumerate(PAGES):
            self.tabs.addTab(name)
            self.tabs.setTabToolTip(index, _SAYS[index])
        outer.addWidget(self.tabs, 0, Qt.AlignmentFlag.AlignLeft)
        self._stack = _Pages()
        outer.addWidget(self._stack, 1)
        self.guided = GuidedPage(document, tasks)
        self._stack.addWidget(self.guided)
        self.rehearse = RehearsePage(document, rehearsal, take_folder, self.guided.sound.live)
        self._stack.addWidget(self.rehearse)
        self._recordings: RecordingsPage | None = None
        self._tuner: TunerPage | None = None
        self._compare: ComparePage | None = None
        self._watch: WatchPage | None = None
        # ── connections ──
        self.tabs.currentChanged.connect(self._turn)

    @property
    def recordings(self) -> RecordingsPage:
        """The page of sound files."""
        if self._recordings is None:
            # Imported here: nobody needs it before the first sound file.
            from verve.app.views.check.recordings import RecordingsPage

            self._recordings = RecordingsPage(self._document, self._importing, self._player())
            self._stack.addWidget(self._recordings)
        return self._recordings

    @property
    def compare(self) -> ComparePage:
        """The page of recordings side by side."""
        if self._compare is None:
            from verve.app.views.check.compare import ComparePage

            self._compare = ComparePage(self._document, self._tasks, self._player())
            self._stack.addWidget(self._compare)
        return self._compare

    @property
    def watch(self) -> WatchPage:
        """The page that listens in while something records; it goes on whatever page is in front."""
        if self._watch is None:
            from verve.app.views.check.watch import WatchPage

            self._watch = WatchPage(self._document, self._tasks, self.guided.sound.watch_request)
            self._watch.alarmed.connect(self.alarmed.emit)
            self._stack.addWidget(self._watch)
        return self._watch

    @property
    def tuner(self) -> TunerPage:
        """The page of the tuner."""
        if self._tuner is None:
            from verve.app.views.check.tuner import TunerPage

            self._tuner = TunerPage(self._document, self._tasks)
            self._stack.addWidget(self._tuner)
        return self._tuner

    def turn_to(self, page: str) -> None:
        """Put a page in front, by its name."""
        self.tabs.setCurrentIndex(PAGES.index(page))

    def _turn(self, index: int) -> None:
        if self._tuner is not None and PAGES[index] != "Tuner":
            self._tuner.stop()
        if PAGES[index] != "Guided check":
            self.guided.checking.stop()
        pages: tuple[Callable[[], QWidget], ...] = (
            lambda: self.guided,
            lambda: self.rehearse,
            lambda: self.recordings,
            lambda: self.compare,
            lambda: self.watch,
            lambda: self.tuner,
        )
        self._stack.setCurrentWidget(pages[index]())
        self._stack.updateGeometry()
        self.refresh()

    def refresh(self) -> None:
        """Draw the document as it is now."""
        page = PAGES[self.tabs.currentIndex()]
        if page == "Guided check":
            self.guided.refresh()
        elif page == "Rehearsal":
            self.rehearse.refresh()
        elif page == "Recordings":
            self.recordings.refresh()
        elif page == "Watch":
            self.watch.refresh()
        elif page == "Compare":
            self.compare.refresh()
        else:
            self.tuner.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.guided.checking.stop()
        if self._tuner is not None:
            self._tuner.stop()
