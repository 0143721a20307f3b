"""Finding connections for a pass beside the window, and putting them in the place of the patch there was."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.core.session import Session

if TYPE_CHECKING:
    from verve.core.connections import Suggestion

LANE = "connections"


class Connecting(QObject):
    """Asks for the best connections of a pass, and takes what comes if the session is still the same."""

    found = pyqtSignal(object)
    """The `Suggestion` that is in the session now."""
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks

    def begin(self, pass_id: str) -> bool:
        """Begin with a pass, the first for one that is not there; False where there is none at all."""
        from verve.core.connections import NoSuggestion, Suggestion, suggest_connections

        session = self._document.session
        passes = session.brief.passes
        item = next((one for one in passes if one.id == pass_id), passes[0] if passes else None)
        if item is None:
            return False

        def done(found: object) -> None:
            if isinstance(found, Suggestion) and not found.choices:
                self.told.emit(f"{item.name}: nothing of it takes an input.")
            elif isinstance(found, NoSuggestion):
                self.told.emit(f"No connections for {', '.join(found.signals)}: {found.why}.")
            elif isinstance(found, Suggestion):
                self._take(session, item.name, found)

        self._tasks.run(
            LANE,
            lambda report, stopped: suggest_connections(
                session, item, progress=report, is_cancelled=stopped
            ),
            done,
        )
        return True

    def _take(self, before: Session, name: str, found: Suggestion) -> None:
        """Put a patch in the place of the one there was, unless the session has changed meanwhile."""
        from verve.core.sheets import missing_cables_text

        if self._document.session != before:
            self.told.emit("The session has changed meanwhile; suggest connections again.")
            return
        self._document.edit(f"connections for {name}", lambda _: found.session)
        self.found.emit(found)
        lacking = missing_cables_text(found.cables)
        if lacking and not found.missing:
            self.told.emit(lacking)
        if found.missing:
            things = ", ".join(
                f"{m.count} × {m.item.name}" if m.count > 1 else m.item.name for m in found.missing
            )
            self.told.emit(
                f"This patch needs what the kit does not have: {things}. Brief lists options. {lacking}"
            )
