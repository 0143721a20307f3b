"""Power: what phantom power is asked for, and the order in which nothing is harmed and nothing bangs."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption, card, heading, small_heading, text
from verve.core.kind import Control
from verve.core.power import (
    CAUTION,
    RunStep,
    SwitchRow,
    advice,
    change_sheet,
    set_up_sheet,
    switch_rows,
    tear_down_sheet,
)
from verve.core.sheets import BudgetBar, budget_bars, hum_risks, run_sheet_csv, run_sheet_html

SHEETS = ("Setting up", "Changing the selected line", "Taking down")
_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"
_MAINS = (
    "Hum? A balanced cable, a DI box with its ground lifted, or an isolating transformer. Never lift a mains "
    "safety earth; mains work is for a licensed electrician under local code. A valve amplifier never runs "
    "without its load."
)


class BudgetPicture(QWidget):
    """Each phantom supply as a bar: who draws how much, and where the supply ends."""

    asked = pyqtSignal(int)
    _ROW = 78

    def __init__(self) -> None:
        super().__init__()
        self._bars: Sequence[BudgetBar] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setAccessibleName("Phantom current of each supply")
        self.setToolTip("Press a bar to see who draws what, and the voltage that arrives")

    def show_bars(self, bars: Sequence[BudgetBar]) -> None:
        """Draw others."""
        self._bars = bars
        self.setAccessibleDescription(
            "; ".join(f"{bar.name}: {self._words(bar)}" for bar in bars) or "nothing is fed"
        )
        self.setMinimumHeight(self.sizeHint().height())
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(220, max(40, self._ROW * len(self._bars)))

    @staticmethod
    def _words(bar: BudgetBar) -> str:
        supply = "an unknown supply" if bar.supply_ma is None else f"{bar.supply_ma:g} mA"
        socket = f"; from the computer {bar.bus}" if bar.bus else ""
        return f"{bar.total_ma:.1f} mA of {supply}{socket}"

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            row = int(event.position().y() // self._ROW)
            if row < len(self._bars):
                self.asked.emit(row)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        c = theme.colours()
        if not self._bars:
            painter.setPen(QColor(c.muted))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignLeft, "Nothing asks for phantom power."
            )
            return
        for row, bar in enumerate(self._bars):
            top = row * self._ROW
            painter.setPen(QColor(c.ink))
            painter.setFont(theme.words(10.0, weight=QFont.Weight.DemiBold))
            painter.drawText(QRectF(0, top, self.width(), 18), Qt.AlignmentFlag.AlignLeft, bar.name)
            painter.setFont(theme.words(9.5))
            painter.setPen(QColor(c.muted))
            below = QRectF(0, top + 40, self.width(), 36)
            wrapped = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
            painter.drawText(below, wrapped, self._words(bar))
            most = max(bar.supply_ma or 0.0, bar.total_ma, 1.0) * 1.1
            x = 0.0
            for number, (_, _, ma) in enumerate(bar.drawn):
                wide = ma / most * (self.width() - 4)
                box = QRectF(x, top + 20, wide, 16)
                painter.fillRect(box, QColor(c.floor if number % 2 else c.floor_edge))
                x += wide
            if bar.supply_ma is not None:
                at = bar.supply_ma / most * (self.width() - 4)
                painter.setPen(QPen(QColor(c.ceiling_edge), 2.0))
                painter.drawLine(int(at), top + 17, int(at), top + 39)


class SwitchBox(QWidget):
    """One phantom switch: thrown here, with what hangs on it."""

    thrown = pyqtSignal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 4)
        column.setSpacing(0)
        self.box, self._notes = QCheckBox(), caption(wrap=True)
        self._row: SwitchRow | None = None
        self.box.clicked.connect(self._throw)
        column.addWidget(self.box)
        column.addWidget(self._notes)

    def show_row(self, row: SwitchRow) -> None:
        """Draw another one."""
        self._row = row
        self.box.setText(row.name)
        self.box.setChecked(bool(row.control.value))
        self.box.setAccessibleName(f"Phantom power, {row.name}: {', '.join(row.lines)}")
        self.box.setToolTip(CAUTION)
        shared = "shared by " if row.is_shared else ""
        self._notes.setText(f"{shared}{', '.join(row.lines)}. {'; '.join(row.notes)}.")

    def _throw(self, on: bool) -> None:
        if self._row is not None:
            self.thrown.emit(self._row.control, on)


class StepRow(QWidget):
    """A step to tick: its words may take two lines, and pressing them ticks as well."""

    def __init__(self) -> None:
        super().__init__()
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 1, 0, 1)
        line.setSpacing(4)
        self.box, self._words = QCheckBox(), text()
        line.addWidget(self.box, 0, Qt.AlignmentFlag.AlignTop)
        line.addWidget(self._words, 1)

    def show_step(self, number: int, step: RunStep) -> None:
        """Draw another one."""
        self._words.setText(f"{number}  {step.words}")
        self.box.setAccessibleName(step.words)
        for widget in (self, self.box):
            widget.setToolTip(step.reason)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.box.click()


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
        right.addWidget(caption(_MAINS, wrap=True))
        right.addStretch(1)
        # ── connections ──
        self.sheet.activated.connect(lambda _: self._restart())
        self.again.clicked.connect(self._restart)
        self.paper.clicked.connect(self._paper)
        self.budget.asked.connect(self._ask)

    def refresh(self) -> None:
        """Draw the document as it is now; ticks stay as long as the sheet is the same."""
        setup, item = self._document.session.setup, self._document.line
        index = self.sheet.currentIndex()
        if index == 1:
            steps = () if item is None else change_sheet(setup, item.line.id)
        else:
            steps = set_up_sheet(setup) if index == 0 else tear_down_sheet(setup)
        if tuple(s.key for s in steps) != tuple(s.key for s in self._steps):
            self._ticked = []
        self._steps = steps
        while len(self.boxes) < len(steps):
            self._add_row()
        for number, (row, box) in enumerate(zip(self._rows, self.boxes, strict=True)):
            row.setVisible(number < len(steps))
            if number < len(steps):
                step = steps[number]
                row.show_step(number + 1, step)
                box.setChecked(step.key in self._ticked)
        self.budget.show_bars(budget_bars(setup))
        self._show_switches(switch_rows(setup))
        risks = hum_risks(setup)
        self.hum.setVisible(bool(risks))
        self.hum.setText(f"May hum, unbalanced between two mains boxes: {', '.join(risks)}.")
        self._show_now()

    def _show_switches(self, rows: Sequence[SwitchRow]) -> None:
        while len(self.switches) < len(rows):
            box = SwitchBox()
            box.thrown.connect(self._throw)
            self._switch_list.addWidget(box)
            self.switches.append(box)
        for number, box in enumerate(self.switches):
            box.setVisible(number < len(rows))
            if number < len(rows):
                box.show_row(rows[number])

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
        said = advice(self._document.session.setup, self._steps, self._ticked)
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
