"""Which microphone: those of the kit and of the catalogue, each computed for a part."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.brief.for_part import ForPart
from verve.app.widgets.table import Table
from verve.app.widgets.trade import TradePicture
from verve.core.needs import Answered, MicrophoneRow, microphone_rows


class MicrophonePage(QWidget):
    """Every microphone for one part, as a table and as a picture; the choice by taste is left open."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._found: tuple[MicrophoneRow, ...] = ()
        self._for: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        self.part = ForPart("The part whose microphones are compared")
        layout.addWidget(self.part)
        row = QHBoxLayout()
        self.table = Table(
            ("Microphone", "S/N, dB", "headroom, dB", "needs", "flaws"),
            "Microphones for this part",
            empty="Microphones are compared here for one part. Add a part that is recorded with one.",
            numbers=(1, 2),
            stretched=(0, 3),
            # Names that begin alike are told apart only in whole.
            wraps=True,
        )
        row.addWidget(self.table, 7)
        self.picture = TradePicture()
        row.addWidget(self.picture, 3)
        layout.addLayout(row, 1)
        self.part.chosen.connect(lambda: self.show_answer(None))
        self.table.currentCellChanged.connect(
            lambda row, *_: self.picture.show_rows(self._found, row)
        )

    def show_answer(self, _: Answered | None) -> None:
        """Draw it, and work it out where the part or the room is another one."""
        parts = [p for p in self._document.session.brief.parts if p.sound is not None]
        self.part.show_parts(parts)
        self._work()
        found = self._found
        if not parts:
            self.part.says.setText("No part is acoustic.")
        elif not found:
            self.part.says.setText("Computing every microphone …")
        else:
            distance = f"{found[0].distance_m * 100:.0f} cm"
            self.part.says.setText(f"at {distance}, gain set for the target, in this room")
        self.table.show_rows(
            [
                (
                    f"{row.name}  ·  yours" if row.is_owned else row.name,
                    f"{row.snr_db:.1f}",
                    f"{row.headroom_db:.1f}",
                    row.needs,
                    row.flaws,
                )
                for row in found
            ]
        )
        self.picture.show_rows(found, self.table.currentRow())

    def _work(self) -> None:
        session = self._document.session
        part = next((p for p in session.brief.parts if p.id == self.part.part_id()), None)
        setup = session.setup
        key = (part, session.kit, setup.room, setup.audio, setup.level_target)
        if self._for == key or not self.isVisible():
            return
        self._for = key
        self._found = ()
        if part is None:
            return

        def done(found: object) -> None:
            assert isinstance(found, tuple)
            self._found = found
            self.show_answer(None)

        self._tasks.run("microphones", lambda _, stop: microphone_rows(session, part, stop), done)
