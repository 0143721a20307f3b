"""The computer: buffer sizes against one another, how busy it is, and what is known of its delays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import get_args

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.widgets.beside import Beside, group
from verve.app.widgets.buffer_chart import BufferChart
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of, small_heading, text
from verve.app.widgets.number import NumberField
from verve.core.errors import InputError
from verve.core.monitor import (
    DAY_BY_HAND,
    DAY_RIGHT,
    SIZES,
    buffer_text,
    computer_text,
    options,
    strictest_ms,
)
from verve.core.session import LearnedTrip, Limit, Session
from verve.core.words import number

_FIELDS: Mapping[str, tuple[str, str, float, float, str]] = {
    "tracks": ("Tracks", "", 0.0, 1000.0, "In the session of your software; 0: as many as there are signals"),
    "effects": ("Effects", "", 0.0, 1000.0, "That run while you record"),
    "load_percent": ("It says it is busy by", "%", 0.0, 100.0, "As your software shows it, at a large buffer"),
    "hours": ("You listen", "h", 0.1, 24.0, "On such a day, for the time that ears bear"),
}  # fmt: skip
_LIMITS: Mapping[str, str] = {
    "leisure": "the leisure limit, 80 dBA for 40 h a week",
    "work": "the workplace limit, 85 dBA for 8 h, which leaves a risk",
}


class ComputerPanel(QWidget):
    """What is typed of the computer, and what follows from it."""

    buffer_chosen = pyqtSignal(int)
    mixing_chosen = pyqtSignal(int)
    changed = pyqtSignal(object)
    """Parts of the monitoring that are otherwise."""
    learned = pyqtSignal(object)
    forgotten = pyqtSignal(object)
    loop_wanted = pyqtSignal()
    day_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(small_heading("Buffer"))
        self.chart = BufferChart()
        self.chart.chosen.connect(self.buffer_chosen)
        column.addWidget(self.chart)
        self.said = text()
        column.addWidget(self.said)
        self.buffer, self.mixing = Choice(), Choice()
        sizes = [(f"{size} samples", str(size)) for size in SIZES]
        for choice, name, says, signal in (
            (
                self.buffer,
                "To record",
                "Small: who plays hears themselves sooner",
                self.buffer_chosen,
            ),
            (self.mixing, "To mix", "Large: the computer has time for effects", self.mixing_chosen),
        ):
            choice.setAccessibleName(f"Buffer {name.lower()}")
            choice.setToolTip(says)
            choice.show_entries(sizes)
            choice.activated.connect(
                lambda _, choice=choice, signal=signal: signal.emit(int(choice.currentData()))
            )
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        grid.addWidget(caption_of(self.buffer, "To record"), 0, 0)
        grid.addWidget(self.buffer, 0, 1)
        grid.addWidget(caption_of(self.mixing, "To mix"), 1, 0)
        grid.addWidget(self.mixing, 1, 1)
        self.fields: dict[str, NumberField] = {}
        for row, (name, (label, unit, low, high, says)) in enumerate(_FIELDS.items(), 2):
            field = NumberField(
                label, unit, low=low, high=high, says=says, is_needed=name != "load_percent"
            )
            field.editingFinished.connect(lambda name=name: self._type(name))
            grid.addWidget(caption_of(field, label), row, 0)
            grid.addWidget(field, row, 1)
            self.fields[name] = field
        self.limit = Choice()
        self.limit.setAccessibleName("Limit for ears")
        self.limit.setToolTip("Which limit the time is told for. Neither is a promise")
        self.limit.show_entries([(_LIMITS[one], one) for one in get_args(Limit)])
        self.limit.activated.connect(
            lambda _: self.changed.emit({"limit": self.limit.currentData()})
        )
        row = 2 + len(_FIELDS)
        grid.addWidget(caption_of(self.limit, "Limit for ears"), row, 0)
        grid.addWidget(self.limit, row, 1)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        self.one_device = QCheckBox("Input and output are one device")
        self.one_device.setToolTip(
            "Off: two devices have two clocks, and their delay is another one at every start"
        )
        self.one_device.clicked.connect(lambda is_so: self.changed.emit({"input_is_output": is_so}))
        column.addWidget(self.one_device)
        self._make_known(column)

    def _make_known(self, column: QVBoxLayout) -> None:
        column.addWidget(small_heading("What is known of its delays"))
        self.known = text()
        column.addWidget(self.known)
        self.trip_ms = NumberField(
            "Round trip", "ms", low=0.1, high=10_000.0, is_needed=False,
            says="As your recording software reports it for a buffer size, at the sample rate that is set here",
        )  # fmt: skip
        self.trip_frames = Choice()
        self.trip_frames.setAccessibleName("Buffer of the round trip")
        self.trip_frames.setToolTip("The buffer size that the round trip is reported for")
        self.trip_frames.show_entries([(f"at {size} samples", str(size)) for size in SIZES])
        self.add = QPushButton("Add")
        self.add.setToolTip(
            "One is enough to begin with; three or more show whether the driver keeps two buffers"
        )
        self.add.clicked.connect(self._add)
        self.trip_ms.returnPressed.connect(self._add)
        column.addWidget(caption_of(self.trip_ms, "Your software reports a round trip of"))
        column.addWidget(Beside(group(self.trip_ms, self.trip_frames), group(self.add)))
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        column.addLayout(self._rows)
        self.trips: list[tuple[QLabel, QPushButton, QWidget]] = []
        self._learned: tuple[LearnedTrip, ...] = ()
        self.loop = QPushButton("Measure with a loop-back…")
        self.loop.setToolTip("A cable from an output to an input tells the truth; made safe first")
        self.loop.clicked.connect(self.loop_wanted)
        column.addWidget(group(self.loop))
        column.addWidget(small_heading("This computer today"))
        self.day = QPushButton("Look it up")
        self.day.setToolTip(
            "Space, memory, battery, other programs on the device, rates: told only where not right"
        )
        self.day.clicked.connect(self.day_wanted)
        self.day_said = text()
        column.addWidget(group(self.day))
        column.addWidget(self.day_said)
        self.day_said.setVisible(False)
        column.addStretch(1)

    # ── drawn ─────────────────────────────────────────────────────────────────────────────────
    def show_session(self, session: Session) -> None:
        """Draw what is set and known."""
        audio, monitoring = session.setup.audio, session.setup.monitoring
        self.chart.show_options(options(session), audio.buffer_frames, strictest_ms(session))
        self.said.setText(buffer_text(session))
        for choice, frames in (
            (self.buffer, audio.buffer_frames),
            (self.mixing, monitoring.mixing_frames),
        ):
            choice.setCurrentIndex(choice.findData(str(frames)))
        for name, field in self.fields.items():
            if not field.isModified():
                field.show_number(getattr(monitoring, name))
        self.limit.setCurrentIndex(self.limit.findData(monitoring.limit))
        self.one_device.setChecked(monitoring.input_is_output)
        self.known.setText(computer_text(session))
        self._show_trips(session.computer.round_trips)

    def show_day(self, faults: Sequence[str]) -> None:
        """Draw what is not right today; what only a person can see is told as well."""
        said = [f"– {one}" for one in faults] or [DAY_RIGHT]
        self.day_said.setText("\n".join([*said, DAY_BY_HAND]))
        self.day_said.setVisible(True)

    def _show_trips(self, trips: tuple[LearnedTrip, ...]) -> None:
        self._learned = trips
        while len(self.trips) < len(trips):
            label, forget, row = text(), QPushButton("Remove"), QWidget()
            forget.setToolTip("Forgets this round trip")
            place = len(self.trips)
            forget.clicked.connect(lambda _, place=place: self.forgotten.emit(self._learned[place]))
            inside = QHBoxLayout(row)
            inside.setContentsMargins(0, 0, 0, 0)
            inside.addWidget(label, 1)
            inside.addWidget(forget)
            self._rows.addWidget(row)
            self.trips.append((label, forget, row))
        for place, (label, forget, row) in enumerate(self.trips):
            row.setVisible(place < len(trips))
            if place < len(trips):
                one = trips[place]
                how = "measured" if one.is_measured else "reported"
                said = (
                    f"{one.buffer_frames} samples at {number(one.sample_rate_hz / 1000.0)} kHz: "
                    f"{number(one.round_trip_ms, 2)} ms, {how}"
                )
                label.setText(said)
                forget.setAccessibleName(f"Remove {said}")

    # ── pressed ───────────────────────────────────────────────────────────────────────────────
    def _type(self, name: str) -> None:
        taken = self.fields[name].taken()
        if taken is None:
            return
        (value,) = taken
        self.changed.emit(
            {name: round(value) if value is not None and name in ("tracks", "effects") else value}
        )

    def _add(self) -> None:
        try:
            ms = self.trip_ms.number()
        except InputError:
            return
        if ms is not None:
            self.learned.emit((int(self.trip_frames.currentData()), ms))
            self.trip_ms.setModified(False)
            self.trip_ms.show_number(None)
