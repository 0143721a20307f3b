"""Predicted against measured: what may explain the difference, the likeliest first, and what can be learnt of it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, heading, text
from verve.app.widgets.likelihood import Likelihood
from verve.core.check import Explanation, Measured, accepted, explanations
from verve.core.errors import VerveError
from verve.core.session import Take, TakeTrack
from verve.core.sheets import explained_text, learnt_text, measured_text

_LANE = "explaining"


class ExplainDialog(QDialog):
    """One track of a take: the difference, its ranking, and a button where the session can learn from it."""

    def __init__(
        self,
        document: Document,
        take: Take,
        line_id: str,
        tasks: Tasks,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._document, self._take, self._tasks = document, take, tasks
        self.setWindowTitle("Predicted and measured")
        open_at(self, 760, 620)
        layout = QVBoxLayout(self)
        layout.addWidget(heading(f"{take.name}: predicted and measured"))
        self.track = Choice()
        self.track.setAccessibleName("Signal")
        self.track.setToolTip("The recorded signal whose difference is explained")
        self.track.show_entries([(one.name, one.line) for one in take.tracks])
        self.track.setCurrentIndex(max(0, self.track.findData(line_id)))
        row = QGridLayout()
        row.addWidget(caption_of(self.track, "signal"), 0, 0)
        row.addWidget(self.track, 0, 1)
        row.setColumnStretch(2, 1)
        layout.addLayout(row)
        self.says = text()
        layout.addWidget(self.says)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout.addWidget(self._area, 1)
        layout.addLayout(foot(self))
        self.found: tuple[Explanation, ...] = ()
        self.accepts: list[QPushButton] = []
        # ── connections ──
        self.track.activated.connect(lambda _: self._explain())
        self._explain()

    def _chosen(self) -> TakeTrack | None:
        wanted = self.track.currentData()
        return next((one for one in self._take.tracks if one.line == wanted), None)

    def _explain(self) -> None:
        track, take = self._chosen(), self._take
        setup = take.setup
        measured = None if track is None else Measured.of_track(take, track)
        if track is None or measured is None or setup is None:
            self.says.setText(measured_text(None))
            self._show(())
            return
        self.says.setText(f"{measured_text(measured)} …")
        session = self._document.session.model_copy(update={"setup": setup})
        engine = self._document.engine

        def work(_: object, __: object) -> object:
            from verve.core.check import with_hum

            whole = with_hum(measured, Path(track.file), track.channel)
            return whole, explanations(session, whole, engine)

        def done(result: tuple[Measured, tuple[Explanation, ...]]) -> None:
            whole, found = result
            self.says.setText(measured_text(whole))
            self._show(found)

        self._tasks.run(_LANE, work, done, failed=self.says.setText)

    def _show(self, found: tuple[Explanation, ...]) -> None:
        self.found, self.accepts = found, []
        holder = QWidget()
        inside = QVBoxLayout(holder)
        inside.setSpacing(4)
        for one in found:
            inside.addWidget(self._box(one))
        inside.addStretch(1)
        self._area.setWidget(holder)

    def _box(self, one: Explanation) -> QFrame:
        frame = QFrame()
        grid = QGridLayout(frame)
        grid.setContentsMargins(0, 2, 0, 8)
        grid.setHorizontalSpacing(12)
        grid.setColumnStretch(1, 1)
        grid.addWidget(Likelihood(one.share), 0, 0, Qt.AlignmentFlag.AlignTop)
        title = text(one.sentence)
        font = title.font()
        font.setWeight(600)
        title.setFont(font)
        grid.addWidget(title, 0, 1)
        grid.addWidget(caption(explained_text(one), wrap=True), 1, 1)
        grid.addWidget(text(f"Find out: {one.test}"), 2, 1)
        if one.can_be_accepted:
            button = QPushButton("Accept: use what was measured")
            button.setToolTip(
                "From now on this source is computed as loud as it was here, marked measured; undo brings the old "
                "figures back"
            )
            button.clicked.connect(self._accept)
            grid.addWidget(button, 3, 1, Qt.AlignmentFlag.AlignLeft)
            self.accepts.append(button)
        return frame

    def _accept(self) -> None:
        track, take = self._chosen(), self._take
        if track is None:
            return
        said = learnt_text(take)
        try:
            self._document.edit(
                f"loudness of {track.name} as measured",
                lambda session: accepted(session, take, track.line, said),
            )
        except VerveError as error:
            self.says.setText(str(error))
            return
        for button in self.accepts:
            button.setEnabled(False)
            button.setText("Accepted")

    def done(self, result: int) -> None:
        self._tasks.cancel(_LANE)
        super().done(result)
