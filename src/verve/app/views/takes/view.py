"""Takes: the day in time, recording, choosing, a rough mix, and the log of everything that was set."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.looking import Looking
from verve.app.tasks import Tasks
from verve.app.widgets.pages import Page, Pages
from verve.core.session import Take

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from verve.app.connecting import Connecting
    from verve.app.player import Player
    from verve.app.standing import Standby
    from verve.app.views.takes.day import DayPage
    from verve.app.views.takes.log import LogPage
    from verve.app.views.takes.mix import MixPage
    from verve.app.views.takes.record import RecordPage
    from verve.app.views.takes.sheet import SheetPage
    from verve.app.views.takes.song import SongPage
    from verve.devices import Live


@dataclass(frozen=True, slots=True, kw_only=True)
class TakesNeeds:
    """What the pages need of the window: who connects, who records, where takes go, what plays and what is heard.

    `suggest` finds connections for a layer that has none; `player` and `live` are asked when they are needed.
    """

    connecting: Connecting
    suggest: Callable[[str], None]
    standby: Standby
    take_folder: Callable[[], Path]
    player: Callable[[], Player]
    live: Callable[[], Live | None]


class TakesView(QWidget):
    """The pages of Takes; each is made when somebody first turns to it."""

    recordings_wanted = pyqtSignal(object, object)
    """The files of a take are to be looked at as sound files: their paths, and by path the signals they hold."""

    explanation_wanted = pyqtSignal(str, str)
    """What explains the difference between predicted and measured: of a take, and a signal in it."""

    clock_wanted = pyqtSignal()
    """The day is to be seen against the clock."""

    step_wanted = pyqtSignal(str)
    """Another step has what is needed first."""

    def __init__(self, document: Document, tasks: Tasks, needs: TakesNeeds) -> None:
        super().__init__()
        self._document, self._tasks, self._needs = document, tasks, needs
        self._looking = Looking(document, tasks)
        self._pages = Pages(
            "Pages of Takes",
            "The day, recording, choosing, mixing, remembering",
            [
                Page(
                    name="Day",
                    says="Layers in their order: what over what, with which input; what is plugged between them",
                    make=self._make_day,
                ),
                Page(
                    name="Song",
                    says="Tempo, sections, count-in and click; the backing track",
                    make=self._make_song,
                ),
                Page(
                    name="Record",
                    says="From ready to recording with one key; loops, again, marks, what was just played",
                    make=self._make_record,
                ),
                Page(
                    name="Take sheet",
                    says="Sections down the page with their takes: the best of each is chosen by ear",
                    make=self._make_sheet,
                ),
                Page(
                    name="Rough mix",
                    says="A first balance in sentences, heard beside a reference, and bounced",
                    make=self._make_mix,
                ),
                Page(
                    name="Log",
                    says="Every take with everything that was set for it, and what is different now",
                    make=self._make_log,
                ),
            ],
            first="Log",
        )
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._pages)

    def _make_log(self) -> QWidget:
        from verve.app.views.takes.log import LogPage

        page = LogPage(self._document, self._tasks)
        page.recall_wanted.connect(self._recall)
        page.go_button.clicked.connect(lambda: self.step_wanted.emit("check"))
        page.explanation_wanted.connect(self.explanation_wanted.emit)
        page.recordings_wanted.connect(self.recordings_wanted.emit)
        return page

    def _recall(self, take: Take) -> None:
        from verve.app.dialogs.recall import RecallDialog

        dialog = RecallDialog(self._document, self._tasks, take, self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()

    def _make_day(self) -> QWidget:
        from verve.app.views.takes.day import DayPage

        needs = self._needs
        page = DayPage(self._document, self._tasks, needs.connecting, needs.suggest)
        page.clock_wanted.connect(self.clock_wanted.emit)
        page.brief_wanted.connect(lambda: self.step_wanted.emit("brief"))
        return page

    def _make_song(self) -> QWidget:
        from verve.app.views.takes.song import SongPage

        return SongPage(self._document, self._tasks)

    def _make_record(self) -> QWidget:
        from verve.app.views.takes.record import RecordPage

        needs = self._needs
        page = RecordPage(
            self._document,
            needs.standby,
            needs.take_folder,
            needs.player,
            self._looking,
            needs.live,
        )
        page.double_wanted.connect(lambda it: self.day.add_double(is_harmony=it))
        return page

    def _make_sheet(self) -> QWidget:
        from verve.app.views.takes.sheet import SheetPage

        return SheetPage(self._document, self._tasks, self._needs.player, self._looking)

    def _make_mix(self) -> QWidget:
        from verve.app.views.takes.mix import MixPage

        return MixPage(self._document, self._tasks, self._needs.player)

    @property
    def mix(self) -> MixPage:
        """The page of the rough mix."""
        return cast("MixPage", self._pages.page("Rough mix"))

    @property
    def sheet(self) -> SheetPage:
        """The page on which takes are chosen."""
        return cast("SheetPage", self._pages.page("Take sheet"))

    @property
    def song(self) -> SongPage:
        """The page of the song."""
        return cast("SongPage", self._pages.page("Song"))

    @property
    def record(self) -> RecordPage:
        """The page on which takes are recorded."""
        return cast("RecordPage", self._pages.page("Record"))

    @property
    def log(self) -> LogPage:
        """The page of all takes."""
        return cast("LogPage", self._pages.page("Log"))

    @property
    def day(self) -> DayPage:
        """The page of the plan of the day."""
        return cast("DayPage", self._pages.page("Day"))

    def turn_to(self, page: str) -> None:
        """Put a page in front, by its name."""
        self._pages.turn_to(page)

    @property
    def names(self) -> tuple[str, ...]:
        """The pages in their order."""
        return self._pages.names

    def begin_recording(self) -> None:
        """The page that records in front, with the keys on it."""
        self.turn_to("Record")
        self.record.record_button.setFocus()

    def refresh(self) -> None:
        """Draw the document as it is now."""
        self._pages.refresh()

    def show_newest(self) -> None:
        """Turn to the take that has just been made."""
        self.log.show_newest()
