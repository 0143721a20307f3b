"""The plan of the day: layers in their order, what each is played over, what is plugged between them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.connecting import Connecting
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.buttons import push
from verve.app.widgets.labels import (
    caption,
    card,
    heading,
    number,
    restyle,
    scrolling_rest,
    small_heading,
    text,
)
from verve.app.widgets.lots import RowLots
from verve.core.session import add_double, change_pass, move_layer
from verve.core.sheets import DayRow, day_csv, day_html, day_rows, steps_to

_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"
_AT_ONCE = 8


class LayerRow(QWidget):
    """One layer: what it has, what is plugged before it, and what can be done with it."""

    set_up_wanted = pyqtSignal(str)
    steps_wanted = pyqtSignal(str)
    moved = pyqtSignal(str, int)
    rename_wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._layer = ""
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 6)
        outer.setSpacing(2)
        self._plugs = caption()
        outer.addWidget(self._plugs)
        self._frame, inside = card()
        inside.setContentsMargins(12, 8, 12, 8)
        inside.setSpacing(2)
        outer.addWidget(self._frame)
        top = QHBoxLayout()
        self._number = number()
        self._number.setFixedWidth(theme.px(22))
        self._name = small_heading()
        self._state = caption()
        self._number.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for widget, share in ((self._number, 0), (self._name, 0), (self._state, 1)):
            top.addWidget(widget, share)
        inside.addLayout(top)
        self._what = caption(wrap=True)
        inside.addWidget(self._what)
        self._told = text()
        inside.addWidget(self._told)
        self.set_up = push(
            "Set up",
            "Makes this the layer that is patched, set and recorded now; what is set up until then is kept",
            lambda: self.set_up_wanted.emit(self._layer),
        )
        self.steps = push(
            "What to plug…",
            "The steps by hand from what is set up now, in the order that harms nothing",
            lambda: self.steps_wanted.emit(self._layer),
        )
        self.earlier = push(
            "Earlier",
            "Records this layer before the one above",
            lambda: self.moved.emit(self._layer, -1),
        )
        self.later = push(
            "Later",
            "Records this layer after the one below",
            lambda: self.moved.emit(self._layer, 1),
        )
        self.rename = push(
            "Rename…",
            "Another name for this layer, everywhere",
            lambda: self.rename_wanted.emit(self._layer),
        )
        for button in (self.set_up, self.steps, self.earlier, self.later, self.rename):
            top.addWidget(button)

    def show_row(self, row: DayRow, told: str, *, is_first: bool, is_last: bool) -> None:
        """Draw another layer; `told` are the steps to it, where somebody has asked for them."""
        self._layer = row.layer
        self._plugs.setText(f"      {row.plugs}" if row.plugs else "")
        self._plugs.setVisible(bool(row.plugs))
        self._number.setText(str(row.number))
        self._name.setText(row.name)
        self._state.setText(row.state_text)
        self._what.setText(f"{row.over}.  {'   ·   '.join(row.signals)}")
        self._told.setText(told)
        self._told.setVisible(bool(told))
        is_here = row.state == "here"
        restyle(self._frame, "chosen", "true" if is_here else "false")
        self.set_up.setVisible(not is_here)
        self.set_up.setText("Suggest connections" if row.state == "open" else "Set up")
        self.steps.setVisible(row.state in {"ready", "recorded"})
        self.earlier.setEnabled(not is_first)
        self.later.setEnabled(not is_last)
        for button in (self.set_up, self.steps, self.earlier, self.later, self.rename):
            button.setAccessibleName(f"{button.text()}: {row.name}")
        self.setAccessibleName(f"{row.name}, {row.state_text}")


class DayPage(QWidget):
    """All layers, one below the other, in the order in which they are recorded."""

    clock_wanted = pyqtSignal()
    """The day is to be seen against the clock."""
    brief_wanted = pyqtSignal()
    """There is nothing yet that could be planned: who plays what is said in Brief."""

    def __init__(
        self,
        document: Document,
        tasks: Tasks,
        connecting: Connecting,
        suggest: Callable[[str], None],
    ) -> None:
        """`suggest` finds connections for a layer that has none."""
        super().__init__()
        self._document, self._tasks, self._connecting = document, tasks, connecting
        self._suggest = suggest
        self._rows_now: tuple[DayRow, ...] = ()
        self._asked = ""
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        outer.addWidget(frame)
        title = heading("The day")
        title.setWordWrap(False)
        self.double = push(
            "Double",
            "The selected signal once more: same player, microphone, cables and input, on a track of its own. D",
            lambda: self.add_double(is_harmony=False),
        )
        self.harmony = push(
            "Harmony",
            "Another voice on the chain of the selected signal, on a track of its own. H",
            lambda: self.add_double(is_harmony=True),
        )
        self.plan = push(
            "Plan the day",
            "Patches every layer that is not recorded or locked, with the fewest cables to plug between them",
            lambda: connecting.plan(anew=True),
        )
        self.clock = push(
            "Against the clock…",
            "The day as times: where it gets tight, what to prepare; and played through, in the practice window",
            self.clock_wanted.emit,
        )
        self.paper = push("Print or export…", "The day for the wall, with all steps", self._paper)
        layout.addWidget(
            Beside(
                group(title), group(self.double, self.harmony, self.plan, self.clock, self.paper)
            )
        )
        self._said = text()
        layout.addWidget(self._said)
        self.empty = push(
            "Go to Brief", "Say who plays what; layers come from that", self.brief_wanted.emit
        )
        layout.addWidget(self.empty, 0, Qt.AlignmentFlag.AlignLeft)
        holder = QWidget()
        self._list = QVBoxLayout(holder)
        self._list.setContentsMargins(0, 0, 6, 0)
        self._list.setSpacing(0)
        self._list.addStretch(1)
        layout.addWidget(scrolling_rest(holder), 1)
        self._rows = RowLots(self._list, self._make_row, _AT_ONCE)

    @property
    def rows(self) -> list[LayerRow]:
        """The row of each layer."""
        return [row for row in self._rows.rows if not row.isHidden()]

    def _make_row(self, _: int) -> LayerRow:
        row = LayerRow()
        row.set_up_wanted.connect(self._set_up)
        row.steps_wanted.connect(self._show_steps)
        row.moved.connect(self._move)
        row.rename_wanted.connect(self._rename)
        return row

    def refresh(self) -> None:
        """Draw the document as it is now."""
        session, item = self._document.session, self._document.line
        rows = self._rows_now = day_rows(session)
        steps = {self._asked: self._steps_text()}

        def fill(row: LayerRow, n: int) -> None:
            told = steps.get(rows[n].layer, "")
            row.show_row(rows[n], told, is_first=n == 0, is_last=n == len(rows) - 1)

        self._rows.show(len(rows), fill)
        self.double.setEnabled(item is not None)
        self.harmony.setEnabled(item is not None)
        self.plan.setEnabled(bool(rows))
        self.paper.setEnabled(bool(rows))
        self.clock.setEnabled(bool(rows))
        self.empty.setVisible(not rows and item is None)
        if item is not None:
            self.double.setText(f"Double of {item.line.name}")
            self.harmony.setText(f"Harmony to {item.line.name}")
        self._said.setText(
            "What is recorded together is a layer; layers follow each other, share inputs, microphones and cables "
            "in time, and are heard over each other."
            if rows
            else "Nothing is planned yet. What is patched now becomes the first layer with its first double."
            if item is not None
            else "Nothing is planned yet."
        )

    def _steps_text(self) -> str:
        """What is to be done by hand to come to the layer that was asked for; empty where none was."""
        if not self._asked:
            return ""
        steps = steps_to(self._document.session, self._asked)
        told = "\n".join(f"{n}  {step.words}" for n, step in enumerate(steps, 1))
        return f"From what is set up now:\n{told or 'Nothing to do.'}"

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def add_double(self, *, is_harmony: bool) -> None:
        """One press: a layer for the selected signal once more, set up at once."""
        item = self._document.line
        if item is None:
            return
        line = item.line
        before = self._document.session
        word = "harmony to" if is_harmony else "double of"
        if self._document.edit(
            f"{word} {line.name}", lambda now: add_double(now, line.id, is_harmony=is_harmony)
        ):
            fresh = self._document.session.setup.lines
            self._document.select_line(fresh[0].id)
            gone = ", ".join(one.name for one in before.setup.lines)
            self._document.refused.emit(
                f"{fresh[0].name} has the input now; {gone} is no longer armed. Undo brings it back."
            )

    def _set_up(self, layer: str) -> None:
        row = next((one for one in self._rows_now if one.layer == layer), None)
        if row is not None and row.state == "open":
            self._suggest(layer)
        elif self._document.turn_to_layer(layer):
            self._asked = ""
            self.refresh()

    def _show_steps(self, layer: str) -> None:
        self._asked = "" if self._asked == layer else layer
        self.refresh()

    def _move(self, layer: str, by: int) -> None:
        name = next(one.name for one in self._rows_now if one.layer == layer)
        self._document.edit(f"place of {name}", lambda now: move_layer(now, layer, by))

    def _rename(self, layer: str) -> None:
        item = next(one for one in self._document.session.brief.passes if one.id == layer)
        name, is_given = QInputDialog.getText(
            self, "Rename", "This layer is called", text=item.name
        )
        if is_given and name.strip() and name.strip() != item.name:
            changed = item.model_copy(update={"name": " ".join(name.split())[:80]})
            self._document.edit(f"name of {item.name}", lambda now: change_pass(now, changed))

    def _paper(self) -> None:
        start = str(Path.home() / "the day.pdf")
        name, _ = QFileDialog.getSaveFileName(self, "Print or export the day", start, _FILES)
        if name:
            self.put_on_paper(Path(name))

    def put_on_paper(self, path: Path) -> None:
        """Write the plan as PDF, web page or table, by the ending of the name."""
        session = self._document.session
        put_on_paper(
            self._tasks,
            path,
            html=lambda: day_html(session),
            csv=lambda: day_csv(session),
            failed=self._document.refused.emit,
        )
