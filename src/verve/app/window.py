"""The main window: composes the frame, carries selections and edits between its parts."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QPaintEvent,
)
from PyQt6.QtWidgets import (
    QApplication,
    QLabel,
    QMainWindow,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.advising import Advising
from verve.app.beside import Beside
from verve.app.connecting import Connecting
from verve.app.document import Document, worked_out
from verve.app.files import Files
from verve.app.gathering import Gathering
from verve.app.importing import Importing
from verve.app.menus import deed_text, make_menus
from verve.app.offering import Offering
from verve.app.recordings import Recordings
from verve.app.rehearsal import Rehearsal
from verve.app.settings import Settings
from verve.app.standing import Standby
from verve.app.tasks import Tasks
from verve.app.views.making import made_view
from verve.app.views.named import NamedViews
from verve.app.warming import load_view
from verve.app.widgets.labels import Pressable, scrolling
from verve.app.widgets.lines_panel import LinesPanel
from verve.app.widgets.next_bar import NextBar
from verve.app.widgets.reason import ReasonPanel
from verve.app.widgets.steps import StepBar
from verve.app.widgets.tab_order import go_into, go_on
from verve.core.findings import STEPS, Step
from verve.core.session import Session

_SHOW_REFUSAL_MS = 12_000
_LINES_PX, _REASON_PX = (196, 236), (226, 268)
"""Least width of the pane, and its width at first."""
_USUAL_PX = 1240
"""What list and view have together in a window of the usual width."""
_CHANGES_AFTER_MS = 180
"""What would change a level is worked out when a hand rests, not at every step of a drag."""


if TYPE_CHECKING:
    from verve.app.player import FindOutput, Player
    from verve.app.views.making import View
    from verve.app.widgets.whole_window import WholeWindow
    from verve.core.assess import Assessment, NextThing
    from verve.core.engine import Engine
    from verve.core.sensitivity import Influence
    from verve.core.sheets import SignText
    from verve.core.words import Fact


class MainWindow(QMainWindow, NamedViews):
    """Everything around the steps: the next thing, the lines, the reason, menus and files."""

    def __init__(
        self,
        settings: Settings | None = None,
        *,
        session: Session | None = None,
        is_paced: bool = True,
        paints_first: bool = False,
        find_output: FindOutput | None = None,
    ) -> None:
        """`paints_first`: appear with the names of the lines, and work them out right afterwards.

        `find_output` finds what plays sound: the system's own where nothing is said.
        """
        super().__init__()
        self._settings = settings or Settings()
        self.document = Document(session)
        self.tasks = Tasks(self)
        self.rehearsal = Rehearsal(self.tasks, is_paced=is_paced)
        self.standby = Standby(self.tasks, is_paced=is_paced)
        self.files = Files(
            self,
            self.document,
            self._settings,
            self.tasks,
            at_once=self.one_refresh,
            commit=self.commit_typing,
            rehearsal=self.rehearsal,
        )
        self.recordings = Recordings(
            self, self.document, self.files, self.tasks, self.rehearsal, self.take_folder
        )
        self.importing = Importing(self.document, self.tasks)
        self.gathering = Gathering(self, self.document, self.tasks)
        self.connecting = Connecting(self.document, self.tasks)
        self.beside = Beside(self, self.document, self._settings, self.tasks)
        self.offering = Offering(self, self._settings)
        self._player: Player | None = None
        self._alarm: WholeWindow | None = None
        self._find_output = find_output
        self._step: Step = "stage" if self.document.session.setup.lines else "patch"
        self.next_bar, self.steps = NextBar(), StepBar()
        self.lines, self.reason = LinesPanel(), ReasonPanel()
        self._views: dict[Step, View] = {}
        self._areas: dict[Step, QScrollArea] = {}
        self._status = Pressable(wrap=False)
        self._message = QLabel()
        self._compose()
        menus = make_menus(self)
        self.undo_action, self.redo_action = menus.undo, menus.redo
        self.recent_menu, self.copies_menu = menus.recent, menus.copies
        self._changes_timer = QTimer(self)
        self._changes_timer.setSingleShot(True)
        self._changes_timer.setInterval(_CHANGES_AFTER_MS)
        self._message_timer = QTimer(self)
        self._message_timer.setSingleShot(True)
        self._message_timer.setInterval(_SHOW_REFUSAL_MS)
        self._connect()
        self.setAcceptDrops(True)
        self._is_begun = self._is_complete = False
        self._held, self._is_wanted = 0, False
        if paints_first:
            self._show_names()
        else:
            self._show_all()
        self._file_changed()

    # ── putting together ──────────────────────────────────────────────────────────────────────
    def _compose(self) -> None:
        self.setMinimumSize(QSize(900, 600))
        self.resize(1280, 800)
        central = QWidget()
        outer = QVBoxLayout(central)
        outer.setContentsMargins(14, 8, 14, 4)
        outer.setSpacing(8)
        outer.addWidget(self.next_bar)
        outer.addWidget(self.steps)
        self._panes = QSplitter(Qt.Orientation.Horizontal)
        self._panes.setHandleWidth(12)
        self._panes.setChildrenCollapsible(False)
        self._stack = QStackedWidget()
        for pane in (self.lines, self._stack, self.reason):
            self._panes.addWidget(pane)
        # A larger window gives to all three, most to the view.
        for index, share in enumerate((1, 8, 2)):
            self._panes.setStretchFactor(index, share)
        self.lines.setMinimumWidth(theme.px(_LINES_PX[0]))
        self.reason.setMinimumWidth(theme.px(_REASON_PX[0]))
        outer.addWidget(self._panes, 1)
        self.setCentralWidget(central)
        bar = self.statusBar()
        assert bar is not None
        bar.setContentsMargins(12, 0, 8, 2)
        bar.addWidget(self._status)
        bar.addPermanentWidget(QLabel("F1 keys"))
        self._message.setProperty("role", "small-heading")
        self._message.setTextFormat(Qt.TextFormat.PlainText)
        self._message.setWordWrap(True)
        self._message.hide()
        outer.addWidget(self._message)
        outer.addWidget(self.offering.bar)
        self.reason.stay.setChecked(self._settings.reason_stays)
        self.reason.setVisible(self._settings.reason_stays)
        kept = self._settings.panes()
        if kept is None or not self._panes.restoreState(kept):
            lines = theme.px(_LINES_PX[1])
            self._panes.setSizes([lines, _USUAL_PX - lines, theme.px(_REASON_PX[1])])
        self._panes.setHandleWidth(12)

    # ── the keyboard ──────────────────────────────────────────────────────────────────────────
    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab goes next thing, steps, signals, view, reason, status: as it is laid out."""
        places = (self.next_bar, self.steps, self._panes, self._status)
        return go_on(self, places, forward=next) or super().focusNextPrevChild(next)

    def focus_view(self) -> None:
        """Straight to the first thing of the open step."""
        go_into(self._stack)

    # ── the reason: open when asked for, or by choice ─────────────────────────────────────────
    def open_reason(self) -> None:
        """Show why the selected signal stands as it does."""
        if self.reason.isHidden():
            self.reason.show()
            self._show_reason()
            self._changes_timer.start()

    def close_reason(self) -> None:
        """Give its space back to the step."""
        self.reason.stay.setChecked(False)
        self._keep_open(False)
        self.reason.hide()

    def _keep_open(self, stays: bool) -> None:
        self._settings.reason_stays = stays

    def _show_asked(self, title: str, facts: Sequence[Fact]) -> None:
        self.open_reason()
        self.reason.show_asked(title, facts)

    def _show_reason(self) -> None:
        """What the reason says of the open step, and of no other."""
        if self.reason.isHidden():
            return
        assessment, item = self.document.assessment, self.document.line
        own = () if item is None else item.findings
        findings = (*own, *(f for f in assessment.findings if f.line is None))
        here = tuple(f for f in findings if f.step == self._step)
        well = "Nothing is wrong at this step."
        if not assessment.lines:
            well = "There is nothing to explain yet."
        self.reason.show_line(item, here, well=well)

    def _connect(self) -> None:
        document = self.document
        document.changed.connect(self._refresh)
        document.selection_changed.connect(self._refresh)
        document.file_changed.connect(self._file_changed)
        document.refused.connect(self.say)
        document.asked.connect(self._show_asked)
        self.reason.close_pressed.connect(self.close_reason)
        self.reason.stay_pressed.connect(self._keep_open)
        self._status.clicked.connect(self._ask_round_trip)
        self.files.told.connect(self.say)
        self.files.opened.connect(self._show_opened)
        self.files.opened.connect(self.recordings.look)
        self.files.opened.connect(self.importing.look_for_lost)
        self.importing.told.connect(self.say)
        self.importing.imported.connect(self.show_recordings)
        self.files.demo_wanted.connect(self.show_demo)
        self.files.saved.connect(self._refresh)
        self.rehearsal.failed.connect(self.say)
        self.tasks.failed.connect(self.say)
        self.rehearsal.recorded.connect(self.recordings.on_recorded)
        self.standby.told.connect(self.say)
        self.standby.recorded.connect(
            lambda found: self.recordings.take_up_all(found.takes, self.standby.owner)
        )
        self.recordings.taken.connect(lambda: self.takes.show_newest())
        self.recordings.told.connect(self.say)
        self.connecting.told.connect(self.say)
        self.gathering.told.connect(self.say)
        self.connecting.found.connect(lambda found: self.patch.show_connections(found))
        self.advising = Advising(
            document,
            self.tasks,
            wait=self.next_bar.wait,
            show=self._show_advice,
            show_rest=lambda: self.check.rehearse.show_results(),
        )
        self._message_timer.timeout.connect(self._message.hide)
        self._changes_timer.timeout.connect(self._show_changes)
        self.next_bar.pressed.connect(self._do_next)
        self.next_bar.why_pressed.connect(self._show_why)
        self.steps.chosen.connect(self.go)
        self.lines.line_chosen.connect(document.select_line)
        self.lines.add_pressed.connect(self.beside.add_line)
        self.reason.remedy_pressed.connect(document.apply_remedy)
        self.reason.whole_pressed.connect(self.beside.show_calculation)

    def commit_typing(self) -> None:
        """Take what stands in the field that has the focus, as if it were left; the focus stays there."""
        field = self.focusWidget()
        if field is not None:
            reason = Qt.FocusReason.OtherFocusReason
            QApplication.sendEvent(field, QFocusEvent(QEvent.Type.FocusOut, reason))
            # Whatever follows may have taken the field away.
            if self.focusWidget() is field and field.isVisible():
                QApplication.sendEvent(field, QFocusEvent(QEvent.Type.FocusIn, reason))

    # ── the first paint ───────────────────────────────────────────────────────────────────────
    def _show_names(self) -> None:
        session = self.document.session
        self.next_bar.show_opening(session.title)
        self.steps.show_steps(self._step, {}, frozenset())
        self.lines.show_names(session.setup.lines)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._is_begun and not self._is_complete:
            self._is_begun = True
            QTimer.singleShot(0, self._complete)

    def _complete(self) -> None:
        """Load the physics and work everything out beside the window, then show it."""
        session = self.document.session

        def work(_: object, __: object) -> tuple[Engine, Assessment]:
            load_view(self._step)
            return worked_out(session)

        def done(found: tuple[Engine, Assessment]) -> None:
            self.document.accept(session, *found)
            self._show_all()

        def failed(said: str) -> None:
            self.say(said)
            self._show_all()

        self.tasks.run("first picture", work, done, failed=failed)

    def _show_all(self) -> None:
        if not self._is_complete:
            self._is_complete = True
            self._show_view(self._step)
            self._refresh()

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    @contextmanager
    def one_refresh(self) -> Iterator[None]:
        """However much changes in here, it is drawn once, when all of it has."""
        self._held += 1
        try:
            yield
        finally:
            self._held -= 1
            if not self._held and self._is_wanted:
                self._is_wanted = False
                self._refresh()

    def _refresh(self) -> None:
        if not self._is_complete:
            return
        if self._held:
            self._is_wanted = True
            return
        assessment, item = self.document.assessment, self.document.line
        self.steps.show_steps(self._step, assessment.open_by_step(), assessment.done_steps())
        self.lines.show_lines(assessment, item.line.id if item else "")
        self.view(self._step).refresh()
        self.advising.begin(wants_rest=self._step == "check")
        self._changes_timer.start()
        history = self.document.history
        self.undo_action.setEnabled(bool(history.done))
        self.undo_action.setText(deed_text("&Undo", [step.label for step in history.done]))
        self.redo_action.setEnabled(bool(history.undone))
        self.redo_action.setText(deed_text("&Redo", [step.label for step in history.undone]))
        self._status.setText(self.document.status_text())

    def _show_advice(self) -> None:
        thing = self.document.assessment.next
        self.next_bar.show_next(thing, is_there=thing.step == self._step)
        self._show_reason()

    def _show_changes(self) -> None:
        item, session = self.document.line, self.document.session
        if self.reason.isHidden():
            return
        if item is None:
            self.reason.show_changes(())
            return
        line_id = item.line.id

        def work(_: object, __: object) -> object:
            from verve.core.sensitivity import influences

            return influences(session, line_id)

        def done(found: tuple[Influence, ...]) -> None:
            from verve.core.sheets import influence_facts

            self.reason.show_changes(influence_facts(found))

        self.tasks.run("changes", work, done)

    def _file_changed(self) -> None:
        self.setWindowTitle(f"{self.document.title()}[*] · Verve")
        self.setWindowModified(not self.document.is_saved)
        if self._is_complete:
            self._status.setText(self.document.status_text())

    def say(self, sentence: str) -> None:
        """Tell a refusal, below, for a while; it takes no focus and asks nothing."""
        self._message.setText(sentence)
        self._message.setAccessibleName(sentence)
        self._message.show()
        self._message_timer.start()

    def message(self) -> str:
        """What is being told; empty when nothing is."""
        return "" if self._message.isHidden() else self._message.text()

    def _show_view(self, step: Step) -> None:
        self.view(step)
        self._stack.setCurrentWidget(self._areas[step])

    # ── the steps' views, made when they are first opened ─────────────────────────────────────
    def view(self, step: Step) -> View:
        """The view of a step."""
        if step not in self._views:
            self._views[step] = made_view(self, step)
            self._areas[step] = scrolling(self._views[step])
            self._stack.addWidget(self._areas[step])
        return self._views[step]

    def make_a_view(self) -> bool:
        """Make the view of a step that nobody has opened yet; whether there was one to make."""
        step = next((step for step in STEPS if step not in self._views), None)
        if step is not None:
            self.view(step)
        return step is not None

    @property
    def player(self) -> Player:
        """What plays sound files; made when somebody first wants to hear one."""
        if self._player is None:
            from verve.app.player import Player

            self._player = Player(self.tasks, self._find_output)
            self._player.told.connect(self.say)
        return self._player

    def _show_opened(self) -> None:
        self.go("stage" if self.document.session.setup.lines else "patch")

    # ── going about ───────────────────────────────────────────────────────────────────────────
    @property
    def step(self) -> Step:
        """The step that is open."""
        return self._step

    def go(self, step: Step) -> None:
        """Open a step."""
        self._step = step
        self._show_view(step)
        self._refresh()
        if self._is_complete:
            self.offering.at(step)

    def _do_next(self, thing: NextThing) -> None:
        if thing.action in {"add", "connections"}:
            self._begin_next(thing)
            return
        with self.one_refresh():
            self._begin_next(thing)

    def _begin_next(self, thing: NextThing) -> None:
        if thing.line is not None:
            self.document.select_line(thing.line)
        if thing.action == "add":
            self.beside.add_line()
            return
        if thing.action == "connections":
            self.suggest_connections(thing.pass_id)
            return
        if thing.action == "layer":
            self.document.turn_to_layer(thing.pass_id)
        if thing.step != self._step:
            self.go(thing.step)
        elif thing.action == "go" and thing.step == "check":
            self.record_take()
        if thing.action == "apply" and thing.remedy is not None:
            self.document.apply_remedy(thing.remedy)

    def _show_why(self, thing: NextThing) -> None:
        if thing.line is not None:
            self.document.select_line(thing.line)
        if thing.finding is not None and thing.step != self._step:
            self.go(thing.step)
        self.open_reason()
        self.reason.show_asked("", ())
        bar = self.reason.area.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)
        self.reason.area.setFocus()

    def turn_line(self, way: int) -> None:
        """Select the next line, or with -1 the one before."""
        items = self.document.assessment.lines
        ids = [item.line.id for item in items]
        if self.document.line is not None:
            there = ids.index(self.document.line.line.id)
            self.document.select_line(ids[(there + way) % len(ids)])

    def _ask_round_trip(self) -> None:
        self.document.ask("round trip", self.document.assessment.round_trip_facts())

    def next_picture(self) -> None:
        """The next picture in Stage, or Stage itself."""
        if self._step == "stage":
            self.stage.next_picture()
        else:
            self.go("stage")

    def show_recordings(self) -> None:
        """The sound files, in Check."""
        self.check.turn_to("Recordings")
        self.go("check")

    def import_sounds(self) -> None:
        """Ask for sound files, and bring them in."""
        self.show_recordings()
        self.check.recordings.choose_files()

    def show_tuner(self) -> None:
        """The tuner, in Check."""
        self.check.turn_to("Tuner")
        self.go("check")

    def record_take(self) -> None:
        """Record the lines that are chosen in Check."""
        self.check.turn_to("Rehearsal")
        self.go("check")
        self.check.rehearse.start_recording()

    def record_in_song(self) -> None:
        """To where takes are recorded in the song, ready for its keys."""
        self.go("takes")
        self.takes.begin_recording()

    def take_folder(self) -> Path:
        """Where the takes of the open session lie."""
        return self._settings.take_folder(self.document.path, self.document.session.title)

    def show_demo(self) -> None:
        """The demo in its place, with the corridor in front."""
        from verve.core.demo import demo_session

        with self.one_refresh():
            self.document.replace(demo_session(), None, is_saved=True)
            self.go("stage")

    def suggest_connections(self, pass_id: str) -> None:
        """Patch a pass in the best way the kit allows; the patch shows how far that is."""
        if self.connecting.begin(pass_id):
            self.go("patch")

    def show_alarm(self, sign: SignText) -> None:
        """Cover the whole window with what must be seen now."""
        from verve.app.widgets.whole_window import WholeWindow

        if self._alarm is None:
            central = self.centralWidget()
            assert central is not None
            self._alarm = WholeWindow(central)
        self._alarm.show_sign(sign)

    # ── the window itself ─────────────────────────────────────────────────────────────────────
    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if data is not None and data.urls():
            from verve.app.dropped import dropped

            found = dropped(data.urls())
            if found.session is not None:
                self.files.open_file(found.session)
            elif found.sounds:
                self.show_recordings()
                self.importing.add(found.sounds)
            else:
                self.say(found.said)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        if self.rehearsal.state == "recording":
            event.ignore()
            # From within this event the window cannot be closed again.
            self.files.leave_recording(lambda: QTimer.singleShot(0, self.close))
            return
        if self.standby.is_recording:
            event.ignore()
            # What is being recorded is kept first; from within this event the window cannot be closed again.
            self.standby.leave(lambda: QTimer.singleShot(0, self.close))
            return
        if not self.files.may_leave():
            event.ignore()
            return
        self.rehearsal.cancel()
        self.offering.close()
        if self._player is not None:
            self._player.stop()
        self._changes_timer.stop()
        self.files.forget()
        self.tasks.cancel_all(but=(self.files.lane,))
        self._settings.keep_geometry(self.saveGeometry())
        self._settings.keep_panes(self._panes.saveState())
        event.accept()
