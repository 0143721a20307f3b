"""Hearing a microphone where it stands: simulated players through the air, equally loud from spot to spot."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from verve.app.rendered import Rendered
from verve.app.tasks import Tasks
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of

if TYPE_CHECKING:
    from verve.app.player import Player
    from verve.core.session import Session

_LANE = "hearing a microphone"
_WHOM = (
    ("Everybody", "all"),
    ("What it is there for", "wanted"),
    ("Everybody else: the bleed", "others"),
)


class ListenBox(QWidget):
    """To whom one listens, and the button; not there without a microphone."""

    failed = pyqtSignal(str)

    def __init__(self, tasks: Tasks, find_player: Callable[[], Player]) -> None:
        super().__init__()
        self._rendered = Rendered(_LANE, tasks, find_player)
        self._session: Session | None = None
        self._microphone = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.whom = Choice()
        self.whom.setAccessibleName("To whom one listens")
        self.whom.setToolTip(
            "Simulated players at typical level, each as this microphone hears them"
        )
        self.whom.show_entries(_WHOM)
        self.button = QPushButton("Hear it")
        self.button.setToolTip(
            "Plays six seconds of it, always equally loud, so that spots can be compared. Turn your monitors and "
            "headphones down first. Press again for silence"
        )
        self.button.clicked.connect(self._press)
        column.addWidget(caption_of(self.whom, "Through this microphone"))
        column.addWidget(Beside(group(self.whom), group(self.button)))

    def show_microphone(self, session: Session, microphone: str) -> None:
        """Which one it is; empty for none."""
        self._session, self._microphone = session, microphone
        self.setVisible(bool(microphone))

    def _press(self) -> None:
        session, microphone = self._session, self._microphone
        if self._rendered.stopped() or session is None or not microphone:
            return
        whom = self.whom.currentData()

        def write(path: Path, _: object) -> Path:
            # Imported here: the step is opened before what renders is loaded.
            from verve.devices import SpotRequest, write_spot

            return write_spot(session, SpotRequest(microphone=microphone, whom=whom), path)

        self._rendered.play(write, session.setup.audio.sample_rate_hz, self.failed.emit)
