"""What is chosen on the plan, in figures and deeds, and the room it stands in."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.place.also import AlsoBox
from verve.app.views.place.clap import ClapBox
from verve.app.views.place.listen import ListenBox
from verve.app.views.place.numbers import Numbers
from verve.app.views.place.pickup import PickupBox
from verve.app.views.place.running import RunningBox
from verve.app.views.place.spots import SpotsBox
from verve.app.views.place.start import StartBox
from verve.app.views.place.stereo import StereoBox
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, small_heading, text
from verve.app.widgets.sum_response import SumResponse
from verve.core.air import Hearing
from verve.core.place import (
    ONE_SOURCE,
    THING_NAMES,
    Key,
    balanced_text,
    cell_of,
    drawn_sum,
    faults_of,
    has_two,
    hollow_bodies,
    is_beside,
    noise_text,
    numbers_of,
    path_title,
    pickup_text,
    recorded_pair,
    room_text,
    start_text,
    stereo_facts,
)
from verve.core.session import Session
from verve.core.words import capital

if TYPE_CHECKING:
    from verve.app.player import Player


class SidePanel:
    """The widgets beside the plan, made once; the view draws them and listens to them."""

    def __init__(
        self,
        outside: QVBoxLayout,
        document: Document,
        tasks: Tasks,
        find_player: Callable[[], Player],
    ) -> None:
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
        self._make_chosen(column)
        self._make_microphone(column, document, tasks, find_player)
        self._make_thing(column)
        column.addStretch(1)
        self._make_room(column, tasks)
        for failing in (self.listen, self.pickup, self.clap):
            failing.failed.connect(document.refused)

    def _make_chosen(self, column: QVBoxLayout) -> None:
        self.which = Choice()
        self.which.setAccessibleName("What is chosen")
        self.which.setToolTip("Players, microphones and what else sounds in the room")
        column.addWidget(caption_of(self.which, "Chosen on the plan"))
        column.addWidget(self.which)
        self.path_title = small_heading("")
        column.addWidget(self.path_title)
        self.path = text()
        column.addWidget(self.path)
        self.why = QPushButton("Where it comes from")
        self.why.setToolTip("Every number of this path, with its formula")
        column.addWidget(self.why)
        self.sum = SumResponse()
        column.addWidget(self.sum)
        self.numbers = Numbers()
        column.addWidget(self.numbers)

    def _make_microphone(
        self,
        column: QVBoxLayout,
        document: Document,
        tasks: Tasks,
        find_player: Callable[[], Player],
    ) -> None:
        self.shield = QCheckBox("A pop shield hangs before it")
        self.shield.setToolTip(
            "Between mouth and microphone, a hand’s breadth away: costs less than 1 dB of treble"
        )
        column.addWidget(self.shield)
        self.listen = ListenBox(tasks, find_player)
        column.addWidget(self.listen)
        self.spots = SpotsBox(document, tasks, find_player)
        column.addWidget(self.spots)
        self.start = StartBox()
        column.addWidget(self.start)
        self.also = AlsoBox()
        column.addWidget(self.also)
        self.pickup = PickupBox(tasks)
        column.addWidget(self.pickup)
        self.stereo = StereoBox()
        column.addWidget(self.stereo)

    def _make_thing(self, column: QVBoxLayout) -> None:
        """What can be done with something that is no player and no microphone."""
        self.is_on = QCheckBox("It is running")
        self.is_on.setToolTip("Off: nothing is heard of it")
        column.addWidget(self.is_on)
        self.remove = QPushButton("Remove from the room")
        self.remove.setToolTip("Removes this noise or loudspeaker; Undo brings it back")
        column.addWidget(self.remove)
        self.faults = text()
        column.addWidget(self.faults)

    def _make_room(self, column: QVBoxLayout, tasks: Tasks) -> None:
        column.addWidget(small_heading("The room"))
        self.room_words = caption(wrap=True)
        column.addWidget(self.room_words)
        self.clap = ClapBox(tasks)
        column.addWidget(self.clap)
        column.addWidget(small_heading("What is running now"))
        self.running = RunningBox()
        column.addWidget(self.running)
        self.kind = Choice()
        self.kind.setAccessibleName("What else sounds in the room")
        self.kind.setToolTip(
            "Loudspeakers and noises: the map shows where the microphone hears them least"
        )
        self.kind.show_entries([(name, kind) for kind, name in THING_NAMES.items()])
        self.bring = QPushButton("Add")
        self.bring.setToolTip("Adds it at the right wall; drag it to where it is")
        column.addWidget(caption_of(self.kind, "What else sounds in the room"))
        column.addWidget(Beside(group(self.kind), group(self.bring)))

    # ── drawn ─────────────────────────────────────────────────────────────────────────────────
    def show_chosen(self, session: Session, hearing: Hearing, key: Key) -> None:
        """Draw what is chosen, and the room."""
        self.numbers.show_numbers(key.text, numbers_of(hearing.positions, key))
        things = {one.id: one for one in session.setup.placement.things}
        thing = things.get(key.id) if key.kind == "thing" else None
        self.is_on.setVisible(thing is not None)
        self.is_on.setChecked(thing is not None and thing.is_on)
        self.remove.setVisible(thing is not None or is_beside(hearing.positions, key))
        microphone = key.id if key.kind == "microphone" else ""
        mic = hearing.positions.microphone(microphone)
        self.shield.setVisible(mic is not None)
        self.shield.setChecked(mic is not None and mic.aim.has_shield)
        self.listen.show_microphone(session, microphone)
        self.spots.show_microphone(microphone)
        self.start.show_text(start_text(session, microphone))
        self.also.show_balance(
            microphone,
            balanced_text(session, microphone),
            can_move=bool(microphone) and has_two(session, microphone),
        )
        self.pickup.show_pair(
            pickup_text(session.setup, hearing.positions, microphone),
            recorded_pair(session, microphone),
        )
        self.stereo.show_facts(stereo_facts(session.setup, hearing.positions, microphone))
        faults = [*faults_of(hearing), *hollow_bodies(session)]
        if len(hearing.positions.sources) == 1:
            faults.append(ONE_SOURCE)
        self.faults.setText("\n".join(faults))
        self.faults.setVisible(bool(faults))
        self.room_words.setText(room_text(hearing))
        self.running.show_things(
            session.setup.placement.things, noise_text(session, microphone) if microphone else ""
        )

    def show_path(
        self,
        session: Session,
        hearing: Hearing,
        microphone: int | None,
        cell: tuple[int, int] | None,
    ) -> tuple[int, int] | None:
        """Draw one path, unless it is no longer there; gives back the one that is drawn."""
        counts = (len(hearing.positions.microphones), len(hearing.positions.sources))
        if cell is not None and (
            cell[0] != microphone or cell[0] >= counts[0] or cell[1] >= counts[1]
        ):
            cell = None
        for widget in (self.path_title, self.path, self.why):
            widget.setVisible(cell is not None)
        if cell is None:
            self.sum.show_sum(None, "")
            return None
        self.path_title.setText(path_title(hearing, *cell))
        both, words = drawn_sum(hearing, *cell, session.setup.room.furnishing)
        said = cell_of(hearing, *cell).said.partition(": ")[2]
        self.path.setText(f"{capital(said)}. {words}")
        self.sum.show_sum(both, words)
        return cell
