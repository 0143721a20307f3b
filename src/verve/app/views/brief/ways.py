"""Which way: everything one part can be recorded by, side by side."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.brief.for_part import ForPart
from verve.app.widgets.labels import caption
from verve.app.widgets.table import Table
from verve.core.kits import Way, ways_of
from verve.core.needs import Answered
from verve.core.session import change_part
from verve.core.sheets import WAY_COLUMNS, way_rows, way_says

_LANE = "ways"
_LEAST_HEIGHT = 100
"""The parts above keep their room where the window is low."""


class WaysPage(QWidget):
    """A table of all ways; below it what speaks for the chosen one, and a button that takes it."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._found: tuple[Way, ...] | None = None
        self._for: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        self.take = QPushButton("Record it so")
        self.take.setToolTip("The part in the brief above is recorded in the chosen way")
        self.part = ForPart("The part whose ways are compared", self.take)
        layout.addWidget(self.part)
        self.table = Table(
            WAY_COLUMNS,
            "Ways to record this part",
            empty="Ways to record one part are compared here. Add a part first.",
            numbers=(1, 2, 4, 5, 7),
            stretched=(0,),
            wraps=True,
        )
        self.table.setMinimumHeight(_LEAST_HEIGHT)
        layout.addWidget(self.table, 1)
        self.why = caption(wrap=True)
        layout.addWidget(self.why)
        # ── connections ──
        self.part.chosen.connect(lambda: self.show_answer(None))
        self.table.currentCellChanged.connect(lambda *_: self._show_chosen())
        self.take.clicked.connect(self._take)

    def show_answer(self, _: Answered | None) -> None:
        """Draw it, and work it out where the part, the kit or the room is another one."""
        self.part.show_parts(self._document.session.brief.parts)
        self._work()
        self._show()

    def _show(self) -> None:
        found = self._found
        if not self._document.session.brief.parts:
            self.part.says.setText("Nothing to compare yet: there are no parts.")
        elif found is None:
            self.part.says.setText("Every way is being compared …")
        elif not found:
            self.part.says.setText("It sounds inside the computer: nothing has to be plugged in.")
        else:
            self.part.says.setText(
                "Each with the gain set for the target, in this room, and the cheapest that the kit lacks."
            )
        self.table.show_rows(way_rows(found or (), self._document.session.shopping.currency))
        if found and self.table.currentRow() < 0:
            self.table.setCurrentCell(0, 0)
        self._show_chosen()

    def chosen(self) -> Way | None:
        """The way that is looked at."""
        row, found = self.table.currentRow(), self._found or ()
        return found[row] if 0 <= row < len(found) else None

    def _show_chosen(self) -> None:
        way = self.chosen()
        self.take.setEnabled(way is not None)
        self.why.setText("" if way is None else way_says(way))

    def _work(self) -> None:
        session = self._document.session
        part = next((p for p in session.brief.parts if p.id == self.part.part_id()), None)
        setup = session.setup
        key = (part, session.kit, session.computer, setup.room, setup.audio, setup.level_target)
        if self._for == key or not self.isVisible():
            return
        self._for, self._found = key, None
        if part is None:
            return

        def work(_: object, stop: Callable[[], bool]) -> tuple[Way, ...]:
            return ways_of(session, part, is_cancelled=stop)

        def done(found: tuple[Way, ...]) -> None:
            self._found = found
            self._show()

        self._tasks.run(_LANE, work, done, failed=self._document.refused.emit)

    def _take(self) -> None:
        way = self.chosen()
        if way is not None:
            self._document.edit(f"way of {way.part.name}", lambda s: change_part(s, way.part))
