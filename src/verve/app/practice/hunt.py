"""Find the fault: what is seen from the stool, what one can do, what it could be; at the end the quickest search."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.practice.prepared import Needs, Prepared, give_keys, span_short
from verve.app.rendered import Rendered
from verve.app.widgets.buttons import push
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, card, small_heading, text
from verve.app.widgets.table import Table
from verve.core.hunt import CAUTION, Action, Debrief, Hunt, debrief, grade_of, how_many, hunt_of

_LISTENS = {"live": "live", "back": "back", "pause": "pause"}
_EMPTY = "Press Hide a fault, or N: something will be wrong with this signal, in the copy only."


class HuntEnd(QWidget):
    """What is told at the end: the take as it would have been, and the quickest search beside one's own."""

    def __init__(self, play: Callable[[], None]) -> None:
        super().__init__()
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        self.quickest_name = small_heading()
        self.quickest = Table(
            ("The quickest search", "takes", "What it shows", "left"), "The quickest search",
            empty="What one sees at once tells it.", numbers=(1, 3), stretched=(0, 2), wraps=True,
        )  # fmt: skip
        self.own = Table(
            ("Your search", "took", "What it showed"), "Your search",
            empty="You have looked at nothing.", numbers=(1,), stretched=(0, 2), wraps=True,
        )  # fmt: skip
        row = QHBoxLayout()
        self.take = text()
        self.hear = push(
            "Hear the take",
            "Five seconds of the take as it would have been. Turn your headphones down first. Key: P",
            play,
        )
        row.addWidget(self.take, 1)
        row.addWidget(self.hear)
        outer.addLayout(row)
        outer.addWidget(self.quickest_name)
        beside = QHBoxLayout()
        beside.setSpacing(12)
        beside.addWidget(self.quickest, 1)
        beside.addWidget(self.own, 1)
        outer.addLayout(beside, 1)

    def show_end(self, told: Debrief, seen: Sequence[tuple[str, str, str]]) -> None:
        """Draw what is told, and one's own steps."""
        self.take.setText(f"The take as it would have been. {told.take}")
        about = "" if told.is_exact else "about "
        self.quickest_name.setText(
            f"The quickest search takes {about}{span_short(told.expected_s)} on average from such signs, "
            f"{span_short(told.quickest_s)} for this one; yours took {span_short(told.looked_s)}."
        )
        self.quickest.show_rows(
            [(one.text, span_short(one.seconds), one.says, str(one.left)) for one in told.quickest]
        )
        self.own.show_rows(seen)


