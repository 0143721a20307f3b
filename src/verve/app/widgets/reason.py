"""The reason: what is wrong with the selected line, and how its numbers come about."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFont, QPaintEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.widgets.labels import PressableBox, caption, heading, number, small_heading, text
from verve.app.widgets.marks import Mark
from verve.core.findings import Finding
from verve.core.words import ORIGIN_WORDS, Fact

if TYPE_CHECKING:
    from verve.core.assess import LineAssessment


_LONGEST_NUMBER = 16


class FactRow(PressableBox):
    """A number with its origin; pressed, it says how it came about."""

    def __init__(self, *, is_open: bool = False) -> None:
        super().__init__()
        self._is_open = is_open
        grid = QGridLayout(self)
        grid.setContentsMargins(3, 3, 3, 3)
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(0, 1)
        self._label, self._value = text(), number()
        self._origin, self._how = caption(), caption(wrap=True)
        grid.addWidget(self._label, 0, 0)
        grid.addWidget(self._value, 0, 1)
        grid.addWidget(self._origin, 1, 0, 1, 2, Qt.AlignmentFlag.AlignRight)
        grid.addWidget(self._how, 2, 0, 1, 2)
        self._how.setVisible(is_open)
        self.setMinimumHeight(theme.px(24))
        self.clicked.connect(self.toggle)

    def show_fact(self, fact: Fact) -> None:
        """Draw another number."""
        self._label.setText(fact.label)
        self._value.setText(fact.text)
        # Numbers stand on one line; what is said in words may take two.
        self._value.setWordWrap(len(fact.text) > _LONGEST_NUMBER)
        self._origin.setText(ORIGIN_WORDS[fact.origin])
        self._how.setText(fact.how)
        if not fact.how or self._is_open:
            self._how.setVisible(bool(fact.how))
        self.setToolTip(fact.how)
        self.setAccessibleName(f"{fact.label}: {fact.text}, {ORIGIN_WORDS[fact.origin]}")
        self.setAccessibleDescription(fact.how)

    def toggle(self) -> None:
        """Say how it came about, or be quiet again."""
        if self._how.text():
            self._how.setVisible(self._how.isHidden())


class FactList(QWidget):
    """Rows that are kept and written anew: a drag redraws them in every frame."""

    def __init__(self, *, is_open: bool = False) -> None:
        super().__init__()
        self._is_open = is_open
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(0)
        self._rows: list[FactRow] = []

    def show_facts(self, facts: Sequence[Fact]) -> None:
        while len(self._rows) < len(facts):
            row = FactRow(is_open=self._is_open)
            self._rows.append(row)
            self._layout.addWidget(row)
        for index, row in enumerate(self._rows):
            row.setVisible(index < len(facts))
            if index < len(facts):
                row.show_fact(facts[index])


class FindingBox(QFrame):
    """One finding: what is wrong, what it would cost, what to do, and the button that does it."""

    remedy_pressed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 8)
        layout.setSpacing(3)
        top = QHBoxLayout()
        self._mark, self._title = Mark(), text()
        font = self._title.font()
        font.setWeight(QFont.Weight.DemiBold)
        self._title.setFont(font)
        top.addWidget(self._mark, 0, Qt.AlignmentFlag.AlignTop)
        top.addWidget(self._title, 1)
        layout.addLayout(top)
        self._cost, self._advice, self._caution = text(), text(), caption(wrap=True)
        self.button = QPushButton()
        self.button.clicked.connect(self._press)
        for widget in (self._cost, self._advice, self._caution):
            layout.addWidget(widget)
        layout.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        self._facts = FactList()
        layout.addWidget(self._facts)
        self._finding: Finding | None = None

    def show_finding(self, finding: Finding) -> None:
        """Draw another one."""
        self._finding = finding
        self._mark.show_severity(finding.severity)
        self._title.setText(finding.title)
        self._cost.setText(finding.cost)
        self._advice.setText(finding.advice)
        self._caution.setText(finding.caution)
        self._caution.setVisible(bool(finding.caution))
        self.button.setVisible(finding.remedy is not None)
        if finding.remedy is not None:
            self.button.setText(finding.remedy.label)
            self.button.setToolTip(f"{finding.advice} It can be undone.")
        self._facts.show_facts(finding.facts)

    def _press(self) -> None:
        if self._finding is not None and self._finding.remedy is not None:
            self.remedy_pressed.emit(self._finding.remedy)


class ReasonPanel(QFrame):
    """Why the selected line stands as it does."""

    remedy_pressed = pyqtSignal(object)
    whole_pressed = pyqtSignal()
    close_pressed = pyqtSignal()
    stay_pressed = pyqtSignal(bool)
    """Whether it is to stay open by choice."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("card", "true")
        self.setAccessibleName("The reason")
        self._item: LineAssessment | None = None
        self._is_painted = False
        outer = QVBoxLayout(self)
        outer.setContentsMargins(14, 12, 6, 8)
        self._heading = heading("Why")
        outer.addWidget(self._heading)
        top = QHBoxLayout()
        self.stay, self.close_button = QCheckBox("Keep open"), QPushButton("Close")
        self.stay.setToolTip("Open beside every step, until this is switched off")
        self.close_button.setToolTip(
            "Gives the space back to the step. Shortcut: F2 opens it again"
        )
        self.close_button.setAccessibleName("Close the reason")
        self.close_button.setProperty("plain", "true")
        top.addWidget(self.stay)
        top.addStretch(1)
        top.addWidget(self.close_button)
        outer.addLayout(top)
        self.stay.clicked.connect(self.stay_pressed)
        self.close_button.clicked.connect(self.close_pressed)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inside = QWidget()
        self._layout = QVBoxLayout(inside)
        self._layout.setContentsMargins(0, 0, 8, 0)
        self._layout.setSpacing(2)
        self._asked_heading, self._asked = small_heading(), FactList(is_open=True)
        self._asked_close = QPushButton("Hide")
        self._asked_close.setToolTip("Back to what is wrong and how the level comes about")
        self._asked_close.clicked.connect(lambda: self.show_asked("", ()))
        self._layout.addWidget(self._asked_heading)
        self._layout.addWidget(self._asked)
        self._layout.addWidget(self._asked_close, 0, Qt.AlignmentFlag.AlignLeft)
        self._well = text()
        self._layout.addWidget(self._well)
        self._findings_at = self._layout.count()
        self._boxes: list[FindingBox] = []
        self._walk_heading = small_heading("How the level comes about")
        self._walk = FactList()
        self._noise_heading = small_heading("Where the noise comes from")
        self._noise = FactList()
        self._change_heading = small_heading("What would change it most")
        self._changes = FactList()
        for widget in (
            self._walk_heading,
            self._walk,
            self._change_heading,
            self._changes,
            self._noise_heading,
            self._noise,
        ):
            self._layout.addWidget(widget)
        self._layout.addStretch(1)
        self.area.setWidget(inside)
        outer.addWidget(self.area, 1)
        self.whole_button = QPushButton("Full calculation")
        self.whole_button.setToolTip(
            "Every step, junction and formula of this signal, with its sources. Shortcut: Shift+F2"
        )
        self.whole_button.clicked.connect(self.whole_pressed)
        outer.addWidget(self.whole_button)

    def show_line(
        self, item: LineAssessment | None, findings: Sequence[Finding], *, well: str
    ) -> None:
        """Draw what is wrong, and a signal's numbers."""
        self._heading.setText("Why" if item is None else f"Why: {item.line.name}")
        self._well.setText(well)
        self._well.setVisible(not findings)
        while len(self._boxes) < len(findings):
            box = FindingBox()
            box.remedy_pressed.connect(self.remedy_pressed)
            self._layout.insertWidget(self._findings_at + len(self._boxes), box)
            self._boxes.append(box)
        for index, box in enumerate(self._boxes):
            box.setVisible(index < len(findings))
            if index < len(findings):
                box.show_finding(findings[index])
        if item is None or self._item is None or item.line.id != self._item.line.id:
            # What would change the line before says nothing about this one.
            self.show_changes(())
            self.show_asked("", ())
        self._item = item
        self.whole_button.setEnabled(item is not None)
        if self._is_painted:
            self._show_numbers()

    def show_asked(self, title: str, facts: Sequence[Fact]) -> None:
        """Say where the numbers come from that somebody pressed; nothing hides them."""
        self._asked_heading.setText(f"Where it comes from: {title}")
        for widget in (self._asked_heading, self._asked, self._asked_close):
            widget.setVisible(bool(facts))
        self._asked.show_facts(facts)
        if facts:
            self.area.verticalScrollBar().setValue(0)  # type: ignore[union-attr]

    def show_changes(self, changes: Sequence[Fact]) -> None:
        """What could be set otherwise; it comes a moment later than the rest."""
        self._change_heading.setVisible(bool(changes))
        self._changes.show_facts(changes)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._is_painted:
            # The first paint shows what is wrong; the long list of numbers comes right behind it.
            self._is_painted = True
            QTimer.singleShot(0, self._show_numbers)

    def _show_numbers(self) -> None:
        item = self._item
        walk = item.why() if item is not None else ()
        noise = item.noise() if item is not None else ()
        self._walk_heading.setVisible(bool(walk))
        self._noise_heading.setVisible(bool(noise))
        self._walk.show_facts(walk)
        self._noise.show_facts(noise)
