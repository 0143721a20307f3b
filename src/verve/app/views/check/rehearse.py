"""A rehearsal on the simulated interface: seen live, recorded, measured, compared."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.rehearsal import Rehearsal
from verve.app.widgets.choice import Choice
from verve.app.widgets.grain import Grain, GrainScale
from verve.app.widgets.labels import Elided, caption_of, card, small_heading
from verve.app.widgets.take_table import TakeTable
from verve.core.assess import LineAssessment
from verve.core.session import Audio, Play, set_audio
from verve.core.sheets import ending_text, time_text, track_facts

if TYPE_CHECKING:
    from verve.devices import Live, Progress

_PLAYS: tuple[tuple[Play, str, str], ...] = (
    ("phrase", "quiet to loud", "Quiet, typical and loud in one phrase"),
    (
        "hardest",
        "their loudest",
        "The loudest they will play in this song: what the gain is set for",
    ),
    ("typical", "as usual", "Typical playing, as in most of the song"),
    ("softest", "their quietest", "The quietest passage: is it well above the noise?"),
)
_RATES_HZ = (44100, 48000, 88200, 96000)
_DEPTHS = (16, 24)
_BUFFERS = (32, 64, 128, 256, 512, 1024, 2048)


def _can_play(item: LineAssessment) -> bool:
    return item.route.is_complete and item.state.staged is not None


class RehearsePage(QWidget):
    """Chooses lines and playing, draws their level, records, and shows what was measured."""

    explanation_wanted = pyqtSignal(str, str)
    """What explains the difference between predicted and measured: of a take, and a signal in it."""

    def __init__(
        self,
        document: Document,
        rehearsal: Rehearsal,
        take_folder: Callable[[], Path],
        live_of: Callable[[], Live | None] = lambda: None,
    ) -> None:
        """`live_of` gives the sound device that the guided check listens to; None for simulated players."""
        super().__init__()
        self._live_of = live_of
        self._document, self._rehearsal, self._take_folder = document, rehearsal, take_folder
        self._left_out: set[str] = set()
        self._heard: object = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        frame, layout = card()
        layout.setContentsMargins(16, 8, 16, 8)
        outer.addWidget(frame, 11)
        layout.addLayout(self._make_controls())
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setAccessibleName("Progress of the recording")
        self.progress.hide()
        layout.addWidget(self.progress)
        area = QScrollArea()
        area.setWidgetResizable(True)
        holder = QWidget()
        self._grid = QGridLayout(holder)
        self._grid.setContentsMargins(0, 0, 4, 0)
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(1)
        self._grid.setColumnStretch(1, 1)
        self._grid.addWidget(GrainScale(), 0, 1)
        area.setWidget(holder)
        layout.addWidget(area, 1)
        self.boxes: list[QCheckBox] = []
        self.grains: list[Grain] = []
        self._shown: tuple[str, ...] = ()
        self._results_card, results = card()
        results.setContentsMargins(16, 6, 16, 8)
        outer.addWidget(self._results_card, 8)
        self._results_heading = small_heading("Measured")
        head = QHBoxLayout()
        head.addWidget(self._results_heading, 1)
        self.explain_button = QPushButton("Explain…")
        self.explain_button.setToolTip(
            "Why a signal came out otherwise than computed, the likeliest first; and learn from it"
        )
        head.addWidget(self.explain_button)
        results.addLayout(head)
        self.table = TakeTable(with_advice=True)
        results.addWidget(self.table)
        # ── connections ──
        self.table.asked.connect(self._ask)
        self.explain_button.clicked.connect(self._explain)
        self.record_button.clicked.connect(self.start_recording)
        self.listen_button.clicked.connect(self.start_listening)
        self.stop_button.clicked.connect(rehearsal.stop)
        rehearsal.state_changed.connect(self._show_state)
        rehearsal.progressed.connect(self._on_progress)
        for box in (self.rate, self.bits, self.buffer):
            box.activated.connect(self._choose_audio)
        self.play.activated.connect(lambda _: self._restart_listening())
        self.live.toggled.connect(lambda _: self._show_state())

    def _make_controls(self) -> QVBoxLayout:
        column = QVBoxLayout()
        row = QHBoxLayout()
        row.setSpacing(8)
        self.play = Choice()
        self.play.setAccessibleName("How they play")
        for index, (key, name, says) in enumerate(_PLAYS):
            self.play.addItem(name, key)
            self.play.setItemData(index, says, Qt.ItemDataRole.ToolTipRole)
        self.play.setToolTip("What the simulated players do; gains are set for their loudest")
        self.seconds = QSpinBox()
        self.seconds.setRange(3, 60)
        self.seconds.setValue(10)
        self.seconds.setSuffix(" s long")
        self.seconds.setAccessibleName("Length of the take")
        self.seconds.setToolTip("How long the take becomes, 3 to 60 seconds")
        self.record_button = QPushButton("Record a take")
        self.record_button.setProperty("strong", "true")
        self.record_button.setToolTip(
            "Records the chosen signals to WAV files and measures them. Shortcut: Ctrl+R"
        )
        self.listen_button = QPushButton("Monitor levels")
        self.listen_button.setToolTip(
            "Lets them play without recording; gains can be moved meanwhile"
        )
        self.stop_button = QPushButton("Stop")
        self.stop_button.setToolTip(
            "Ends it; of a take, what was recorded until then is kept. Shortcut: Esc"
        )
        for button in (self.record_button, self.listen_button, self.stop_button):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(caption_of(self.play, "They play"))
        row.addWidget(self.play)
        column.addLayout(row)
        second = QHBoxLayout()
        second.setSpacing(8)
        self.rate, self.bits, self.buffer = Choice(), Choice(), Choice()
        for box, values, unit, name, tip in (
            (self.rate, _RATES_HZ, "Hz", "Sample rate", "Twice the rate, twice the file"),
            (
                self.bits,
                _DEPTHS,
                "bit",
                "Bit depth",
                "16 bits cost noise when a quiet take is raised",
            ),
            (self.buffer, _BUFFERS, "samples", "Buffer", "Small to record, large to mix"),
        ):
            for value in values:
                box.addItem(f"{value} {unit}", value)
            box.setAccessibleName(name)
            box.setToolTip(tip)
        self.live = QCheckBox("Sound device")
        self.live.setToolTip(
            "Records what comes from the device that is chosen in the guided check, until it is stopped; else "
            "simulated players play"
        )
        self._round_trip = Elided()
        second.addWidget(self.seconds)
        second.addWidget(caption_of(self.rate, "at"))
        for widget in (self.rate, self.bits, self.buffer):
            second.addWidget(widget)
        second.addWidget(self._round_trip, 1)
        second.addWidget(self.live)
        column.addLayout(second)
        return column

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        assessment = self._document.assessment
        audio = assessment.session.setup.audio
        for box, value in (
            (self.rate, audio.sample_rate_hz),
            (self.bits, audio.bit_depth),
            (self.buffer, audio.buffer_frames),
        ):
            if box.findData(value) < 0:
                box.addItem(f"{value} samples", value)
            box.setCurrentIndex(box.findData(value))
        self._round_trip.show_text(f"buffer latency, round trip {assessment.round_trip_ms:.1f} ms")
        ids = tuple(item.line.id for item in assessment.lines)
        if ids != self._shown:
            self._make_rows(ids)
        for tick, grain, item in zip(self.boxes, self.grains, assessment.lines, strict=True):
            tick.setText(item.line.name)
            tick.setToolTip(f"Whether {item.line.name} plays; {item.verdict}")
            tick.setChecked(_can_play(item) and item.line.id not in self._left_out)
            grain.show_line(item)
        self.show_results()
        self._show_state()
        if self._rehearsal.state == "listening" and self._heard is not assessment.session.setup:
            self._restart_listening()

    def _make_rows(self, ids: tuple[str, ...]) -> None:
        for widget in (*self.boxes, *self.grains):
            self._grid.removeWidget(widget)
            widget.deleteLater()
        self.boxes, self.grains = [], []
        for row, line_id in enumerate(ids):
            box, grain = QCheckBox(), Grain()
            box.clicked.connect(lambda on, line_id=line_id: self._choose_line(line_id, on=on))
            self._grid.addWidget(box, row + 1, 0)
            self._grid.addWidget(grain, row + 1, 1)
            self.boxes.append(box)
            self.grains.append(grain)
        for row in range(self._grid.rowCount()):
            self._grid.setRowStretch(row, 1 if 0 < row <= len(ids) else 0)
        self._shown = ids

    def _show_state(self) -> None:
        state = self._rehearsal.state
        idle = state == "idle"
        self.record_button.setEnabled(idle and bool(self.chosen_lines()))
        self.listen_button.setEnabled(idle and bool(self.chosen_lines()))
        self.stop_button.setEnabled(not idle)
        is_live = self.live.isChecked()
        self.live.setVisible(self._live_of() is not None or is_live)
        self.live.setEnabled(idle)
        self.seconds.setEnabled(idle and not is_live)
        self.progress.setVisible(state == "recording")
        for box, item in zip(self.boxes, self._document.assessment.lines, strict=False):
            box.setEnabled(idle and _can_play(item))

    def show_results(self) -> None:
        """Draw what was measured last, and what to change."""
        takes = self._document.session.takes
        self._results_card.setVisible(bool(takes))
        if not takes:
            self.table.show_take(None, self._document.assessment)
            return
        take = takes[-1]
        ending = ending_text(take)
        self._results_heading.setText(
            f"{take.name}, measured; levels in dBFS" + (f". {ending}" if ending else "")
        )
        self.table.show_take(take, self._document.assessment)

    def _ask(self, row: int) -> None:
        takes = self._document.session.takes
        if takes and row < len(takes[-1].tracks):
            take, track = takes[-1], takes[-1].tracks[row]
            self._document.select_line(track.line)
            self._document.ask(f"{track.name} in {take.name}", track_facts(take, track))

    def _explain(self) -> None:
        takes = self._document.session.takes
        if takes:
            row = min(max(0, self.table.currentRow()), len(takes[-1].tracks) - 1)
            self.explanation_wanted.emit(takes[-1].id, takes[-1].tracks[row].line)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def chosen_lines(self) -> tuple[str, ...]:
        """Lines that will play."""
        live = self._live()
        return tuple(
            item.line.id
            for item in self._document.assessment.lines
            if item.line.id not in self._left_out
            and _can_play(item)
            and (live is None or item.line.id in live.channels)
        )

    def _choose_line(self, line_id: str, *, on: bool) -> None:
        if on:
            self._left_out.discard(line_id)
        else:
            self._left_out.add(line_id)
        self._show_state()

    def _clear_grains(self) -> None:
        for grain in self.grains:
            grain.clear()

    def start_recording(self) -> None:
        """Record the chosen lines as the next take."""
        lines = self.chosen_lines()
        if not lines or self._rehearsal.state == "recording":
            return
        self._clear_grains()
        self.progress.setValue(0)
        self.progress.setFormat("The players get ready …")
        play: Play = self.play.currentData()
        self._rehearsal.record(
            self._document.session,
            lines,
            play,
            float(self.seconds.value()),
            self._take_folder(),
            self._document.number,
            self._live(),
        )

    def start_listening(self) -> None:
        """Let the chosen lines play without recording."""
        lines = self.chosen_lines()
        if lines:
            self._clear_grains()
            self._heard = self._document.session.setup
            self._rehearsal.listen(
                self._document.session, lines, self.play.currentData(), self._live()
            )

    def _live(self) -> Live | None:
        """The sound device that is recorded from; None for simulated players."""
        return self._live_of() if self.live.isChecked() else None

    def _restart_listening(self) -> None:
        if self._rehearsal.state == "listening":
            self.start_listening()

    def _on_progress(self, progress: Progress) -> None:
        if progress.share is not None:
            self.progress.setValue(round(progress.share * 1000))
            is_live = self.live.isChecked()
            far = time_text(progress.seconds, 0) if is_live else f"{progress.share:.0%}"
            self.progress.setFormat(f"Recording: {far}")
        for line_id, grain in zip(self._shown, self.grains, strict=True):
            if line_id in progress.peaks_dbfs:
                grain.add(progress.peaks_dbfs[line_id])

    def _choose_audio(self) -> None:
        audio = Audio(
            sample_rate_hz=self.rate.currentData(),
            bit_depth=self.bits.currentData(),
            buffer_frames=self.buffer.currentData(),
        )
        if audio != self._document.session.setup.audio:
            self._document.edit("recording settings", lambda session: set_audio(session, audio))
