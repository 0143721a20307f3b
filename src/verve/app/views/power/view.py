"""Power: the run sheet to tick, and the budget of phantom current beside it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.views.power.rows import StepRow, SwitchBox
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.budget import BudgetPicture
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, card, heading, small_heading, text
from verve.app.widgets.lots import RowLots
from verve.core.kind import Control
from verve.core.needs import budget_bars
from verve.core.power import (
    RunStep,
    advice,
    change_sheet,
    hum_risks,
    hum_tests,
    set_up_sheet,
    switch_rows,
    tear_down_sheet,
)
from verve.core.sheets import run_sheet_csv, run_sheet_html

SHEETS = ("Setting up", "Changing the selected signal", "Taking down")
_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"
_MAINS = (
    "Hum? A balanced cable, a DI box with its ground lifted, or an isolating transformer. Never lift a mains "
    "safety earth; mains work is for a licensed electrician under local code. A valve amplifier never runs "
    "without its load."
)


_ROWS_AT_ONCE, _SWITCHES_AT_ONCE = 16, 6


class PowerView(QWidget):
    """The run sheet to tick, and the budget beside it."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._ticked: list[str] = []
        self._steps: tuple[RunStep, ...] = ()
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(10)
        frame, layout = card()
        outer.addWidget(frame, 5)
        title = heading("In the right order")
        title.setWordWrap(False)
        layout.addWidget(title)
        self.sheet = Choice()
        self.sheet.setAccessibleName("Run sheet")
        self.sheet.setToolTip("Setting up, changing one microphone in between, or taking down")
        self.sheet.addItems(SHEETS)
        self.paper = QPushButton("Print or export…")
        self.paper.setToolTip("The sheet with a box to tick for each step")
        self.again = QPushButton("From the start")
        self.again.setToolTip("Takes all ticks off")
        layout.addWidget(Beside(group(self.sheet), group(self.again, self.paper)))
        self.now = text()
        font = self.now.font()
        font.setWeight(QFont.Weight.DemiBold)
        self.now.setFont(font)
        layout.addWidget(self.now)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        holder = QWidget()
        self._list = QVBoxLayout(holder)
        self._list.setContentsMargins(0, 0, 6, 0)
        self._list.setSpacing(0)
        self._list.addStretch(1)
        area.setWidget(holder)
        layout.addWidget(area, 1)
        self._rows = RowLots(self._list, self._make_row, _ROWS_AT_ONCE)
        side, outside = card()
        side.setMinimumWidth(theme.px(190))
        outer.addWidget(side, 3)
        beside = QScrollArea()
        beside.setWidgetResizable(True)
        beside.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        beside.setAccessibleName("Phantom power and hum")
        inside = QWidget()
        right = QVBoxLayout(inside)
        right.setContentsMargins(0, 0, 6, 0)
        beside.setWidget(inside)
        outside.addWidget(beside)
        right.addWidget(small_heading("Phantom current"))
        self.budget = BudgetPicture()
        right.addWidget(self.budget)
        right.addWidget(small_heading("Phantom switches"))
        self._switch_list = QVBoxLayout()
        self._switch_list.setSpacing(0)
        right.addLayout(self._switch_list)
        self._switches = RowLots(self._switch_list, self._make_switch, _SWITCHES_AT_ONCE)
        self.hum = text()
        right.addWidget(self.hum)
        self.hums = caption(wrap=True)
        right.addWidget(self.hums)
        right.addWidget(caption(_MAINS, wrap=True))
        right.addStretch(1)
        # ── connections ──
        self.sheet.activated.connect(lambda _: self._restart())
        self.again.clicked.connect(self._restart)
        self.paper.clicked.connect(self._paper)
        self.budget.asked.connect(self._ask)

    @property
    def boxes(self) -> list[QCheckBox]:
        """The box of each step."""
        return [row.box for row in self._rows.rows]

    @property
    def switches(self) -> list[SwitchBox]:
        """Each phantom switch."""
        return self._switches.rows

    def refresh(self) -> None:
        """Draw the document as it is now; ticks stay as long as the sheet is the same."""
        setup, item, engine = (
            self._document.session.setup,
            self._document.line,
            self._document.engine,
        )
        index = self.sheet.currentIndex()
        if index == 1:
            steps = () if item is None else change_sheet(setup, item.line.id, engine)
        else:
            steps = set_up_sheet(setup, engine) if index == 0 else tear_down_sheet(setup, engine)
        if tuple(s.key for s in steps) != tuple(s.key for s in self._steps):
            self._ticked = []
        self._steps = steps
        self._rows.show(len(steps), self._show_step)
        self.budget.show_bars(budget_bars(setup, engine))
        switches = switch_rows(setup, engine)
        self._switches.show(len(switches), lambda box, number: box.show_row(switches[number]))
        risks = hum_risks(setup, engine)
        self.hum.setVisible(bool(risks))
        self.hum.setText(f"May hum, unbalanced between two mains boxes: {', '.join(risks)}.")
        tests = hum_tests(setup)
        self.hums.setVisible(bool(tests))
        self.hums.setText("Where it hums, ten seconds each. " + " ".join(tests))
        self._show_now()

    def _show_step(self, row: StepRow, number: int) -> None:
        step = self._steps[number]
        row.show_step(number + 1, step)
        row.box.setChecked(step.key in self._ticked)

    def _throw(self, control: Control, on: bool) -> None:
        word = "on" if on else "off"
        self._document.set_control(f"phantom power {word}", control, on)

    def _make_row(self, number: int) -> StepRow:
        row = StepRow()
        row.box.clicked.connect(lambda on: self._tick(number, on=on))
        return row

    def _make_switch(self, _number: int) -> SwitchBox:
        box = SwitchBox()
        box.thrown.connect(self._throw)
        return box

    def _tick(self, number: int, *, on: bool) -> None:
        key = self._steps[number].key
        if on:
            self._ticked.append(key)
        else:
            self._ticked.remove(key)
        self._show_now()

    def _show_now(self) -> None:
        if not self._steps:
            self.now.setText("Nothing is patched yet: the sheet is made from the patch.")
            return
        said = advice(
            self._document.session.setup, self._steps, self._ticked, self._document.engine
        )
        self.now.setText(said or "Done: everything is in order.")

    def _restart(self) -> None:
        self._ticked = []
        self.refresh()

    def _ask(self, row: int) -> None:
        bars = budget_bars(self._document.session.setup)
        self._document.ask(f"phantom current of {bars[row].name}", bars[row].facts())

    def _paper(self) -> None:
        start = str(Path.home() / "run sheet.pdf")
        name, _ = QFileDialog.getSaveFileName(self, "Print or export the run sheet", start, _FILES)
        if name:
            self.put_on_paper(Path(name))

    def put_on_paper(self, path: Path) -> None:
        """Write the sheet as PDF, web page or table, by the ending of the name."""
        title = f"{self._document.session.title}: {self.sheet.currentText().lower()}"
        steps = self._steps
        put_on_paper(
            self._tasks,
            path,
            html=lambda: run_sheet_html(title, steps),
            csv=lambda: run_sheet_csv(steps),
            failed=self._document.refused.emit,
        )
