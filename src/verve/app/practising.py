"""What somebody has practised, read and kept in their own file; and what is offered once where it is needed."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from verve.core.errors import VerveError

if TYPE_CHECKING:
    from verve.core.assess import Assessment
    from verve.core.findings import Step
    from verve.core.learning import Grade, Offer, Progress


def _now() -> datetime:
    return datetime.now().astimezone()


class Practising(QObject):
    """The person's progress: read when it is first asked for, written after each change of it."""

    told = pyqtSignal(str)
    """Why it could not be read or kept."""
    changed = pyqtSignal()

    def __init__(self, path: Path, now: Callable[[], datetime] = _now) -> None:
        super().__init__()
        self._path, self.now = path, now
        self._progress: Progress | None = None
        self._may_write = True
        self.trouble = ""
        """Why it could not be read; empty where it could."""

    @property
    def progress(self) -> Progress:
        """All of it; nothing where its file cannot be read, which is told, and then it is not written over."""
        if self._progress is None:
            from verve.core.learning import Progress, read_progress

            try:
                self._progress = read_progress(self._path)
            except VerveError as error:
                self._progress, self._may_write = Progress(), False
                self.trouble = f"{error} What you practise now is not kept."
                self.told.emit(self.trouble)
        return self._progress

    def change(self, change: Callable[[Progress], Progress]) -> None:
        """Keep what becomes of it."""
        before = self.progress
        self._progress = change(before)
        if self._progress == before:
            return
        if self._may_write:
            from verve.core.learning import write_progress

            try:
                write_progress(self._path, self._progress)
            except VerveError as error:
                self.told.emit(str(error))
        self.changed.emit()

    def reviewed(self, key: str, grade: Grade, seconds: float = 0.0) -> None:
        """Something was practised, and went so."""
        from verve.core.learning import reviewed

        self.change(lambda old: reviewed(old, key, grade, self.now(), seconds))

    def offer_at(self, assessment: Assessment, step: Step) -> Offer | None:
        """What is to be offered at a step; None for nothing, or where it was offered before."""
        from verve.core.learning import offer_at, offers_of

        if not offers_of(assessment, step):
            # The file is read when there is something to be offered, not before.
            return None
        return offer_at(assessment, step, self.progress)

    def offered(self, key: str) -> None:
        """It is offered now, and never again."""
        from verve.core.learning import with_offered

        self.change(lambda old: with_offered(old, key))
