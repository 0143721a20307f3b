"""Place: the plan with the map of one microphone's ears, what is chosen in figures, and the bleed table."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QStackedLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.views.place.one_source import OneSource
from verve.app.views.place.room import RoomBar
from verve.app.views.place.side import SidePanel
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.bleed import BleedTable
from verve.app.widgets.labels import card, heading, small_heading, text
from verve.app.widgets.plan import Plan
from verve.core.acoustics import Technique
from verve.core.air import Hearing, hearing_of, of_furnishing, of_size, positions_of
from verve.core.errors import VerveError
from verve.core.place import (
    NOTHING_HERE,
    Key,
    alone_groups,
    alone_title,
    arranged,
    balanced,
    brought,
    chosen_microphone,
    colours_of,
    keys_of,
    line_of,
    moved,
    name_of,
    path_facts,
    path_title,
    put,
    put_at_start,
    said_beside,
    shielded,
    switched,
    taken_out,
    turned,
    with_number,
)
from verve.core.place import is_alone as is_alone_in
from verve.core.session import Room, Session, Source, add_beside, set_room
from verve.core.sheets import placement_csv, placement_html
from verve.core.words import Fact

if TYPE_CHECKING:
    from verve.app.player import Player

_TITLE = "Where everything stands"
_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"


class PlaceView(QWidget):
    """Where everything stands, and what each microphone hears of it."""

    add_pressed = pyqtSignal()
    room_pressed = pyqtSignal()

    def __init__(self, document: Document, tasks: Tasks, find_player: Callable[[], Player]) -> None:
        super().__init__()
        self._document, self._tasks, self._find_player = document, tasks, find_player
        self._key: Key | None = None
        self._seen = ""
        self._cell: tuple[int, int] | None = None
        self._is_at_start = True
        self._preview: Session | None = None
        self._hearing: Hearing | None = None
        self._pages = QStackedLayout(self)
        self._pages.addWidget(self._make_page())
        self._pages.addWidget(self._make_empty())
        # Whatever else is edited meanwhile, the hand on the plan lets go: it began with another session.
        document.changed.connect(self._forget_drag)
        self.plan.chosen.connect(self.choose)
        self.plan.dragged.connect(self._drag)
        self.plan.let_go.connect(self._let_go)
        self.plan.nudged.connect(
            lambda key, right, away: self._edit(
                "place", key, lambda now: moved(now, key, right, away)
            )
        )
        self.plan.turned.connect(
            lambda key, degrees: self._edit("direction", key, lambda now: turned(now, key, degrees))
        )
        self.table.asked.connect(self._ask)
        self.room.size_chosen.connect(
            lambda size: self._room("size of the room", lambda room: of_size(room, size))
        )
        self.room.furnishing_chosen.connect(
            lambda kind: self._room(
                "furnishing of the room", lambda room: of_furnishing(room, kind)
            )
        )
        self.room.numbers.clicked.connect(self.room_pressed)

    # ── made once ─────────────────────────────────────────────────────────────────────────────
    def _make_page(self) -> QWidget:
        page = QWidget()
        outer = QVBoxLayout(page)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(10)
        top = QHBoxLayout()
        top.setSpacing(10)
        frame, layout = card()
        self.title = heading(_TITLE)
        self.title.setWordWrap(False)
        self.whole = QCheckBox("Whole room")
        self.whole.setToolTip("Off: the plan shows as much of the room as something stands in")
        self.paper = QPushButton("Print or export…")
        self.paper.setToolTip("The plan to scale, marks of tape, directions and stands")
        self.paper.clicked.connect(self._on_paper)
        self.back = QPushButton("Where to begin")
        self.back.setToolTip("The starting point for the one source in the room")
        layout.addWidget(Beside(group(self.title), group(self.back, self.whole, self.paper)))
        self.room = RoomBar()
        layout.addWidget(self.room)
        self.plan = Plan()
        self.whole.toggled.connect(self.plan.show_whole)
        self.alone = OneSource()
        self.alone.begun.connect(self._begin)
        self.alone.plan_wanted.connect(lambda: self._show_alone(is_alone=False))
        self.back.clicked.connect(lambda: self._show_alone(is_alone=True))
        self.plan_or_start = QStackedWidget()
        self.plan_or_start.addWidget(self.plan)
        self.plan_or_start.addWidget(self.alone)
        layout.addWidget(self.plan_or_start, 1)
        top.addWidget(frame, 5)
        top.addWidget(self._make_side(), 3)
        outer.addLayout(top, 1)
        self.below, rows = card()
        rows.addWidget(small_heading("Bleed: how far each source is below the wanted one"))
        self.table = BleedTable()
        self.table.setMinimumHeight(theme.px(90))
        self.table.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        rows.addWidget(self.table)
        outer.addWidget(self.below)
        return page

    def _make_side(self) -> QWidget:
        frame, outside = card()
        frame.setMinimumWidth(theme.px(210))
        self.side = side = SidePanel(outside, self._document, self._tasks, self._find_player)
        side.which.activated.connect(self._choose_by_name)
        side.why.clicked.connect(self._explain)
        side.numbers.typed.connect(self._type)
        side.shield.clicked.connect(self._shield)
        side.start.pressed.connect(self._begin)
        side.also.added.connect(self._add_beside)
        side.also.balanced.connect(
            lambda: self._edit_chosen("balance", lambda now, key: balanced(now, key.id))
        )
        side.stereo.chosen.connect(self._arrange)
        side.is_on.clicked.connect(
            lambda is_on: self._edit_chosen(
                "running", lambda now, key: switched(now, key.id, is_on=is_on)
            )
        )
        side.remove.clicked.connect(lambda: self._edit_chosen("removal", taken_out))
        side.clap.used.connect(
            lambda seconds: self._room(
                "reverberation of the room",
                lambda room: room.model_copy(update={"reverberation_s": seconds}),
            )
        )
        side.running.switched.connect(
            lambda thing, is_on: self._document.edit(
                "what is running", lambda now: switched(now, thing, is_on=is_on)
            )
        )
        side.bring.clicked.connect(self._bring)
        return frame

    def _make_empty(self) -> QWidget:
        frame, layout = card()
        layout.addWidget(heading(_TITLE))
        layout.addStretch(1)
        layout.addWidget(text(NOTHING_HERE))
        add = QPushButton("Add a signal…")
        add.setToolTip("A voice or an instrument with its microphone")
        add.clicked.connect(self.add_pressed)
        layout.addWidget(group(add))
        layout.addStretch(2)
        return frame

    # ── drawn ─────────────────────────────────────────────────────────────────────────────────
    @property
    def chosen(self) -> Key | None:
        """What is chosen on the plan."""
        return self._key

    def refresh(self) -> None:
        """Draw the session as it is, or as it would be with what is just being dragged."""
        session = self._preview or self._document.session
        hearing = hearing_of(positions_of(session.setup))
        self._hearing = hearing
        has_any = bool(hearing.positions.microphones)
        self._pages.setCurrentIndex(0 if has_any else 1)
        if not has_any:
            return
        keys = keys_of(hearing.positions)
        line = self._document.line
        seen = "" if line is None else line.line.id
        if self._key not in keys or seen != self._seen:
            # Another signal has been selected: its microphone is looked at.
            self._key = self._first_key(keys, self._key)
        self._seen = seen
        microphone = chosen_microphone(hearing, self._key)
        self._show_plan(session, hearing, microphone)
        self.table.show_hearing(hearing, microphone)
        if self._preview is not None:
            return
        self.room.show_room(session.setup.room)
        self.side.which.show_entries([(name_of(hearing.positions, key), key.text) for key in keys])
        self.side.which.setCurrentIndex(keys.index(self._key))
        self.side.show_chosen(session, hearing, self._key)
        self._cell = self.side.show_path(session, hearing, microphone, self._cell)
        self._show_alone(is_alone=self._is_at_start)

    def _first_key(self, keys: tuple[Key, ...], now: Key | None) -> Key:
        """The microphone of the selected signal; without one what is chosen, or the first one there is."""
        line = self._document.line
        steps = () if line is None else line.route.steps
        wanted = [Key("microphone", f"{step.owner}:{step.in_port}") for step in steps]
        found = next((key for key in wanted if key in keys), None)
        if found is None and now in keys:
            return now
        return found or next(key for key in keys if key.kind == "microphone")

    def _show_plan(self, session: Session, hearing: Hearing, microphone: int | None) -> None:
        beside = said_beside(hearing, microphone)
        self.plan.show_hearing(hearing, microphone, self._key, colours_of(session), beside)

    def _show_alone(self, *, is_alone: bool) -> None:
        """The starting point of the one source there is, or the plan of them all."""
        assert self._hearing is not None
        assert self._key is not None
        self._is_at_start = is_alone
        can_be = is_alone_in(self._hearing)
        is_shown = can_be and is_alone
        microphone = chosen_microphone(self._hearing, self._key) or 0
        if can_be:
            session = self._document.session
            groups = alone_groups(session, self._hearing, microphone)
            self.alone.show_facts(groups, can_begin=bool(groups[0][1]))
        self.title.setText(alone_title(self._hearing, microphone) if is_shown else _TITLE)
        self.plan_or_start.setCurrentIndex(int(is_shown))
        self.back.setVisible(can_be and not is_alone)
        self.whole.setVisible(not is_shown)
        self.below.setVisible(not can_be)
        self.side.start.setVisible(self.side.start.isVisibleTo(self) and not is_shown)

    def _facts(self, hearing: Hearing, cell: tuple[int, int]) -> tuple[Fact, ...]:
        setup = self._document.session.setup
        rate = float(setup.audio.sample_rate_hz)
        return path_facts(hearing, *cell, rate, setup.room.furnishing)

    # ── pressed ───────────────────────────────────────────────────────────────────────────────
    def choose(self, key: Key) -> None:
        """Take hold of something: its figures are shown, the map of its microphone, and its signal is selected."""
        self._key = key
        if key.kind == "microphone":
            line = line_of(self._document.session, key.id)
            if line is not None:
                self._seen = line
                self._document.select_line(line)
        self.refresh()

    def _choose_by_name(self, number: int) -> None:
        assert self._hearing is not None
        said = self.side.which.itemData(number)
        key = next((one for one in keys_of(self._hearing.positions) if one.text == said), None)
        if key is not None:
            self.choose(key)

    def _ask(self, microphone: int, source: int) -> None:
        assert self._hearing is not None
        self._cell = (microphone, source)
        self.choose(Key("microphone", self._hearing.positions.microphones[microphone].id))

    def _explain(self) -> None:
        if self._hearing is not None and self._cell is not None:
            title = path_title(self._hearing, *self._cell)
            self._document.ask(title, self._facts(self._hearing, self._cell))

    def _edit(self, what: str, key: Key, change: Callable[[Session], Session]) -> None:
        assert self._hearing is not None
        self._document.edit(f"{what} of {name_of(self._hearing.positions, key)}", change)

    def _drag(self, key: Key, x_m: float, y_m: float) -> None:
        try:
            self._preview = put(self._document.session, key, x_m, y_m)
        except VerveError:
            return
        self.refresh()

    def _forget_drag(self) -> None:
        self._preview = None

    def _let_go(self) -> None:
        preview, self._preview = self._preview, None
        if preview is not None and self._key is not None:
            self._edit("place", self._key, lambda _: preview)

    def _type(self, name: str, value: float) -> None:
        self._edit_chosen("place", lambda now, key: with_number(now, key, name, value))  # type: ignore[arg-type]

    def _room(self, label: str, change: Callable[[Room], Room]) -> None:
        self._document.edit(label, lambda now: set_room(now, change(now.setup.room)))

    def _edit_chosen(self, what: str, change: Callable[[Session, Key], Session]) -> None:
        """An edit of what is chosen."""
        key = self._key
        if key is not None:
            self._edit(what, key, lambda now: change(now, key))

    def _shield(self, is_there: bool) -> None:
        self._edit_chosen("pop shield", lambda now, key: shielded(now, key, is_there=is_there))

    def _add_beside(self, entry: str) -> None:
        from verve.core.catalogue import catalogue

        found = catalogue().sources[entry]
        source = Source(id=entry, name=found.name, figures=found.figures)
        hearing, key = self._hearing, self._key
        if hearing is None or key is None:
            return
        microphone = hearing.positions.microphone(key.id)
        if microphone is not None:
            wanted = microphone.wants[0]
            self._edit("second source", key, lambda now: add_beside(now, wanted, source)[0])

    def _bring(self) -> None:
        made: list[Key] = []

        def change(now: Session) -> Session:
            session, key = brought(now, self.side.kind.currentData())
            made.append(key)
            return session

        if (
            self._document.edit(f"{self.side.kind.currentText().lower()} in the room", change)
            and made
        ):
            self.choose(made[-1])

    def _begin(self) -> None:
        key = self._key
        if self._hearing is not None and key is not None and key.kind != "microphone":
            mics = self._hearing.positions.microphones
            key = Key("microphone", mics[chosen_microphone(self._hearing, key) or 0].id)
        if key is not None:
            there = key
            self._edit("starting point", there, lambda now: put_at_start(now, there.id))

    def _arrange(self, technique: Technique) -> None:
        self._edit_chosen("stereo", lambda now, key: arranged(now, key.id, technique))

    def _on_paper(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Placement", "placement.pdf", _FILES)
        if not name:
            return
        session = self._document.session
        put_on_paper(
            self._tasks,
            Path(name),
            html=lambda: placement_html(session),
            csv=lambda: placement_csv(session),
            failed=self._document.refused.emit,
        )
