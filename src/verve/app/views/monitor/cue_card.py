"""One performer: the sentence that can be changed where it stands, and under it their ways to scale."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of, text
from verve.app.widgets.ledger_strip import LedgerStrip
from verve.app.widgets.number import NumberField
from verve.core.errors import InputError
from verve.core.monitor import (
    TROUBLE_NAMES,
    WAY_NAMES,
    Headphones,
    ear_causes,
    ears_text,
    ledger_of,
    sentence_of,
    total_text,
    ways_of,
)
from verve.core.session import Cue, Session, Way, cue_of

_WAYS = (
    ("Direct in the interface", "direct"),
    ("Through the software", "software"),
    ("Through the mixer", "mixer"),
    ("Direct and through the software", "direct,software"),
    ("Through mixer and software", "mixer,software"),
    ("No monitoring", ""),
)
_WORN = (
    ("in closed headphones", "closed_headphones"),
    ("in open headphones", "open_headphones"),
    ("in in-ear phones", "in_ears"),
    ("from a loudspeaker", "loudspeaker"),
    ("with nothing", "nothing"),
)
_EFFECTS = (
    ("no effects", "none"),
    ("effects heard, not recorded", "heard"),
    ("effects recorded", "printed"),
)
_FIELDS: Mapping[str, tuple[str, str, float, float, str]] = {
    "backing_db": ("Backing", "dB", -60.0, 40.0, "Against their own sound; empty: not heard"),
    "click_db": ("Click", "dB", -60.0, 40.0, "Against their own sound; empty: not heard"),
    "effect_frames": ("Effects delay by", "", 0.0, 1_000_000.0, "Samples, as the software reports them"),
    "drive_dbu": ("Headphone output", "dBu", -80.0, 40.0, "Unloaded, on the mean; empty: the knob is somewhere"),
    "output_impedance_ohm": ("Its impedance", "Ω", 0.0, 1000.0, "Of the headphone output; empty: 0"),
    "pairs": ("Pairs on it", "", 1.0, 16.0, "Equal ones in parallel on one output"),
    "loudspeaker_m": ("Loudspeaker at", "m", 0.1, 100.0, "From the loudspeaker to the ear"),
}  # fmt: skip
_OF_HEADPHONES = ("headphones", "drive_dbu", "output_impedance_ohm", "pairs")
_NEEDED = {"effect_frames", "pairs", "loudspeaker_m"}
_WHOLE = {"effect_frames", "pairs"}


class CueCard(QWidget):
    """The sentence, its parts as choices when it is being changed, and a strip for each way."""

    changed = pyqtSignal(str, object)
    """Whose, and which parts of their cue are otherwise."""
    opened = pyqtSignal(str)
    asked = pyqtSignal(str, str)
    """Where the delay of a way comes from: whose, and which way."""
    heard = pyqtSignal(str)
    saved = pyqtSignal(str)

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
            "Simulated playing as it comes back to these ears, softly. Press again for silence"
        )
        self.hear.clicked.connect(lambda: self.heard.emit(self._who))
        self.save = QPushButton("Save it…")
        self.save.setToolTip("The same as a sound file")
        self.save.clicked.connect(lambda: self.saved.emit(self._who))
        column.addWidget(Beside(group(self.open), group(self.hear, self.save)))
        self.parts = QWidget()
        grid = QGridLayout(self.parts)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        self._make_choices(grid)
        column.addWidget(self.parts)
        self.strips: list[LedgerStrip] = []
        self.said: list[QLabel] = []
        self.whys: list[QPushButton] = []
        self.rows: list[QWidget] = []
        self._now: tuple[Way, ...] = ()
        self._wears_nothing = False
        self._ways = QVBoxLayout()
        self._ways.setSpacing(2)
        column.addLayout(self._ways)
        self.ears = text()
        column.addWidget(self.ears)
        self.trouble = Choice()
        self.trouble.setAccessibleName("What is wrong with what they hear")
        self.trouble.setToolTip("Causes, what explains most first, each with its quickest test")
        self.trouble.show_entries(
            [("Nothing is wrong", ""), *((name, key) for key, name in TROUBLE_NAMES.items())]
        )
        self.trouble.activated.connect(lambda _: self._tell_trouble())
        self._trouble_label = caption_of(self.trouble, "What is wrong with what they hear")
        self.causes = text()
        for widget in (self._trouble_label, self.trouble, self.causes):
            column.addWidget(widget)
        self._session: Session | None = None

    def _make_choices(self, grid: QGridLayout) -> None:
        self.choices: dict[str, Choice] = {}
        self._labels: dict[str, QLabel] = {}
        rows = (
            ("ways", "Hears themselves", _WAYS),
            ("worn", "Listens", _WORN),
            ("effects", "With", _EFFECTS),
            ("headphones", "Headphones", (("not said", ""),)),
        )
        for row, (name, label, entries) in enumerate(rows):
            choice = Choice()
            choice.setAccessibleName(label)
            choice.show_entries(entries)
            choice.activated.connect(lambda _, name=name: self._choose(name))
            self._labels[name] = caption_of(choice, label)
            grid.addWidget(self._labels[name], row, 0)
            grid.addWidget(choice, row, 1, 1, 3)
            self.choices[name] = choice
        self.one_ear = QCheckBox("One ear free")
        self.one_ear.setToolTip("To hear the room and oneself in it; the free cup leaks")
        self.one_ear.clicked.connect(
            lambda is_so: self.changed.emit(self._who, {"has_one_ear_free": is_so})
        )
        self.mono = QCheckBox("Monitor in mono")
        self.mono.setToolTip("Off: one signal comes out of one side of a stereo monitor alone")
        self.mono.clicked.connect(lambda is_so: self.changed.emit(self._who, {"is_mono": is_so}))
        grid.addWidget(Beside(group(self.one_ear), group(self.mono)), len(rows), 0, 1, 4)
        self.fields: dict[str, NumberField] = {}
        for number, (name, (label, unit, low, high, says)) in enumerate(_FIELDS.items()):
            field = NumberField(
                label, unit, low=low, high=high, says=says, is_needed=name in _NEEDED
            )
            field.editingFinished.connect(lambda name=name: self._type(name))
            row, column = len(rows) + 1 + number // 2, 2 * (number % 2)
            self._labels[name] = caption_of(field, label)
            grid.addWidget(self._labels[name], row, column)
            grid.addWidget(field, row, column + 1)
            if name in ("backing_db", "click_db"):
                field.setPlaceholderText("not heard")
            self.fields[name] = field
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)

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
        if who != self._who:
            self._who = who
            for field in self.fields.values():
                field.setModified(False)
        cue = cue_of(session.setup, who)
        self._wears_nothing = cue.worn == "nothing"
        self.sentence.setText(sentence_of(session, who))
        self.open.setChecked(is_open)
        self.parts.setVisible(is_open)
        self._show_parts(cue, headphones)
        is_heard = cue.worn != "nothing"
        ways = ways_of(cue) if is_heard else ()
        self._show_ways(session, cue, ways, most_ms, colour)
        for button in (self.hear, self.save):
            button.setVisible(bool(ways))
        self._show_trouble(session, is_open=is_open)
        pair = headphones.get(cue.headphones or "")
        said = ears_text(session, cue, None if pair is None else pair[1]) if is_open else ""
        self.ears.setText(said)
        self.ears.setVisible(bool(said))

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

    def _show_parts(self, cue: Cue, headphones: Mapping[str, tuple[str, Headphones]]) -> None:
        self.choices["headphones"].show_entries(
            [("not said", ""), *((name, key) for key, (name, _) in headphones.items())]
        )
        now = {
            "ways": ",".join(ways_of(cue)) if cue.worn != "nothing" else "",
            "worn": cue.worn,
            "effects": cue.effects,
            "headphones": cue.headphones or "",
        }
        for name, choice in self.choices.items():
            choice.setCurrentIndex(max(0, choice.findData(now[name])))
        self.one_ear.setChecked(cue.has_one_ear_free)
        self.mono.setChecked(cue.is_mono)
        for name, field in self.fields.items():
            if not field.isModified():
                field.show_number(getattr(cue, name))
        wears = cue.worn not in ("loudspeaker", "nothing")
        for name, matters in (
            ("loudspeaker_m", cue.worn == "loudspeaker"),
            ("effect_frames", cue.effects != "none"),
            *((name, wears) for name in _OF_HEADPHONES),
        ):
            widget = self.choices.get(name) or self.fields[name]
            for one in (widget, self._labels[name]):
                one.setVisible(matters)

    def _show_trouble(self, session: Session, *, is_open: bool) -> None:
        self._session = session
        for widget in (self._trouble_label, self.trouble):
            widget.setVisible(is_open)
        self._tell_trouble()
        self.causes.setVisible(is_open and bool(self.causes.text()))

    def _tell_trouble(self) -> None:
        key = self.trouble.currentData()
        assert self._session is not None
        found = ear_causes(self._session, self._who, key) if key else ()
        self.causes.setText("\n".join(f"{n}. {one.text}" for n, one in enumerate(found, 1)))
        self.causes.setVisible(bool(found))

    # ── pressed ───────────────────────────────────────────────────────────────────────────────
    def _ask(self, number: int) -> None:
        self.asked.emit(self._who, self._now[number])

    def _choose(self, name: str) -> None:
        said = self.choices[name].currentData()
        if name == "ways":
            ways = tuple(one for one in said.split(",") if one)
            # Whoever had nothing on has to put something on to hear anything.
            wears = {"worn": "closed_headphones"} if ways and self._wears_nothing else {}
            self.changed.emit(self._who, {"ways": ways, **wears})
        elif name == "headphones":
            self.changed.emit(self._who, {"headphones": said or None})
        else:
            self.changed.emit(self._who, {name: said})

    def _type(self, name: str) -> None:
        field = self.fields[name]
        if not field.isModified():
            return
        try:
            value: float | None = field.number()
        except InputError:
            return
        field.setModified(False)
        if value is not None and name in _WHOLE:
            value = round(value)
        self.changed.emit(self._who, {name: value})
