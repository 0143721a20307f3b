"""Spots that a microphone was tried at: noted, heard one after the other equally loud, blind if wanted, chosen."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QLineEdit, QPushButton, QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.rendered import Rendered
from verve.app.tasks import Tasks
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of, small_heading, text
from verve.core.air import positions_of
from verve.core.errors import VerveError
from verve.core.place import spot_line, spots_of
from verve.core.session import (
    Session,
    Spot,
    change_spot,
    choose_spot,
    note_spot,
    remove_spot,
    spot_of,
)

if TYPE_CHECKING:
    from verve.app.player import Player

_LANE = "hearing a spot"
_SIMULATED = "Simulated players"


class SpotsBox(QWidget):
    """The spots of one microphone; not there without a microphone."""

    def __init__(self, document: Document, tasks: Tasks, find_player: Callable[[], Player]) -> None:
        super().__init__()
        self._document = document
        self._rendered = Rendered(_LANE, tasks, find_player)
        self._microphone = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(small_heading("Spots tried"))
        self.name = QLineEdit()
        self.name.setMaxLength(80)
        self.name.setAccessibleName("Name of the spot")
        self.name.setPlaceholderText("Name, if you like")
        self.name.setToolTip("What the spot is called; without a name it gets a number")
        self.note = QPushButton("Note this spot")
        self.note.setToolTip("Keeps where the microphone is now, to compare it with other places")
        self.note.clicked.connect(self._note)
        self.name.returnPressed.connect(self._note)
        column.addWidget(Beside(group(self.name), group(self.note)))
        self.which = Choice()
        self.which.setAccessibleName("Spot")
        self.which.setToolTip("Spots of this microphone, in the order they were noted")
        self.which.currentIndexChanged.connect(lambda _: self._show_spot())
        self._which_label = caption_of(self.which, "Spot")
        column.addWidget(self._which_label)
        column.addWidget(self.which)
        self.said = text()
        column.addWidget(self.said)
        self.recording = Choice()
        self.recording.setAccessibleName("What is heard of it")
        self.recording.setToolTip(
            "A sound file of the session that was recorded there; without one, simulated players"
        )
        self.recording.activated.connect(self._record)
        self._recording_label = caption_of(self.recording, "What is heard of it")
        column.addWidget(self._recording_label)
        column.addWidget(self.recording)
        self.hear = QPushButton("Hear the spot")
        self.hear.setToolTip("Always equally loud. Press again for silence")
        self.hear.clicked.connect(self._hear)
        self.blind = QPushButton("Compare blind…")
        self.blind.setToolTip(
            "All spots as letters in a new order; which is which is told when you have chosen"
        )
        self.blind.clicked.connect(self._compare)
        self.choose = QPushButton("Put it there")
        self.choose.setToolTip(
            "The microphone goes to this spot, and the session remembers that it was chosen"
        )
        self.choose.clicked.connect(self._choose)
        self.remove = QPushButton("Remove the spot")
        self.remove.setToolTip("Forgets the spot; the microphone stays where it is")
        self.remove.clicked.connect(self._remove)
        self._deeds = Beside(group(self.hear, self.blind), group(self.choose, self.remove))
        column.addWidget(self._deeds)

    # ── drawn ─────────────────────────────────────────────────────────────────────────────────
    def show_microphone(self, microphone: str) -> None:
        """Which one it is; empty for none."""
        self.setVisible(bool(microphone))
        if microphone != self._microphone:
            self._microphone = microphone
            self.name.clear()
        spots = spots_of(self._session, microphone)
        now = self.which.currentData()
        self.which.blockSignals(True)
        self.which.show_entries([(one.name, one.id) for one in spots])
        known = [one.id for one in spots]
        self.which.setCurrentIndex(known.index(now) if now in known else len(known) - 1)
        self.which.blockSignals(False)
        for widget in (
            self._which_label, self.which, self.said, self._recording_label, self.recording,
            self._deeds,
        ):  # fmt: skip
            widget.setVisible(bool(spots))
        self.blind.setEnabled(len(spots) > 1)
        self._show_spot()

    @property
    def _session(self) -> Session:
        return self._document.session

    @property
    def spot(self) -> Spot | None:
        """The one that is looked at."""
        key = self.which.currentData()
        return next((one for one in self._session.spots if one.id == key), None)

    def _show_spot(self) -> None:
        spot = self.spot
        if spot is None:
            return
        self.said.setText(spot_line(self._session, spot))
        sounds = [(one.name, one.id) for one in self._session.sounds]
        self.recording.show_entries([(_SIMULATED, ""), *sounds])
        keys = ["", *(key for _, key in sounds)]
        self.recording.setCurrentIndex(keys.index(spot.sound or ""))

    # ── pressed ───────────────────────────────────────────────────────────────────────────────
    def _note(self) -> None:
        microphone, name = self._microphone, self.name.text()
        placed = positions_of(self._session.setup).microphone(microphone)
        if placed is None:
            return
        noted: list[str] = []

        def note(now: Session) -> Session:
            session, key = note_spot(now, microphone, placed.aim, name)
            noted[:] = [key]
            return session

        self._document.edit("noted spot", note)
        self.name.clear()
        if noted:
            self.which.setCurrentIndex(self.which.findData(noted[0]))

    def _record(self, _: int) -> None:
        spot, sound = self.spot, self.recording.currentData() or None
        if spot is not None and sound != spot.sound:
            self._document.edit(
                "recording of a spot",
                lambda now: change_spot(
                    now, spot_of(now, spot.id).model_copy(update={"sound": sound})
                ),
            )

    def _choose(self) -> None:
        spot = self.spot
        if spot is not None:
            self.put(spot.id)

    def put(self, spot_id: str) -> None:
        """The microphone at a spot."""
        at = datetime.now().astimezone().isoformat(timespec="seconds")
        self._document.edit("chosen spot", lambda now: choose_spot(now, spot_id, at))

    def _remove(self) -> None:
        spot = self.spot
        if spot is not None:
            self._document.edit("removed spot", lambda now: remove_spot(now, spot.id))

    def _hear(self) -> None:
        spot = self.spot
        if not self._rendered.stopped() and spot is not None:
            self.play(spot.id)

    def play(self, spot_id: str) -> None:
        """Make a spot be heard, whatever is heard now."""
        session = self._session

        def write(path: Path, _: object) -> Path:
            # Imported here: the step is opened before what renders is loaded.
            from verve.devices import write_noted

            return write_noted(session, spot_id, path)

        rate_hz = session.setup.audio.sample_rate_hz
        self._rendered.play(write, rate_hz, self._document.refused.emit)

    def _compare(self) -> None:
        from verve.app.dialogs.blind import BlindDialog

        spots = spots_of(self._session, self._microphone)
        try:
            dialog = BlindDialog(spots, self.play, self)
        except VerveError as error:
            self._document.refused.emit(str(error))
            return
        if dialog.exec() and dialog.chosen is not None:
            self.put(dialog.chosen)
        self._rendered.stopped()
