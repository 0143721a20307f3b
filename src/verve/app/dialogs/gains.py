"""Setting all gains at once: every line before and after, why it is the best, taken whole, in part or not."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.tasks import Tasks
from verve.app.widgets.corridor import Corridor
from verve.app.widgets.corridor_shape import shared_scale
from verve.app.widgets.labels import caption, card, heading, small_heading, text
from verve.app.widgets.table import Table
from verve.core.certificates import Certificate
from verve.core.gain import all_changes
from verve.core.proposal import Proposal, proposal
from verve.core.session import Session, apply_changes

_GAINS, _WAYS = "gains", "improvements"


class SettleDialog(QDialog):
    """Proposes; nothing is set before one of its buttons is pressed. Worked out beside the window."""

    def __init__(
        self,
        session: Session,
        line_id: str,
        parent: QWidget | None = None,
        tasks: Tasks | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Set the gains")
        open_at(self, 1000, 720)
        self._tasks = tasks or Tasks(self, is_inline=True)
        self._line_id, self._whole = line_id, False
        self._found: Proposal | None = None
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Every gain where it belongs"))
        layout.addWidget(
            caption(
                "Positions of gains, pads, trims and faders, compared: room at every stage first, then the "
                "target, then the least noise. What is locked stays as it is.",
                wrap=True,
            )
        )
        self.table = Table(
            ("Signal", "now, dBFS", "then", "noise now, dBFS A", "then", "what to set"),
            "Signals before and after",
            empty="The best gains are listed here, signal by signal.",
            numbers=(1, 2, 3, 4),
            stretched=(5,),
        )
        self.table.setMinimumHeight(120)
        layout.addWidget(self.table, 5)
        pictures = QHBoxLayout()
        self.before, self.after = Corridor(), Corridor()
        for corridor, words in ((self.before, "as it is"), (self.after, "as it would be")):
            frame, column = card()
            column.addWidget(small_heading(words))
            corridor.setEnabled(False)
            corridor.empty_words = "…"
            corridor.setMinimumHeight(120)
            corridor.setMaximumHeight(270)
            column.addWidget(corridor, 1)
            pictures.addWidget(frame, 1)
        layout.addLayout(pictures, 4)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setAccessibleName("Why this is the best there is")
        self.words = text()
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        # In a layout of its own: a label by itself in there is not as high as its words need.
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.words)
        column.addStretch(1)
        area.setWidget(inside)
        area.setMinimumHeight(90)
        layout.addWidget(area, 3)
        layout.addLayout(self._make_buttons())
        for button in (self.one, self.all):
            button.setEnabled(False)
        self.words.setText("Every position of every gain, pad, trim and fader is compared …")
        self._tasks.run(
            _GAINS,
            lambda *_: proposal(session),
            self._show_found,
            failed=self.words.setText,
        )

    @property
    def certificates(self) -> tuple[Certificate, ...]:
        """What was found for each line; none while it is worked out."""
        return () if self._found is None else self._found.certificates

    @property
    def is_ready(self) -> bool:
        """Whether everything that was asked for has been found."""
        return not (self._tasks.is_busy(_GAINS) or self._tasks.is_busy(_WAYS))

    def _show_found(self, found: Proposal) -> None:
        self._found = found
        self.table.show_rows([_row(c) for c in found.certificates])
        lines = [c.line for c in found.certificates]
        for button in (self.one, self.all):
            button.setEnabled(bool(lines))
        if lines:
            row = lines.index(self._line_id) if self._line_id in lines else 0
            self.table.setCurrentCell(row, 0)
        self.table.currentCellChanged.connect(lambda *_: self._show())
        self._show()

    def done(self, result: int) -> None:
        for name in (_GAINS, _WAYS):
            self._tasks.cancel(name)
        super().done(result)

    def _make_buttons(self) -> QHBoxLayout:
        self.one, self.all = QPushButton("Set this signal"), QPushButton("Set all")
        self.one.setToolTip("Only the chosen signal, and what is set together with it")
        self.all.setToolTip("Every signal, as one step that can be undone")
        self.one.clicked.connect(self._take_one)
        self.all.clicked.connect(self._take_all)
        return foot(self, self.all, also=[self.one])

    def chosen(self) -> Certificate | None:
        """The line that is looked at."""
        row = self.table.currentRow()
        return self.certificates[row] if 0 <= row < len(self.certificates) else None

    def label(self) -> str:
        """What the edit is called."""
        one = self.chosen()
        return "all gains" if self._whole or one is None else f"gains of {one.name}"

    def apply(self, session: Session) -> Session:
        """The session with what was taken set."""
        one = self.chosen()
        with_it = () if one is None else (one.line, *one.best.together)
        taken = [c.best for c in self.certificates if self._whole or c.line in with_it]
        return apply_changes(session, all_changes(taken))

    def _take_one(self) -> None:
        self._whole = False
        self.accept()

    def _take_all(self) -> None:
        self._whole = True
        self.accept()

    def _show(self) -> None:
        one, found = self.chosen(), self._found
        if one is None or found is None:
            self.words.setText("No signal can be set: none reaches an interface.")
            return
        for corridor, assessment in ((self.before, found.before), (self.after, found.after)):
            corridor.show_line(assessment.line(one.line), shared_scale(assessment))
        self.one.setText("Set these signals" if one.best.together else "Set this signal")
        self.words.setText("\n".join((*one.reasons(), "What else would help is being computed …")))
        self._tasks.run(
            _WAYS,
            lambda *_: one.improvement_words(),
            lambda more: self.words.setText("\n".join((*one.reasons(), *more))),
            failed=lambda error: self.words.setText("\n".join((*one.reasons(), error))),
        )


def _row(one: Certificate) -> tuple[str, ...]:
    best = one.best

    def level(value: float | None) -> str:
        return "—" if value is None else f"{value:.1f}".replace("-", "−")

    return (
        one.name,
        level(best.peak_before_dbfs) if one.is_alive else "silent",
        level(best.peak_dbfs),
        level(best.noise_before_dbfs_a if one.is_alive else None),
        level(best.noise_dbfs_a),
        "; ".join(best.words) or "as it is",
    )
