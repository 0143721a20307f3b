"""Takes: the day in time, recording, choosing, a rough mix, and the log of everything that was set."""

from __future__ import annotations

from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.pages import Page, Pages

if TYPE_CHECKING:
    from collections.abc import Callable

    from verve.app.connecting import Connecting
    from verve.app.views.takes.day import DayPage
    from verve.app.views.takes.log import LogPage


class TakesView(QWidget):
    """The pages of Takes; each is made when somebody first turns to it."""

    recordings_wanted = pyqtSignal(object, object)
    """The files of a take are to be looked at as sound files: their paths, and by path the signals they hold."""

    explanation_wanted = pyqtSignal(str, str)
    """What explains the difference between predicted and measured: of a take, and a signal in it."""

    step_wanted = pyqtSignal(str)
    """Another step has what is needed first."""

    def __init__(
        self,
        document: Document,
        tasks: Tasks,
        connecting: Connecting,
        suggest: Callable[[str], None],
    ) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._connecting, self._suggest = connecting, suggest
        self._pages = Pages(
            "Pages of Takes",
            "The day, recording, choosing, mixing, remembering",
            [
                Page(
                    name="Log",
                    says="Every take with everything that was set for it, and what is different now",
                    make=self._make_log,
                ),
                Page(
                    name="Day",
                    says="Layers in their order: what over what, with which input; what is plugged between them",
                    make=self._make_day,
                ),
            ],
        )
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._pages)

    def _make_log(self) -> QWidget:
        from verve.app.views.takes.log import LogPage

        page = LogPage(self._document)
        page.go_button.clicked.connect(lambda: self.step_wanted.emit("check"))
        page.explanation_wanted.connect(self.explanation_wanted.emit)
        page.recordings_wanted.connect(self.recordings_wanted.emit)
        return page

    def _make_day(self) -> QWidget:
        from verve.app.views.takes.day import DayPage

        page = DayPage(self._document, self._tasks, self._connecting, self._suggest)
        page.brief_wanted.connect(lambda: self.step_wanted.emit("brief"))
        return page

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

    def refresh(self) -> None:
        """Draw the document as it is now."""
        self._pages.refresh()

    def show_newest(self) -> None:
        """Turn to the take that has just been made."""
        self.log.show_newest()
