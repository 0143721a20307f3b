"""Stage: gains in the corridor between noise and clipping."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.views.stage.column import StageColumn
from verve.app.widgets.all_lines import AllLines
from verve.app.widgets.choice import Choice
from verve.app.widgets.corridor import LEFT_GUTTER, RIGHT_GUTTER, Corridor
from verve.app.widgets.corridor_shape import shared_scale
from verve.app.widgets.labels import Elided, caption_of, card, heading
from verve.app.widgets.pictures import NoisePicture, ResponsePicture
from verve.core.gain import TARGETS
from verve.core.kind import Control, control_text
from verve.core.session import LevelTarget, set_level_target, set_line_level_target, set_own_aim

_PICTURES = ("Corridor", "Bass and treble", "Noise", "All signals")

_LEAST_COLUMN = 84
"""Narrower than this, the name of a stage does not fit."""


class StageView(QWidget):
    """One line's corridor. Draws the assessment; a held gain moves the session in the same frame."""

    settle_pressed = pyqtSignal()
    """The best gains of all lines are wanted."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        outer.addWidget(frame)
        top = QHBoxLayout()
        self._heading, self._says = heading(), Elided()
        self._heading.setWordWrap(False)
        top.addWidget(self._heading)
        top.addStretch(1)
        self.level_target = Choice()
        self.level_target.setAccessibleName("Level target")
        self.level_target.setMaximumWidth(theme.px(200))
        for key, level_target in TARGETS.items():
            self.level_target.addItem(level_target.name, key)
        self.picture = Choice()
        self.picture.setAccessibleName("Picture")
        self.picture.addItems(_PICTURES)
        self.picture.setToolTip(
            "The corridor; bass and treble; where the noise comes from; or all signals side by side. Shortcut: F3"
        )
        self.settle = QPushButton("Set all gains…")
        self.settle.setToolTip(
            "Proposes the best gains of all signals, with the reason for each. Shortcut: Ctrl+B"
        )
        self.settle.clicked.connect(self.settle_pressed)
        top.addWidget(self.picture)
        top.addWidget(caption_of(self.level_target, "Target"))
        top.addWidget(self.level_target)
        layout.addLayout(top)
        second = QHBoxLayout()
        second.addWidget(self._says, 1)
        self.line_target = Choice()
        self.line_target.setAccessibleName("Level target of this signal")
        self.line_target.setToolTip("A target for this signal alone")
        self.line_target.addItem("this signal: as the session", None)
        for key, level_target in TARGETS.items():
            self.line_target.addItem(
                f"this signal: {level_target.name[:1].lower()}{level_target.name[1:]}", key
            )
        self.line_target.setMaximumWidth(theme.px(230))
        second.addWidget(self.line_target)
        second.addWidget(self.settle)
        layout.addLayout(second)
        self.corridor = Corridor()
        self.response, self.noise = ResponsePicture(), NoisePicture()
        self.all_lines = AllLines()
        self._pictures = QStackedWidget()
        for picture in (self.corridor, self.response, self.noise, self.all_lines):
            self._pictures.addWidget(picture)
        layout.addWidget(self._pictures, 1)
        self._columns_row = QFrame()
        self._columns_layout = QHBoxLayout(self._columns_row)
        self._columns_layout.setContentsMargins(LEFT_GUTTER, 0, RIGHT_GUTTER, 0)
        self._columns_layout.setSpacing(0)
        self._columns_layout.addStretch(1)
        self._columns_row.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Maximum)
        layout.addWidget(self._columns_row)
        self.columns: list[StageColumn] = []
        # ── connections ──
        self.corridor.moved.connect(self._move)
        self.corridor.let_go.connect(document.end_move)
        self.corridor.asked.connect(self._ask)
        self.all_lines.chosen.connect(document.select_line)
        self.noise.asked.connect(self._ask_noise)
        self.response.asked.connect(self._ask_response)
        self.level_target.activated.connect(self._choose_target)
        self.line_target.activated.connect(self._choose_line_target)
        self.picture.activated.connect(self.show_picture)

    def show_picture(self, index: int) -> None:
        """Turn to the corridor, the response or the noise."""
        self.picture.setCurrentIndex(index)
        self._pictures.setCurrentIndex(index)
        self._columns_row.setVisible(index == 0)
        self.refresh()

    def next_picture(self) -> None:
        """Turn to the next of the three."""
        self.show_picture((self.picture.currentIndex() + 1) % self.picture.count())

    def refresh(self) -> None:
        """Draw the document as it is now."""
        assessment, item = self._document.assessment, self._document.line
        level_target: LevelTarget = assessment.session.setup.level_target
        self.level_target.setCurrentIndex(self.level_target.findData(level_target))
        own = None if item is None else item.line.level_target
        self.line_target.setCurrentIndex(max(0, self.line_target.findData(own)))
        said = TARGETS[level_target]
        self.level_target.setToolTip(f"{said.suits}\nRisk: {said.risks}")
        self._heading.setText("" if item is None else item.line.name)
        self._says.show_text("" if item is None else self._sentence())
        self.corridor.show_line(item, shared_scale(assessment))
        shown = self._pictures.currentWidget()
        if isinstance(shown, ResponsePicture | NoisePicture):
            shown.show_line(item)
        elif isinstance(shown, AllLines):
            shown.show_assessment(assessment, "" if item is None else item.line.id)
        spans = item.spans if item is not None else ()
        while len(self.columns) < len(spans):
            column = StageColumn(self._document)
            self.columns.append(column)
            self._columns_layout.insertWidget(len(self.columns) - 1, column)
        for index, column in enumerate(self.columns):
            column.setVisible(index < len(spans))
            if index < len(spans):
                column.show_span(spans[index])
        self._place_columns()

    def _place_columns(self) -> None:
        """Every column exactly under its stage, however wide its content wants to be."""
        shown = [column for column in self.columns if not column.isHidden()]
        # Where the window is too narrow for that, the view scrolls.
        least = LEFT_GUTTER + RIGHT_GUTTER + len(shown) * theme.px(_LEAST_COLUMN)
        self.corridor.setMinimumWidth(least)
        width = max(least, self.corridor.width()) - LEFT_GUTTER - RIGHT_GUTTER
        edges = [round(index * width / max(len(shown), 1)) for index in range(len(shown) + 1)]
        for column, left, right in zip(shown, edges, edges[1:], strict=False):
            column.setFixedWidth(max(40, right - left))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place_columns()

    def _sentence(self) -> str:
        item = self._document.line
        assert item is not None
        parts = []
        for span in item.spans:
            if span.distance is not None:
                parts.append(f"from {control_text(span.distance, span.distance.value)}")
        hardest = item.hardest_text(1)
        if hardest:
            parts.append(f"loudest passage {hardest}")
        if item.snr_db is not None:
            parts.append(f"{item.snr_db:.0f} dB above the noise")
        text = ", ".join(parts)
        return text[:1].upper() + text[1:]

    def _move(self, control: Control, value: float) -> None:
        item = self._document.line
        name = item.line.name if item is not None else ""
        self._document.move(f"{control.said} of {name}", control, value)

    def _ask(self, index: int) -> None:
        item = self._document.line
        if item is not None and index < len(item.spans):
            span = item.spans[index]
            self._document.ask(span.title, item.facts_at(span.owner, span.port))

    def _ask_noise(self) -> None:
        item = self._document.line
        if item is not None:
            self._document.ask(f"the noise of {item.line.name}", item.noise())

    def _ask_response(self) -> None:
        item = self._document.line
        if item is not None:
            self._document.ask(f"bass and treble of {item.line.name}", item.response_facts())

    def _choose_target(self, index: int) -> None:
        level_target: LevelTarget = self.level_target.itemData(index)
        if level_target != "own":
            self._document.edit(
                "the target", lambda session: set_level_target(session, level_target)
            )
            return
        now = self._document.session.setup.own_target_dbfs
        aim, is_given = QInputDialog.getDouble(
            self, "Custom", "Highest peak, dBFS", now, -40.0, -1.0, 1
        )
        if is_given:
            self._document.edit("the target", lambda session: set_own_aim(session, aim))
        else:
            self.refresh()

    def _choose_line_target(self, index: int) -> None:
        item = self._document.line
        if item is not None:
            line_id, level_target = item.line.id, self.line_target.itemData(index)
            self._document.edit(
                f"the target of {item.line.name}",
                lambda session: set_line_level_target(session, line_id, level_target),
            )
