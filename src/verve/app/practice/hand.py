"""Set it by hand: hours, pads and centimetres; a test, then the song, which is played harder."""

from __future__ import annotations

from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.practice.prepared import Needs, Prepared, give_keys
from verve.app.widgets.buttons import push
from verve.app.widgets.choice import Choice
from verve.app.widgets.controls import RangeField
from verve.app.widgets.labels import caption, caption_of, card, scrolling_rest, text
from verve.app.widgets.table import Table
from verve.core.errors import EditError
from verve.core.gain import FIRST_HOUR, HOURS, dial_hour, gains_of_hours, hour_words
from verve.core.hand import (
    Exercise,
    Knob,
    Result,
    Score,
    exercise_of,
    knobs_of,
    played,
    settable_lines,
    shown_in_test,
    turned,
)
from verve.core.kind import Control, ControlValue, control_text
from verve.core.session import Change
from verve.core.words import level_text

_FIRST = "Press Turn everything away, or N: then set it for the hardest they will play, and record the song."
_HALVES = [FIRST_HOUR + number / 2.0 for number in range(int(HOURS * 2) + 1)]


class HandPage(QWidget):
    """One exercise after the other."""

    def __init__(self, needs: Needs) -> None:
        super().__init__()
        self._needs = needs
        self._prepared: Prepared | None = None
        self._line = ""
        self.exercise: Exercise | None = None
        self.score: Score | None = None
        self.fields: dict[tuple[str, str, str], RangeField | QComboBox] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(8)
        top = QHBoxLayout()
        self.whom = Choice()
        self.whom.show_entries((("This signal", "one"), ("All signals", "all")))
        self.whom.setAccessibleName("Which signals are set")
        self.whom.setToolTip(
            "One signal to begin with; all of them as before a real take: turn from one to the next with Signal above"
        )
        self.begin = push(
            "Turn everything away",
            "Turns gains, pads and distances away in a copy: your session stays as it is. Key: N",
            self.start,
            strong=True,
        )
        self.test = push(
            "Play the test",
            "They play what they call loud, and you see what the meters reach. Key: T",
            self.play_test,
        )
        self.song = push(
            "Record the song",
            "They play harder than in the test; then it is told what was kept. Key: R",
            self.record,
        )
        for widget in (self.whom, self.begin, self.test, self.song):
            top.addWidget(widget)
        top.addStretch(1)
        outer.addLayout(top)
        frame, inside = card()
        self.sign = text(_FIRST)
        self.sign.setFont(theme.words(15.0))
        self.below = caption(wrap=True)
        inside.addWidget(self.sign)
        inside.addWidget(self.below)
        outer.addWidget(frame)
        self._knobs = QWidget()
        self._grid = QGridLayout(self._knobs)
        self._grid.setColumnStretch(2, 1)
        outer.addWidget(scrolling_rest(self._knobs), 1)
        self.results = Table(
            ("Signal", "Peak", "Best", "Signal-to-noise", "Best", "How it was"), "How the song came out",
            empty="After the song each signal stands here, against the best that could have been set.",
            numbers=(1, 2, 3, 4), stretched=(5,), wraps=True,
        )  # fmt: skip
        outer.addWidget(self.results, 2)
        give_keys(self, {"N": self.start, "T": self.play_test, "R": self.record})
        self._draw()

    def show_prepared(self, found: Prepared | None, line: str) -> None:
        """Another copy, or another signal; of an exercise of all signals the knobs of that one."""
        is_same = found is self._prepared and self.exercise is not None
        self._prepared, self._line = found, line
        if not is_same or self.exercise is None or line not in self.exercise.lines:
            self.exercise = self.score = None
        self._draw()

    def refresh(self) -> None:
        """Draw it as it is now."""
        self._draw()

    def focus_first(self) -> None:
        """To what is pressed next."""
        self.begin.setFocus()

    # ── the exercise ──────────────────────────────────────────────────────────────────────────
    def start(self) -> None:
        """Everything turned away."""
        if self._prepared is None:
            return
        lines = [key for key, _ in settable_lines(self._prepared.session, self._prepared.engine)]
        if self.whom.currentData() == "one":
            lines = [one for one in lines if one == self._line] or lines[:1]
        if not lines:
            self._needs.say("Nothing of this session can be set by hand.")
            return
        self.exercise = exercise_of(self._prepared.session, tuple(lines), self._needs.seed())
        self.score = None
        self.sign.setText("Everything is turned away. Set it, and play the test.")
        self._draw()
        first = next(iter(self.fields.values()), None)
        if first is not None:
            first.setFocus()

    def _set(self, control: Control, value: ControlValue) -> None:
        if self.exercise is None:
            return
        change = Change(
            owner=control.owner, channel=control.channel, name=control.name, value=value
        )
        try:
            self.exercise = turned(self.exercise, change)
        except EditError as error:
            self._needs.say(str(error))
        self._draw()

    def play_test(self) -> None:
        """What the meters reach in a test."""
        if self.exercise is None:
            return
        self.exercise, found = shown_in_test(self.exercise)
        said = []
        for one in found:
            peak = "nothing" if one.peak_dbfs is None else level_text(one.peak_dbfs, "dBFS", 0)
            said.append(f"{one.name}: {'over, it clips' if one.is_over else peak}")
        self.sign.setText("; ".join(said) + ".")
        self.below.setText(
            "That was the test. In the song they play harder; how much, nobody tells."
        )

    def record(self) -> None:
        """Play the song, and tell what was kept."""
        exercise = self.exercise
        if exercise is None:
            return

        def done(found: Score) -> None:
            self.score = found
            self._needs.practising.reviewed("hand:gain", found.grade)
            self.sign.setText(found.says)
            harder = dict.fromkeys(one.harder for one in found.results)
            self.below.setText(" ".join(harder))
            self._draw()

        self._needs.tasks.run(
            "by hand", lambda _, __: played(exercise), done, failed=self._needs.say
        )

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def _draw(self) -> None:
        exercise = self.exercise
        self.begin.setEnabled(self._prepared is not None and bool(self._prepared.cases))
        for button in (self.test, self.song):
            button.setEnabled(exercise is not None)
        if exercise is None:
            self.sign.setText(_FIRST)
            self.below.setText(
                "The school you follow is that of your session; the best is set for the song, not the test."
            )
        wanted = () if exercise is None else knobs_of(exercise, self._shown_line(exercise))
        keys = [(k.control.owner, k.control.channel, k.control.name) for k in wanted]
        if keys != list(self.fields):
            self._make_fields(wanted)
        for knob in wanted:
            self._show_knob(knob)
        self.results.show_rows(
            [] if self.score is None else [_row(one) for one in self.score.results]
        )

    def _shown_line(self, exercise: Exercise) -> str:
        return self._line if self._line in exercise.lines else exercise.lines[0]

    def _make_fields(self, wanted: tuple[Knob, ...]) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self.fields = {}
        for row, knob in enumerate(wanted):
            control = knob.control
            field = self._field(control)
            self.fields[(control.owner, control.channel, control.name)] = field
            self._grid.addWidget(caption_of(field, f"{knob.device}: {control.said}"), row, 0)
            self._grid.addWidget(field, row, 1)
        self._grid.setRowStretch(len(wanted), 1)

    def _field(self, control: Control) -> RangeField | QComboBox:
        if control.kind == "range" and not _is_dial(control):
            field = RangeField()
            field.sent.connect(self._set)
            return field
        box = QComboBox()
        if _is_dial(control):
            for hour, gain_db in zip(_HALVES, gains_of_hours(control, _HALVES), strict=True):
                box.addItem(hour_words(hour), round(gain_db, 2))
            box.setAccessibleName(f"{control.label}: hour of the knob")
            box.setToolTip("Where the knob points; up and down turn it by half an hour")
        else:
            for value in control.choices:
                box.addItem(control_text(control, value), value)
            box.setAccessibleName(control.label)
            box.setToolTip(control.effect)
        box.activated.connect(lambda _: self._set(control, box.currentData()))
        return box

    def _show_knob(self, knob: Knob) -> None:
        control = knob.control
        field = self.fields[(control.owner, control.channel, control.name)]
        if isinstance(field, RangeField):
            field.show_control(control)
        elif _is_dial(control):
            hour = dial_hour(control, float(control.value or 0.0))
            field.setCurrentIndex(round((hour - FIRST_HOUR) * 2.0))
        else:
            field.setCurrentIndex(control.choices.index(control.value))


def _is_dial(control: Control) -> bool:
    return control.is_dial and control.name == "gain_db"


def _row(one: Result) -> tuple[str, ...]:
    def said(value: float | None, unit: str) -> str:
        if value is None:
            return "–"
        return level_text(value, unit, 0).removeprefix("+" if unit == "dB" else "")

    return (
        one.name, said(one.peak_dbfs, "dBFS"), said(one.best_peak_dbfs, "dBFS"), said(one.snr_db, "dB"),
        said(one.best_snr_db, "dB"), one.says,
    )  # fmt: skip
