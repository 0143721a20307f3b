"""Standing by beside the window: one worker listens to what is armed, and records when it is asked to."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTemporaryDir, pyqtSignal

from verve.app.tasks import Report, Stopped, Tasks
from verve.core.session import Play, Session

if TYPE_CHECKING:
    from verve.core.takes import RecordPlan
    from verve.devices import Live, Orders

_LANE, _CUE = "standing by", "cue"


@dataclass(frozen=True, slots=True, kw_only=True)
class Cue:
    """What is heard with a recording: a file, or None where there is nothing to hear."""

    path: Path | None
    loop_s: tuple[float, float] | None


class Standby(QObject):
    """Stands by for one session at a time; recordings come back as takes."""

    changed = pyqtSignal()
    """It stands by, or no longer; it records, or no longer."""
    stood = pyqtSignal(object)
    """A `Standing`: where it is."""
    begun = pyqtSignal(object, object)
    """A recording has begun: its `Begun`, and the `Cue` that is heard with it."""
    recorded = pyqtSignal(object)
    """A `Recorded`: takes that are finished."""
    told = pyqtSignal(str)

    def __init__(self, tasks: Tasks, *, is_paced: bool = True) -> None:
        super().__init__()
        self._tasks, self._is_paced = tasks, is_paced
        self._numbers = itertools.count(1)
        self._orders: Orders | None = None
        self._folder: QTemporaryDir | None = None
        self._cue: Cue | None = None
        self._wanted: RecordPlan | None = None
        self._leaving: list[Callable[[], None]] = []
        self.owner = 0
        """The session that it stands by for, by its number in the document."""
        self.is_recording = False

    @property
    def is_on(self) -> bool:
        """Whether it stands by."""
        return self._orders is not None

    def begin(
        self,
        session: Session,
        lines: tuple[str, ...],
        play: Play,
        base: Path,
        owner: int,
        live: Live | None = None,
    ) -> None:
        """Stand by for a session whose takes go into a folder."""
        from verve.devices import Orders, StandRequest, stand

        request = StandRequest(
            id=next(self._numbers),
            session=session,
            lines=lines,
            play=play,
            base=base,
            is_paced=self._is_paced,
            live=live,
            variation=len(session.takes) + 1 if self._is_paced else 0,
        )
        orders = self._orders = Orders()
        self.owner, self.is_recording = owner, False

        def work(report: Report, is_stopped: Stopped) -> object:
            stand(request, orders, report, is_stopped)
            return None

        def failed(sentence: str) -> None:
            self._end()
            self.told.emit(sentence)

        self._tasks.run(_LANE, work, lambda _: self._end(), failed=failed, reported=self._on_report)
        self.changed.emit()

    def change(self, session: Session, lines: tuple[str, ...]) -> None:
        """Something else is set or armed."""
        from verve.devices import Order

        if self._orders is not None:
            self._orders.put(Order(deed="session", session=session, lines=lines))

    def prepare(self, session: Session, plan: RecordPlan) -> None:
        """Make ready what is heard with a recording, so that it can begin at once."""
        from verve.core.mix import cue_plan, write_cue

        self._cue = None
        wanted = cue_plan(session, plan)
        if wanted.is_silent:
            self._cue = Cue(path=None, loop_s=None)
            self._begin_if_wanted()
            return
        if self._folder is None:
            self._folder = QTemporaryDir()
        path = Path(self._folder.path()) / f"cue-{next(self._numbers)}.wav"

        def work(_: Report, is_stopped: Stopped) -> object:
            return write_cue(wanted, path, lambda: not is_stopped())

        def done(_: object) -> None:
            self._cue = Cue(path=path, loop_s=wanted.loop_s)
            self._begin_if_wanted()

        def failed(sentence: str) -> None:
            # What cannot be heard need not keep anybody from playing.
            self._cue = Cue(path=None, loop_s=None)
            self.told.emit(f"Nothing is heard in the headphones: {sentence}")
            self._begin_if_wanted()

        self._tasks.run(_CUE, work, done, failed=failed)

    def record(self, plan: RecordPlan) -> None:
        """Begin to record, as soon as what is heard with it is ready: it mostly is."""
        self._wanted = plan
        self._begin_if_wanted()

    def _begin_if_wanted(self) -> None:
        from verve.devices import Order

        plan, cue = self._wanted, self._cue
        if plan is None or cue is None or self._orders is None:
            return
        self._wanted = None
        self._orders.put(Order(deed="begin", plan=plan, cue=cue.path, loop_s=cue.loop_s))

    def ask(self, deed: str) -> None:
        """Stop, begin again, mark, or keep what was played."""
        from verve.devices import Order

        if self._orders is not None:
            self._orders.put(Order(deed=deed))  # type: ignore[arg-type]

    def leave(self, then: Callable[[], None] | None = None) -> None:
        """Stand by no longer; what is being recorded is kept. `then` is done when that has ended."""
        if self._orders is None:
            if then is not None:
                then()
            return
        if then is not None:
            self._leaving.append(then)
        self._wanted = None
        self.ask("leave")

    def _end(self) -> None:
        self._orders, self.is_recording = None, False
        self._tasks.cancel(_CUE)
        waiting, self._leaving = self._leaving, []
        self.changed.emit()
        for then in waiting:
            then()

    def _on_report(self, what: object) -> None:
        from verve.devices import Begun, Recorded, Standing

        if isinstance(what, Standing):
            self.stood.emit(what)
        elif isinstance(what, Begun):
            self.is_recording = True
            self.begun.emit(what, self._cue)
            self.changed.emit()
        elif isinstance(what, Recorded):
            self.is_recording = False
            self.recorded.emit(what)
            self.changed.emit()
        else:
            self.told.emit(str(what))
