"""One sound file whole: what it is, the signals it holds, its corridor over time, its places, noise, loudness."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.dropped import SOUND_FILTER
from verve.app.importing import Importing, is_there
from verve.app.views.check.backing import BackingFields
from verve.app.widgets.choice import Choice
from verve.app.widgets.course import Course
from verve.app.widgets.labels import Elided, caption_of, card, text
from verve.app.widgets.loudness import Loudness
from verve.app.widgets.pauses import Pauses
from verve.app.widgets.table import Table
from verve.core.assess import LineAssessment
from verve.core.check import NoisePicture, noise_fits
from verve.core.measure import Recording
from verve.core.recordings import (
    Guess,
    Place,
    places_of,
    sounds_of_take,
    sounds_without_take,
    with_takes,
)
from verve.core.session import Session, Sound, assign_signal, change_sound, remove_sound
from verve.core.sheets import (
    CHANNEL_HEAD,
    PLACE_HEAD,
    ROLE_SAYS,
    ROLES,
    channel_rows,
    guesses_text,
    pauses_text,
    place_rows,
    place_text,
    programme_text,
    silence_text,
    sound_text,
)

_BEFORE_S = 0.5
"""A place is heard from a little before it."""
_MOST_ROWS = 2
TABS = ("Places", "Noise in the pauses", "Loudness", "Notes")


class SoundDetails(QWidget):
    """The chosen sound file; what is written here is an edit of the session."""

    heard_from = pyqtSignal(float)
    """Somebody wants to hear a place."""

    def __init__(self, document: Document, importing: Importing) -> None:
        super().__init__()
        self._document, self._importing = document, importing
        self._sound: Sound | None = None
        self._channel = 0
        self._noise_of: object = None
        self._open_of: object = None
        self._fits = ""
        self._places: tuple[Place, ...] = ()
        self.guesses: dict[str, tuple[Guess, ...]] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        layout.setContentsMargins(12, 6, 12, 6)
        layout.setSpacing(4)
        outer.addWidget(frame, 1)
        layout.addLayout(self._make_head())
        self._says = Elided()
        layout.addWidget(self._says)
        self._fault = self._make_fault()
        layout.addWidget(self._fault)
        self.channels = Table(
            CHANNEL_HEAD,
            "Channels of the file, levels in dBFS",
            empty="The channels of the file stand here.",
            numbers={0, 2, 3, 4, 5, 6},
            stretched=(1,),
        )
        layout.addWidget(self.channels)
        layout.addLayout(self._make_signal())
        self.course = Course()
        layout.addWidget(self.course, 7)
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("What is shown of it")
        self.tabs.setToolTip("Places to listen to, the noise, the loudness, what is noted of it")
        self.tabs.setProperty("small", "true")
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        for name in TABS:
            self.tabs.addTab(name)
        layout.addWidget(self.tabs, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self._make_pages(), 4)
        # ── connections ──
        self.tabs.currentChanged.connect(self._pages.setCurrentIndex)
        self.name.editingFinished.connect(self._rename)
        self.role.activated.connect(self._choose_role)
        self.take_button.clicked.connect(self._log_as_take)
        self.all_button.clicked.connect(self._log_all)
        self.remove_button.clicked.connect(self._remove)
        self.signal.activated.connect(self._choose_signal)
        self.channels.asked.connect(self._choose_channel)
        self.places.asked.connect(self._hear)
        self.find_button.clicked.connect(self._find)
        self.again_button.clicked.connect(self._read_again)
        self.course.viewed.connect(self.loudness.view)
        self.backing.changed.connect(self._edit)

    # ── putting together ──────────────────────────────────────────────────────────────────────
    def _make_head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the sound file in the session")
        self.name.setToolTip("What it is called here; the file keeps its own name")
        self.name.setMaxLength(80)
        self.role = Choice()
        self.role.setAccessibleName("What it is")
        self.role.setToolTip("A take of signals, a measurement, or a backing track")
        for index, (key, words) in enumerate(ROLES.items()):
            self.role.addItem(words, key)
            self.role.setItemData(index, ROLE_SAYS[key], Qt.ItemDataRole.ToolTipRole)
        self.take_button = QPushButton("Log as a take")
        self.take_button.setToolTip(
            "Puts it under Takes with everything that is set now; files imported with it that hold the other "
            "signals come along"
        )
        self.all_button = QPushButton()
        self.all_button.setToolTip(
            "Every file that holds a signal and is in no take yet: those recorded together are one take"
        )
        self.remove_button = QPushButton("Remove")
        self.remove_button.setAccessibleName("Remove this sound file")
        self.remove_button.setToolTip("Takes it off the session; the file stays where it is")
        row.addWidget(self.name, 1)
        for widget in (self.role, self.take_button, self.all_button, self.remove_button):
            row.addWidget(widget)
        return row

    def _make_fault(self) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        self._fault_words = text()
        self.find_button = QPushButton("Find the file…")
        self.find_button.setToolTip("Say where it lies now; it is known by what it holds")
        self.again_button = QPushButton("Read it again")
        self.again_button.setToolTip("Tries once more to read the file")
        row.addWidget(self._fault_words, 1)
        row.addWidget(self.find_button)
        row.addWidget(self.again_button)
        return made

    def _make_signal(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.signal = Choice()
        self.signal.setAccessibleName("The signal this channel holds")
        self.signal.setToolTip(
            "Which signal of the session was recorded there; none for something else"
        )
        self._signal_of = caption_of(self.signal, "This channel holds")
        self._guessed = Elided()
        row.addWidget(self._signal_of)
        row.addWidget(self.signal)
        row.addWidget(self._guessed, 1)
        return row

    def _make_pages(self) -> QStackedWidget:
        self._pages = QStackedWidget()
        self.places = Table(
            PLACE_HEAD,
            "Places to listen to",
            empty="Where it touches the ceiling, breaks off, pops or falls silent is listed here once it is read.",
            stretched=(2,),
        )
        self.places.setToolTip("Press a row, or Return on it, to hear it from there")
        self._pages.addWidget(self.places)
        self.pauses, self._pauses_says = Pauses(), Elided()
        self._pages.addWidget(_below(self.pauses, self._pauses_says))
        self.loudness, self._loudness_says = Loudness(), Elided()
        self._pages.addWidget(_below(self.loudness, self._loudness_says))
        self.backing = BackingFields()
        self._pages.addWidget(self.backing)
        return self._pages

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def heard_channel(self, sound: Sound) -> int | None:
        """The channel that is heard: both sides of a stereo file, else the one that is looked at."""
        return None if sound.channels <= 2 else self._channel

    def show_sound(self, sound: Sound | None) -> None:
        """Draw a sound file."""
        if sound is None or self._sound is None or sound.id != self._sound.id:
            self._channel = 0
        self._sound = sound
        if sound is None:
            self.course.show_recording(None, 0, None, ())
            return
        self._channel = min(self._channel, sound.channels - 1)
        self._show_head(sound)
        self._show_channels(sound)
        recording = self._importing.recording(sound)
        if recording is None:
            self._importing.want(sound)
        self._show_fault(sound, is_known=recording is not None)
        signal = sound.signal(self._channel)
        item = None if signal is None else self._document.assessment.line(signal)
        self._places = () if recording is None else places_of(recording, self._channel)
        self.course.show_recording(recording, self._channel, item, self._places, sound.id)
        self.places.show_rows(place_rows(self._places))
        self.pauses.show_recording(recording, self._channel)
        self.loudness.show_recording(recording)
        self._show_computed_noise(recording, item)
        self._say_pauses(recording)
        self._loudness_says.show_text("" if recording is None else programme_text(recording))
        self.backing.show_sound(sound, silence_text(sound))

    def _say_pauses(self, recording: Recording | None) -> None:
        said = "" if recording is None else pauses_text(recording, self._channel)
        self._pauses_says.show_text(f"{said} {self._fits}".strip())

    def _show_computed_noise(
        self, recording: Recording | None, item: LineAssessment | None
    ) -> None:
        """Beside the pauses what is computed of them, worked out beside the window."""
        key = (recording, self._channel, None if item is None else item.state)
        if self._noise_of == key:
            return
        self._noise_of, self._fits = key, ""
        self.pauses.show_computed(None)
        if recording is None or item is None:
            return
        channel = self._channel

        def done(found: NoisePicture | None) -> None:
            if self._noise_of != key or found is None:
                return
            self.pauses.show_computed(found)
            self._fits = noise_fits(found, recording.course.spectra[channel])
            self._say_pauses(recording)

        self._importing.want_noise(item, recording.sample_rate_hz, done)

    def _show_head(self, sound: Sound) -> None:
        if not (self.name.hasFocus() and self.name.isModified()):
            self.name.setText(sound.name)
        self.role.setCurrentIndex(self.role.findData(sound.role))
        self._show_open()
        notes = "Backing track" if sound.role == "backing" else TABS[-1]
        self.tabs.setTabText(len(TABS) - 1, notes)
        self.take_button.setEnabled(sound.role == "take" and any(sound.signals))
        rate_hz = self._document.session.setup.audio.sample_rate_hz
        said = f"{sound_text(sound, rate_hz)}  ·  {place_text(sound.file)}"
        recording = self._importing.recording(sound)
        if recording is not None and (missing_s := recording.channels[0].missing_s):
            said = f"The file breaks off: {missing_s:.1f} s are missing.  ·  {said}"
        self._says.show_text(said)

    def _show_open(self) -> None:
        """How many takes the files make that are in none; told anew when files or takes have changed."""
        session = self._document.session
        if self._open_of == (session.sounds, session.takes):
            return
        self._open_of = session.sounds, session.takes
        count = len(sounds_without_take(session))
        self.all_button.setText(f"Log all as {count} takes")
        self.all_button.setVisible(count > 1)

    def _show_channels(self, sound: Sound) -> None:
        lines = self._document.session.setup.lines
        names = {line.id: line.name for line in lines}
        self.channels.show_rows(channel_rows(sound, names))
        self.channels.setCurrentCell(self._channel, 0)
        header = self.channels.horizontalHeader()
        assert header is not None
        rows = sum(self.channels.rowHeight(row) for row in range(min(sound.channels, _MOST_ROWS)))
        self.channels.setFixedHeight(header.sizeHint().height() + rows + 6)
        self._signal_of.setText(
            "This file holds" if sound.channels == 1 else f"Channel {self._channel + 1} holds"
        )
        entries = [("none of the signals", ""), *((line.name, line.id) for line in lines)]
        self.signal.show_entries(entries)
        self.signal.setCurrentIndex(max(0, self.signal.findData(sound.signal(self._channel) or "")))
        self.signal.setEnabled(sound.role != "backing")
        said = guesses_text(self.guesses.get(sound.id, ()), names)
        if sound.role == "backing":
            said = "a backing track takes no input and no performer"
        elif said:
            said = f"taken for: {said}"
        self._guessed.show_text(said)

    def _show_fault(self, sound: Sound, *, is_known: bool) -> None:
        fault = "" if is_known else self._importing.faults.get(sound.content, "")
        is_lost = not is_there(sound)
        if is_lost and not is_known:
            fault = (
                fault or f"{place_text(sound.file)} is not there any more, or is another file now."
            )
        self._fault_words.setText(fault)
        self._fault.setVisible(bool(fault))
        self.find_button.setVisible(is_lost)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _edit(self, what: str, changes: object) -> None:
        sound = self._sound
        assert isinstance(changes, dict)
        if sound is None:
            return
        changed = sound.model_copy(update=changes)
        if changed != sound and not self._document.edit(
            f"{what} of {sound.name}", lambda session: change_sound(session, changed)
        ):
            self.show_sound(sound)

    def _rename(self) -> None:
        if self.name.isModified() and self.name.text().strip():
            self.name.setModified(False)
            self._edit("name", {"name": " ".join(self.name.text().split())})

    def _choose_role(self) -> None:
        role = self.role.currentData()
        self._edit("kind", {"role": role} | ({"signals": ()} if role == "backing" else {}))

    def _choose_channel(self, channel: int) -> None:
        self._channel = channel
        self.show_sound(self._sound)

    def _choose_signal(self) -> None:
        sound = self._sound
        if sound is None:
            return
        chosen, channel = self.signal.currentData() or None, self._channel
        self.guesses.pop(sound.id, None)
        if not self._document.edit(
            f"signal of {sound.name}",
            lambda session: assign_signal(session, sound.id, channel, chosen),
        ):
            self.show_sound(sound)

    def _log_as_take(self) -> None:
        if self._sound is not None:
            self._log(
                f"take from {self._sound.name}",
                [sounds_of_take(self._document.session, self._sound)],
            )

    def _log_all(self) -> None:
        groups = sounds_without_take(self._document.session)
        self._log(f"{len(groups)} takes from sound files", groups)

    def _log(self, what: str, groups: Sequence[Sequence[Sound]]) -> None:
        assessment = self._document.assessment
        self._document.edit(
            what, lambda session: with_takes(session, assessment, groups, _recorded_at)
        )

    def _remove(self) -> None:
        sound = self._sound
        if sound is not None:
            remove: Callable[[Session], Session] = lambda session: remove_sound(session, sound.id)  # noqa: E731
            self._document.edit(f"removal of {sound.name}", remove)

    def _hear(self, row: int) -> None:
        if row < len(self._places):
            self.heard_from.emit(max(0.0, self._places[row].start_s - _BEFORE_S))

    def _find(self) -> None:
        sound = self._sound
        if sound is None:
            return
        start = str(Path(sound.file).parent)
        name, _ = QFileDialog.getOpenFileName(self, f"Where is {sound.name}?", start, SOUND_FILTER)
        if name:
            self._importing.place_is(sound, Path(name))

    def _read_again(self) -> None:
        if self._sound is not None:
            self._importing.again(self._sound)
            self.show_sound(self._sound)


def _below(picture: QWidget, says: QWidget) -> QWidget:
    made = QWidget()
    column = QVBoxLayout(made)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(2)
    column.addWidget(picture, 1)
    column.addWidget(says)
    return made


def _recorded_at(sound: Sound) -> str:
    """When a file was written last, as recorders write it when a take ends; else when it was brought in."""
    try:
        at = datetime.fromtimestamp(Path(sound.file).stat().st_mtime).astimezone()
    except (OSError, ValueError):
        return sound.added_at
    return at.isoformat(timespec="seconds")
