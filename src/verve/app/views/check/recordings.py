"""Sound files of the session: brought in, heard from any place, level-matched; one of them whole."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QProgressBar,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.dropped import SOUND_FILTER
from verve.app.importing import Importing
from verve.app.player import Player
from verve.app.views.check.sound_details import SoundDetails
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of, card, heading, text
from verve.core.recordings import playback_gain_db, raised_gain_db
from verve.core.session import Sound
from verve.core.sheets import list_text, time_text
from verve.core.soundfiles import PlayRequest

_USUAL_LEVEL_DB = -12
_LIST_PX = 168
_RAISED = "raised"


class RecordingsPage(QWidget):
    """The list of sound files, what is heard of them, and the chosen one."""

    def __init__(self, document: Document, importing: Importing, player: Player) -> None:
        super().__init__()
        self._document, self._importing, self._player = document, importing, player
        self._sound_id = ""
        self._drawing = False
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        self._empty_card, empty = card()
        empty.addStretch(1)
        empty.addWidget(heading("No sound file yet"))
        empty.addWidget(
            text(
                "Drop sound files here: WAV, FLAC, AIFF, Ogg, MP3, of any length, rate and number of channels. Each "
                "is measured, assigned to its signal, and can be heard from any place: a test take, the noise of the "
                "room, the backing track. The files themselves are never changed."
            )
        )
        self.first_button = QPushButton("Import sound files…")
        self.first_button.setProperty("strong", "true")
        self.first_button.setToolTip("Choose sound files to be measured; they stay where they are")
        empty.addWidget(self.first_button, 0, Qt.AlignmentFlag.AlignLeft)
        empty.addStretch(2)
        outer.addWidget(self._empty_card, 1)
        outer.addWidget(self._make_reading())
        self._full = QWidget()
        outer.addWidget(self._full, 1)
        whole = QHBoxLayout(self._full)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(8)
        left = QVBoxLayout()
        self.import_button = QPushButton("Import…")
        self.import_button.setToolTip(
            "Choose sound files to be measured; or drop them on the window"
        )
        left.addWidget(self.import_button)
        self.list = QListWidget()
        self.list.setAccessibleName("Sound files of the session")
        self.list.setFixedWidth(theme.px(_LIST_PX))
        self.list.setSpacing(2)
        self.list.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        left.addWidget(self.list, 1)
        whole.addLayout(left)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(self._make_listening())
        self.details = SoundDetails(document, importing)
        right.addWidget(self.details, 1)
        whole.addLayout(right, 1)
        # ── connections ──
        self.first_button.clicked.connect(self.choose_files)
        self.import_button.clicked.connect(self.choose_files)
        self.cancel_button.clicked.connect(importing.cancel)
        self.list.currentRowChanged.connect(self._row_changed)
        self.listen_button.clicked.connect(self._listen_or_stop)
        self.details.course.play_wanted.connect(self._listen_or_stop)
        self.details.course.chosen.connect(self._go_to)
        self.details.heard_from.connect(self._hear_from)
        self.details.course.stretch_changed.connect(self._again_if_playing)
        self.loop.toggled.connect(lambda _: self._again_if_playing())
        self.match.activated.connect(lambda _: self._again_if_playing())
        self.level.valueChanged.connect(lambda _: self._again_if_playing())
        silence = QShortcut(QKeySequence("Esc"), self)
        silence.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        silence.activated.connect(player.stop)
        silence.activatedAmbiguously.connect(player.stop)
        importing.progressed.connect(self._show_reading)
        importing.changed.connect(self.refresh)
        importing.imported.connect(self._on_imported)
        player.moved.connect(self._on_moved)
        player.state_changed.connect(self._show_playing)

    def _make_reading(self) -> QWidget:
        self._reading = QWidget()
        row = QHBoxLayout(self._reading)
        row.setContentsMargins(0, 0, 0, 0)
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setAccessibleName("Reading sound files")
        self.cancel_button = QPushButton("Cancel")
        self.cancel_button.setAccessibleName("Cancel reading")
        self.cancel_button.setToolTip("Reads no further; nothing of it comes into the session")
        row.addWidget(self.progress, 1)
        row.addWidget(self.cancel_button)
        self._reading.hide()
        return self._reading

    def _make_listening(self) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self.listen_button = QPushButton("Listen")
        self.listen_button.setProperty("strong", "true")
        self.listen_button.setToolTip(
            "Plays from the chosen place; Space in the picture does, too, Esc ends it. Headphones down the first time"
        )
        self.loop = QCheckBox("Loop")
        self.loop.setToolTip("Over and over: the chosen stretch, or all of it")
        self.match = Choice()
        self.match.setAccessibleName("Level matched to")
        self.match.setToolTip(
            "The louder of two always seems better: this one is turned down to the loudness of the other; or raised "
            "to its target, as it will be in the end, with its noise"
        )
        self.level = QSpinBox()
        self.level.setRange(-60, 0)
        self.level.setValue(_USUAL_LEVEL_DB)
        self.level.setSuffix(" dB")
        self.level.setAccessibleName("Playback level")
        self.level.setToolTip("How loud files are played here; loud sound over hours harms hearing")
        self._where = text(wrap=False)
        self._where.setFont(theme.numbers(10.5))
        row.addWidget(self.listen_button)
        row.addWidget(self._where)
        row.addStretch(1)
        row.addWidget(self.loop)
        row.addWidget(caption_of(self.match, "level"))
        row.addWidget(self.match)
        row.addWidget(self.level)
        return made

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    @property
    def sound(self) -> Sound | None:
        """The chosen file."""
        return next((s for s in self._document.session.sounds if s.id == self._sound_id), None)

    def refresh(self) -> None:
        """Draw the document as it is now."""
        session = self._document.session
        sounds = session.sounds
        self._empty_card.setVisible(not sounds)
        self._full.setVisible(bool(sounds))
        self._show_reading()
        if self.sound is None:
            self._player.stop()
            self._sound_id = sounds[0].id if sounds else ""
        names = {line.id: line.name for line in session.setup.lines}
        self._drawing = True
        while self.list.count() > len(sounds):
            self.list.takeItem(self.list.count() - 1)
        while self.list.count() < len(sounds):
            self.list.addItem("")
        for row, sound in enumerate(sounds):
            entry = self.list.item(row)
            assert entry is not None
            entry.setText(list_text(sound, names))
            entry.setToolTip(sound.file)
            if sound.id == self._sound_id:
                self.list.setCurrentRow(row)
        self._show_match(sounds)
        self._drawing = False
        self.details.show_sound(self.sound)
        self._show_playing()

    def _show_match(self, sounds: tuple[Sound, ...]) -> None:
        others = [one for one in sounds if one.id != self._sound_id]
        self.match.show_entries(
            [
                ("as recorded", ""),
                ("raised to its target", _RAISED),
                *((f"as loud as {one.name}", one.id) for one in others),
            ]
        )

    def _show_reading(self) -> None:
        reading = self._importing.reading
        self._reading.setVisible(reading is not None)
        if reading is not None:
            self.progress.setValue(round(reading.share * 1000))
            of = f" ({reading.number} of {reading.count})" if reading.count > 1 else ""
            self.progress.setFormat(f"Reading {reading.name}{of}: {reading.share:.0%}")

    def _show_playing(self) -> None:
        self.listen_button.setText("Stop" if self._player.is_playing else "Listen")
        sound = self.sound
        if sound is not None:
            here = time_text(self.details.course.place_s, 1)
            self._where.setText(f"{here} of {time_text(sound.seconds, 1)}")

    def _on_moved(self, place_s: float) -> None:
        if self.isVisible():
            self.details.course.go_to(place_s)
            self._show_playing()

    def _on_imported(self, came: object) -> None:
        from verve.core.recordings import BroughtIn

        assert isinstance(came, BroughtIn)
        if came.sounds:
            self._player.stop()
            self._sound_id = came.sounds[0].id
            for sound, guesses in zip(came.sounds, came.guesses, strict=True):
                self.details.guesses[sound.id] = guesses
            self.details.course.go_to(0.0)
        elif came.known:
            self._sound_id = came.known[0].id
        self.refresh()

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def choose_files(self) -> None:
        """Ask for sound files, and bring them in."""
        path = self._document.path
        start = str(path.parent if path else Path.home())
        names, _ = QFileDialog.getOpenFileNames(self, "Import sound files", start, SOUND_FILTER)
        if names:
            self._importing.add([Path(name) for name in names])

    def choose(self, sound_id: str) -> None:
        """Put a file in front."""
        self._player.stop()
        self._sound_id = sound_id
        self.details.course.go_to(0.0)
        self.refresh()

    def _row_changed(self, row: int) -> None:
        sounds = self._document.session.sounds
        if not self._drawing and 0 <= row < len(sounds):
            self.choose(sounds[row].id)

    def _go_to(self, place_s: float) -> None:
        self.details.course.go_to(place_s)
        self._show_playing()
        self._again_if_playing()

    def _hear_from(self, place_s: float) -> None:
        self.details.course.go_to(place_s)
        self.listen()

    def _again_if_playing(self) -> None:
        if self._player.is_playing:
            self.listen()

    def _listen_or_stop(self) -> None:
        if self._player.is_playing:
            self._player.stop()
        else:
            self.listen()

    def gain_db(self, sound: Sound) -> float:
        """How much louder or softer than it is a file is played now."""
        other = next(
            (s for s in self._document.session.sounds if s.id == self.match.currentData()), None
        )
        level_db, channel = float(self.level.value()), self.details.heard_channel(sound)
        if self.match.currentData() == _RAISED:
            # What stands in the pauses is heard as loud as it will be in the finished recording.
            return level_db + raised_gain_db(sound, self._target_dbfs(sound, channel), channel)
        return playback_gain_db(sound, level_db, other, channel)

    def _target_dbfs(self, sound: Sound, channel: int | None) -> float:
        """Where the loudest passage of the signal that a file holds belongs; of another file, full scale."""
        signal = sound.signal(channel or 0)
        item = None if signal is None else self._document.assessment.line(signal)
        return 0.0 if item is None else item.target.target_dbfs

    def listen(self) -> None:
        """Play the chosen file from the chosen place."""
        sound = self.sound
        if sound is None:
            return
        course = self.details.course
        loop = None
        if self.loop.isChecked():
            loop = course.stretch or (0.0, sound.seconds)
        start_s = course.place_s if course.place_s < sound.seconds - 0.02 else 0.0
        request = PlayRequest(
            path=Path(sound.file),
            start_s=start_s,
            loop_s=loop,
            gain_db=self.gain_db(sound),
            channel=self.details.heard_channel(sound),
        )
        self._player.play(request, self._document.session.setup.audio.sample_rate_hz)
