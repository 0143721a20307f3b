"""Hear it: two examples, one of them the odd one; harder when it goes well. With sound, or by what is measured."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.practice.course import ThresholdCourse
from verve.app.practice.prepared import Needs, Prepared, give_keys
from verve.app.rendered import Rendered
from verve.app.widgets.buttons import push
from verve.app.widgets.labels import caption, card, small_heading, text
from verve.app.widgets.table import Table
from verve.core.ear import (
    CAUTION,
    DRILLS,
    LETTERS,
    RATE_HZ,
    Drill,
    Example,
    Session,
    picture_for,
    result_text,
    value_text,
)

_FIRST = "Choose a drill, and press Begin, or N."


class EarPage(QWidget):
    """The drills on the left, the one under way on the right."""

    def __init__(self, needs: Needs) -> None:
        super().__init__()
        self._needs = needs
        self.session: Session | None = None
        self.example: Example | None = None
        self._heard = 0
        self._rendered = Rendered("ear sound", needs.tasks, needs.find_player)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(14)
        self.drills = Table(("Drill", "you, last"), "Listening drills", empty="", numbers=(1,))
        self.drills.setToolTip("Return begins the drill")
        self.drills.setMaximumWidth(theme.px(380))
        outer.addWidget(self.drills, 2)
        right = QVBoxLayout()
        right.setSpacing(8)
        outer.addLayout(right, 3)
        right.addLayout(self._make_top())
        frame, inside = card()
        self.sign = text(_FIRST)
        self.sign.setFont(theme.words(15.0))
        self.below = caption(CAUTION, wrap=True)
        inside.addWidget(self.sign)
        inside.addWidget(self.below)
        right.addWidget(frame)
        right.addLayout(self._make_answers())
        self.pictures_name = small_heading("In words: what is measured of both")
        self.pictures = Table(
            ("", "A", "B"), "What is measured of both", empty="Both examples in words will stand here.",
            stretched=(0, 1, 2),
        )  # fmt: skip
        right.addWidget(self.pictures_name)
        right.addWidget(self.pictures, 1)
        self.course_name = small_heading("Your results over time")
        self.course = ThresholdCourse()
        right.addWidget(self.course_name)
        right.addWidget(self.course, 1)
        self._connect()
        self._draw_drills()
        self.drills.setCurrentCell(self._first_due(), 0)
        self._draw()

    def _make_top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.begin = push(
            "Begin", "Begins the drill that is selected. Key: N", self.start, strong=True
        )
        self.in_words = QCheckBox("In words")
        self.in_words.setToolTip(
            "Shows what is measured of both examples, so that it can be read without hearing it. Key: W"
        )
        self.count = caption()
        row.addWidget(self.begin)
        row.addWidget(self.in_words)
        row.addStretch(1)
        row.addWidget(self.count)
        return row

    def _make_answers(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.hear, self.say = [], []
        for place, letter in enumerate(LETTERS):
            self.hear.append(
                push(
                    f"Hear {letter}",
                    f"Plays {letter}; both are equally loud. Key: {letter}",
                    partial(self.play, place),
                )
            )
            self.say.append(
                push(
                    f"It is {letter}",
                    f"Says that it is {letter}. Key: {place + 1}",
                    partial(self.answer, place),
                )
            )
        for button in (*self.hear, *self.say):
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _connect(self) -> None:
        self.drills.asked.connect(lambda _: self.start())
        self.drills.currentCellChanged.connect(lambda *_: self._draw())
        self.in_words.toggled.connect(lambda _: self._draw())
        self._needs.practising.changed.connect(self._draw_drills)
        give_keys(
            self,
            {
                "N": self.start,
                "W": self.in_words.toggle,
                "A": lambda: self.play(0),
                "B": lambda: self.play(1),
                "1": lambda: self.answer(0),
                "2": lambda: self.answer(1),
            },
        )

    def _first_due(self) -> int:
        """The drill that has waited longest to come back; the first one where none has."""
        from verve.core.learning import due

        keys = [f"ear:{key}" for key in DRILLS]
        waiting = due(self._needs.practising.progress, self._needs.now, keys)
        return keys.index(waiting[0]) if waiting else 0

    def show_prepared(self, found: Prepared | None, line: str) -> None:
        """The examples are the same for every session."""

    def refresh(self) -> None:
        """Draw it as it is now."""
        self._draw_drills()
        self._draw()

    def focus_first(self) -> None:
        """To the drills."""
        self.drills.setFocus()

    def choose(self, key: str) -> None:
        """Select a drill."""
        self.drills.setCurrentCell(list(DRILLS).index(key), 0)

    @property
    def drill(self) -> Drill:
        """The drill that is selected."""
        return list(DRILLS.values())[max(0, self.drills.currentRow())]

    # ── the drill ─────────────────────────────────────────────────────────────────────────────
    def start(self) -> None:
        """The first example of the drill that is selected."""
        last = self._last(self.drill.key)
        self.session = Session.of(self.drill.key, self._needs.seed(), last)
        self._next()
        self.say[0].setFocus()

    def _next(self) -> None:
        """Make the next example beside the window."""
        session = self.session
        assert session is not None
        self.example = None
        self._draw()

        def done(found: tuple[Example, tuple[object, ...]]) -> None:
            if self.session is session:
                self.example, self._pictures = found
                self._draw()

        def work(_: object, __: object) -> object:
            example = session.example()
            return example, tuple(picture_for(session.drill, sound) for sound in example.sounds)

        self._needs.tasks.run("ear example", work, done, failed=self._needs.say)

    _pictures: tuple[object, ...] = ()

    def play(self, place: int) -> None:
        """Hear one of the two in the place of the other; once more is silence."""
        example = self.example
        was_heard = self._rendered.stopped() and self._heard == place
        if example is None or was_heard:
            return
        self._heard = place

        def write(path: Path, _: object) -> object:
            import soundfile

            soundfile.write(str(path), example.sounds[place].T, RATE_HZ, subtype="FLOAT")
            return None

        self._rendered.play(write, RATE_HZ, self._needs.say)

    def answer(self, place: int) -> None:
        """Say which one it is."""
        if self.session is None or self.example is None or self.session.is_over:
            return
        self._rendered.stopped()
        self.session = self.session.answered(place, self.example.odd)
        if self.session.is_over:
            self._finish(self.session)
            return
        self._next()

    def _finish(self, session: Session) -> None:
        found, drill = session.stairs.threshold, session.drill
        self.example = None
        if found is not None:
            from verve.core.learning import with_threshold

            at = self._needs.now.isoformat(timespec="seconds")
            self._needs.practising.change(lambda old: with_threshold(old, drill.key, at, found))
            self._needs.practising.reviewed(f"ear:{drill.key}", session.grade)
        self._draw()
        self.begin.setFocus()

    def _last(self, key: str) -> float | None:
        results = [
            one.value for one in self._needs.practising.progress.thresholds if one.drill == key
        ]
        return results[-1] if results else None

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def _draw_drills(self) -> None:
        rows = []
        for one in DRILLS.values():
            last = self._last(one.key)
            rows.append((one.name, "" if last is None else value_text(one, last)))
        self.drills.show_rows(rows)

    def _draw(self) -> None:
        session, is_on = self.session, self.example is not None
        for button in (*self.hear, *self.say):
            button.setEnabled(is_on)
        drill = self.drill if session is None else session.drill
        if session is None:
            self.sign.setText(_FIRST)
            self.below.setText(CAUTION)
            self.count.setText("")
        elif session.is_over:
            self.sign.setText(result_text(session))
            self.below.setText(session.says)
            self.count.setText(f"{len(session.stairs.answers)} answers")
        else:
            self.sign.setText(drill.question)
            self.below.setText(session.says or f"{CAUTION} Without sound: In words, or W.")
            value = value_text(drill, session.stairs.value)
            self.count.setText(f"{len(session.stairs.answers) + 1}: {value}")
        shows = self.in_words.isChecked() and is_on
        for widget in (self.pictures_name, self.pictures):
            widget.setVisible(shows)
        if shows:
            first, second = self._pictures
            self.pictures.show_rows(
                [(row, a, b) for (row, a), (_, b) in zip(first, second, strict=True)]  # type: ignore[call-overload]
            )
        course = [
            one for one in self._needs.practising.progress.thresholds if one.drill == drill.key
        ]
        self.course.show_results(drill, course)
        self.course.setVisible(bool(course))
        self.course_name.setVisible(bool(course))
