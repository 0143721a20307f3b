"""The whole patch on one page: a row for each line, every socket, why it is so, and on paper."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption
from verve.app.widgets.sockets import InputStrip
from verve.app.widgets.table import Table
from verve.core.connections import Choice, Suggestion
from verve.core.errors import VerveError
from verve.core.files import write_atomically
from verve.core.session import fix_line
from verve.core.sheets import (
    PatchRow,
    box_uses,
    patch_csv,
    patch_html,
    patch_rows,
    track_rows,
    tracks_csv,
)
from verve.core.words import Fact

_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"
_TRACK_FILES = "Table (*.csv);;Text (*.txt)"


def _way_words(row: PatchRow) -> str:
    """Source → cable → box → … in one line: "Mara → jack, 3 m → Active DI box → XLR, 5 m"."""
    words = [row.legs[0].start] if row.legs else []
    for leg in row.legs:
        if leg.cable:
            words.append(leg.cable)
        if leg is not row.legs[-1]:
            words.append(leg.end)
    return " → ".join(words)


class PatchPage(QWidget):
    """Draws the assessment's patch; a row chosen is the line chosen everywhere."""

    connections_wanted = pyqtSignal()
    trouble_wanted = pyqtSignal()
    move_wanted = pyqtSignal()

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._rows: tuple[PatchRow, ...] = ()
        self._choices: dict[str, Choice] = {}
        self._drawing = False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        top = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for name, says, slot in (
            (
                "Suggest connections",
                "Connects the first layer of the brief in the best way the kit allows",
                self.connections_wanted.emit,
            ),
            (
                "Move to another input…",
                "Moves the chosen signal, with what that does to it",
                self.move_wanted.emit,
            ),
            (
                "Lock",
                "A locked signal keeps its connections when they are suggested again",
                self._fix,
            ),
            ("No signal?", "What could be the cause, most likely first", self.trouble_wanted.emit),
            ("Tracks…", "The tracks of the recording software as a table", self._tracks),
            ("Print or export…", "PDF, web page or table, with a box to tick", self._paper),
        ):
            button = QPushButton(name)
            button.setToolTip(says)
            button.clicked.connect(slot)
            top.addWidget(button)
            self.buttons[name] = button
        top.addStretch(1)
        layout.addLayout(top)
        busy = QHBoxLayout()
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setAccessibleName("Suggesting connections")
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Leaves the patch as it is")
        self.stop.clicked.connect(lambda: tasks.cancel("connections"))
        busy.addWidget(self.progress, 1)
        busy.addWidget(self.stop)
        layout.addLayout(busy)
        self.table = Table(
            ("input", "signal", "who", "connected through", "set there", ""),
            "All signals, in the order of the interface’s inputs",
            empty="What is connected to what is listed here, one signal after the other.",
            stretched=(3, 4),
            wraps=True,
        )
        self.table.setToolTip("Press a signal to see why it is connected this way")
        layout.addWidget(self.table, 6)
        self._says = caption(wrap=True)
        layout.addWidget(self._says)
        area = QScrollArea()
        area.setWidgetResizable(True)
        self.sockets = InputStrip()
        area.setWidget(self.sockets)
        layout.addWidget(area, 2)
        # ── connections ──
        self.table.asked.connect(self._ask)
        tasks.progressed.connect(self._on_progress)
        tasks.busy_changed.connect(self._show_busy)
        self._show_busy()

    def show_connections(self, way: Suggestion) -> None:
        """Remember why each line goes its way."""
        self._choices = {choice.signal.name: choice for choice in way.choices}
        self.refresh()

    def refresh(self) -> None:
        """Draw the document as it is now."""
        assessment, item = self._document.assessment, self._document.line
        self._drawing = True
        self._rows = patch_rows(assessment)
        self.table.show_rows(
            [
                (
                    f"{row.number}" if row.recorder else "none",
                    row.name,
                    row.who,
                    _way_words(row),
                    row.settings,
                    "locked" if row.is_fixed else "",
                )
                for row in self._rows
            ]
        )
        chosen = [i for i, row in enumerate(self._rows) if item and row.line == item.line.id]
        if chosen:
            self.table.setCurrentCell(chosen[0], 0)
        self._drawing = False
        lines = assessment.session.setup.lines
        self.sockets.show_boxes(box_uses(assessment), {line.name: line.colour for line in lines})
        is_fixed = bool(chosen) and self._rows[chosen[0]].is_fixed
        self.buttons["Lock"].setText("Unlock" if is_fixed else "Lock")
        for name in ("Move to another input…", "Lock", "No signal?", "Tracks…", "Print or export…"):
            self.buttons[name].setEnabled(bool(self._rows))
        self.buttons["Suggest connections"].setEnabled(bool(assessment.session.brief.parts))
        choice = self._choices.get(item.line.name) if item is not None else None
        self._says.setText("" if choice is None else f"{choice.signal.name}: {choice.reason}")
        self._says.setVisible(choice is not None)

    def _show_busy(self) -> None:
        busy = self._tasks.is_busy("connections")
        self.progress.setVisible(busy)
        self.stop.setVisible(busy)

    def _on_progress(self, name: str, share: float) -> None:
        if name == "connections":
            self.progress.setValue(round(share * 100))
            self.progress.setFormat(f"All connections are computed: {share:.0%}")

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _ask(self, row: int) -> None:
        if self._drawing or row >= len(self._rows):
            return
        chosen = self._rows[row]
        self._document.select_line(chosen.line)
        choice = self._choices.get(chosen.name)
        facts = [
            Fact(label=leg.start, text="→", origin="set", how=f"{leg.cable} → {leg.end}")
            for leg in chosen.legs
        ]
        if choice is not None:
            facts = [
                Fact(
                    label=choice.rated.connection.words,
                    text=f"{choice.rated.snr_db:.0f} dB",
                    origin="computed",
                    how=f"above the noise, loudest passage. {choice.reason}",
                ),
                *(
                    Fact(
                        label=other.words,
                        text=f"{-other.worse_db:+.1f} dB".replace("-", "−"),
                        origin="computed",
                        how=f"not taken: {other.why_not}",
                    )
                    for other in choice.alternatives
                ),
            ]
        self._document.ask(f"the connections of {chosen.name}", facts)

    def _fix(self) -> None:
        item = self._document.line
        if item is not None:
            line_id, now = item.line.id, item.line.is_fixed
            label = f"{'unlocking' if now else 'locking'} {item.line.name}"
            self._document.edit(label, lambda s: fix_line(s, line_id, is_fixed=not now))

    def _paper(self) -> None:
        start = str(Path.home() / "patch.pdf")
        name, _ = QFileDialog.getSaveFileName(
            self, "Print or export the connections", start, _FILES
        )
        if name:
            self.put_on_paper(Path(name))

    def put_on_paper(self, path: Path) -> None:
        """Write the patch as PDF, web page or table, by the ending of the name."""
        assessment = self._document.assessment
        put_on_paper(
            self._tasks,
            path,
            html=lambda: patch_html(assessment),
            csv=lambda: patch_csv(assessment),
            failed=self._document.refused.emit,
        )

    def _tracks(self) -> None:
        start = str(Path.home() / "tracks.csv")
        name, _ = QFileDialog.getSaveFileName(self, "The track list", start, _TRACK_FILES)
        if name:
            self.write_tracks(Path(name))

    def write_tracks(self, path: Path) -> None:
        """Write the track list as a table, or as plain text where the name ends in .txt."""
        assessment = self._document.assessment
        content = tracks_csv(assessment)
        if path.suffix.lower() == ".txt":
            content = "\n".join("  ".join(row) for row in track_rows(assessment)) + "\n"
        try:
            write_atomically(path, content)
        except VerveError as error:
            self._document.refused.emit(str(error))
