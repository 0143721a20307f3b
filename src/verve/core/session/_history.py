"""Undo and redo by name, without limit in one sitting."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.session._models import Session


@dataclass(frozen=True, slots=True)
class Step:
    """What was done, and the session on its other side."""

    label: str
    session: Session


@dataclass(frozen=True, slots=True)
class History:
    """The session now, with the steps behind and ahead. Frozen sessions share all unchanged parts."""

    session: Session
    done: tuple[Step, ...] = ()
    undone: tuple[Step, ...] = ()

    def push(self, label: str, session: Session) -> History:
        """After an edit that succeeded; what was undone before is gone. No change, no step."""
        if session == self.session:
            return self
        return History(session, (*self.done, Step(label, self.session)), ())

    def amend(self, session: Session) -> History:
        """Further movement of the drag that made the last step: still one step."""
        return History(session, self.done, ())

    def undo(self) -> History:
        """One step back; the same where there is none."""
        if not self.done:
            return self
        last = self.done[-1]
        return History(last.session, self.done[:-1], (*self.undone, Step(last.label, self.session)))

    def redo(self) -> History:
        """One step forward again; the same where there is none."""
        if not self.undone:
            return self
        last = self.undone[-1]
        return History(last.session, (*self.done, Step(last.label, self.session)), self.undone[:-1])
