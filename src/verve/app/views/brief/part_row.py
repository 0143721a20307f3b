"""One part of a pass: who plays it, and how it is taken."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from verve.app.views.brief.view import BriefView


from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QLineEdit,
    QPushButton,
    QWidget,
)

from verve.app import theme
from verve.app.widgets.choice import Choice
from verve.core.catalogue import (
    TAKES,
    catalogue,
    source_of,
    take_of,
    taken_as,
    takes_for,
)
from verve.core.session import (
    Part,
)

_PRINCIPLES = (
    (None, "any microphone"),
    ("moving_coil", "a dynamic (moving coil)"),
    ("ribbon", "a ribbon"),
    ("condenser", "a condenser"),
)


class PartRow:
    """One part: its player, what they play, how it is taken."""

    def __init__(self, view: BriefView, grid: QGridLayout, row: int) -> None:
        self.part: Part | None = None
        self._view = view
        self.performer, self.name = QLineEdit(), QLineEdit()
        self.take, self.principle = Choice(), Choice()
        self.remove = QPushButton("Remove")
        self.remove.setProperty("plain", "true")
        for field in (self.performer, self.name):
            field.setMaxLength(80)
            field.setMinimumWidth(theme.px(84))
        self.performer.setPlaceholderText("who")
        for box in (self.take, self.principle):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            box.setMinimumWidth(theme.px(79))
            box.setMaximumWidth(theme.px(248))
        for value, words in _PRINCIPLES:
            self.principle.addItem(words, value)
        self.widgets: tuple[QWidget, ...] = (
            self.performer,
            self.name,
            self.take,
            self.principle,
            self.remove,
        )
        for column, widget in enumerate(self.widgets):
            grid.addWidget(widget, row, column)
        self.performer.editingFinished.connect(self._rename)
        self.name.editingFinished.connect(self._rename)
        self.take.activated.connect(lambda _: self._take())
        self.principle.activated.connect(lambda _: self._wish())
        self.remove.clicked.connect(self._remove)

    def show_part(self, part: Part | None) -> None:
        """Draw a part; None hides the row."""
        self.part = part
        for widget in self.widgets:
            widget.setVisible(part is not None)
        if part is None:
            return
        for field, words in ((self.performer, part.performer), (self.name, part.name)):
            if not field.hasFocus() or not field.isModified():
                field.setText(words)
                field.setCursorPosition(0)
        self.performer.setAccessibleName(f"Who plays {part.name}")
        self.name.setAccessibleName(f"Name of the part {part.name}")
        figures = source_of(part)
        entry = catalogue().played().get(figures.entry)
        plays = "" if entry is None else f"; what is played: {entry.name}"
        self.name.setToolTip(f"What the part, and its signal, is called{plays}")
        self.performer.setToolTip("Who plays it; one headphone mix for each who plays")
        self.take.setAccessibleName(f"How {part.name} is recorded")
        self.take.setToolTip("One microphone, two, direct, or both: each takes an input")
        takes = [*takes_for(catalogue(), figures, has_pickup=part.plug is not None)]
        if take_of(part) not in takes:
            takes.append(take_of(part))
        self.take.clear()
        for take in takes:
            self.take.addItem(TAKES[take], take)
        self.take.setCurrentIndex(takes.index(take_of(part)))
        hears = part.capture in {"microphone", "pair", "both"}
        self.principle.setVisible(hears)
        self.principle.setAccessibleName(f"Wanted microphone for {part.name}")
        self.principle.setToolTip("A wish; without one the best one is computed")
        self.principle.setCurrentIndex([p for p, _ in _PRINCIPLES].index(part.principle))
        self.remove.setAccessibleName(f"Remove {part.name}")
        self.remove.setToolTip("Removes the part from every layer; undo brings it back")

    def _change(self, **update: object) -> None:
        if self.part is not None:
            self._view.change_part(self.part.model_copy(update=update))

    def _rename(self) -> None:
        part = self.part
        if part is None:
            return
        self.performer.setModified(False)
        self.name.setModified(False)
        name = " ".join(self.name.text().split()) or part.name
        performer = " ".join(self.performer.text().split())
        if (name, performer) != (part.name, part.performer):
            self._change(name=name, performer=performer)

    def _take(self) -> None:
        part = self.part
        if part is not None and self.take.currentData() != take_of(part):
            self._view.change_part(taken_as(catalogue(), part, self.take.currentData()))

    def _wish(self) -> None:
        if self.part is not None and self.principle.currentData() != self.part.principle:
            self._change(principle=self.principle.currentData())

    def _remove(self) -> None:
        if self.part is not None:
            self._view.remove_part(self.part)
