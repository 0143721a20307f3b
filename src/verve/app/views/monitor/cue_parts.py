"""The parts of a performer's sentence, to be chosen; and causes for what is wrong with what they hear."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QLabel, QVBoxLayout, QWidget

from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of, text
from verve.app.widgets.number import NumberField
from verve.core.monitor import TROUBLE_NAMES, Headphones, ear_causes, ears_text, ways_of
from verve.core.session import Cue, Session, cue_of

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


class CueParts(QWidget):
    """Choices and figures of one cue; not there before somebody opens it."""

    changed = pyqtSignal(object)
    """Which parts are otherwise."""

    def __init__(self) -> None:
        super().__init__()
        self._who = ""
        self._wears_nothing = False
        self._session: Session | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        self._make_choices(grid)
        column.addLayout(grid)
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
        self.one_ear.clicked.connect(lambda is_so: self.changed.emit({"has_one_ear_free": is_so}))
        self.mono = QCheckBox("Monitor in mono")
        self.mono.setToolTip("Off: one signal comes out of one side of a stereo monitor alone")
        self.mono.clicked.connect(lambda is_so: self.changed.emit({"is_mono": is_so}))
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

    def show_cue(
        self, session: Session, who: str, headphones: Mapping[str, tuple[str, Headphones]]
    ) -> None:
        """Draw the cue of one performer."""
        if who != self._who:
            self._who = who
            self.trouble.setCurrentIndex(0)
            for field in self.fields.values():
                field.setModified(False)
        cue = cue_of(session.setup, who)
        self._session, self._wears_nothing = session, cue.worn == "nothing"
        self._show_parts(cue, headphones)
        pair = headphones.get(cue.headphones or "")
        said = ears_text(session, cue, None if pair is None else pair[1])
        self.ears.setText(said)
        self.ears.setVisible(bool(said))
        self._tell_trouble()

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

    def _tell_trouble(self) -> None:
        key = self.trouble.currentData()
        assert self._session is not None
        found = ear_causes(self._session, self._who, key) if key else ()
        self.causes.setText("\n".join(f"{n}. {one.text}" for n, one in enumerate(found, 1)))
        self.causes.setVisible(bool(found))

    def _choose(self, name: str) -> None:
        said = self.choices[name].currentData()
        if name == "ways":
            ways = tuple(one for one in said.split(",") if one)
            # Whoever had nothing on has to put something on to hear anything.
            wears = {"worn": "closed_headphones"} if ways and self._wears_nothing else {}
            self.changed.emit({"ways": ways, **wears})
        elif name == "headphones":
            self.changed.emit({"headphones": said or None})
        else:
            self.changed.emit({name: said})

    def _type(self, name: str) -> None:
        taken = self.fields[name].taken()
        if taken is None:
            return
        (value,) = taken
        self.changed.emit({name: round(value) if value is not None and name in _WHOLE else value})
