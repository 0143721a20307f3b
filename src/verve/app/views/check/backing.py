"""What is noted of a sound file; of a backing track where it begins, how loud it is played, its tempo and key."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.widgets.labels import Elided, caption_of
from verve.app.widgets.notes import Notes
from verve.app.widgets.number import NumberField
from verve.core.errors import InputError
from verve.core.session import Sound


class BackingFields(QWidget):
    """The fields; each one that is left is told."""

    changed = pyqtSignal(str, object)
    """What was changed, and the new values by name."""

    def __init__(self) -> None:
        super().__init__()
        self._sound: Sound | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 4, 0, 0)
        self._of_backing = QWidget()
        grid = QGridLayout(self._of_backing)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        self.offset = NumberField(
            "Offset", "s", low=-360_000, high=360_000,
            says="When it begins, in seconds after the recording does; with a minus before it",
        )  # fmt: skip
        self.gain = NumberField(
            "Own gain", "dB", low=-60, high=24,
            says="How much louder or softer it is played than it is",
        )  # fmt: skip
        self.tempo = NumberField(
            "Tempo", "bpm", low=1, high=1000, is_needed=False, says="Beats a minute, as a note"
        )
        self.key = QLineEdit()
        self.key.setAccessibleName("Key")
        self.key.setMaxLength(40)
        self.key.setPlaceholderText("not known")
        self.key.setToolTip("The key it is in, as a note: D minor")
        for column, (words, field) in enumerate(
            (
                ("offset", self.offset),
                ("own gain", self.gain),
                ("tempo", self.tempo),
                ("key", self.key),
            )
        ):
            grid.addWidget(caption_of(field, words), 0, column * 2)
            grid.addWidget(field, 0, column * 2 + 1)
            field.setFixedWidth(theme.px(92))
        self.silence = Elided()
        row = QHBoxLayout()
        row.addWidget(self._of_backing)
        row.addWidget(self.silence, 1)
        outer.addLayout(row)
        self.notes = Notes()
        self.notes.setAccessibleName("Notes about the sound file")
        self.notes.setPlaceholderText("Where it comes from, what to listen to")
        self.notes.setTabChangesFocus(True)
        self.notes.setMinimumHeight(theme.px(38))
        outer.addWidget(self.notes, 1)
        # ── connections ──
        self.offset.editingFinished.connect(lambda: self._number("offset", "offset_s", self.offset))
        self.gain.editingFinished.connect(lambda: self._number("own gain", "gain_db", self.gain))
        self.tempo.editingFinished.connect(lambda: self._number("tempo", "tempo_bpm", self.tempo))
        self.key.editingFinished.connect(self._key)
        self.notes.left.connect(self._leave_notes)

    def show_sound(self, sound: Sound, silence: str) -> None:
        """Draw what is noted of a file."""
        is_other = self._sound is None or sound.id != self._sound.id
        self._sound = sound
        self._of_backing.setVisible(sound.role == "backing")
        for field, value in (
            (self.offset, sound.offset_s),
            (self.gain, sound.gain_db),
            (self.tempo, sound.tempo_bpm),
        ):
            if is_other or not field.hasFocus():
                field.show_number(value)
        if is_other or not self.key.hasFocus():
            self.key.setText(sound.key)
        self.silence.show_text(silence)
        if (is_other or not self.notes.hasFocus()) and self.notes.toPlainText() != sound.notes:
            self.notes.setPlainText(sound.notes)

    def _number(self, what: str, name: str, field: NumberField) -> None:
        try:
            value = field.number()
        except InputError:
            # The field is framed and says why; what was before stays.
            return
        self.changed.emit(what, {name: value})

    def _key(self) -> None:
        self.changed.emit("key", {"key": " ".join(self.key.text().split())})

    def _leave_notes(self) -> None:
        if self._sound is not None and self.notes.toPlainText() != self._sound.notes:
            self.changed.emit("notes", {"notes": self.notes.toPlainText()[:4000]})