class HuntPage(QWidget):
    """One hunt after the other, on one signal."""

    def __init__(self, needs: Needs) -> None:
        super().__init__()
        self._needs = needs
        self._prepared: Prepared | None = None
        self._line = ""
        self.hunt: Hunt | None = None
        self.told: Debrief | None = None
        self._rendered = Rendered("hunt sound", needs.tasks, needs.find_player)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(8)
        outer.addLayout(self._make_top())
        frame, inside = card()
        self.sign = text(_EMPTY)
        self.sign.setFont(theme.words(15.0))
        self.below = caption(wrap=True)
        inside.addWidget(self.sign)
        inside.addWidget(self.below)
        outer.addWidget(frame)
        outer.addWidget(self._make_search(), 3)
        self._seen_name = small_heading("What you have done")
        outer.addWidget(self._seen_name)
        self.seen = Table(
            ("What you did", "took", "What it showed"), "What you have done",
            empty="Nothing yet: look, listen, swap or switch above.", numbers=(1,), stretched=(2,), wraps=True,
        )  # fmt: skip
        outer.addWidget(self.seen, 2)
        self._outer = outer
        self.ending: HuntEnd | None = None
        self._connect()
        self._draw()

    def _make_top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.count = Choice()
        self.count.show_entries(
            (("One fault, later two", "0"), ("One fault", "1"), ("Two faults", "2"))
        )
        self.count.setAccessibleName("How many faults")
        self.count.setToolTip(
            "Two at once come when three in a row were found well: mending one changes what shows"
        )
        self.begin = push(
            "Hide a fault",
            "Hides something that musicians really do wrong, in a copy: your session stays as it is. Key: N",
            self.hide_one,
            strong=True,
        )
        self.give_up = push("Tell me", "Ends this hunt and tells what it was. Key: G", self.end)
        self.with_sound = QCheckBox("With sound")
        self.with_sound.setToolTip(
            "What you listen to is played as well. Turn your headphones down first: some faults are loud. Key: S"
        )
        self.clock = caption()
        for widget in (self.count, self.begin, self.give_up, self.with_sound):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.clock)
        return row

    def _make_search(self) -> QWidget:
        self.search = QWidget()
        row = QHBoxLayout(self.search)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(12)
        self.deeds = Table(
            ("What you can do", "takes"), "What you can do", empty=_EMPTY, numbers=(1,),
        )  # fmt: skip
        self.names = Table(
            ("It is …", "to mend"), "What it could be", empty="All that it could be will stand here.", numbers=(1,)
        )  # fmt: skip
        self.deeds.setToolTip("Return does it; it costs the time that it takes in a room")
        self.names.setToolTip(
            "Return says that this is it, and mends it; if it is not, the time is gone all the same"
        )
        for table, share in ((self.deeds, 1), (self.names, 1)):
            row.addWidget(table, share)
        return self.search

    def _connect(self) -> None:
        self.with_sound.toggled.connect(self._be_silent)
        self.deeds.asked.connect(self._do)
        self.names.asked.connect(self._name)
        give_keys(
            self,
            {"N": self.hide_one, "G": self.end, "P": self.play_take, "S": self.with_sound.toggle},
        )

    # ── what the window tells ─────────────────────────────────────────────────────────────────
    def show_prepared(self, found: Prepared | None, line: str) -> None:
        """Another copy, or another signal: what was hidden is gone."""
        self._prepared, self._line = found, line
        self.hunt = self.told = None
        self._draw()

    def refresh(self) -> None:
        """Draw it as it is now."""
        self._draw()

    def focus_first(self) -> None:
        """To what is pressed next."""
        (self.deeds if self.hunt is not None and self.told is None else self.begin).setFocus()

    # ── the hunt ──────────────────────────────────────────────────────────────────────────────
    def hide_one(self) -> None:
        """A new hunt: what is due comes first, what is known goes."""
        case = None if self._prepared is None else self._prepared.case(self._line)
        if case is None:
            return
        from verve.core.learning import due, known

        progress, now = self._needs.practising.progress, self._needs.now
        mine = [f"fault:{one.kind}" for one in case.faults]
        wanted = [key.removeprefix("fault:") for key in due(progress, now, mine)]
        gone = [key.removeprefix("fault:") for key in known(progress, now)]
        seed = self._needs.seed()
        past = [one.grade for one in progress.reviews if one.key.startswith("fault:")]
        count = int(self.count.currentData() or "0") or how_many(past)

        def done(found: Hunt) -> None:
            self.hunt, self.told = found, None
            self._draw()
            self.deeds.setCurrentCell(0, 0)
            self.deeds.setFocus()

        # Two that show beside each other are looked for among all pairs.
        self._needs.tasks.run(
            "hide", lambda _, __: hunt_of(case, seed, count, wanted[:1], gone), done,
            failed=self._needs.say,
        )  # fmt: skip

    def _do(self, row: int) -> None:
        if self.hunt is None or self.hunt.is_over:
            return
        action = self.hunt.actions[row]
        self.hunt = self.hunt.do(action.key)
        self._sound(action)
        self._draw()

    def _name(self, row: int) -> None:
        if self.hunt is None or self.hunt.is_over:
            return
        self.hunt = self.hunt.name(self.hunt.names()[row])
        self._draw()
        if self.hunt.is_over:
            self._tell()

    def end(self) -> None:
        """Be told what it was."""
        if self.hunt is None or self.hunt.is_over:
            return
        self.hunt = self.hunt.give_up()
        self._tell()

    def _tell(self) -> None:
        hunt = self.hunt
        assert hunt is not None
        self.sign.setText("Working out the quickest search …")

        def done(found: Debrief) -> None:
            if self.hunt is hunt:
                self.told = found
                for one in found.faults:
                    self._needs.practising.reviewed(
                        f"fault:{one.kind}", grade_of(found), found.looked_s
                    )
                self._draw()
                self.begin.setFocus()

        self._needs.tasks.run("debrief", lambda _, __: debrief(hunt), done, failed=self._needs.say)

    # ── sound ─────────────────────────────────────────────────────────────────────────────────
    def _sound(self, action: Action) -> None:
        if self.with_sound.isChecked() and action.key in _LISTENS:
            self._play(action.key)

    def _be_silent(self, is_on: bool) -> None:
        """Without sound what is heard just now ends as well."""
        if not is_on:
            self._rendered.stopped()

    def play_take(self) -> None:
        """What would be on the recording."""
        if self.told is not None and not self._rendered.stopped():
            self._play("back")

    def _play(self, moment: str) -> None:
        hunt = self.hunt
        if hunt is None:
            return
        world = hunt.case.world(hunt.hidden) if self.told is not None else hunt.world

        def write(path: Path, goes_on: object) -> object:
            from verve.devices import write_hunted

            return write_hunted(path, world, moment, goes_on)  # type: ignore[arg-type]

        rate_hz = hunt.case.session.setup.audio.sample_rate_hz
        self._rendered.play(write, rate_hz, self._needs.say)

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def _draw(self) -> None:
        hunt, told = self.hunt, self.told
        has_case = self._prepared is not None and self._prepared.case(self._line) is not None
        self.begin.setEnabled(has_case)
        self.begin.setText("Hide a fault" if hunt is None else "Hide another one")
        self.give_up.setVisible(hunt is not None and told is None)
        self.search.setVisible(told is None)
        if self.ending is not None:
            self.ending.setVisible(told is not None)
        self.clock.setText("" if hunt is None else f"{span_short(hunt.spent_s)} gone")
        for widget in (self._seen_name, self.seen):
            widget.setVisible(told is None)
        if hunt is None:
            self.sign.setText(_EMPTY)
            self.below.setText(CAUTION)
            self.deeds.show_rows(())
            self.names.show_rows(())
            self.seen.show_rows(())
            return
        seen = [(one.text, span_short(one.seconds), one.says) for one in hunt.steps]
        self.seen.show_rows(seen)
        self.seen.scrollToBottom()
        if told is not None:
            self._draw_end(told, seen)
            return
        self.sign.setText(f"You play {hunt.case.name}. {hunt.at_once}")
        last = hunt.steps[-1] if hunt.steps else None
        self.below.setText(
            "Look, listen, swap or switch; then say what it is. What the sheet says stands beside what you see."
            if last is None
            else f"{last.text}. {last.says}"
        )
        self.deeds.show_rows([(one.text, span_short(one.seconds)) for one in hunt.actions])
        mend = {one.title: one.mend_s for one in hunt.case.faults}
        self.names.show_rows([(name, span_short(mend[name])) for name in hunt.names()])

    def _draw_end(self, told: Debrief, seen: Sequence[tuple[str, str, str]]) -> None:
        self.sign.setText(" ".join(f"{one.title}." for one in told.faults))
        costs = " ".join(one.costs for one in told.faults)
        self.below.setText(f"{costs} It showed so: {told.showed}")
        if self.ending is None:
            # Made when there is something to be told: the window opens the quicker.
            self.ending = HuntEnd(self.play_take)
            self._outer.addWidget(self.ending, 4)
        self.ending.show()
        self.ending.show_end(told, seen)
