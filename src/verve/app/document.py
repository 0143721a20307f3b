"""The open session: its history, its file, its assessment. Views draw it and send edits to it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from verve.core.errors import FileError, VerveError
from verve.core.files import Stamp, path_text, stamp_of
from verve.core.findings import Remedy
from verve.core.kind import Control, ControlValue
from verve.core.session import (
    SUFFIX,
    Change,
    History,
    Session,
    load,
    save,
    set_control,
    turn_to_layer,
)
from verve.core.words import Fact

if TYPE_CHECKING:
    from verve.core.assess import Assessment, LineAssessment
    from verve.core.engine import Engine

Edit = Callable[[Session], Session]


@dataclass(frozen=True, slots=True, kw_only=True)
class Opened:
    """A file that was read and worked out: it can take the place of what is open."""

    path: Path
    stamp: Stamp | None
    session: Session
    engine: Engine
    assessment: Assessment


def worked_out(session: Session) -> tuple[Engine, Assessment]:
    """Everything known of a session, and what is remembered for the next edit."""
    # Imported here: the window is painted before the physics is loaded.
    from verve.core.assess import assess
    from verve.core.engine import Engine

    engine = Engine()
    assessment = assess(session, engine)
    # The window asks at once for what is otherwise worked out when somebody first asks.
    assessment.try_remedies(assessment.lines[:1])
    return engine, assessment


def read_file(path: Path) -> Opened:
    """Read a session and work it out before it takes the place of another one.

    raises: FileError or InputError for one that cannot be, so that what is open stays
    """
    stamp = stamp_of(path)
    session = load(path)
    try:
        engine, assessment = worked_out(session)
    except Exception as error:  # whatever it is, it must not meet the open session
        why = f"cannot be worked out ({type(error).__name__}: {error})"
        raise FileError(path, why, "Open its .bak copy, or mend it by hand.") from error
    return Opened(path=path, stamp=stamp, session=session, engine=engine, assessment=assessment)


def _first_line(session: Session) -> str:
    return session.setup.lines[0].id if session.setup.lines else ""


class Document(QObject):
    """Holds the one session value that everything on screen is drawn from."""

    changed = pyqtSignal()
    """The session, and with it the assessment, is another one."""
    file_changed = pyqtSignal()
    """The name or place of the file, or whether it is saved."""
    selection_changed = pyqtSignal()
    """Another line of the same session is selected."""
    asked = pyqtSignal(str, object)
    """Somebody wants to know where numbers come from: of what, and the facts."""
    refused = pyqtSignal(str)
    """An edit or file was refused: the sentence that says why."""

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        first = session or Session()
        self.number = 1
        """Which session it is: another one with each that takes its place."""
        self._history = History(first)
        self._saved: Session | None = first
        self._path: Path | None = None
        self._stamp: Stamp | None = None
        self._assessment: Assessment | None = None
        self._line = _first_line(first)
        self._moving: str | None = None
        self._engine: Engine | None = None

    # ── what is ───────────────────────────────────────────────────────────────────────────────
    @property
    def session(self) -> Session:
        """The session now."""
        return self._history.session

    @property
    def assessment(self) -> Assessment:
        """Everything known about it: worked out when it is first asked for."""
        if self._assessment is None:
            # Imported here: the window is painted before the physics is loaded.
            from verve.core.assess import assess

            self._assessment = assess(self.session, self.engine)
        return self._assessment

    @property
    def engine(self) -> Engine:
        """What is remembered from one assessment to the next; it goes with the session."""
        if self._engine is None:
            from verve.core.engine import Engine

            self._engine = Engine()
        return self._engine

    def accept(self, session: Session, engine: Engine, assessment: Assessment) -> None:
        """What was worked out beside the window, if that is still the session."""
        if self._assessment is None and self.session is session:
            self._engine, self._assessment = engine, assessment

    @property
    def path(self) -> Path | None:
        """Where it is kept; None for one that was never saved."""
        return self._path

    @property
    def stamp(self) -> Stamp | None:
        """What its file was when it was read or written last."""
        return self._stamp

    def changed_elsewhere(self) -> datetime | None:
        """When something else wrote its file since; None where nothing has, or it is gone."""
        now = None if self._path is None else stamp_of(self._path)
        if now is None or now == self._stamp:
            return None
        return datetime.fromtimestamp(now.modified_ns / 1e9).astimezone()

    @property
    def is_saved(self) -> bool:
        """Whether the file holds the session as it is."""
        return self._saved is self.session or self._saved == self.session

    @property
    def history(self) -> History:
        """What can be undone and redone."""
        return self._history

    @property
    def line(self) -> LineAssessment | None:
        """The selected line."""
        return self.assessment.line(self._line)

    def title(self) -> str:
        """Session and file as the window's title shows them."""
        place = path_text(self._path).rpartition("/")[2] if self._path else "no file yet"
        place = place.removesuffix(SUFFIX)
        return f"{self.session.title} ({place})"

    def kept_text(self) -> str:
        """Whether what is seen stands in a file, as the status line says it; it never contradicts the title."""
        if not self.is_saved:
            return "not saved"
        return "saved" if self._path else "no file yet"

    def status_text(self) -> str:
        """What the line at the foot of the window says of the session."""
        audio = self.session.setup.audio
        return (
            f"{self.session.title}  ·  {self.kept_text()}  ·  "
            f"{audio.sample_rate_hz / 1000:g} kHz, {audio.bit_depth} bit, {audio.buffer_frames} samples  ·  "
            f"latency {self.assessment.round_trip_ms:.1f} ms"
        )

    # ── selection ─────────────────────────────────────────────────────────────────────────────
    def select_line(self, line_id: str) -> None:
        """Select a line; it stays selected from step to step."""
        if line_id != self._line and self.assessment.line(line_id) is not None:
            self._line = line_id
            self.end_move()
            self.selection_changed.emit()

    def ask(self, title: str, facts: Sequence[Fact]) -> None:
        """Let the reason say where some numbers come from."""
        if facts:
            self.asked.emit(title, tuple(facts))

    # ── edits ─────────────────────────────────────────────────────────────────────────────────
    def edit(self, label: str, change: Edit) -> bool:
        """Apply an edit as one step; a refused one changes nothing and is told."""
        self._moving = None
        return self._apply(label, change)

    def move(self, label: str, control: Control, value: ControlValue) -> bool:
        """Put a control somewhere as part of one movement: a drag is one step, however long."""
        change = Change(
            owner=control.owner, channel=control.channel, name=control.name, value=value
        )
        key = f"{control.owner}/{control.channel}/{control.name}"
        if self._moving == key:
            try:
                session = set_control(self.session, change)
            except VerveError as error:
                self.refused.emit(str(error))
                return False
            if session != self.session:
                self._history = self._history.amend(session)
                self._after()
            return True
        done = self._apply(label, lambda now: set_control(now, change))
        self._moving = key if done else None
        return done

    def end_move(self) -> None:
        """The next movement is a step of its own."""
        self._moving = None

    def set_control(self, label: str, control: Control, value: ControlValue) -> bool:
        """Put a control to a value as one step."""
        change = Change(
            owner=control.owner, channel=control.channel, name=control.name, value=value
        )
        return self.edit(label, lambda now: set_control(now, change))

    def apply_remedy(self, remedy: Remedy) -> bool:
        """Mend a finding with one press."""
        return self.edit(remedy.label, remedy.apply)

    def turn_to_layer(self, layer_id: str) -> bool:
        """Set up another layer of the day; what is set up now is kept."""
        names = {one.id: one.name for one in self.session.brief.passes}
        return self.edit(
            f"layer {names.get(layer_id, layer_id)}", lambda now: turn_to_layer(now, layer_id)
        )

    def complete(self, label: str, change: Edit) -> None:
        """What was found out afterwards belongs to the step of that name: it is undone with it.

        Where something else was done meanwhile, it is a step of its own.
        """
        done = self._history.done
        if not done or done[-1].label != label or self._history.undone:
            self._apply(label, change)
            return
        try:
            session = change(self.session)
        except VerveError:
            # What it was about is no longer there.
            return
        if session != self.session:
            self._history = self._history.amend(session)
            self._after()

    def _apply(self, label: str, change: Edit) -> bool:
        try:
            session = change(self.session)
        except VerveError as error:
            self.refused.emit(str(error))
            return False
        self._history = self._history.push(label, session)
        self._after()
        return True

    def undo(self) -> None:
        """One step back."""
        self._moving = None
        self._history = self._history.undo()
        self._after()

    def redo(self) -> None:
        """One step forward again."""
        self._moving = None
        self._history = self._history.redo()
        self._after()

    def _after(self) -> None:
        self._assessment = None
        lines = self.assessment.lines
        if self.assessment.line(self._line) is None:
            self._line = lines[-1].line.id if lines else ""
        self.changed.emit()
        self.file_changed.emit()

    # ── files ─────────────────────────────────────────────────────────────────────────────────
    def replace(
        self,
        session: Session,
        path: Path | None,
        *,
        is_saved: bool,
        line_id: str = "",
        stamp: Stamp | None = None,
        assessment: Assessment | None = None,
    ) -> None:
        """Another session takes the place of this one; its history begins anew.

        `stamp` is what its file was when the session was read, `assessment` what is known of it already.
        """
        self._stamp = stamp
        self.number += 1
        self._moving = None
        self._history = History(session)
        self._path = path
        self._saved = session if is_saved else None
        self._assessment = assessment
        self._line = line_id or _first_line(session)
        self.changed.emit()
        self.file_changed.emit()

    def open(self, path: Path) -> bool:
        """Open a file; one that cannot be opened is told and leaves the open session untouched."""
        try:
            opened = read_file(path)
        except VerveError as error:
            self.refused.emit(str(error))
            return False
        self.take(opened)
        return True

    def take(self, opened: Opened) -> None:
        """A file that was read takes the place of what is open."""
        self._engine = opened.engine
        self.replace(
            opened.session,
            opened.path,
            is_saved=True,
            stamp=opened.stamp,
            assessment=opened.assessment,
        )

    def save(self, path: Path) -> bool:
        """Save under a name; what cannot be written is told, the session stays as it is."""
        try:
            save(self.session, path)
        except VerveError as error:
            self.refused.emit(str(error))
            return False
        self._path, self._saved, self._stamp = path, self.session, stamp_of(path)
        self.file_changed.emit()
        return True
