"""Monitor: a sentence for each performer with their ways to scale, and the computer beside it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.rendered import Rendered
from verve.app.tasks import Tasks
from verve.app.views.monitor.computer import ComputerPanel
from verve.app.views.monitor.cue_card import CueCard
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.labels import card, heading, text
from verve.app.widgets.lots import RowLots
from verve.core.monitor import Headphones, ledger_facts, ledger_of, line_of_who
from verve.core.session import (
    LearnedTrip,
    Session,
    change_cue,
    change_monitoring,
    cue_of,
    forget_trip,
    learn_trip,
    listeners,
    set_audio,
)
from verve.core.sheets import cue_sheet_csv, cue_sheet_html

if TYPE_CHECKING:
    from verve.app.player import Player
    from verve.devices import HeardPart

_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"
_NOBODY = "Nobody plays yet. Add a signal, and what its player hears is told here."
_LANE = "hearing oneself"
_CARDS_AT_ONCE = 6
_DAY_LANE = "the computer on the day"


def _heard(session: Session, who: str, part: str, path: Path) -> Path:
    # Imported here: the step is opened before what renders is loaded.
    from verve.devices import write_heard

    return write_heard(session, who, path, cast("HeardPart", part))


class MonitorView(QWidget):
    """What every performer hears, how late, how loud."""

    def __init__(
        self,
        document: Document,
        tasks: Tasks,
        find_player: Callable[[], Player],
        find_folder: Callable[[], Path],
    ) -> None:
        """`find_folder` is where takes would go."""
        super().__init__()
        self._find_folder = find_folder
        self._document, self._tasks = document, tasks
        self._rendered = Rendered(_LANE, tasks, find_player)
        self._open = ""
        self._headphones: Mapping[str, tuple[str, Headphones]] | None = None
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(10)
        frame, layout = card()
        outer.addWidget(frame, 5)
        title = heading("Who hears what")
        title.setWordWrap(False)
        self.paper = QPushButton("Print or export…")
        self.paper.setToolTip("A sheet for everybody: what they hear, by which way, beside what")
        self.paper.clicked.connect(self._on_paper)
        layout.addWidget(Beside(group(title), group(self.paper)))
        self.nobody = text(_NOBODY)
        layout.addWidget(self.nobody)
        column = self._scrolling(layout, "Who hears what")
        column.addStretch(1)
        self._lots = RowLots(column, lambda _: self._made(), _CARDS_AT_ONCE)
        side, beside = card()
        side.setMinimumWidth(theme.px(210))
        outer.addWidget(side, 3)
        column = self._scrolling(beside, "The computer")
        self.computer = ComputerPanel()
        column.addWidget(self.computer)
        self.computer.buffer_chosen.connect(self._set_buffer)
        self.computer.mixing_chosen.connect(lambda size: self._change({"mixing_frames": size}))
        self.computer.changed.connect(self._change)
        self.computer.learned.connect(self._learn)
        self.computer.forgotten.connect(
            lambda trip: document.edit("round trip removed", lambda now: forget_trip(now, trip))
        )
        self.computer.loop_wanted.connect(self._loop)
        self.computer.day_wanted.connect(self._look_up)

    @staticmethod
    def _scrolling(layout: QVBoxLayout, name: str) -> QVBoxLayout:
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setAccessibleName(name)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 8, 0)
        area.setWidget(inside)
        layout.addWidget(area, 1)
        return column

    @property
    def cards(self) -> list[CueCard]:
        """One for each performer, as far as they have been made."""
        return self._lots.rows

    def _made(self) -> CueCard:
        made = CueCard()
        made.changed.connect(self._change_cue)
        made.opened.connect(self._open_card)
        made.asked.connect(self._explain)
        made.heard.connect(self._hear)
        made.saved.connect(self._save)
        return made

    # ── drawn ─────────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the session as it is."""
        session = self._document.session
        everybody = listeners(session.setup)
        self.nobody.setVisible(not everybody)
        most_ms = max(
            (
                ledger_of(session, cue, way).total_ms
                for who, _ in everybody
                for cue in (cue_of(session.setup, who),)
                if cue.worn != "nothing"
                for way in cue.ways
            ),
            default=1.0,
        )
        colours = {line.id: line.colour for line in session.setup.lines}

        def fill(one: CueCard, number: int) -> None:
            who = everybody[number][0]
            colour = colours.get(line_of_who(session.setup, who) or "", 0)
            is_open = who == self._open
            pairs = self._pairs() if is_open else {}
            one.show_cue(session, who, most_ms, colour, pairs, is_open=is_open)

        self._lots.show(len(everybody), fill)
        self.computer.show_session(session)

    def _pairs(self) -> Mapping[str, tuple[str, Headphones]]:
        """Headphones of the catalogue, read when somebody first asks."""
        if self._headphones is None:
            from verve.core.catalogue import catalogue

            self._headphones = {
                key: (
                    f"{one.name}, {one.figures.impedance_ohm:.0f} Ω",
                    Headphones(
                        impedance_ohm=one.figures.impedance_ohm,
                        sensitivity_db_per_mw=one.figures.sensitivity_db_per_mw,
                    ),
                )
                for key, one in catalogue().headphones.items()
            }
        return self._headphones

    # ── pressed ───────────────────────────────────────────────────────────────────────────────
    def _open_card(self, who: str) -> None:
        self._open = "" if self._open == who else who
        line = line_of_who(self._document.session.setup, who)
        if line is not None:
            self._document.select_line(line)
        self.refresh()

    def _change_cue(self, who: str, update: object) -> None:
        name = dict(listeners(self._document.session.setup))[who]
        assert isinstance(update, Mapping)
        self._document.edit(f"what {name} hears", lambda now: change_cue(now, who, update))

    def _change(self, update: object) -> None:
        assert isinstance(update, Mapping)
        self._document.edit("monitoring", lambda now: change_monitoring(now, update))

    def _set_buffer(self, frames: int) -> None:
        def change(now: Session) -> Session:
            return set_audio(now, now.setup.audio.model_copy(update={"buffer_frames": frames}))

        self._document.edit("buffer size", change)

    def _learn(self, found: object) -> None:
        assert isinstance(found, tuple)
        frames, ms = found
        rate = float(self._document.session.setup.audio.sample_rate_hz)
        trip = LearnedTrip(buffer_frames=frames, sample_rate_hz=rate, round_trip_ms=ms)
        self._document.edit("round trip", lambda now: learn_trip(now, trip))

    def _explain(self, who: str, way: str) -> None:
        session = self._document.session
        ledger = ledger_of(session, cue_of(session.setup, who), way)  # type: ignore[arg-type]
        name = dict(listeners(session.setup))[who]
        self._document.ask(f"{name}: how late", ledger_facts(ledger))

    def _loop(self) -> None:
        from verve.app.dialogs.loop import LoopDialog

        LoopDialog(self._document, self._tasks, self).exec()

    def _hear(self, who: str, part: str) -> None:
        if self._rendered.stopped():
            return
        session = self._document.session
        rate_hz = session.setup.audio.sample_rate_hz
        self._rendered.play(
            lambda path, _: _heard(session, who, part, path), rate_hz, self._document.refused.emit
        )

    def _save(self, who: str, part: str) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "As it is heard", "heard.wav", "WAV (*.wav)")
        if not name:
            return
        session = self._document.session

        self._tasks.run(
            _LANE, lambda _, __: _heard(session, who, part, Path(name)), lambda _: None,
            failed=self._document.refused.emit,
        )  # fmt: skip

    def _look_up(self) -> None:
        session, folder = self._document.session, self._find_folder()

        def work(_: object, __: object) -> object:
            from verve.devices import day_faults

            return [one.words for one in day_faults(session, folder)]

        self._tasks.run(
            _DAY_LANE, work, lambda found: self.computer.show_day(cast("list[str]", found)),
            failed=self._document.refused.emit,
        )  # fmt: skip

    def _on_paper(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Who hears what", "cues.pdf", _FILES)
        if not name:
            return
        session = self._document.session
        put_on_paper(
            self._tasks,
            Path(name),
            html=lambda: cue_sheet_html(session),
            csv=lambda: cue_sheet_csv(session),
            failed=self._document.refused.emit,
        )
