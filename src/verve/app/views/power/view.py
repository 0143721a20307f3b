"""Power: the run sheet to tick, and the budget of phantom current beside it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.views.power.rows import StepRow, SwitchBox
from verve.app.widgets.budget import BudgetPicture
from verve.app.widgets.labels import caption, card, heading, small_heading, text
from verve.core.kind import Control
from verve.core.needs import budget_bars
from verve.core.power import (
    RunStep,
    SwitchRow,
    advice,
    change_sheet,
    hum_risks,
    hum_tests,
    set_up_sheet,
    switch_rows,
    tear_down_sheet,
)
from verve.core.sheets import run_sheet_csv, run_sheet_html

SHEETS = ("Setting up", "Changing the selected line", "Taking down")
_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"
_MAINS = (
    "Hum? A balanced cable, a DI box with its ground lifted, or an isolating transformer. Never lift a mains "
    "safety earth; mains work is for a licensed electrician under local code. A valve amplifier never runs "
    "without its load."
)


_ROWS_AT_ONCE = 16


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
        top = QHBoxLayout()
        title = heading("In the right order")
        title.setWordWrap(False)
        layout.addWidget(title)
        self.sheet = QComboBox()
        self.sheet.setAccessibleName("Which sheet")
        self.sheet.setToolTip("Setting up, changing one microphone in between, or taking down")
        self.sheet.addItems(SHEETS)
        self.paper = QPushButton("On paper…")
        self.paper.setToolTip("The sheet with a box to tick for each step")
        self.again = QPushButton("From the start")
        self.again.setToolTip("Takes all ticks off")
        for widget in (self.sheet, self.again, self.paper):
            top.addWidget(widget)
        top.addStretch(1)
        layout.addLayout(top)
        self.now = text()
        font = self.now.font()
        font.setWeight(QFont.Weight.DemiBold)
        self.now.setFont(font)
        layout.addWidget(self.now)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        holder = QWidget()
        self._list = QVBoxLayout(holder)
        self._list.setContentsMargins(0, 0, 6, 0)
        self._list.setSpacing(0)
        self._list.addStretch(1)
        area.setWidget(holder)
        layout.addWidget(area, 1)
        self.boxes: list[QCheckBox] = []
        self._rows: list[StepRow] = []
        side, outside = card()
        side.setMinimumWidth(160)
        outer.addWidget(side, 3)
        beside = QScrollArea()
        beside.setWidgetResizable(True)
        beside.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
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
        self.switches: list[SwitchBox] = []
        self.hum = text()
        right.addWidget(self.hum)
        self.hums = caption(wrap=True)
        right.addWidget(self.hums)
        right.addWidget(caption(_MAINS, wrap=True))
        right.addStretch(1)
        self._more_timer = QTimer(self)
        self._more_timer.setSingleShot(True)
        self._more_timer.setInterval(0)
        # ── connections ──
        self._more_timer.timeout.connect(lambda: self._draw_steps(len(self.boxes)))
        self.sheet.activated.connect(lambda _: self._restart())
        self.again.clicked.connect(self._restart)
        self.paper.clicked.connect(self._paper)
        self.budget.asked.connect(self._ask)

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
        self._draw_steps()
        self.budget.show_bars(budget_bars(setup, engine))
        self._show_switches(switch_rows(setup, engine))
        risks = hum_risks(setup, engine)
        self.hum.setVisible(bool(risks))
        self.hum.setText(f"May hum, unbalanced between two mains boxes: {', '.join(risks)}.")
        tests = hum_tests(setup)
        self.hums.setVisible(bool(tests))
        self.hums.setText("Where it hums, ten seconds each. " + " ".join(tests))
        self._show_now()

    def _draw_steps(self, first: int = 0) -> None:
        """Draw the steps from one on; of very many some now, the rest before anybody has scrolled there."""
        steps = self._steps
        # A layout that is looked at after each of two hundred rows takes half a second.
        self._list.setEnabled(False)
        missing = len(steps) - len(self.boxes)
        for _ in range(min(missing, _ROWS_AT_ONCE)):
            self._add_row()
        for number in range(first, len(self.boxes)):
            row, box = self._rows[number], self.boxes[number]
            row.setVisible(number < len(steps))
            if number < len(steps):
                step = steps[number]
                row.show_step(number + 1, step)
                box.setChecked(step.key in self._ticked)
        self._list.setEnabled(True)
        self._list.activate()
        if missing > _ROWS_AT_ONCE:
            self._more_timer.start()

    def _show_switches(self, rows: Sequence[SwitchRow]) -> None:
        self._switch_list.setEnabled(False)
        while len(self.switches) < len(rows):
            box = SwitchBox()
            box.thrown.connect(self._throw)
            self._switch_list.addWidget(box)
            self.switches.append(box)
        for number, box in enumerate(self.switches):
            box.setVisible(number < len(rows))
            if number < len(rows):
                box.show_row(rows[number])
        self._switch_list.setEnabled(True)
        self._switch_list.activate()

    def _throw(self, control: Control, on: bool) -> None:
        word = "on" if on else "off"
        self._document.set_control(f"phantom power {word}", control, on)

    def _add_row(self) -> None:
        row = StepRow()
        number = len(self.boxes)
        row.box.clicked.connect(lambda on: self._tick(number, on=on))
        self._list.insertWidget(number, row)
        self.boxes.append(row.box)
        self._rows.append(row)

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
        name, _ = QFileDialog.getSaveFileName(self, "The run sheet on paper", start, _FILES)
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
