"""The tuner: from a player, a file or the machine's input; against all notes or an instrument's strings."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QLineEdit, QPushButton, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.document import Document
from verve.app.listening import Listening
from verve.app.tasks import Tasks
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import Elided, caption_of, card
from verve.app.widgets.number import NumberField
from verve.app.widgets.tuning import TuningDisplay
from verve.core.errors import InputError
from verve.core.measure import Reading
from verve.core.recordings import Tuning, nearest_string, tuning_of_source, tunings
from verve.core.session import set_a4
from verve.core.sheets import string_texts, tuned_text
from verve.devices import TuneRequest

_LIVE, _SIGNAL, _FILE = "live", "signal", "file"
_OWN = "own"
_ALL = "All notes"


class TunerPage(QWidget):
    """Chooses what is listened to and what it is held against; shows what is heard."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document = document
        self.listening = Listening(tasks)
        self._last: Reading | None = None
        self._cents: dict[int, float] = {}
        self._is_chosen = False
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        outer.addWidget(frame, 1)
        layout.addWidget(self._make_controls())
        self._says = Elided()
        layout.addWidget(self._says)
        self.display = TuningDisplay()
        layout.addWidget(self.display, 1)
        # ── connections ──
        self.start_button.clicked.connect(self._start_or_stop)
        self.source.activated.connect(self._choose_source)
        self.tuning.activated.connect(self._choose_tuning)
        self.own.editingFinished.connect(self._forget)
        self.a4.editingFinished.connect(self._choose_a4)
        self.listening.heard.connect(self._on_heard)
        self.listening.state_changed.connect(self._show_state)
        self.listening.told.connect(self._say)

    def _make_controls(self) -> QWidget:
        self.start_button = QPushButton("Start the tuner")
        self.start_button.setProperty("strong", "true")
        self.start_button.setToolTip("Listens to what is chosen, until it is stopped")
        self.source, self.tuning = Choice(), Choice()
        self.source.setAccessibleName("Listen to")
        self.source.setToolTip(
            "A player of the simulated interface, a sound file, or this machine’s audio input"
        )
        self.tuning.setAccessibleName("Hold against")
        self.tuning.setToolTip("All twelve notes, or the open strings of an instrument")
        self.tuning.setMaximumWidth(theme.px(250))
        self.own = QLineEdit()
        self.own.setAccessibleName("Custom tuning")
        self.own.setPlaceholderText("D2 A2 D3 G3 A3 D4")
        self.own.setToolTip("The open strings, lowest first, with spaces between: D2 A2 D3")
        self.own.setMaximumWidth(theme.px(170))
        self.a4 = NumberField(
            "A4", "Hz", low=300, high=600, says="The pitch that all tune to, 300 to 600 Hz"
        )
        self.a4.setFixedWidth(theme.px(84))
        first = group(self.start_button, caption_of(self.source, "listen to"), self.source)
        second = group(
            caption_of(self.tuning, "against"),
            self.tuning,
            self.own,
            caption_of(self.a4, "A4"),
            self.a4,
        )
        return Beside(first, second)

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        session = self._document.session
        items = [item for item in self._document.assessment.lines if item.route.is_complete]
        sources = [(f"{item.line.name}, simulated", f"{_SIGNAL}:{item.line.id}") for item in items]
        sources += [(f"{sound.name}, file", f"{_FILE}:{sound.id}") for sound in session.sounds]
        self.source.show_entries([*sources, ("Audio input of this machine", _LIVE)])
        choices = [(_ALL, ""), *((f"{t.name}: {t.notes}", t.notes) for t in tunings())]
        self.tuning.show_entries([*choices, ("Custom", _OWN)])
        if not self._is_chosen:
            self._choose_usual()
        if not self.a4.hasFocus():
            self.a4.show_number(session.a4_hz)
        self._show_state()
        self._show()

    def _choose_usual(self) -> None:
        """The selected signal, against its own strings."""
        item = self._document.line
        if item is not None:
            self.source.setCurrentIndex(max(0, self.source.findData(f"{_SIGNAL}:{item.line.id}")))
            self._usual_tuning(item.line.id)

    def _usual_tuning(self, line_id: str) -> None:
        item = self._document.assessment.line(line_id)
        source = None if item is None else item.route.source
        found = None if source is None else tuning_of_source(source.figures)
        if found is not None:
            self.tuning.setCurrentIndex(max(0, self.tuning.findData(found.notes)))
        else:
            self.tuning.setCurrentIndex(0)

    def _show_state(self) -> None:
        is_on = self.listening.is_on
        self.start_button.setText("Stop the tuner" if is_on else "Start the tuner")
        self.own.setVisible(self.tuning.currentData() == _OWN)
        if is_on:
            self._says.show_text("Listening. Play one note at a time.")
        elif self._says.text().startswith("Listening"):
            self._says.show_text("")

    def chosen_tuning(self) -> Tuning | None:
        """The strings that are held against; None for all notes, or a text that is no tuning."""
        notes = self.tuning.currentData()
        if notes == _OWN:
            notes = self.own.text()
        if not notes:
            return None
        try:
            return Tuning.of("", notes)
        except InputError as error:
            self._says.show_text(str(error))
            return None

    def _show(self, reading: Reading | None = None) -> None:
        shown = reading or self._last
        tuning = self.chosen_tuning()
        a4_hz = self._document.session.a4_hz
        if shown is None:
            strings = [] if tuning is None else string_texts(tuning, {}, None)
            self.display.show_tuned(None, is_now=False, strings=strings)
            return
        nearest = None if tuning is None else nearest_string(tuning, shown.pitch_hz, a4_hz)
        if reading is not None and reading.is_settled and nearest is not None:
            self._cents[nearest[0].number] = nearest[1]
        meant = nearest[0].number if nearest is not None and reading is not None else None
        strings = [] if tuning is None else string_texts(tuning, self._cents, meant)
        tuned = tuned_text(shown, a4_hz, nearest, is_now=reading is not None)
        self.display.show_tuned(tuned, is_now=reading is not None, strings=strings)

    def _on_heard(self, reading: Reading | None) -> None:
        if reading is not None:
            self._last = reading
        self._show(reading)

    def _say(self, sentence: str) -> None:
        self._says.show_text(sentence)
        self._document.refused.emit(sentence)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _forget(self) -> None:
        self._last = None
        self._cents.clear()
        self._says.show_text("")
        self._show_state()
        self._show()

    def _choose_source(self) -> None:
        self._is_chosen = True
        kind, _, key = str(self.source.currentData()).partition(":")
        if kind == _SIGNAL:
            self._document.select_line(key)
            self._usual_tuning(key)
        self._forget()
        if self.listening.is_on:
            self.start()

    def _choose_tuning(self) -> None:
        self._is_chosen = True
        self._forget()

    def _choose_a4(self) -> None:
        try:
            a4_hz = self.a4.number()
        except InputError:
            # The field is framed and says why.
            return
        if a4_hz is not None and a4_hz != self._document.session.a4_hz:
            self._document.edit("reference pitch", lambda session: set_a4(session, a4_hz))
            self._forget()
            if self.listening.is_on:
                self.start()

    def _start_or_stop(self) -> None:
        if self.listening.is_on:
            self.listening.stop()
        else:
            self.start()

    def start(self) -> None:
        """Listen to what is chosen."""
        session = self._document.session
        kind, _, key = str(self.source.currentData()).partition(":")
        if kind == _LIVE:
            self.listening.begin_live(session.setup.audio.sample_rate_hz, session.a4_hz)
            return
        if kind == _SIGNAL:
            self.listening.begin(TuneRequest(session=session, line=key))
            return
        sound = next((one for one in session.sounds if one.id == key), None)
        if sound is not None:
            request = TuneRequest(session=session, path=Path(sound.file))
            self.listening.begin(request)

    def stop(self) -> None:
        """Listen no longer."""
        self.listening.stop()
