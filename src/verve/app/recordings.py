"""What becomes of recordings: each goes into the session it was made for, also after a crash."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QMessageBox, QWidget

from verve.app.document import Document
from verve.app.files import Files
from verve.app.rehearsal import Rehearsal
from verve.app.tasks import Tasks
from verve.core.session import Session, Take, add_take

if TYPE_CHECKING:
    from verve.devices import Unfinished


def log_label(takes: Sequence[Take]) -> str:
    """What the step is called in which takes come into the session."""
    more = f" and {len(takes) - 1} more" if len(takes) > 1 else ""
    return f"log of {takes[0].name}{more}"


class Recordings(QObject):
    """Logs takes in the session that is open, and looks for those that a killed program left."""

    taken = pyqtSignal()
    """A take is in the session."""
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(
        self,
        window: QWidget,
        document: Document,
        files: Files,
        tasks: Tasks,
        rehearsal: Rehearsal,
        folder: Callable[[], Path],
    ) -> None:
        """`folder` tells where the takes of the open session lie."""
        super().__init__(window)
        self._window, self._document, self._files = window, document, files
        self._tasks, self._rehearsal, self._folder = tasks, rehearsal, folder

    def on_recorded(self, take: Take) -> None:
        """A rehearsal has come to its end."""
        self.take_up_all((take,), self._rehearsal.owner)

    def take_up_all(self, takes: Sequence[Take], owner: int) -> None:
        """A recording has come to its end, all rounds of a loop at once; `owner` is the session it was made for."""
        if not takes:
            return
        if owner == self._document.number:
            self._take_up(*takes)
            return
        take = takes[0]
        # Imported here: before the first take nobody needs to say where takes lie.
        from verve.core.sheets import place_text, take_path

        # Whatever took the session's place: no other one gets its take.
        self.told.emit(
            f"{take.name} belongs to a session that is no longer open. Its files are kept in "
            f"{place_text(take_path(take))}; open that session to take it up."
        )

    def _take_up(self, *takes: Take) -> None:
        """Log takes in the session; the log beside their files goes once a copy of the session is kept."""
        from verve.core.sheets import ending_text
        from verve.devices import forget_log

        def change(session: Session) -> Session:
            for take in takes:
                session = add_take(session, take)
            return session

        first = takes[0]
        self._document.edit(log_label(takes), change)
        self.taken.emit()
        self._files.keep(lambda: forget_log(first))
        if first.ended == "cut_off":
            self.told.emit(
                f"{first.name}: {ending_text(first)}. What was recorded until then is kept."
            )

    def look(self) -> None:
        """Offer what a killed program left of this session's recordings, looked for beside the window."""
        number, folder = self._document.number, self._folder()

        def work(_: object, __: object) -> object:
            from verve.devices import unfinished

            return unfinished(folder)

        def done(found: tuple[Unfinished, ...]) -> None:
            from verve.devices import forget_log

            known = {(take.name, take.recorded_at) for take in self._document.session.takes}
            for one in found:
                if self._document.number != number:
                    return
                if (one.take.name, one.take.recorded_at) in known:
                    forget_log(one.take)
                elif self._is_wanted(one):
                    self._finish(one)

        self._tasks.run("unfinished takes", work, done)

    def _is_wanted(self, found: Unfinished) -> bool:
        box = QMessageBox(self._window)
        box.setWindowTitle("Unfinished take")
        box.setText(
            f"{found.take.name} was being recorded when Verve ended unexpectedly. "
            "Keep what reached the disk?"
        )
        leave = box.addButton("Not now", QMessageBox.ButtonRole.RejectRole)
        keep = box.addButton("Keep", QMessageBox.ButtonRole.AcceptRole)
        assert leave is not None
        leave.setToolTip("Its files stay where they are; this is asked again at the next opening")
        box.exec()
        pressed = box.clickedButton()
        box.deleteLater()
        return pressed is keep

    def _finish(self, found: Unfinished) -> None:
        number = self._document.number

        def work(_: object, __: object) -> object:
            from verve.devices import taken_up

            return taken_up(found, "Verve ended unexpectedly")

        def done(take: Take) -> None:
            if self._document.number == number:
                self._take_up(take)

        self._tasks.run(f"taking up {found.folder}", work, done)
