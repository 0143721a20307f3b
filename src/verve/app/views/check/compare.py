"""Recordings of one phrase compared: equally loud, over and over, each at a key, blind if wanted, the choice kept."""

from __future__ import annotations

import random
import string
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, QTemporaryDir
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.player import Player
from verve.app.tasks import Tasks
from verve.app.widgets.labels import Elided, Lines, caption, caption_of, card, small_heading
from verve.core.check import Ballot, Candidate, Matched, candidates_of, matched, tally_text
from verve.core.session import (
    MOST_COMPARED,
    Compared,
    Comparison,
    log_comparison,
    remove_comparison,
)
from verve.core.sheets import comparison_text
from verve.core.soundfiles import PlayRequest

if TYPE_CHECKING:
    from verve.core.session import Session

_LANE = "compare"
_LIST_PX = 250
_USUAL_S = 8


class ComparePage(QWidget):
    """Chooses recordings, plays them in turn, counts votes, and logs what was chosen."""

    def __init__(self, document: Document, tasks: Tasks, player: Player) -> None:
        super().__init__()
        self._document, self._tasks, self._player = document, tasks, player
        self._candidates: tuple[Candidate, ...] = ()
        self._matched: tuple[Matched, ...] = ()
        self._files: tuple[Path, ...] = ()
        self._folder: QTemporaryDir | None = None
        self._number = 0
        self._ballot: Ballot | None = None
        self._at_s, self._now = 0.0, -1
        self._line_id = ""
        self._drawing = False
        self.order = random.Random()
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(8)
        outer.addLayout(self._make_list())
        frame, layout = card()
        outer.addWidget(frame, 1)
        self._make_letters(layout)
        self._make_choice(layout)
        # ── connections ──
        self.list.itemChanged.connect(lambda _: self._forget_if_drawn())
        self.begin_button.clicked.connect(self.begin)
        self.stop_button.clicked.connect(player.stop)
        self.blind.toggled.connect(lambda _: self._show())
        self.log_button.clicked.connect(self._log)
        player.moved.connect(self._on_moved)
        player.state_changed.connect(self._show)
        self.past.itemActivated.connect(lambda _: self._remove_past())
        self.remove_button.clicked.connect(self._remove_past)
        self.past.currentRowChanged.connect(lambda _: self._show())

    def _make_list(self) -> QVBoxLayout:
        left = QVBoxLayout()
        self._heading = small_heading("Recordings")
        left.addWidget(self._heading)
        self.list = QListWidget()
        self.list.setAccessibleName("Recordings to compare")
        self.list.setToolTip("Tick two or more recordings of one phrase; Space ticks")
        self.list.setFixedWidth(theme.px(_LIST_PX))
        self.list.setWordWrap(True)
        self.list.setSpacing(2)
        left.addWidget(self.list, 3)
        left.addWidget(small_heading("Compared before"))
        self.past = QListWidget()
        self.past.setAccessibleName("Comparisons that were logged")
        self.past.setToolTip("What was compared, when, and what was chosen")
        self.past.setFixedWidth(theme.px(_LIST_PX))
        self.past.setWordWrap(True)
        left.addWidget(self.past, 2)
        self.remove_button = QPushButton("Remove from the log")
        self.remove_button.setToolTip("Takes this comparison off the log; undo brings it back")
        left.addWidget(self.remove_button)
        return left

    def _make_letters(self, layout: QVBoxLayout) -> None:
        row = QHBoxLayout()
        self.begin_button = QPushButton("Compare")
        self.begin_button.setProperty("strong", "true")
        self.begin_button.setToolTip(
            "Turns the louder ones down until all are equally loud, and plays the first. Headphones down at first"
        )
        self.stop_button = QPushButton("Silence")
        self.stop_button.setToolTip("Stops playing; Esc does, too")
        self.seconds = QSpinBox()
        self.seconds.setRange(1, 20)
        self.seconds.setValue(_USUAL_S)
        self.seconds.setSuffix(" s")
        self.seconds.setAccessibleName("Length of the phrase")
        self.seconds.setToolTip("How much of each is played, from where it begins to sound")
        self.blind = QCheckBox("Blind")
        self.blind.setToolTip(
            "Letters in a new order each round, and no names: vote, and the tally tells whether a difference is heard"
        )
        for widget in (self.begin_button, self.stop_button):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.blind)
        row.addWidget(caption_of(self.seconds, "phrase of"))
        row.addWidget(self.seconds)
        layout.addLayout(row)
        self.says = Elided()
        layout.addWidget(self.says)
        area = QScrollArea()
        area.setWidgetResizable(True)
        self._holder = QWidget()
        self._grid = QGridLayout(self._holder)
        self._grid.setContentsMargins(0, 0, 6, 0)
        self._grid.setHorizontalSpacing(10)
        self._grid.setColumnStretch(1, 1)
        area.setWidget(self._holder)
        layout.addWidget(area, 1)
        self.hear: list[QPushButton] = []
        self.vote: list[QPushButton] = []
        self._names: list[QLabel] = []
        self.told = Lines(2)
        layout.addWidget(self.told)

    def _make_choice(self, layout: QVBoxLayout) -> None:
        row = QGridLayout()
        self.title, self.reason = QLineEdit(), QLineEdit()
        self.title.setAccessibleName("What was compared")
        self.title.setPlaceholderText("Two places at the harp")
        self.title.setMaxLength(80)
        self.title.setToolTip("How this comparison is called in the log")
        self.reason.setAccessibleName("Reason of the choice")
        self.reason.setPlaceholderText("Why this one")
        self.reason.setMaxLength(400)
        self.reason.setToolTip("What made the choice, for whoever reads it next week")
        row.addWidget(caption_of(self.title, "compared"), 0, 0)
        row.addWidget(self.title, 0, 1)
        row.addWidget(caption_of(self.reason, "reason"), 1, 0)
        row.addWidget(self.reason, 1, 1)
        self.log_button = QPushButton("Log the choice")
        self.log_button.setToolTip("Keeps what was compared, the votes, the choice and its reason")
        row.addWidget(self.log_button, 0, 2, 2, 1)
        layout.addLayout(row)

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        session, item = self._document.session, self._document.line
        line_id = "" if item is None else item.line.id
        found = candidates_of(session, line_id)
        self._heading.setText("Recordings" if item is None else f"Recordings of {item.line.name}")
        if found != self._candidates or line_id != self._line_id:
            self._candidates, self._line_id = found, line_id
            self._forget()
            self._drawing = True
            self.list.clear()
            for number, one in enumerate(found):
                entry = QListWidgetItem(f"{one.name}\n{one.differs}".strip())
                entry.setFlags(entry.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                is_first = number < 2
                entry.setCheckState(Qt.CheckState.Checked if is_first else Qt.CheckState.Unchecked)
                entry.setToolTip(f"{one.path}\n{one.differs}".strip())
                self.list.addItem(entry)
            self._drawing = False
        said = [comparison_text(one) for one in reversed(session.comparisons)]
        if [self.past.item(n).text() for n in range(self.past.count())] != said:  # type: ignore[union-attr]
            self.past.clear()
            self.past.addItems(said)
        self._show()

    def chosen(self) -> tuple[Candidate, ...]:
        """Those that are ticked."""
        return tuple(
            one
            for number, one in enumerate(self._candidates)
            if (entry := self.list.item(number)) is not None
            and entry.checkState() == Qt.CheckState.Checked
        )

    def _forget_if_drawn(self) -> None:
        if not self._drawing:
            self._forget()
            self._show()

    def _forget(self) -> None:
        """Other recordings: what was matched, and voted, is of the ones before."""
        if self._matched:
            self._player.stop()
        self._matched, self._files, self._ballot, self._now = (), (), None, -1

    def _show(self) -> None:
        count = len(self.chosen())
        self.begin_button.setEnabled(2 <= count <= MOST_COMPARED)
        self.stop_button.setEnabled(self._player.is_playing and self._now >= 0)
        self.remove_button.setEnabled(self.past.currentRow() >= 0)
        self.log_button.setEnabled(bool(self._matched))
        if len(self.hear) != len(self._matched):
            self._make_rows(len(self._matched))
        is_blind = self.blind.isChecked() and self._ballot is not None
        for number, letter in enumerate(self._letters()):
            which = self._which(number)
            is_now = self._player.is_playing and which == self._now
            self.hear[number].setText(f"Hear {letter}" if not is_now else f"{letter} sounds")
            one = self._matched[which]
            self._names[number].setText("" if is_blind else _told(one))
            self.vote[number].setText(f"{letter} is best")
        if not self._candidates:
            self.says.show_text(
                "Record takes of one phrase, or import recordings: they are listed on the left."
            )
        elif not self._matched:
            self.says.show_text("Tick two or more recordings of one phrase, then compare them.")
        else:
            self.says.show_text(
                "Press the letter, or its key: it goes on from the same place. All are equally loud."
            )
        names = [one.candidate.name for one in self._matched]
        votes = self._ballot if self._ballot is not None and any(self._ballot.votes) else None
        # Who still votes must not know how it stands.
        told = "" if votes is None or is_blind else tally_text(votes, names)
        if is_blind and self._ballot is not None:
            told = f"Round {self._ballot.round}. End “Blind” to see the tally."
        self.told.setText(told)

    def _letters(self) -> str:
        return string.ascii_uppercase[: len(self._matched)]

    def _which(self, number: int) -> int:
        """The recording that stands at a letter: in the order of this round, where nobody is to know."""
        is_blind = self.blind.isChecked() and self._ballot is not None
        return self._ballot.order[number] if is_blind and self._ballot is not None else number

    def _make_rows(self, count: int) -> None:
        while (entry := self._grid.takeAt(0)) is not None:
            if (widget := entry.widget()) is not None:
                widget.deleteLater()
        self.hear, self.vote = [], []
        self._names = []
        for number in range(count):
            letter = string.ascii_uppercase[number]
            hear, vote, name = QPushButton(), QPushButton(), caption(wrap=True)
            hear.setToolTip(f"Plays this one from the same place on. Key: {letter}")
            hear.setMinimumWidth(theme.px(92))
            vote.setToolTip("Counts as the better one of this round")
            hear.clicked.connect(lambda _, n=number: self.play(n))
            vote.clicked.connect(lambda _, n=number: self.vote_for(n))
            self._grid.addWidget(hear, number, 0)
            self._grid.addWidget(name, number, 1)
            self._grid.addWidget(vote, number, 2)
            self.hear.append(hear)
            self.vote.append(vote)
            self._names.append(name)
        self._grid.setRowStretch(count, 1)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def begin(self) -> None:
        """Match the ticked ones, and play the first."""
        chosen = self.chosen()
        rate_hz = self._document.session.setup.audio.sample_rate_hz
        seconds = float(self.seconds.value())
        self._number += 1
        if self._folder is None:
            self._folder = QTemporaryDir()
        base = Path(self._folder.path()) / str(self._number)

        def work(_: object, __: object) -> object:
            import soundfile

            found = matched(chosen, rate_hz, seconds)
            base.mkdir()
            files = []
            for number, one in enumerate(found):
                files.append(base / f"{number}.wav")
                soundfile.write(files[-1], one.samples, rate_hz, format="WAV", subtype="FLOAT")
            return found, tuple(files)

        def done(result: tuple[tuple[Matched, ...], tuple[Path, ...]]) -> None:
            self._matched, self._files = result
            self._ballot = Ballot.of(len(self._matched), self.order.randrange(10**6))
            self._at_s = 0.0
            if not self.title.text():
                item = self._document.line
                self.title.setText("Recordings" if item is None else item.line.name)
            self._show()
            self.play(0)

        self._tasks.run(_LANE, work, done, failed=self._document.refused.emit)

    def play(self, number: int) -> None:
        """Hear the one at a letter, from where the other one was."""
        if number >= len(self._matched):
            return
        which = self._which(number)
        one = self._matched[which]
        length_s = len(one.samples) / one.rate_hz
        at_s = self._at_s if self._player.is_playing and self._now >= 0 else 0.0
        self._now = which
        request = PlayRequest(path=self._files[which], start_s=at_s, loop_s=(0.0, length_s))
        if not self._player.play(request, one.rate_hz):
            self._now = -1
        self._show()

    def vote_for(self, number: int) -> None:
        """This one is better: counted, and where nobody is to know, the letters change."""
        if self._ballot is None or number >= len(self._matched):
            return
        if self.blind.isChecked():
            self._ballot = self._ballot.vote(self._letters()[number])
            self._player.stop()
            self._now = -1
        else:
            which = self._ballot.order.index(number)
            self._ballot = self._ballot.vote(self._letters()[which])
        self._show()

    def _on_moved(self, place_s: float) -> None:
        if self.isVisible() and self._now >= 0:
            self._at_s = place_s

    def _log(self) -> None:
        ballot = self._ballot
        if not self._matched or ballot is None:
            return
        comparison = Comparison(
            id="comparison",
            at=datetime.now().astimezone().isoformat(timespec="seconds"),
            title=" ".join(self.title.text().split()) or "Recordings",
            compared=tuple(
                Compared(
                    name=one.candidate.name[:80],
                    file=str(one.candidate.path),
                    channel=one.candidate.channel,
                    differs=one.candidate.differs[:1000],
                    votes=votes,
                )
                for one, votes in zip(self._matched, ballot.votes, strict=True)
            ),
            is_blind=self.blind.isChecked(),
            chosen=ballot.leader,
            reason=" ".join(self.reason.text().split()),
        )

        def edit(session: Session) -> Session:
            return log_comparison(session, comparison)

        self.blind.setChecked(False)
        self._document.edit(f"comparison of {comparison.title}", edit)

    def _remove_past(self) -> None:
        comparisons = self._document.session.comparisons
        row = self.past.currentRow()
        if not 0 <= row < len(comparisons):
            return
        one = comparisons[len(comparisons) - 1 - row]
        self._document.edit(
            f"removal of {one.title} from the log",
            lambda session: remove_comparison(session, one.id),
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """A letter plays its recording, Esc is silence."""
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self._player.stop()
            return
        letter = "" if event is None else event.text().upper()
        if letter and letter in self._letters():
            self.play(self._letters().index(letter))
            return
        super().keyPressEvent(event)


def _told(one: Matched) -> str:
    """A recording's name, by how much it was turned down, and in what it differs from the first."""
    down = f"{one.gain_db:.1f} dB".replace("-", "−") if one.gain_db <= -0.05 else "as it is"
    loud = "" if one.lufs is None else f", {one.lufs:.1f} LUFS".replace("-", "−")
    said = f"{one.candidate.name} ({down}{loud})"
    return f"{said}\n{one.candidate.differs}" if one.candidate.differs else said
