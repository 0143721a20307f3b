"""The rough mix: a list of sentences whose numbers are changed where they stand; heard, and bounced."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.rendered import Rendered
from verve.app.tasks import Report, Stopped, Tasks
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
from verve.app.widgets.lots import RowLots
from verve.app.widgets.number import NumberField
from verve.core.mix import (
    Aim,
    Bounced,
    Stand,
    bounce,
    plan_of_mix,
    standing_of,
    write_mix,
)
from verve.core.session import MixLine, Session, change_mix_line, set_mix
from verve.core.sheets import bounced_text, pan_text, parsed_pan

if TYPE_CHECKING:
    from verve.app.player import Player

_STANDINGS = (
    ("lead", "the lead"),
    ("double", "a double"),
    ("harmony", "a harmony"),
    ("other", "beside it"),
)
_PANS = (-1.0, -0.7, -0.4, -0.2, 0.0, 0.2, 0.4, 0.7, 1.0)
_FILES = "WAV, 24 bit (*.wav);;FLAC, 24 bit (*.flac)"
_LANE = "bounce"


def _field(name: str, unit: str, low: float, high: float, says: str) -> NumberField:
    field = NumberField(name, unit, low=low, high=high, says=says)
    field.setFixedWidth(theme.px(82))
    return field


class MixRow(QWidget):
    """One signal as a sentence: what it is, how loud, where, and what is cut below."""

    def __init__(self, change: Callable[[Stand, str, object], None]) -> None:
        super().__init__()
        self._change = change
        self.stand: Stand | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 1, 0, 1)
        row.setSpacing(6)
        self.heard = QCheckBox()
        self.heard.setToolTip("Whether it is in the mix")
        self.heard.setMinimumWidth(theme.px(150))
        self.standing = Choice()
        self.standing.setAccessibleName("What it is in the mix")
        self.standing.setToolTip(
            "Doubles and harmonies stand 6 dB under the lead, left and right, unless something else is said"
        )
        for key, words in _STANDINGS:
            self.standing.addItem(words, key)
        self.trim = _field("Trim", "dB", -60, 24, "How much louder or softer it is than recorded")
        self.pan = Choice()
        self.pan.setAccessibleName("Where it stands")
        self.pan.setToolTip("Left, right, or between")
        for value in _PANS:
            self.pan.addItem(pan_text(value), value)
        self.cut = _field(
            "Low cut", "Hz", 0, 1000, "What lies below is cut, 12 dB an octave; 0 for none"
        )
        row.addWidget(self.heard)
        row.addWidget(caption_of(self.standing, "is"))
        row.addWidget(self.standing)
        row.addWidget(caption_of(self.trim, "at"))
        row.addWidget(self.trim)
        row.addWidget(caption_of(self.pan, "from"))
        row.addWidget(self.pan)
        row.addWidget(caption_of(self.cut, "cut below"))
        row.addWidget(self.cut)
        row.addStretch(1)
        # ── connections ──
        self.heard.clicked.connect(lambda on: self._tell("is_muted", not on))
        self.standing.activated.connect(
            lambda _: self._tell("standing", self.standing.currentData())
        )
        self.pan.activated.connect(lambda _: self._tell("pan", self.pan.currentData()))
        self.trim.editingFinished.connect(lambda: self._number("trim_db", self.trim))
        self.cut.editingFinished.connect(lambda: self._number("low_cut_hz", self.cut))

    def show_stand(self, stand: Stand) -> None:
        """Draw another signal."""
        is_other = self.stand is None or self.stand.line != stand.line
        self.stand = stand
        self.heard.setText(stand.name)
        self.heard.setChecked(not stand.is_muted)
        self.standing.setCurrentIndex(self.standing.findData(stand.standing))
        nearest = parsed_pan(stand.pan, _PANS)
        self.pan.setCurrentIndex(nearest)
        for field, value in ((self.trim, stand.trim_db), (self.cut, stand.low_cut_hz)):
            if is_other or not field.hasFocus():
                field.show_number(value)
        for widget in (self.standing, self.trim, self.pan, self.cut):
            widget.setEnabled(not stand.is_muted)

    def _tell(self, name: str, value: object) -> None:
        if self.stand is not None:
            self._change(self.stand, name, value)

    def _number(self, name: str, field: NumberField) -> None:
        found = field.taken()
        if found is not None:
            self._tell(name, found[0])


class MixPage(QWidget):
    """Sentences, one below the other; what is heard of them, and what is bounced."""

    def __init__(self, document: Document, tasks: Tasks, player: Callable[[], Player]) -> None:
        super().__init__()
        self._document, self._tasks, self._player = document, tasks, player
        self._rendered = Rendered("rough mix", tasks, player)
        self._lufs: float | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        outer.addWidget(frame)
        head = QHBoxLayout()
        title = heading("Rough mix")
        title.setWordWrap(False)
        head.addWidget(title)
        head.addStretch(1)
        self.hear = push("Hear it", "The whole mix from its beginning; again ends it", self._hear)
        self.bounce_button = push(
            "Bounce…", "Writes the mix as WAV or FLAC; takes stay as they are", self._ask_where, strong=True
        )  # fmt: skip
        self.stop = push("Cancel", "Nothing is written", lambda: tasks.cancel(_LANE))
        self.stop.hide()
        for button in (self.hear, self.bounce_button, self.stop):
            head.addWidget(button)
        layout.addLayout(head)
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setAccessibleName("Progress of the bounce")
        self.progress.hide()
        layout.addWidget(self.progress)
        self.said = text()
        layout.addWidget(self.said)
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(2)
        self._list = QVBoxLayout()
        column.addLayout(self._list)
        self._rows: RowLots[MixRow] = RowLots(self._list, lambda _: MixRow(self._change_line), 2)
        self._all = small_heading("All of it")
        column.addWidget(self._all)
        self._make_sentences(column)
        column.addStretch(1)
        layout.addWidget(scrolling_rest(holder), 1)

    @property
    def rows(self) -> list[MixRow]:
        """The sentence of each signal."""
        return [row for row in self._rows.rows if not row.isHidden()]

    def _make_sentences(self, column: QVBoxLayout) -> None:
        self.backing = _field("Backing", "dB", -60, 24, "How much louder or softer the backing is")
        self.duck = _field(
            "Backing down", "LU", 0, 24, "By how much it goes down while somebody sings or speaks"
        )
        self.room = NumberField(
            "Room", "dB", low=-60, high=0, is_needed=False,
            says="How far below the mix the one shared room lies; empty for none",
        )  # fmt: skip
        self.room.setFixedWidth(theme.px(92))
        self.room.setPlaceholderText("none")
        self.breaths = _field("Breaths", "dB", -60, 0, "How far the pauses of voices go down")
        self.start = _field("From", "s", 0, 86_400, "Where in the song the mix begins")
        self.end = NumberField(
            "To", "s", low=0, high=86_400, is_needed=False, says="Where it ends; empty for its end"
        )
        self.end.setFixedWidth(theme.px(92))
        self.end.setPlaceholderText("its end")
        self.rise = _field("Fade-in", "s", 0, 60, "How long the head takes to come up")
        self.fall = _field("Fade-out", "s", 0, 60, "How long the tail takes to go")
        self.loudness = _field(
            "Loudness",
            "LUFS",
            -40,
            -5,
            "How loud it is bounced: −16 for listening, −23 for broadcast",
        )
        self.ceiling = _field("Ceiling", "dBTP", -12, 0, "No true peak goes over this")
        self.limits = QCheckBox("with a gentle limiter, if it has to be")
        self.limits.setToolTip(
            "Up to 3 dB; without it, or beyond, it becomes as loud as the peaks allow, and that is said"
        )
        self.reference = Choice()
        self.reference.setAccessibleName("Reference song")
        self.reference.setToolTip("A sound file of the session to listen to beside the mix")
        self.compare = push(
            "Hear it as loud",
            "The reference, as loud as the mix was when you heard it",
            self._compare,
        )
        sentences = (
            ("The backing at", self.backing, "and", self.duck, "down while somebody sings or speaks."),
            ("One shared touch of room at", self.room, "under the mix; pauses of voices at", self.breaths, "."),
            ("From", self.start, "to", self.end, "; fading in over", self.rise, ", out over", self.fall, "."),
            ("Bounced at", self.loudness, "with no peak over", self.ceiling, ",", self.limits),
            ("Beside it", self.reference, self.compare),
        )  # fmt: skip
        for sentence in sentences:
            row = QHBoxLayout()
            row.setSpacing(6)
            for part, after in itertools.pairwise((*sentence, "")):
                if isinstance(part, QWidget):
                    row.addWidget(part)
                elif isinstance(after, QWidget):
                    row.addWidget(caption_of(after, part))
                else:
                    row.addWidget(caption(part))
            row.addStretch(1)
            column.addLayout(row)
        for field, name in (
            (self.backing, "backing_db"), (self.duck, "duck_lu"), (self.room, "room_db"),
            (self.breaths, "breaths_db"), (self.start, "start_s"), (self.end, "end_s"),
            (self.rise, "fade_in_s"), (self.fall, "fade_out_s"),
            (self.loudness, "loudness_lufs"), (self.ceiling, "ceiling_dbtp"),
        ):  # fmt: skip
            field.editingFinished.connect(lambda f=field, n=name: self._number(f, n))
        self.limits.clicked.connect(lambda on: self._change(may_limit=on))
        self.reference.activated.connect(
            lambda _: self._change(reference=self.reference.currentData())
        )

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        session = self._document.session
        mix, stands = session.mix, standing_of(session)
        self._rows.show(len(stands), lambda row, n: row.show_stand(stands[n]))
        for field, value in (
            (self.backing, mix.backing_db), (self.duck, mix.duck_lu), (self.room, mix.room_db),
            (self.breaths, mix.breaths_db), (self.start, mix.start_s), (self.end, mix.end_s),
            (self.rise, mix.fade_in_s), (self.fall, mix.fade_out_s),
            (self.loudness, mix.loudness_lufs), (self.ceiling, mix.ceiling_dbtp),
        ):  # fmt: skip
            if not field.hasFocus():
                field.show_number(value)
        self.limits.setChecked(mix.may_limit)
        entries = [("nothing", None), *((one.name, one.id) for one in session.sounds)]
        self.reference.clear()
        for words, key in entries:
            self.reference.addItem(words, key)
        self.reference.setCurrentIndex(max(0, self.reference.findData(mix.reference)))
        self.compare.setEnabled(mix.reference is not None)
        self._show_state()
        if not stands:
            self.said.setText("No take yet: what is recorded stands here, one sentence each.")
        elif self.said.text().startswith("No take yet"):
            self.said.setText("")

    def _show_state(self) -> None:
        is_busy = self._tasks.is_busy(_LANE)
        has_takes = bool(self._rows.rows) and bool(self.rows)
        self.stop.setVisible(is_busy)
        self.progress.setVisible(is_busy)
        self.bounce_button.setEnabled(has_takes and not is_busy)
        self.hear.setEnabled(has_takes)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _change(self, **values: object) -> None:
        mix = self._document.session.mix.model_copy(update=values)
        if mix != self._document.session.mix:
            what = next(iter(values)).rsplit("_", 1)[0].replace("_", " ")
            if not self._document.edit(f"{what} of the mix", lambda s: set_mix(s, mix)):
                self.refresh()

    def _number(self, field: NumberField, name: str) -> None:
        found = field.taken()
        if found is not None:
            self._change(**{name: found[0]})

    def _change_line(self, stand: Stand, name: str, value: object) -> None:
        said = {one.line: one for one in self._document.session.mix.lines}
        old = said.get(stand.line) or MixLine(line=stand.line, standing=stand.standing)
        changed = old.model_copy(update={name: value})

        def change(session: Session) -> Session:
            return change_mix_line(session, changed)

        if changed != old and not self._document.edit(f"{stand.name} in the mix", change):
            self.refresh()

    def _hear(self) -> None:
        if self._rendered.stopped():
            return
        session = self._document.session

        def write(path: Path, goes_on: Callable[[], bool]) -> float | None:
            return write_mix(session, path, goes_on)

        def begun(_: Path, lufs: object) -> None:
            assert lufs is None or isinstance(lufs, float)
            self._lufs = lufs

        rate_hz = session.setup.audio.sample_rate_hz
        self._rendered.play(write, rate_hz, self._document.refused.emit, begun)

    def _compare(self) -> None:
        """The reference, as loud as the mix that was heard last; before that as loud as it is to be bounced."""
        from verve.core.soundfiles import PlayRequest

        session = self._document.session
        sound = next((x for x in session.sounds if x.id == session.mix.reference), None)
        if sound is None:
            return
        player = self._player()
        if player.is_playing:
            player.stop()
            return
        own = sound.figures.integrated_lufs
        wanted = session.mix.loudness_lufs if self._lufs is None else self._lufs
        gain_db = 0.0 if own is None else wanted - own
        player.play(PlayRequest(path=Path(sound.file), gain_db=gain_db), sound.sample_rate_hz)

    def _ask_where(self) -> None:
        start = str(Path.home() / f"{self._document.session.title}.wav")
        name, kind = QFileDialog.getSaveFileName(self, "Bounce the mix", start, _FILES)
        if name:
            path = Path(name)
            if path.suffix.lower() not in {".wav", ".flac"}:
                path = path.with_name(path.name + (".flac" if "flac" in kind else ".wav"))
            self.bounce_to(path)

    def bounce_to(self, path: Path) -> None:
        """Write the mix beside the window; what comes of it is said."""
        session = self._document.session
        mix = session.mix
        aim = Aim(
            loudness_lufs=mix.loudness_lufs, ceiling_dbtp=mix.ceiling_dbtp, may_limit=mix.may_limit
        )

        def work(report: Report, is_stopped: Stopped) -> object:
            def progress(share: float) -> bool:
                report(share)
                return not is_stopped()

            return bounce(plan_of_mix(session), path, aim, progress)

        def done(found: Bounced) -> None:
            self.said.setText(bounced_text(found))
            self._show_state()

        def failed(sentence: str) -> None:
            self.said.setText(sentence)
            self._show_state()

        def reported(share: float) -> None:
            self.progress.setValue(round(1000 * share))

        self.progress.setValue(0)
        self.said.setText(f"Bouncing to {path.name} …")
        self._tasks.run(_LANE, work, done, failed=failed, reported=reported)
        self._show_state()
