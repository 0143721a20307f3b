"""Finding connections for a pass beside the window, and putting them in the place of the patch there was."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from verve.app.document import Document
from verve.app.tasks import Report, Stopped, Tasks
from verve.core.session import Pass, Session

if TYPE_CHECKING:
    from verve.core.connections import Suggestion

LANE = "connections"


def _suggested(session: Session, item: Pass, report: Report, stopped: Stopped) -> object:
    """Connections for a layer in the plan of the day; by itself where the kit does not bear the day."""
    from verve.core.connections import suggest_connections
    from verve.core.day import DayPlan, plan_day
    from verve.core.session import cleared_for, layer_of

    now = layer_of(session)
    is_here = now is not None and now.id == item.id
    has_locked = is_here and any(line.is_fixed for line in session.setup.lines)
    if len(session.brief.passes) > 1 and not has_locked:
        found = plan_day(session, item.id, again=(item.id,), progress=report, is_cancelled=stopped)
        if isinstance(found, DayPlan) and found.suggestion is not None:
            return found.suggestion
    ready = session if is_here or now is None else cleared_for(session, item.id)
    return suggest_connections(ready, item, progress=report, is_cancelled=stopped)


class Connecting(QObject):
    """Asks for the best connections of a pass, and takes what comes if the session is still the same."""

    found = pyqtSignal(object)
    """The `Suggestion` that is in the session now."""
    planned = pyqtSignal(object)
    """The `DayPlan` that is in the session now."""
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks

    def begin(self, pass_id: str) -> bool:
        """Begin with a layer, that of now for one that is not there; False where there is none at all.

        Layers that have no connections yet get theirs with it, so that all of the day is plugged as seldom as can be;
        what is patched for other layers stays.
        """
        from verve.core.connections import NoSuggestion, Suggestion
        from verve.core.session import layer_of

        session = self._document.session
        passes = session.brief.passes
        item = next((one for one in passes if one.id == pass_id), None) or layer_of(session)
        item = item or next(iter(passes), None)
        if item is None:
            return False
        wanted = item

        def done(found: object) -> None:
            if isinstance(found, Suggestion) and not found.choices:
                self.told.emit(f"{wanted.name}: nothing of it takes an input.")
            elif isinstance(found, NoSuggestion):
                self.told.emit(f"No connections for {', '.join(found.signals)}: {found.why}.")
            elif isinstance(found, Suggestion):
                self._take(session, wanted.name, found)

        self._tasks.run(
            LANE, lambda report, stopped: _suggested(session, wanted, report, stopped), done
        )
        return True

    def plan(self, *, anew: bool) -> bool:
        """Patch all layers of the day together; False where there is none."""
        from verve.core.day import DayPlan, plan_day
        from verve.core.session import layer_of

        session = self._document.session
        now = layer_of(session)
        if not session.brief.passes:
            return False

        def done(found: object) -> None:
            if not isinstance(found, DayPlan):
                why = getattr(found, "why", "")
                self.told.emit(f"The day cannot be planned: {why}.")
            elif self._document.session != session:
                self.told.emit("The session has changed meanwhile; plan the day again.")
            else:
                self._document.edit("plan of the day", lambda _: found.session)
                self.planned.emit(found)

        self._tasks.run(
            LANE,
            lambda report, stopped: plan_day(
                session,
                "" if now is None else now.id,
                anew=anew,
                progress=report,
                is_cancelled=stopped,
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
