"""Place: the plan with the map of one microphone's ears, what is chosen in figures, and the bleed table."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.views.place.clap import ClapBox
from verve.app.views.place.listen import ListenBox
from verve.app.views.place.numbers import Numbers
from verve.app.views.place.pickup import PickupBox
from verve.app.views.place.room import RoomBar
from verve.app.views.place.start import StartBox
from verve.app.views.place.stereo import StereoBox
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.bleed import BleedTable
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, card, heading, small_heading, text
from verve.app.widgets.plan import Plan
from verve.app.widgets.sum_response import SumResponse
from verve.core.acoustics import Technique
from verve.core.air import Hearing, hearing_of, of_furnishing, of_size, positions_of
from verve.core.errors import VerveError
from verve.core.place import (
    NOTHING_HERE,
    ONE_SOURCE,
    THING_NAMES,
    Key,
    arranged,
    brought,
    cell_of,
    chosen_microphone,
    colours_of,
    drawn_sum,
    faults_of,
    keys_of,
    line_of,
    moved,
    name_of,
    numbers_of,
    path_facts,
    path_title,
    pickup_text,
    put,
    put_at_start,
    recorded_pair,
    room_text,
    said_beside,
    start_text,
    stereo_facts,
    switched,
    turned,
    with_number,
)
from verve.core.session import Room, Session, remove_thing, set_room
from verve.core.sheets import placement_csv, placement_html
from verve.core.words import Fact, capital

if TYPE_CHECKING:
    from verve.app.player import Player

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
        self.numbers.typed.connect(self._type)
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
        title = heading("Where everything stands")
        title.setWordWrap(False)
        self.whole = QCheckBox("Whole room")
        self.whole.setToolTip("Off: the plan shows as much of the room as something stands in")
        self.paper = QPushButton("Print or export…")
        self.paper.setToolTip("The plan to scale, marks of tape, directions and stands")
        self.paper.clicked.connect(self._on_paper)
        layout.addWidget(Beside(group(title), group(self.whole, self.paper)))
        self.room = RoomBar()
        layout.addWidget(self.room)
        self.plan = Plan()
        self.whole.toggled.connect(self.plan.show_whole)
        layout.addWidget(self.plan, 1)
        top.addWidget(frame, 5)
        top.addWidget(self._make_side(), 3)
        outer.addLayout(top, 1)
        below, rows = card()
        rows.addWidget(small_heading("Bleed: how far each source is below the wanted one"))
        self.table = BleedTable()
        self.table.setMinimumHeight(theme.px(90))
        self.table.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        rows.addWidget(self.table)
        outer.addWidget(below)
        return page

    def _make_side(self) -> QWidget:
        side, outside = card()
        side.setMinimumWidth(theme.px(210))
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setAccessibleName("What is chosen on the plan")
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        # As high as the plan beside it: what has no space scrolls.
        area.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 6, 0)
        area.setWidget(inside)
        outside.addWidget(area)
        self.which = Choice()
        self.which.setAccessibleName("What is chosen")
        self.which.setToolTip("Players, microphones and what else sounds in the room")
        self.which.activated.connect(self._choose_by_name)
        column.addWidget(caption_of(self.which, "Chosen on the plan"))
        column.addWidget(self.which)
        self.path_title = small_heading("")
        column.addWidget(self.path_title)
        self.path = text()
        column.addWidget(self.path)
        self.why = QPushButton("Where it comes from")
        self.why.setToolTip("Every number of this path, with its formula")
        self.why.clicked.connect(self._explain)
        column.addWidget(self.why)
        self.sum = SumResponse()
        column.addWidget(self.sum)
        self.numbers = Numbers()
        column.addWidget(self.numbers)
        self.listen = ListenBox(self._tasks, self._find_player)
        self.listen.failed.connect(self._document.refused)
        column.addWidget(self.listen)
        self.start = StartBox()
        self.start.pressed.connect(self._begin)
        column.addWidget(self.start)
        self.pickup = PickupBox(self._tasks)
        self.pickup.failed.connect(self._document.refused)
        column.addWidget(self.pickup)
        self.stereo = StereoBox()
        self.stereo.chosen.connect(self._arrange)
        column.addWidget(self.stereo)
        self._make_thing(column)
        column.addWidget(self.faults)
        column.addStretch(1)
        column.addWidget(small_heading("The room"))
        self.room_words = caption(wrap=True)
        column.addWidget(self.room_words)
        self.clap = ClapBox(self._tasks)
        self.clap.failed.connect(self._document.refused)
        self.clap.used.connect(
            lambda seconds: self._room(
                "reverberation of the room",
                lambda room: room.model_copy(update={"reverberation_s": seconds}),
            )
        )
        column.addWidget(self.clap)
        self.kind = Choice()
        self.kind.setAccessibleName("What else sounds in the room")
        self.kind.setToolTip(
            "Loudspeakers and noises: the map shows where the microphone hears them least"
        )
        self.kind.show_entries([(name, kind) for kind, name in THING_NAMES.items()])
        self.bring = QPushButton("Add")
        self.bring.setToolTip("Adds it at the right wall; drag it to where it is")
        self.bring.clicked.connect(self._bring)
        column.addWidget(caption_of(self.kind, "What else sounds in the room"))
        column.addWidget(Beside(group(self.kind), group(self.bring)))
        return side

    def _make_thing(self, column: QVBoxLayout) -> None:
        """What can be done with something that is no player and no microphone."""
        self.is_on = QCheckBox("It is running")
        self.is_on.setToolTip("Off: nothing is heard of it")
        self.is_on.clicked.connect(self._switch)
        column.addWidget(self.is_on)
        self.remove = QPushButton("Remove from the room")
        self.remove.setToolTip("Removes this noise or loudspeaker; Undo brings it back")
        self.remove.clicked.connect(self._remove)
        column.addWidget(self.remove)
        self.faults = text()

    def _make_empty(self) -> QWidget:
        frame, layout = card()
        layout.addWidget(heading("Where everything stands"))
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
        self.room_words.setText(room_text(hearing))
        self.which.show_entries([(name_of(hearing.positions, key), key.text) for key in keys])
        self.which.setCurrentIndex(keys.index(self._key))
        self._show_chosen(session, hearing)
        self._show_path(hearing, microphone)

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

    def _show_chosen(self, session: Session, hearing: Hearing) -> None:
        assert self._key is not None
        self.numbers.show_numbers(self._key.text, numbers_of(hearing.positions, self._key))
        things = {one.id: one for one in session.setup.placement.things}
        thing = things.get(self._key.id) if self._key.kind == "thing" else None
        for widget in (self.is_on, self.remove):
            widget.setVisible(thing is not None)
        self.is_on.setChecked(thing is not None and thing.is_on)
        microphone = self._key.id if self._key.kind == "microphone" else ""
        self.listen.show_microphone(session, microphone)
        self.start.show_text(start_text(session, microphone))
        self.pickup.show_pair(
            pickup_text(session.setup, hearing.positions, microphone),
            recorded_pair(session, microphone),
        )
        self.stereo.show_facts(stereo_facts(session.setup, hearing.positions, microphone))
        faults = list(faults_of(hearing))
        if len(hearing.positions.sources) == 1:
            faults.append(ONE_SOURCE)
        self.faults.setText("\n".join(faults))
        self.faults.setVisible(bool(faults))

    def _show_path(self, hearing: Hearing, microphone: int | None) -> None:
        cell = self._cell
        counts = (len(hearing.positions.microphones), len(hearing.positions.sources))
        if cell is None or cell[0] != microphone or cell[0] >= counts[0] or cell[1] >= counts[1]:
            self._cell = cell = None
        for widget in (self.path_title, self.path, self.why):
            widget.setVisible(cell is not None)
        if cell is None:
            self.sum.show_sum(None, "")
            return
        self.path_title.setText(path_title(hearing, *cell))
        furnishing = self._document.session.setup.room.furnishing
        both, words = drawn_sum(hearing, *cell, furnishing)
        said = cell_of(hearing, *cell).said.partition(": ")[2]
        self.path.setText(f"{capital(said)}. {words}")
        self.sum.show_sum(both, words)

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
        said = self.which.itemData(number)
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
        key = self._key
        if key is not None:
            self._edit("place", key, lambda now: with_number(now, key, name, value))  # type: ignore[arg-type]

    def _room(self, label: str, change: Callable[[Room], Room]) -> None:
        self._document.edit(label, lambda now: set_room(now, change(now.setup.room)))

    def _bring(self) -> None:
        made: list[Key] = []

        def change(now: Session) -> Session:
            session, key = brought(now, self.kind.currentData())
            made.append(key)
            return session

        if self._document.edit(f"{self.kind.currentText().lower()} in the room", change) and made:
            self.choose(made[-1])

    def _begin(self) -> None:
        key = self._key
        if key is not None:
            self._edit("starting point", key, lambda now: put_at_start(now, key.id))

    def _arrange(self, technique: Technique) -> None:
        key = self._key
        if key is not None:
            self._edit("stereo", key, lambda now: arranged(now, key.id, technique))

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

    def _switch(self, is_on: bool) -> None:
        key = self._key
        if key is not None:
            self._edit("running", key, lambda now: switched(now, key.id, is_on=is_on))

    def _remove(self) -> None:
        key = self._key
        if key is not None:
            self._edit("removal", key, lambda now: remove_thing(now, key.id))
