"""A clap from a sound file: how long the room rings, before and after something soft was hung up."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption, text
from verve.core.place import CLAP_HOW, clap_in, clap_text, usable_s

if TYPE_CHECKING:
    from verve.core.measure import Clap

_LONGEST_S = 60.0
_SOUNDS = "Sound files (*.wav *.flac *.aiff *.aif *.ogg *.mp3)"


class ClapBox(QWidget):
    """Claps of this session’s room, the last one told, and what it gives to the room."""

    used = pyqtSignal(float)
    """A reverberation time, in seconds, that the room shall have."""
    failed = pyqtSignal(str)

    def __init__(self, tasks: Tasks) -> None:
        super().__init__()
        self._tasks = tasks
        self._claps: list[Clap] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.how = caption(CLAP_HOW, wrap=True)
        column.addWidget(self.how)
        self.button = QPushButton("A clap from a file…")
        self.button.setToolTip("Reads how long the room rings from a recorded clap")
        self.button.clicked.connect(self._choose)
        column.addWidget(self.button)
        self.said = text()
        column.addWidget(self.said)
        self.use = QPushButton()
        self.use.setToolTip("Computes with this reverberation time from now on")
        self.use.clicked.connect(self._use)
        column.addWidget(self.use)
        self._show()

    def _choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A clap", "", _SOUNDS)
        if name:
            self.read(Path(name))

    def read(self, path: Path) -> None:
        """Read a file beside the window."""

        def work(_: object, __: object) -> object:
            # Imported here: the step is opened before what measures is loaded.
            from verve.core.soundfiles import read_sound

            return clap_in(*read_sound(path, _LONGEST_S))

        self._tasks.run(f"clap {path}", work, self._done, failed=self.failed.emit)

    def _done(self, found: object) -> None:
        self._claps.append(cast("Clap", found))
        self._show()

    def _show(self) -> None:
        self.said.setText(clap_text(self._claps))
        self.said.setVisible(bool(self._claps))
        seconds = usable_s(self._claps)
        self.use.setVisible(seconds is not None)
        if seconds is not None:
            self.use.setText(f"Use {seconds:.2f} s for this room")

    def _use(self) -> None:
        seconds = usable_s(self._claps)
        if seconds is not None:
            self.used.emit(seconds)
