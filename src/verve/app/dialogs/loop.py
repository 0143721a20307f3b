"""A loop-back: made safe point by point, then played, read, and used."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.dialogs.buttons import foot
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import heading, small_heading, text
from verve.core.measure import Loopback
from verve.core.monitor import dropouts_told, loop_points, loop_told
from verve.core.session import LearnedTrip, RecordingOffset, learn_trip, set_recording_offset
from verve.core.sheets import loopback_text

if TYPE_CHECKING:
    from verve.devices import SystemDevice

_LANE = "loop-back"
_SOUNDS = "Sound files (*.wav *.flac *.aiff *.aif);;All files (*)"


def _recording_devices() -> tuple[SystemDevice, ...] | str:
    from verve.devices import recording_devices

    return recording_devices()


def _at_once(_: float) -> None:
    return


class LoopDialog(QDialog):
    """First everything that could harm is ticked off; then the test is played, or a recording of it read."""

    def __init__(self, document: Document, tasks: Tasks, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document, self._tasks = document, tasks
        self._found: Loopback | None = None
        self.is_paced = True
        self.setWindowTitle("Loop-back")
        self.setMinimumWidth(theme.px(460))
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Measure the round trip with a cable"))
        layout.addWidget(
            text(
                "A cable from an output of the interface to a line input. The test is noise at −40 dBFS, faded in; "
                "it stops by itself above −6 dBFS, or when it gets louder unasked."
            )
        )
        layout.addWidget(small_heading("First make it safe"))
        self.points: list[QCheckBox] = []
        for point in loop_points(document.session):
            tick = QCheckBox(point.words)
            tick.setToolTip(point.why)
            tick.clicked.connect(lambda _: self._show_state())
            layout.addWidget(tick)
            self.points.append(tick)
        self.save = QPushButton("Save the test signal…")
        self.save.setToolTip("A sound file, to be played and recorded in your own software")
        self.save.clicked.connect(self._save)
        self.read = QPushButton("Read what came back…")
        self.read.setToolTip(
            "The recording that your software made of it, from the moment it was played"
        )
        self.read.clicked.connect(self._read)
        self.play = QPushButton("Try it on the simulated interface")
        self.play.setToolTip("How it goes, without a cable")
        self.play.clicked.connect(self._play)
        layout.addWidget(Beside(group(self.save, self.read), group(self.play)))
        self.device = Choice()
        self.device.setAccessibleName("Sound device")
        self.device.setToolTip("The interface whose output is connected to its own input")
        self.through = QPushButton("Play it through the device")
        self.through.setToolTip(
            "In buffers of the session’s size: the delay that recording software has with the same driver"
        )
        self.through.clicked.connect(self._play_through)
        layout.addWidget(Beside(group(self.device), group(self.through)))
        self._devices: tuple[SystemDevice, ...] = ()
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setAccessibleName("How much of the test has been played")
        layout.addWidget(self.progress)
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Silence at once")
        self.stop.setMinimumHeight(theme.px(72))
        self.stop.setProperty("strong", "true")
        self.stop.clicked.connect(self._stop)
        layout.addWidget(self.stop)
        self.said = text()
        layout.addWidget(self.said)
        self.use_trip = QPushButton("Use it as monitoring delay")
        self.use_trip.setToolTip("What one hears, at this buffer size and rate")
        self.use_trip.clicked.connect(self._use_trip)
        self.use_offset = QPushButton("Use it as recording offset")
        self.use_offset.setToolTip(
            "Only if it was recorded in your recording software, with its compensation: what is then left shifts "
            "overdubs"
        )
        self.use_offset.clicked.connect(self._use_offset)
        self._uses = Beside(group(self.use_trip), group(self.use_offset))
        layout.addWidget(self._uses)
        layout.addLayout(foot(self))
        tasks.busy_changed.connect(self._show_state)
        tasks.run("sound devices", lambda _, __: (_recording_devices(),), self._show_devices)
        self._show_state()

    def _show_devices(self, found: tuple[tuple[SystemDevice, ...] | str]) -> None:
        self._devices = () if isinstance(found[0], str) else found[0]
        entries = [(one.name, one.name) for one in self._devices if one.channels_out]
        self.device.show_entries(entries or [("no sound device here", "")])
        self._show_state()

    def _show_state(self) -> None:
        is_safe = all(one.isChecked() for one in self.points)
        is_busy = self._tasks.is_busy(_LANE)
        self.play.setEnabled(is_safe and not is_busy)
        self.through.setEnabled(is_safe and not is_busy and bool(self.device.currentData()))
        for widget in (self.stop, self.progress):
            widget.setVisible(is_busy)
        is_found = self._found is not None and self._found.found
        self._uses.setVisible(is_found)
        self.said.setVisible(bool(self.said.text()))
        self.adjustSize()

    # ── pressed ───────────────────────────────────────────────────────────────────────────────
    def _save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Test signal", "loop-back test.wav", _SOUNDS)
        if not name:
            return
        rate_hz = self._document.session.setup.audio.sample_rate_hz

        def work(_: object, __: object) -> object:
            from verve.devices import write_loop_signal

            return write_loop_signal(rate_hz, Path(name))

        self._tasks.run(_LANE, work, lambda _: self._tell(f"Written: {name}"), failed=self._tell)

    def _read(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "What came back", "", _SOUNDS)
        if name:
            self.read_file(Path(name))

    def read_file(self, path: Path) -> None:
        """Read a recording of the test signal."""
        rate_hz = self._document.session.setup.audio.sample_rate_hz

        def work(_: object, __: object) -> object:
            from verve.devices import loop_of_file

            return loop_of_file(path, rate_hz)

        self._tasks.run(_LANE, work, self._take, failed=self._tell)
        self._show_state()

    def _play(self) -> None:
        session, is_paced = self._document.session, self.is_paced

        def work(report: object, is_cancelled: object) -> object:
            import time

            from verve.devices import simulated_loop

            wait = time.sleep if is_paced else _at_once
            return simulated_loop(session, report, is_cancelled, wait=wait)  # type: ignore[arg-type]

        self._tasks.run(
            _LANE, work, self._take, failed=self._tell,
            reported=lambda share: self.progress.setValue(round(1000 * cast("float", share))),
        )  # fmt: skip
        self._show_state()

    def _play_through(self) -> None:
        session, name = self._document.session, self.device.currentData()
        device = next((one for one in self._devices if one.name == name), None)
        if device is None:
            return

        def work(report: object, is_cancelled: object) -> object:
            from verve.devices import live_loop

            return live_loop(session, device, report, is_cancelled)  # type: ignore[arg-type]

        self._tasks.run(
            _LANE, work, self._take, failed=self._tell,
            reported=lambda share: self.progress.setValue(round(1000 * cast("float", share))),
        )  # fmt: skip
        self._show_state()

    def _stop(self) -> None:
        self._tasks.cancel(_LANE)
        self._tell(loop_told(None))

    def _take(self, result: object) -> None:
        from verve.devices import LoopResult

        assert isinstance(result, LoopResult)
        self._found = result.found
        if result.found is None:
            self._tell(loop_told(result.stopped))
        else:
            self._tell("\n".join([loopback_text(result.found), *dropouts_told(result.dropouts)]))

    def _tell(self, words: str) -> None:
        self.said.setText(words)
        self._show_state()

    def _use_trip(self) -> None:
        found, audio = self._found, self._document.session.setup.audio
        if found is None or found.delay_ms is None or found.delay_ms <= 0.0:
            self._tell(
                "A delay of nothing is no round trip: was the signal recorded before it was played?"
            )
            return
        trip = LearnedTrip(
            buffer_frames=audio.buffer_frames,
            sample_rate_hz=float(audio.sample_rate_hz),
            round_trip_ms=round(found.delay_ms, 4),
            is_measured=True,
        )
        self._document.edit("measured round trip", lambda now: learn_trip(now, trip))

    def _use_offset(self) -> None:
        found, audio = self._found, self._document.session.setup.audio
        if found is None or found.delay_frames is None:
            return
        offset = RecordingOffset(
            frames=round(found.delay_frames, 2),
            buffer_frames=audio.buffer_frames,
            sample_rate_hz=float(audio.sample_rate_hz),
            measured_at=datetime.now().astimezone().isoformat(timespec="seconds"),
        )
        self._document.edit("recording offset", lambda now: set_recording_offset(now, offset))
