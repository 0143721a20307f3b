"""When advice is worked out: what is advised is tried first, which takes longer than an event may with many lines."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer

from verve.app.document import Document
from verve.app.tasks import Tasks

if TYPE_CHECKING:
    from verve.core.assess import Assessment

AT_ONCE = 8
"""Up to so many lines, advice is there with everything else; with more of them it is worked out beside the window."""
_LANE = "advice"


class Advising(QObject):
    """Lets advice be shown when it has been worked out: that of the next thing and of the chosen line first."""

    def __init__(
        self,
        document: Document,
        tasks: Tasks,
        *,
        wait: Callable[[], None],
        show: Callable[[], None],
        show_rest: Callable[[], None],
    ) -> None:
        """`wait` says that what is shown is of before, `show` shows what is, `show_rest` that of all lines."""
        super().__init__(tasks)
        self._document, self._tasks = document, tasks
        self._wait, self._show, self._show_rest = wait, show, show_rest
        self._wants_rest = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._work_out_first)

    def begin(self, *, wants_rest: bool) -> None:
        """Another assessment is there; `wants_rest` is whether the advice of all lines will be seen."""
        self._tasks.cancel(_LANE)
        self._wants_rest = wants_rest
        if len(self._document.assessment.lines) > AT_ONCE:
            self._wait()
            self._timer.start()
        else:
            self._show()

    def _work_out_first(self) -> None:
        assessment, item = self._document.assessment, self._document.line
        chosen = () if item is None else (item,)

        def done(_: object) -> None:
            self._show()
            if self._wants_rest:
                self._work_out_rest(assessment)

        self._tasks.run(_LANE, lambda _, __: assessment.try_remedies(chosen), done)

    def _work_out_rest(self, assessment: Assessment) -> None:
        def work(_: object, give_up: Callable[[], bool]) -> None:
            for item in assessment.lines:
                if not give_up():
                    assessment.try_remedies((item,))

        self._tasks.run(_LANE, work, lambda _: self._show_rest())
