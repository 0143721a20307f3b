"""The practice window: beside the session, on a copy of it; ended with one key."""

from __future__ import annotations

import random
from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.player import Player
from verve.app.practice.advice import AdvicePage
from verve.app.practice.day import DayPage
from verve.app.practice.ear import EarPage
from verve.app.practice.hand import HandPage
from verve.app.practice.hunt import HuntPage
from verve.app.practice.order import OrderPage
from verve.app.practice.prepared import Needs, Prepared, due_text, prepared
from verve.app.practising import Practising
from verve.app.tasks import Tasks
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, text
from verve.app.widgets.pages import Page, Pages
from verve.core.demo import demo_session
from verve.core.session import Session

_OWN, _DEMO = "own", "demo"
_SIZE_PX = (1180, 740)
PAGES = {
    "hunt": "Find the fault", "hand": "Set it by hand", "order": "Safe order", "ear": "Hear it", "day": "The day",
    "advice": "Somebody said",
}  # fmt: skip

_SAYS = {
    "hunt": "Something is wrong: look for it as in the room",
    "hand": "Gains, pads and distances, for somebody who gets louder",
    "order": "Set up, change and tear down from memory",
    "ear": "Clipping, hiss, hum, comb, bleed, delay: from when on one hears them",
    "day": "All layers against the clock",
    "advice": "What somebody else’s advice means here",
}
_MAKERS = {
    "hunt": HuntPage, "hand": HandPage, "order": OrderPage, "ear": EarPage, "day": DayPage, "advice": AdvicePage,
}  # fmt: skip


class PracticeWindow(QWidget):
    """Pages to practise on; what is practised on is a copy, and stays one."""

    closed = pyqtSignal()

    def __init__(
        self,
        session: Session,
        line: str,
        tasks: Tasks,
        practising: Practising,
        find_player: Callable[[], Player],
        parent: QWidget | None = None,
        seed: Callable[[], int] | None = None,
    ) -> None:
        """`line` is the signal that is selected; `seed` gives chance, its own where nothing is said."""
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle("Practice · Verve")
        self._own, self._line = session, line
        self._tasks, self._practising = tasks, practising
        self.prepared: Prepared | None = None
        self._shown: dict[QWidget, tuple[Prepared | None, str]] = {}
        """By page, what it was last told is practised on."""
        self._find_player, self._player = find_player, None
        chance = random.Random()
        self._needs = Needs(
            tasks=tasks, practising=practising, find_player=self._heard_by, say=self.say,
            seed=seed or (lambda: chance.randrange(1 << 30)),
        )  # fmt: skip
        outer = QVBoxLayout(self)
        outer.setContentsMargins(16, 12, 16, 10)
        outer.setSpacing(8)
        outer.addLayout(self._make_top())
        self.pages = Pages(
            "Practice", "What is practised",
            [Page(name=name, says=_SAYS[key], make=partial(self._make, key)) for key, name in PAGES.items()],
        )  # fmt: skip
        outer.addWidget(self.pages, 1)
        self.message = text()
        self.message.setProperty("role", "small-heading")
        self.message.hide()
        outer.addWidget(self.message)
        self._connect()
        self.resize(theme.px(_SIZE_PX[0]), theme.px(_SIZE_PX[1]))
        self._prepare()
        if practising.trouble:
            self.say(practising.trouble)

    def _make_top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.on = Choice()
        self.on.show_entries(((f"A copy of {self._own.title}", _OWN), ("The demo session", _DEMO)))
        self.on.setAccessibleName("Practise on")
        self.on.setToolTip("A copy with everything right in it; nothing here changes your session")
        self.line = Choice()
        self.line.setAccessibleName("Signal")
        self.line.setToolTip("The signal that is practised on")
        self.due = caption()
        for name, field in (("Practise on", self.on), ("Signal", self.line)):
            row.addWidget(caption_of(field, name))
            row.addWidget(field)
        row.addStretch(1)
        row.addWidget(self.due)
        row.addWidget(caption("Esc ends it"))
        return row

    _player: Player | None

    def _heard_by(self) -> Player:
        """What plays; why nothing is heard is told in this window as well."""
        if self._player is None:
            self._player = self._find_player()
            self._player.told.connect(self.say)
        return self._player

    def _make(self, key: str) -> QWidget:
        page = _MAKERS[key](self._needs)
        if isinstance(page, DayPage):
            page.show_session(self._session)
        return page

    def _connect(self) -> None:
        self.on.activated.connect(lambda _: self._prepare())
        self.line.activated.connect(lambda _: self._show())
        self.pages.turned.connect(lambda _: self._show())
        self._practising.changed.connect(self._show_due)
        self._practising.told.connect(self.say)
        escape = QShortcut(QKeySequence("Esc"), self)
        escape.activated.connect(self.close)

    @property
    def _session(self) -> Session:
        return demo_session() if self.on.currentData() == _DEMO else self._own

    # ── what is practised on ──────────────────────────────────────────────────────────────────
    def _prepare(self) -> None:
        """Put everything right in the copy, beside the window."""
        session = self._session
        self.prepared = None
        self.message.hide()
        if self.pages.is_made(PAGES["day"]):
            day = self.pages.page(PAGES["day"])
            assert isinstance(day, DayPage)
            day.show_session(session)

        def done(found: Prepared) -> None:
            self.prepared = found
            self.line.show_entries([(one.name, one.line) for one in found.cases])
            at = self.line.findData(self._line)
            if at >= 0:
                self.line.setCurrentIndex(at)
            self.line.setEnabled(bool(found.cases))
            if not found.cases:
                self.say(
                    "No signal of this session arrives at a recorder yet. Connect one in Patch, or practise on the "
                    "demo session."
                )
            self._show()
            self.focus_first()

        self._tasks.run("practice", lambda _, __: prepared(session), done, failed=self.say)

    def _show(self) -> None:
        """Tell the page in front what is practised on; a page that knows it already goes on where it was."""
        page = self.pages.page(self.pages.current)
        line = self.line.currentData() or ""
        before = self._shown.get(page)
        if before is None or before[0] is not self.prepared or before[1] != line:
            self._shown[page] = (self.prepared, line)
            page.show_prepared(self.prepared, line)  # type: ignore[attr-defined]
        self._show_due()

    def focus_first(self) -> None:
        """To what is pressed first on the page in front."""
        self.pages.page(self.pages.current).focus_first()  # type: ignore[attr-defined]

    def turn_to(self, page: str, line: str = "", drill: str = "") -> None:
        """Put a page in front, by its key; with a signal or a drill chosen."""
        if line:
            self._line = line
            at = self.line.findData(line)
            self.line.setCurrentIndex(max(0, at))
        self.pages.turn_to(PAGES[page])
        shown = self.pages.page(PAGES[page])
        if drill and isinstance(shown, EarPage):
            shown.choose(drill)
        self._show()
        self.focus_first()

    def _show_due(self) -> None:
        self.due.setText(due_text(self._practising))

    def say(self, sentence: str) -> None:
        """Tell it below, until something else is practised on."""
        self.message.setText(sentence)
        self.message.setAccessibleName(sentence)
        self.message.show()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Silence, and nothing goes on beside the window."""
        for lane in (
            "practice",
            "hide",
            "debrief",
            "by hand",
            "ear example",
            "ear sound",
            "hunt sound",
            "advice",
            "day",
        ):
            self._tasks.cancel(lane)
        if self._player is not None:
            self._player.stop()
        self.closed.emit()
        super().closeEvent(event)
