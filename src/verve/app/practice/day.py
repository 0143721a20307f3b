"""The day against the clock: as times, then played through, with what goes wrong as often as one wants."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.paper import put_on_paper
from verve.app.practice.prepared import Needs, Prepared, give_keys
from verve.app.widgets.buttons import push
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, card, scrolling_rest, small_heading, text
from verve.app.widgets.number import NumberField
from verve.app.widgets.table import Table
from verve.core.clock import (
    Day,
    DayRun,
    Pace,
    choices,
    clock_text,
    day_clock_csv,
    day_clock_html,
    day_of,
    expected_changes_s,
    learnt_from,
    parse_clock,
    span_text,
)
from verve.core.errors import InputError
from verve.core.kind import FrozenDict
from verve.core.learning import DayTimes, changed_day, learnt_of
from verve.core.session import Session, listeners

_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"
_INCIDENTS = (
    ("nothing goes wrong", "0"),
    ("little goes wrong", "0.5"),
    ("much goes wrong", "1.5"),
    ("all goes wrong", "4"),
)


class DayPage(QWidget):
    """The times of the day, where it is tight, and the run through it."""

    def __init__(self, needs: Needs) -> None:
        super().__init__()
        self._needs = needs
        self._session: Session | None = None
        self.day: Day | None = None
        self.run: DayRun | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(8)
        outer.addLayout(self._make_fields())
        frame, inside = card()
        self.sign = text("")
        self.sign.setFont(theme.words(15.0))
        inside.addWidget(self.sign)
        buttons = QHBoxLayout()
        self.forward = push("Next", "Goes on to what comes next", self.go_on, strong=True)
        self.first = push(
            "", "Takes its time, and keeps all takes. Key: 1", lambda: self.decide(now=True)
        )
        self.second = push(
            "", "Costs no time now, but a take. Key: 2", lambda: self.decide(now=False)
        )
        for button in (self.forward, self.first, self.second):
            buttons.addWidget(button)
        buttons.addStretch(1)
        inside.addLayout(buttons)
        outer.addWidget(frame)
        row = QHBoxLayout()
        row.setSpacing(12)
        self.times = Table(
            ("from", "to", "What", "takes"), "The day",
            empty="Say in Brief who plays what, and in which layer: the day follows from that.",
            numbers=(0, 1, 3), stretched=(2,),
        )  # fmt: skip
        row.addWidget(self.times, 3)
        row.addWidget(self._make_side(), 2)
        outer.addLayout(row, 1)
        give_keys(
            self,
            {
                "1": lambda: self.decide(now=True),
                "2": lambda: self.decide(now=False),
                "N": self.play_through,
            },
        )

    def _make_fields(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.begin, self.end = QLineEdit(), QLineEdit()
        for field, name, says in (
            (self.begin, "Begins", "When the first of you can be in the room, as 9:30"),
            (self.end, "Ends", "When the room has to be left, as 18:00"),
        ):
            field.setAccessibleName(name)
            field.setToolTip(says)
            field.setFont(theme.numbers(10.0))
            field.setMaximumWidth(theme.px(70))
            field.editingFinished.connect(self._typed)
            row.addWidget(caption_of(field, name))
            row.addWidget(field)
        self.takes = NumberField("Takes of each section", "", low=1, high=50)
        self.takes.setMaximumWidth(theme.px(50))
        self.takes.editingFinished.connect(self._typed)
        row.addWidget(caption_of(self.takes, "Takes of each"))
        row.addWidget(self.takes)
        self.incidents = Choice()
        self.incidents.show_entries(_INCIDENTS)
        self.incidents.setAccessibleName("How much goes wrong")
        self.incidents.setToolTip("Of such a day; drawn anew each time it is played through")
        self.incidents.activated.connect(lambda _: self._typed())
        row.addWidget(self.incidents)
        self.play = push(
            "Play it through",
            "The day from its beginning, against the clock. Key: N",
            self.play_through,
        )
        self.print = push(
            "Print or export…",
            "A sheet for the wall, with a box to tick for each time",
            self.export,
        )
        row.addWidget(self.play)
        row.addStretch(1)
        row.addWidget(self.print)
        return row

    def _make_side(self) -> QWidget:
        side = QWidget()
        outer = QVBoxLayout(side)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(small_heading("Who comes when"))
        self.arrivals = Table(
            ("Who", "comes at"), "Who comes when", empty="Nobody plays yet.", numbers=(1,), writable=(1,)
        )  # fmt: skip
        self.arrivals.setToolTip("Write when somebody comes, as 11:30; empty is from the beginning")
        self.arrivals.setMaximumHeight(theme.px(190))
        self.arrivals.written.connect(self._arrives)
        outer.addWidget(self.arrivals)
        self.told = text()
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        holder = QWidget()
        inside = QVBoxLayout(holder)
        inside.setContentsMargins(0, 4, 0, 0)
        inside.addWidget(self.told)
        self.note = caption(wrap=True)
        inside.addWidget(self.note)
        inside.addStretch(1)
        outer.addWidget(scrolling_rest(holder), 1)
        return side

    # ── the plan ──────────────────────────────────────────────────────────────────────────────
    def show_session(self, session: Session) -> None:
        """The day of a session, as it is: nothing has to be right in it."""
        self._session, self.run = session, None
        self._learn()
        self._plan()

    def show_prepared(self, found: Prepared | None, line: str) -> None:
        """The day is that of the session itself."""

    def refresh(self) -> None:
        """Draw it as it is now."""
        self._draw()

    def focus_first(self) -> None:
        """To what is pressed next."""
        (self.forward if self.run is not None else self.play).setFocus()

    @property
    def day_times(self) -> DayTimes:
        """When it begins and ends, and who comes when."""
        title = "" if self._session is None else self._session.title
        return self._needs.practising.progress.days.get(title, DayTimes())

    def _learn(self) -> None:
        """What the takes of this session show of its times is kept for all days."""
        session = self._session
        if session is None or len(session.takes) < 2:
            return
        from verve.core.learning import with_learnt

        found = learnt_from(session, expected_changes_s(session))
        self._needs.practising.change(lambda old: with_learnt(old, session.title, found))

    def keep(self, **changes: object) -> None:
        """Other times of the day, kept with the person."""
        session = self._session
        if session is None:
            return
        from verve.core.learning import with_day

        try:
            day = changed_day(self.day_times, changes)
        except InputError as error:
            self._needs.say(str(error))
            self._draw()
            return
        self._needs.practising.change(lambda old: with_day(old, session.title, day))
        self.run = None
        self._plan()

    def _typed(self) -> None:
        try:
            changes: dict[str, object] = {
                "begin_h": parse_clock(self.begin.text()),
                "end_h": parse_clock(self.end.text()),
                "takes": int(self.takes.number() or 1),
                "incidents_per_h": float(self.incidents.currentData() or 0.0),
            }
        except InputError as error:
            self._needs.say(str(error))
            self._draw()
            return
        self.keep(**changes)

    def _arrives(self, row: int, _: int, words: str) -> None:
        item = self.arrivals.item(row, 0)
        if item is None:
            return
        arrivals = dict(self.day_times.arrivals_h)
        arrivals.pop(item.text(), None)
        if words.strip():
            try:
                arrivals[item.text()] = parse_clock(words)
            except InputError as error:
                self._needs.say(str(error))
        self.keep(arrivals_h=FrozenDict(arrivals))

    def _plan(self) -> None:
        session = self._session
        if session is None:
            return
        times, learnt = self.day_times, learnt_of(self._needs.practising.progress)

        def done(found: Day) -> None:
            self.day = found
            self._draw()

        self._needs.tasks.run(
            "day", lambda _, __: day_of(session, times, Pace(learnt)), done, failed=self._needs.say
        )

    # ── playing it through ────────────────────────────────────────────────────────────────────
    def play_through(self) -> None:
        """From the beginning."""
        if self.day is None or not self.day.events:
            return
        self.run = DayRun.of(self.day, self.day_times.incidents_per_h, self._needs.seed())
        self._draw()
        self.forward.setFocus()

    def go_on(self) -> None:
        """To what comes next."""
        if self.run is not None and self.run.pending is None and not self.run.is_over:
            self.run = self.run.forward()
            self._draw()

    def decide(self, *, now: bool) -> None:
        """About what has gone wrong."""
        if self.run is not None and self.run.pending is not None:
            self.run = self.run.decide(now=now)
            self._draw()
            self.forward.setFocus()

    def export(self) -> None:
        """Ask where the sheet goes, and write it."""
        day = self.day
        if day is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Print or export the times of the day", "day.pdf", _FILES
        )
        if name:
            put_on_paper(
                self._needs.tasks, Path(name), html=lambda: day_clock_html(day), csv=lambda: day_clock_csv(day),
                failed=self._needs.say,
            )  # fmt: skip

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def _draw(self) -> None:
        times, day, run = self.day_times, self.day, self.run
        for field, hours in ((self.begin, times.begin_h), (self.end, times.end_h)):
            if not field.hasFocus() or not field.isModified():
                field.setText(clock_text(hours * 3600.0))
        self.takes.show_number(times.takes)
        self.incidents.setCurrentIndex(
            max(0, self.incidents.findData(f"{times.incidents_per_h:g}"))
        )
        self._draw_arrivals(times)
        self.play.setText("From the beginning" if run is not None else "Play it through")
        self.forward.setVisible(run is not None and run.pending is None and not run.is_over)
        said = () if run is None or run.pending is None else choices(run.pending)
        for button, number in ((self.first, 0), (self.second, 1)):
            button.setVisible(len(said) > number)
            button.setText(said[number] if len(said) > number else "")
        if day is None:
            return
        self.note.setText(day.note)
        if run is None:
            self._draw_plan(day)
        else:
            self._draw_run(run)

    def _draw_arrivals(self, times: DayTimes) -> None:
        session = self._session
        if session is None:
            return
        names = dict.fromkeys(name for _, name in listeners(session.setup))
        names |= dict.fromkeys(one.performer for one in session.brief.parts if one.performer)
        self.arrivals.show_rows(
            [
                (who, clock_text(times.arrivals_h[who] * 3600.0) if who in times.arrivals_h else "")
                for who in names
            ]
        )

    def _draw_plan(self, day: Day) -> None:
        self.sign.setText(day.findings[0] if day.events else "There is nothing to be played yet.")
        self.times.show_rows(
            [
                (clock_text(one.start_s), clock_text(one.end_s), one.title + (" •" if one.is_learnt else ""),
                 span_text(one.seconds) if one.seconds else "")
                for one in day.events
            ]
        )  # fmt: skip
        parts = [
            ("Where it is tight", day.findings[1:]), ("The evening before", day.prepare),
            ("What costs most", day.costliest),
        ]  # fmt: skip
        self.told.setText(
            "\n\n".join(
                "\n".join((name, *(f"–  {one}" for one in found))) for name, found in parts if found
            )
        )

    def _draw_run(self, run: DayRun) -> None:
        rows = []
        for one in run.played:
            wrong = (
                f"; {one.incident.title[:1].lower()}{one.incident.title[1:]}"
                if one.incident
                else ""
            )
            what = (
                f"{one.event.title}: left out" if one.is_left_out else f"{one.event.title}{wrong}"
            )
            length = one.end_s - one.start_s
            rows.append(
                (
                    clock_text(one.start_s),
                    clock_text(one.end_s),
                    what,
                    span_text(length) if length else "",
                )
            )
        coming = run.day.events[run.at :]
        rows += [(clock_text(one.start_s + run.late_s), "", one.title, "") for one in coming]
        self.times.show_rows(rows)
        self.times.setCurrentCell(min(len(run.played), len(rows) - 1), 0)
        now = clock_text(run.now_s)
        if run.pending is not None:
            self.sign.setText(f"{now}. {run.pending.title}. What now?")
        elif run.is_over:
            self.sign.setText(" ".join(run.says()[:2]))
        else:
            self.sign.setText(f"{now}. Next: {run.day.events[run.at].title}.")
        self.told.setText("\n".join(run.says()[2:]) if run.is_over else "")
