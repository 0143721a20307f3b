"""Takes: what was recorded, what was set for it, what is different now; notes and a rating."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.widgets.buttons import push
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import (
    caption,
    caption_of,
    card,
    heading,
    scrolling_rest,
    small_heading,
    text,
)
from verve.app.widgets.notes import Notes
from verve.app.widgets.number import NumberField
from verve.app.widgets.take_table import TakeTable
from verve.core.mix import start_of
from verve.core.session import Session, Take, edit_take, patch_of, remove_take, restore_take
from verve.core.sheets import (
    log_csv,
    log_html,
    log_markdown,
    moment_text,
    place_text,
    seconds_text,
    take_path,
    track_facts,
    unreadable_text,
)
from verve.core.takes import differences, take_before

_FILES = "PDF (*.pdf);;Web page (*.html);;Markdown (*.md);;Table (*.csv)"
_RATINGS = (
    "not rated",
    "1 of 5: no use",
    "2 of 5: in need",
    "3 of 5: usable",
    "4 of 5: good",
    "5 of 5: the one",
)


class LogPage(QWidget):
    """The list of takes, the newest first, and one of them whole."""

    recordings_wanted = pyqtSignal(object, object)
    """The files of a take are to be looked at as sound files: their paths, and by path the signals they hold."""

    recall_wanted = pyqtSignal(object)
    """A `Take` is to be dialled in again by hand."""

    explanation_wanted = pyqtSignal(str, str)
    """What explains the difference between predicted and measured: of a take, and a signal in it."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        self._empty_card, empty = card()
        empty.addStretch(1)
        empty.addWidget(heading("No take yet"))
        empty.addWidget(
            text(
                "A take is kept with everything that was set for it: gains, pads, switches, "
                "distances, cables, buffer. So the same sound comes back next week, and a knob that "
                "has moved is noticed before the next take. Record the first one in Check."
            )
        )
        self.go_button = QPushButton("Go to Check")
        self.go_button.setProperty("strong", "true")
        self.go_button.setToolTip("Opens the rehearsal, where takes are recorded. Shortcut: Ctrl+6")
        empty.addWidget(self.go_button, 0, Qt.AlignmentFlag.AlignLeft)
        empty.addStretch(2)
        outer.addWidget(self._empty_card)
        self._full = QWidget()
        outer.addWidget(self._full)
        row = QHBoxLayout(self._full)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        self.list = QListWidget()
        self.list.setAccessibleName("Takes, the newest first")
        self.list.setSpacing(3)
        self.list.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)
        side = QWidget()
        side.setFixedWidth(theme.px(166))
        beside = QVBoxLayout(side)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.list, 1)
        self.export = push(
            "Export the log…", "All takes as PDF, web page, Markdown or table", self._export
        )
        beside.addWidget(self.export)
        row.addWidget(side)
        frame, detail = card()
        row.addWidget(frame, 1)
        self._make_detail(detail)
        self._take_id = ""
        self._drawing = False
        # ── connections ──
        self.list.currentRowChanged.connect(self._row_changed)
        self.table.asked.connect(self._ask)
        self.name.editingFinished.connect(self._rename)
        self.rating.activated.connect(self._rate)
        self.start.editingFinished.connect(self._begin)
        self.restore.clicked.connect(self._restore)
        self.remove.clicked.connect(self._remove)
        self.folder.clicked.connect(self._open_folder)
        self.listen.clicked.connect(self._look_at_recordings)
        self.explain.clicked.connect(self._explain)
        self.notes.left.connect(self._leave_notes)

    def _ask(self, row: int) -> None:
        take = self._take()
        if take is not None and row < len(take.tracks):
            track = take.tracks[row]
            self._document.select_line(track.line)
            self._document.ask(f"{track.name} in {take.name}", track_facts(take, track))

    def _make_detail(self, layout: QVBoxLayout) -> None:
        top = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the take")
        self.name.setToolTip("The name under which this take is remembered")
        self.name.setMaxLength(80)
        self.rating = Choice()
        self.rating.addItems(_RATINGS)
        self.rating.setAccessibleName("Rating")
        self.rating.setToolTip(
            "How good the performance was; the figures say how good the recording was"
        )
        self.start = NumberField(
            "Where it begins in the song", "s", low=-10_000, high=10_000,
            says="When its first sample was played, in seconds of the song; a take from another recorder does not "
            "know, and is taken to begin with the song",
        )  # fmt: skip
        self.start.setFixedWidth(theme.px(84))
        top.addWidget(self.name, 1)
        top.addWidget(caption_of(self.start, "begins at"))
        top.addWidget(self.start)
        top.addWidget(self.rating)
        layout.addLayout(top)
        self._when = caption(wrap=True)
        layout.addWidget(self._when)
        buttons = QHBoxLayout()
        self.restore = QPushButton("Set everything as it was")
        self.restore.setToolTip(
            "Brings every setting of this take back, as one step that can be undone"
        )
        self.recall = push(
            "Recall…",
            "Everything that was set, to be dialled in by hand: what differs is ticked off one by one",
            self._recall,
        )
        self.listen = QPushButton("Listen and look")
        self.listen.setToolTip(
            "Brings its files to Check, Recordings: over time, by frequency, to be heard"
        )
        self.explain = QPushButton("Explain…")
        self.explain.setToolTip(
            "Why a signal came out otherwise than computed, the likeliest first; and learn from it"
        )
        self.folder = QPushButton("Show the files")
        self.folder.setToolTip("Opens the folder with the sound files of this take")
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("The sound files stay where they are; undo brings it back")
        for button in (
            self.restore,
            self.recall,
            self.explain,
            self.listen,
            self.folder,
            self.remove,
        ):
            buttons.addWidget(button)
        buttons.addStretch(1)
        layout.addLayout(buttons)
        holder = QWidget()
        inside = QVBoxLayout(holder)
        inside.setContentsMargins(0, 0, 6, 0)
        inside.addWidget(small_heading("Measured, and computed beforehand; dBFS"))
        self.table = TakeTable(with_advice=False)
        inside.addWidget(self.table)
        self._now_heading = small_heading("Different now")
        self.now = text()
        self._before_heading = small_heading("Different from the take before")
        self.before = text()
        for widget in (self._now_heading, self.now, self._before_heading, self.before):
            inside.addWidget(widget)
        inside.addWidget(small_heading("Notes"))
        self.notes = Notes()
        self.notes.setAccessibleName("Notes about the take")
        self.notes.setPlaceholderText("What was played, by whom, what to do differently")
        self.notes.setMinimumHeight(64)
        self.notes.setMaximumHeight(130)
        self.notes.setTabChangesFocus(True)
        inside.addWidget(self.notes)
        inside.addStretch(1)
        layout.addWidget(scrolling_rest(holder), 1)

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def _take(self) -> Take | None:
        takes = self._document.session.takes
        return next((take for take in takes if take.id == self._take_id), None)

    def refresh(self) -> None:
        """Draw the document as it is now."""
        takes = self._document.session.takes
        self._empty_card.setVisible(not takes)
        self._full.setVisible(bool(takes))
        if not takes:
            self._take_id = ""
            return
        if self._take() is None:
            self._take_id = takes[-1].id
        self._drawing = True
        while self.list.count() > len(takes):
            self.list.takeItem(self.list.count() - 1)
        while self.list.count() < len(takes):
            self.list.addItem("")
        for row, take in enumerate(reversed(takes)):
            entry = self.list.item(row)
            assert entry is not None
            entry.setText(f"{take.name}\n{moment_text(take.recorded_at)}")
            if take.id == self._take_id:
                self.list.setCurrentRow(row)
        self._drawing = False
        self._show_take()

    def show_newest(self) -> None:
        """Turn to the take that has just been made."""
        takes = self._document.session.takes
        self._take_id = takes[-1].id if takes else ""

    def _show_take(self) -> None:
        take, session = self._take(), self._document.session
        if take is None:
            return
        if not (self.name.hasFocus() and self.name.isModified()):
            self.name.setText(take.name)
        self.rating.setCurrentIndex(take.rating)
        if not (self.start.hasFocus() and self.start.isModified()):
            self.start.show_number(start_of(take))
        place = place_text(take_path(take))
        self._when.setText(f"{moment_text(take.recorded_at)}, {seconds_text(take)}, {place}")
        self.table.show_take(take, self._document.assessment)
        self.table.setFixedHeight(_height(self.table))
        # A take is held against its own layer: what another one has is neither new nor gone.
        now = patch_of(session, take.layer) if take.layer is not None else None
        moved = () if take.setup is None else differences(take.setup, now or session.setup)
        said = "\n".join(d.words for d in moved) or "Nothing: all is as it was."
        self.now.setText(unreadable_text(take) or said)
        self.restore.setEnabled(bool(moved))
        self.recall.setEnabled(take.setup is not None)
        earlier = take_before(session, take)
        is_compared = earlier is not None and earlier.setup is not None and take.setup is not None
        self._before_heading.setVisible(is_compared)
        self.before.setVisible(is_compared)
        if earlier is not None and earlier.setup is not None and take.setup is not None:
            before = differences(earlier.setup, take.setup)
            self.before.setText("\n".join(d.words for d in before) or "Nothing.")
        if self.notes.about != take.id or not self.notes.hasFocus():
            self.notes.about = take.id
            if self.notes.toPlainText() != take.notes:
                self.notes.setPlainText(take.notes)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _row_changed(self, row: int) -> None:
        takes = self._document.session.takes
        if self._drawing or not 0 <= row < len(takes):
            return
        self._leave_notes()
        self._take_id = takes[len(takes) - 1 - row].id
        self._show_take()

    def _edit(self, what: str, **changes: object) -> None:
        take = self._take()
        if take is None:
            return
        take_id = take.id

        def change(session: Session) -> Session:
            return edit_take(session, take_id, **changes)  # type: ignore[arg-type]

        if not self._document.edit(f"{what} of {take.name}", change):
            self._show_take()

    def _rename(self) -> None:
        if self.name.isModified():
            self.name.setModified(False)
            self._edit("name", name=self.name.text())

    def _rate(self, rating: int) -> None:
        self._edit("rating", rating=rating)

    def _begin(self) -> None:
        taken = self.start.taken()
        if taken is not None:
            self.start.setModified(False)
            self._edit("beginning", start_s=taken[0])

    def _leave_notes(self) -> None:
        take = next((t for t in self._document.session.takes if t.id == self.notes.about), None)
        notes = self.notes.toPlainText()
        if take is not None and notes != take.notes:
            take_id = take.id
            self._document.edit(
                f"notes of {take.name}", lambda session: edit_take(session, take_id, notes=notes)
            )

    def _restore(self) -> None:
        take = self._take()
        if take is not None:
            take_id = take.id
            self._document.edit(
                f"settings of {take.name}", lambda session: restore_take(session, take_id)
            )

    def _recall(self) -> None:
        take = self._take()
        if take is not None:
            self.recall_wanted.emit(take)

    def _export(self) -> None:
        start = str(Path.home() / "takes.pdf")
        name, _ = QFileDialog.getSaveFileName(self, "Export the log", start, _FILES)
        if name:
            self.put_on_paper(Path(name))

    def put_on_paper(self, path: Path) -> None:
        """Write all takes as PDF, web page, Markdown or table, by the ending of the name."""
        session = self._document.session

        def words() -> str:
            is_table = path.suffix.lower() == ".csv"
            return log_csv(session) if is_table else log_markdown(session)

        put_on_paper(
            self._tasks,
            path,
            html=lambda: log_html(session),
            csv=words,
            failed=self._document.refused.emit,
        )

    def _remove(self) -> None:
        take = self._take()
        if take is not None:
            take_id = take.id
            self._document.edit(
                f"removal of {take.name}", lambda session: remove_take(session, take_id)
            )

    def _look_at_recordings(self) -> None:
        take = self._take()
        if take is not None:
            paths = dict.fromkeys(Path(track.file) for track in take.tracks)
            signals = {track.file: track.line for track in take.tracks if not track.channel}
            self.recordings_wanted.emit(list(paths), signals)

    def _explain(self) -> None:
        take = self._take()
        if take is not None:
            row = max(0, self.table.currentRow())
            self.explanation_wanted.emit(take.id, take.tracks[row].line)

    def _open_folder(self) -> None:
        take = self._take()
        if take is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(take_path(take)))


def _height(table: TakeTable) -> int:
    """As high as its rows: the page scrolls, not the table."""
    header = table.horizontalHeader()
    assert header is not None
    rows = sum(table.rowHeight(row) for row in range(table.rowCount()))
    return header.sizeHint().height() + rows + 2 * table.frameWidth() + 2
