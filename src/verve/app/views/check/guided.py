"""The guided check: sound comes in, and one word and one number tell from far away what to do and how it was."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.checking import Checking
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.check.knob import KnobRow
from verve.app.views.check.sound_from import SoundFrom
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.far_sign import FarSign
from verve.app.widgets.labels import Lines, card
from verve.app.widgets.table import Table
from verve.core.check import (
    Answer,
    Guide,
    Proof,
    Silence,
    channels_after,
    words,
)
from verve.core.session import Change, Session, apply_changes, set_playing
from verve.core.sheets import SignText, check_facts, check_rows, sign_of, who_sign
from verve.core.words import fill

if TYPE_CHECKING:
    from verve.core.check import Who
    from verve.devices import CheckState

_HEAD = ("Signal", "Verdict", "Input", "Noise A", "Loudest", "Target")
_IDLE = SignText(
    word="Check",
    number="",
    says="Start, then put both hands on the instrument: it listens to the silence first, then to whoever plays, and "
    "says what to turn. No key is needed between players.",
    shape="ring",
)
_NOBODY = SignText(
    word="No signal yet",
    number="",
    says="Add a signal, or let Patch suggest connections: what arrives at an interface can be checked here.",
    shape="ring",
)


class GuidedPage(QWidget):
    """Chooses where sound comes from, shows the sign, and keeps what was found."""

    trouble_wanted = pyqtSignal()
    """Nothing arrives on the selected signal: find out why."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document = document
        self.checking = Checking(tasks)
        self._guide: Guide | None = None
        self._silences: dict[str, Silence] = {}
        self._answers: dict[str, Answer] = {}
        self._proofs: dict[str, Proof] = {}
        self._pending: tuple[Change, ...] = ()
        self._variation = 0
        self._told_setup: object = None
        self._number = document.number
        self._found: dict[str, int] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        outer.addWidget(self._make_controls())
        frame, layout = card()
        layout.setContentsMargins(8, 6, 8, 8)
        self.sign = FarSign()
        layout.addWidget(self.sign, 1)
        outer.addWidget(frame, 12)
        outer.addLayout(self._make_deeds())
        self.reason = Lines(2)
        outer.addWidget(self.reason)
        self.table = Table(
            _HEAD,
            "Signals of the check",
            empty="Signals that arrive at the interface are listed here, with what the check has found.",
            numbers=(3, 4, 5),
            stretched=(0, 1),
        )
        self.table.setMinimumHeight(theme.px(88))
        outer.addWidget(self.table, 5)
        # ── connections ──
        self.start_button.clicked.connect(self.start_or_stop)
        self.who_button.clicked.connect(self.begin_who)
        self.trouble_button.clicked.connect(self.trouble_wanted.emit)
        self.sound.chosen.connect(self._on_chosen)
        self.turned_button.clicked.connect(self.turned)
        self.again_button.clicked.connect(lambda: self._post("again"))
        self.skip_button.clicked.connect(lambda: self._post("skip"))
        self.use_button.clicked.connect(self._use_found)
        self.table.asked.connect(self._choose_row)
        self.checking.reported.connect(self._on_reported)
        self.checking.asked.connect(self._on_asked)
        self.checking.proved.connect(self._on_proved)
        self.checking.state_changed.connect(self._show_state)
        self.checking.told.connect(document.refused.emit)
        for keys, deed in (("Return", self.turned), ("Space", self._go_on)):
            shortcut = QShortcut(QKeySequence(keys), self.sign)
            shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
            shortcut.activated.connect(deed)
        self.sign.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def _make_controls(self) -> QWidget:
        self.start_button = QPushButton("Start the check")
        self.start_button.setProperty("strong", "true")
        self.start_button.setToolTip(
            "Silence first, then whoever plays; gains are told, never moved by themselves"
        )
        self.who_button = QPushButton("Who is it?")
        self.who_button.setToolTip(
            "Asks for one signal after the other, and says on which input each arrives"
        )
        self.trouble_button = QPushButton("No signal?")
        self.trouble_button.setToolTip(
            "Finds out where the selected signal is lost, question by question. Shortcut: F9"
        )
        self.sound = SoundFrom(self._document, self.checking)
        first = group(self.start_button, self.who_button, self.trouble_button)
        return Beside(first, self.sound)

    def _make_deeds(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.turned_button = QPushButton("Turned as told")
        self.turned_button.setProperty("strong", "true")
        self.turned_button.setToolTip(
            "Keeps in the session what you have turned, and listens once more. Shortcut: Enter on the sign"
        )
        self.again_button = QPushButton("Once more")
        self.again_button.setToolTip("The same player again, from the easy phrase on")
        self.skip_button = QPushButton("Go on")
        self.skip_button.setToolTip(
            "Takes what was heard until now, or leaves this player out. Shortcut: Space on the sign"
        )
        self.use_button = QPushButton("Use the inputs as found")
        self.use_button.setToolTip(
            "Listens to every signal on the input where it arrives; the patch stays as it is"
        )
        for button in (self.turned_button, self.again_button, self.skip_button, self.use_button):
            row.addWidget(button)
        row.addStretch(1)
        self.knob = KnobRow(self._document)
        row.addWidget(self.knob)
        return row

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        if self._number != self._document.number:
            self._number = self._document.number
            self.forget()
        self.sound.refresh()
        self._follow_session()
        self._show_rows()
        self._show_state()

    def forget(self) -> None:
        """Another session: nothing of it has been checked."""
        self.checking.stop()
        self._guide = None
        self._silences, self._answers, self._proofs = {}, {}, {}
        self.sound.inputs_found = {}
        self._pending = ()

    def _show_rows(self) -> None:
        rows = check_rows(
            self._document.assessment,
            self.sound.lines(),
            self._silences,
            self._answers,
            self._proofs,
            self.sound.inputs(),
        )
        self.table.show_rows(rows)
        item, lines = self._document.line, self.sound.lines()
        if item is not None and item.line.id in lines and self.table.rowCount():
            with QSignalBlocker(self.table):
                self.table.setCurrentCell(lines.index(item.line.id), 0)

    def _show_state(self) -> None:
        doing = self.checking.doing
        is_on, has_lines = doing != "nothing", bool(self.sound.lines())
        self.start_button.setText("Stop" if is_on else "Start the check")
        self.start_button.setEnabled(is_on or has_lines)
        self.who_button.setEnabled(not is_on and has_lines)
        self.trouble_button.setEnabled(self._document.line is not None)
        self.sound.setEnabled(not is_on)
        self.turned_button.setVisible(bool(self._pending))
        guide = self._guide
        self.again_button.setVisible(
            doing == "check" and guide is not None and guide.group is not None
        )
        self.skip_button.setVisible(is_on)
        found = [one for one in self._proofs.values() if one.found in {"swapped", "elsewhere"}]
        self.knob.refresh()
        self.use_button.setVisible(not is_on and bool(found) and self.sound.device() is not None)
        if not is_on and self._guide is None and not self._proofs:
            self.sign.show_sign(_IDLE if has_lines else _NOBODY)
            self.reason.setText("")

    def _show_guide(self, deeds: str) -> None:
        guide = self._guide
        if guide is None:
            return
        assessment = self._document.assessment
        sign = sign_of(assessment, guide, self._answers, deeds)
        own = guide.selected
        levels = [guide.level_dbfs[n] for n in own if n < len(guide.level_dbfs)]
        held = [guide.held_dbfs[n] for n in own if n < len(guide.held_dbfs)]
        item = assessment.line(guide.signals[own[0]].line) if own else None
        self.sign.show_sign(sign, levels, held, None if item is None else item.target)
        answer = self._answers.get(item.line.id) if item is not None else None
        is_told = answer is not None and guide.phase == "done"
        self.reason.setText(answer.reason if is_told and answer is not None else "")

    # ── what is reported ──────────────────────────────────────────────────────────────────────
    def _on_reported(self, state: CheckState) -> None:
        before, self._guide = self._guide, state.guide
        self._silences, self._answers = dict(state.silences), dict(state.answers)
        if state.took:
            self._take_over(state.took)
        if state.known is not None:
            self._learn(state.known)
        is_new = before is None or (before.phase, before.group) != (
            state.guide.phase, state.guide.group,
        )  # fmt: skip
        self._pending = self._changes_of(state)
        if is_new:
            self._select(state.guide)
            self._show_rows()
            self._show_state()
        self._show_guide(state.deeds)

    def _changes_of(self, state: CheckState) -> tuple[Change, ...]:
        """What the session would keep if somebody has turned as they were told."""
        if state.guide.phase == "turn":
            return state.changes
        if state.guide.phase != "done":
            return ()
        own = [state.guide.signals[n].line for n in state.guide.selected]
        found = {
            (change.owner, change.channel, change.name): change
            for line in own
            if line in state.answers
            for change in state.answers[line].changes
        }
        return tuple(found.values())

    def _select(self, guide: Guide) -> None:
        """What sounds is selected by itself."""
        if guide.selected:
            self._document.select_line(guide.signals[guide.selected[0]].line)

    def _learn(self, known: Session) -> None:
        """Keep how loud the sources were: one edit, that can be undone."""
        guide = self._guide
        now = {one.id: one for one in self._document.session.setup.sources}
        new = [
            one
            for one in known.setup.sources
            if one.id in now and one.figures.playing() != now[one.id].figures.playing()
        ]
        if not new or guide is None:
            return

        def edit(session: Session) -> Session:
            for one in new:
                said = one.figures.wordings.get(one.figures.level_figure, "")
                session = set_playing(session, one.id, one.figures.playing(), said)
            return session

        self._told_edit(f"check of {new[0].name}", edit)

    def _take_over(self, changes: tuple[Change, ...]) -> None:
        """A hand has turned as it was told: the session says so too."""
        self._told_edit("gain turned as told", lambda session: apply_changes(session, changes))
        from verve.devices import Command

        self.checking.post(Command(deed="told", session=self._document.session))

    def _told_edit(self, label: str, edit: object) -> None:
        """An edit that the check knows of already."""
        self._told_setup = "coming"
        self._document.edit(label, edit)  # type: ignore[arg-type]
        self._told_setup = self._document.session.setup

    def _follow_session(self) -> None:
        """Something else was changed while a check goes on: it goes on with that."""
        setup = self._document.session.setup
        if self.checking.doing != "check" or self._told_setup in ("coming", setup):
            return
        from verve.devices import Command

        self._told_setup = setup
        self.checking.post(Command(deed="turned", session=self._document.session))

    def _on_asked(self, who: Who) -> None:
        self._proofs |= {one.line: one for one in who.proofs}
        sign = who_sign(self._document.assessment, who, self.sound.inputs())
        asked, levels = who.asked, who.level_dbfs
        if asked is not None and self._document.line is not None:
            if asked.line != self._document.line.line.id:
                self._document.select_line(asked.line)
            levels = who.level_dbfs[asked.channel : asked.channel + 1]
        self.sign.show_sign(sign, levels, levels)
        self._found = channels_after(who)
        self._show_rows()

    def _on_proved(self, _: object) -> None:
        self._show_rows()
        self._show_state()

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def start_or_stop(self) -> None:
        """Begin, or end what is going on."""
        if self.checking.doing != "nothing":
            self.checking.stop()
            return
        self.start()

    def start(self) -> None:
        """Begin a check."""
        from verve.core.errors import VerveError
        from verve.devices import CheckRequest

        self._variation += 1
        self._guide, self._pending = None, ()
        day = datetime.now().astimezone().strftime("%-d %B %Y, %H:%M")
        try:
            request = CheckRequest(
                session=self._document.session,
                lines=self.sound.lines(),
                said=fill(words.SAID, day=day),
                live=self.sound.live(),
                variation=self._variation if self.checking.is_paced else 0,
                is_paced=self.checking.is_paced,
            )
        except VerveError as error:
            self._document.refused.emit(str(error))
            return
        self._told_setup = self._document.session.setup
        self.checking.begin(request)
        self.sign.setFocus()

    def begin_who(self) -> None:
        """Ask for one signal after the other."""
        from verve.devices import WhoRequest

        self._guide, self._proofs, self._pending = None, {}, ()
        request = WhoRequest(
            session=self._document.session,
            lines=self.sound.lines(),
            live=self.sound.live(),
            is_paced=self.checking.is_paced,
        )
        self.checking.begin_who(request)
        self.sign.setFocus()

    def turned(self) -> None:
        """What was told has been turned: the session keeps it, and the check listens once more."""
        from verve.devices import Command

        if not self._pending:
            return
        changes, self._pending = self._pending, ()
        self._told_edit("gain turned as told", lambda session: apply_changes(session, changes))
        self.checking.post(Command(deed="turned", session=self._document.session))
        self._show_state()

    def _go_on(self) -> None:
        if self.checking.doing == "nothing":
            self.start()
        else:
            self._post("skip")

    def _post(self, deed: str) -> None:
        from verve.devices import Command

        self.checking.post(Command(deed="again" if deed == "again" else "skip"))

    def _choose_row(self, row: int) -> None:
        lines = self.sound.lines()
        if row >= len(lines):
            return
        line = lines[row]
        self._document.select_line(line)
        item = self._document.assessment.line(line)
        facts = (
            ()
            if item is None
            else check_facts(item, self._answers.get(line), self._silences.get(line))
        )
        if facts and item is not None:
            self._document.ask(f"{item.line.name} in the check", facts)
        guide = self._guide
        if self.checking.doing == "check" and guide is not None and guide.phase != "silence":
            from verve.devices import Command

            group = next((one.group for one in guide.signals if one.line == lines[row]), None)
            if group is not None:
                self.checking.post(Command(deed="choose", group=group))

    def _on_chosen(self) -> None:
        self.forget()
        self.refresh()

    def _use_found(self) -> None:
        """Listen where each signal arrives."""
        self.sound.inputs_found = dict(self._found)
        self._proofs = {}
        self.refresh()
