"""One performer: the sentence that can be changed where it stands, and under it their ways to scale."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.views.monitor.cue_parts import CueParts
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.labels import text
from verve.app.widgets.ledger_strip import LedgerStrip
from verve.core.monitor import (
    WAY_NAMES,
    Headphones,
    ledger_of,
    sentence_of,
    total_text,
    ways_of,
)
from verve.core.session import Cue, Session, Way, cue_of

_PARTS = (
    ("all", "as it comes back"),
    ("direct", "the direct way alone"),
    ("others", "who else is in their microphone"),
)


class CueCard(QWidget):
    """The sentence, its parts as choices when it is being changed, and a strip for each way."""

    changed = pyqtSignal(str, object)
    """Whose, and which parts of their cue are otherwise."""
    opened = pyqtSignal(str)
    asked = pyqtSignal(str, str)
    """Where the delay of a way comes from: whose, and which way."""
    heard = pyqtSignal(str, str)
    """Whose, and which part of it."""
    saved = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self._who = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 6)
        column.setSpacing(4)
        self.sentence = text()
        self.sentence.setFont(theme.words(11.0, QFont.Weight.DemiBold))
        column.addWidget(self.sentence)
        self.open = QPushButton("Change…")
        self.open.setCheckable(True)
        self.open.setToolTip("The parts of the sentence, to be chosen")
        self.open.clicked.connect(lambda: self.opened.emit(self._who))
        self.hear = QPushButton("Hear it")
        self.hear.setToolTip(
            "Simulated playing, softly, and every part equally loud. Press again for silence"
        )
        self.hear.clicked.connect(lambda: self.heard.emit(self._who, self.part.currentData()))
        self.save = QPushButton("Save it…")
        self.save.setToolTip("The same as a sound file")
        self.save.clicked.connect(lambda: self.saved.emit(self._who, self.part.currentData()))
        self.part = QComboBox()
        for key, says in _PARTS:
            self.part.addItem(says, key)
        self.part.setAccessibleName("What to hear of it")
        self.part.setToolTip("To compare: all of it, a part of it, or what gets into it")
        column.addWidget(Beside(group(self.open), group(self.hear, self.part, self.save)))
        self._parts: CueParts | None = None
        self._column = column
        self.strips: list[LedgerStrip] = []
        self.said: list[QLabel] = []
        self.whys: list[QPushButton] = []
        self.rows: list[QWidget] = []
        self._now: tuple[Way, ...] = ()
        self._ways = QVBoxLayout()
        self._ways.setSpacing(2)
        column.addLayout(self._ways)

    @property
    def parts(self) -> CueParts:
        """What can be chosen, made when it is first opened."""
        if self._parts is None:
            self._parts = CueParts()
            self._parts.setVisible(False)
            self._parts.changed.connect(lambda update: self.changed.emit(self._who, update))
            # Between the sentence and the ways.
            self._column.insertWidget(2, self._parts)
        return self._parts

    # ── drawn ─────────────────────────────────────────────────────────────────────────────────
    def show_cue(
        self,
        session: Session,
        who: str,
        most_ms: float,
        colour: int,
        headphones: Mapping[str, tuple[str, Headphones]],
        *,
        is_open: bool,
    ) -> None:
        """Draw one performer; the longest of all ways is `most_ms`."""
        self._who = who
        cue = cue_of(session.setup, who)
        self.sentence.setText(sentence_of(session, who))
        self.open.setChecked(is_open)
        if is_open:
            self.parts.show_cue(session, who, headphones)
        if self._parts is not None:
            self._parts.setVisible(is_open)
        is_heard = cue.worn != "nothing"
        ways = ways_of(cue) if is_heard else ()
        self._show_ways(session, cue, ways, most_ms, colour)
        for widget in (self.hear, self.part, self.save):
            widget.setVisible(bool(ways))

    def _show_ways(
        self, session: Session, cue: Cue, ways: tuple[Way, ...], most_ms: float, colour: int
    ) -> None:
        while len(self.strips) < len(ways):
            strip, why, said = LedgerStrip(), QPushButton("Why?"), text()
            why.setToolTip("Every part of this way, with its reason")
            number = len(self.strips)
            why.clicked.connect(lambda _, number=number: self._ask(number))
            beside = QWidget()
            row = QHBoxLayout(beside)
            row.setContentsMargins(0, 0, 0, 0)
            row.addWidget(strip, 1, Qt.AlignmentFlag.AlignTop)
            row.addWidget(why, 0, Qt.AlignmentFlag.AlignTop)
            self._ways.addWidget(beside)
            self._ways.addWidget(said)
            self.rows.append(beside)
            self.strips.append(strip)
            self.said.append(said)
            self.whys.append(why)
        self._now = ways
        for number, strip in enumerate(self.strips):
            is_there = number < len(ways)
            said, why = self.said[number], self.whys[number]
            for widget in (self.rows[number], said):
                widget.setVisible(is_there)
            if not is_there:
                continue
            ledger = ledger_of(session, cue, ways[number])
            words = f"{WAY_NAMES[ways[number]]}: {total_text(session, cue, ledger)}."
            strip.show_ledger(ledger, most_ms, colour, words)
            said.setText(words)
            why.setAccessibleName(f"Why so late: {WAY_NAMES[ways[number]].lower()}")

    # ── pressed ───────────────────────────────────────────────────────────────────────────────
    def _ask(self, number: int) -> None:
        self.asked.emit(self._who, self._now[number])
