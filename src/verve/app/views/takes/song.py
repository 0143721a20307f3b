"""The song in time: its tempo, its sections, how one is counted in; the backing track."""

from __future__ import annotations

import time
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.tasks import Report, Stopped, Tasks
from verve.app.widgets.buttons import push
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
from verve.core.errors import InputError
from verve.core.mix import backings, whole_song_s
from verve.core.session import (
    Section,
    Session,
    Sound,
    add_section,
    change_section,
    change_sound,
    remove_section,
    set_song,
    set_tuning,
)
from verve.core.sheets import parsed_spans, spans_text, time_text


class SectionRow(QWidget):
    """A section: its name, from when to when."""

    def __init__(self, page: SongPage) -> None:
        super().__init__()
        self._page = page
        self.section: Section | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 1, 0, 1)
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the section")
        self.name.setToolTip("As it is called by those who play: verse, bridge, last chorus")
        self.name.setMaxLength(80)
        self.start = NumberField("From", "s", low=0, high=86_400, says="When it begins")
        self.end = NumberField("To", "s", low=0, high=86_400, says="When it ends")
        self.remove = push("Remove", "Takes of this section stay in the log", self._remove)
        row.addWidget(self.name, 1)
        for words, field in (("from", self.start), ("to", self.end)):
            row.addWidget(caption_of(field, words))
            row.addWidget(field)
            field.setFixedWidth(theme.px(86))
            field.editingFinished.connect(self._change)
        row.addWidget(self.remove)
        self.name.editingFinished.connect(self._change)

    def show_section(self, section: Section) -> None:
        """Draw another one."""
        is_other = self.section is None or self.section.id != section.id
        self.section = section
        if is_other or not self.name.hasFocus():
            self.name.setText(section.name)
        for field, value in ((self.start, section.start_s), (self.end, section.end_s)):
            if is_other or not field.hasFocus():
                field.show_number(value)
        self.remove.setAccessibleName(f"Remove {section.name}")

    def _change(self) -> None:
        old = self.section
        if old is None:
            return
        start, end = self.start.taken(), self.end.taken()
        changed = Section.model_construct(
            id=old.id,
            name=" ".join(self.name.text().split()) or old.name,
            start_s=old.start_s if start is None or start[0] is None else start[0],
            end_s=old.end_s if end is None or end[0] is None else end[0],
        )
        if changed != old:
            self._page.edit(f"section {old.name}", lambda s: change_section(s, changed))

    def _remove(self) -> None:
        old = self.section
        if old is not None:
            self._page.edit(f"removal of {old.name}", lambda s: remove_section(s, old.id))


class SongPage(QWidget):
    """Fields for the song; each one that is left is an edit."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._taps: list[float] = []
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        outer.addWidget(frame)
        layout.addWidget(heading("The song"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setColumnStretch(6, 1)
        self.tempo = NumberField(
            "Tempo", "bpm", low=20, high=400, is_needed=False, says="Beats a minute"
        )
        self.tap = push(
            "Tap",
            "Press it in time, four times or more: the tempo is taken from that. T",
            self.tap_once,
        )
        self.find_tempo = push(
            "Find in the backing", "Listens for the beat of the backing track", self._find
        )
        self.beats = QSpinBox()
        self.beats.setRange(1, 16)
        self.beats.setSuffix(" beats a bar")
        self.beats.setAccessibleName("Beats a bar")
        self.beats.setToolTip("How many beats a bar has: where the click is higher")
        self.key = QLineEdit()
        self.key.setAccessibleName("Key")
        self.key.setMaxLength(40)
        self.key.setPlaceholderText("not known")
        self.key.setToolTip("The key of the song, as a note: D minor")
        self.bars = QSpinBox()
        self.bars.setRange(0, 8)
        self.bars.setSuffix(" bars of count-in")
        self.bars.setAccessibleName("Bars of count-in")
        self.bars.setToolTip("How many bars are counted in before a section; none without a tempo")
        self.click = QCheckBox("Click while recording")
        self.click.setToolTip("Whether the beat goes on in the headphones after the count-in")
        self.lead = NumberField(
            "Lead-in", "s", low=0, high=60, says="How long before a section the recording begins"
        )
        self.tail = NumberField(
            "After it", "s", low=0, high=60, says="How long after its end the recording goes on"
        )
        self.tuned = QSpinBox()
        self.tuned.setRange(1, 100)
        self.tuned.setSuffix(" takes")
        self.tuned.setAccessibleName("Takes between tunings")
        self.tuned.setToolTip("After so many takes the ready check asks for strings and tuning")
        self.tunes = QCheckBox("Ask for tuning every")
        self.tunes.setToolTip("Strings: before each take, after some, or by feel. Off is by feel")
        for column, widget in enumerate(
            (caption_of(self.tempo, "tempo"), self.tempo, self.tap, self.find_tempo, self.beats)
        ):
            grid.addWidget(widget, 0, column)
        for column, widget in enumerate(
            (caption_of(self.key, "key"), self.key, self.bars, self.click)
        ):
            grid.addWidget(widget, 1, column)
        for column, widget in enumerate(
            (
                caption_of(self.lead, "lead-in"),
                self.lead,
                caption_of(self.tail, "after it"),
                self.tail,
            )
        ):
            grid.addWidget(widget, 2, column)
        grid.addWidget(self.tunes, 2, 4)
        grid.addWidget(self.tuned, 2, 5)
        layout.addLayout(grid)
        self._said = caption(wrap=True)
        layout.addWidget(self._said)
        layout.addWidget(small_heading("Backing track and stems"))
        self._backing = text()
        layout.addWidget(self._backing)
        self._tracks = QVBoxLayout()
        layout.addLayout(self._tracks)
        self.mutes: list[QCheckBox] = []
        self.sung: list[QLineEdit] = []
        layout.addWidget(small_heading("Sections"))
        holder = QWidget()
        self._list = QVBoxLayout(holder)
        self._list.setContentsMargins(0, 0, 6, 0)
        self._list.addStretch(1)
        layout.addWidget(scrolling_rest(holder), 1)
        self._rows: RowLots[SectionRow] = RowLots(self._list, lambda _: SectionRow(self), 16)
        self.add = push("Add a section", "Begins where the last one ends", self.add_section)
        layout.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        # ── connections ──
        for field, name in (
            (self.tempo, "tempo_bpm"),
            (self.lead, "lead_in_s"),
            (self.tail, "tail_s"),
        ):
            field.editingFinished.connect(lambda f=field, n=name: self._number(f, n))
        self.key.editingFinished.connect(
            lambda: self._change(key=" ".join(self.key.text().split()))
        )
        self.beats.valueChanged.connect(lambda value: self._change(beats=value))
        self.bars.valueChanged.connect(lambda value: self._change(count_in_bars=value))
        self.click.clicked.connect(lambda on: self._change(has_click=on))
        self.tunes.clicked.connect(self._tune)
        self.tuned.valueChanged.connect(self._tune)

    @property
    def rows(self) -> list[SectionRow]:
        """The row of each section."""
        return [row for row in self._rows.rows if not row.isHidden()]

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        session = self._document.session
        song = session.song
        for field, value in (
            (self.tempo, song.tempo_bpm),
            (self.lead, song.lead_in_s),
            (self.tail, song.tail_s),
        ):
            if not field.hasFocus():
                field.show_number(value)
        if not self.key.hasFocus():
            self.key.setText(song.key)
        for box, number in (
            (self.beats, song.beats),
            (self.bars, song.count_in_bars),
            (self.tuned, session.tuning.every),
        ):
            box.blockSignals(True)
            box.setValue(number)
            box.blockSignals(False)
        self.click.setChecked(song.has_click)
        self.tunes.setChecked(session.tuning.asked != "never")
        self.tuned.setEnabled(session.tuning.asked != "never")
        sections = song.sections
        self._rows.show(len(sections), lambda row, n: row.show_section(sections[n]))
        tracks = [one for one in session.sounds if one.role == "backing"]
        self.find_tempo.setEnabled(bool(backings(session)))
        self._show_tracks(tracks)
        length_s = whole_song_s(session)
        self._said.setText(
            f"The song is {time_text(length_s, 0)} long."
            if length_s
            else "Its length is not known yet."
        )

    def _show_tracks(self, tracks: list[Sound]) -> None:
        while (taken := self._tracks.takeAt(0)) is not None:
            widget = taken.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.mutes, self.sung = [], []
        for one in tracks:
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            box = QCheckBox(f"{one.name}, {time_text(one.seconds, 0)}, from {one.offset_s:g} s")
            box.setChecked(not one.is_muted)
            box.setToolTip("Whether it is heard in the headphones and in the rough mix")
            box.clicked.connect(lambda on, one=one: self._mute(one, on=on))
            field = QLineEdit(spans_text(one.sung_s))
            field.setAccessibleName(f"Where somebody sings in {one.name}")
            field.setPlaceholderText("0:12–0:40, 1:02–1:30")
            field.setToolTip("From when to when, in the song, somebody sings or speaks over it")
            field.editingFinished.connect(lambda one=one, field=field: self._sing(one, field))
            cut = push(
                "Make sections of it",
                "A section for each place where somebody sings",
                partial(self._sections_from, one),
            )
            cut.setEnabled(bool(one.sung_s))
            line.addWidget(box)
            line.addWidget(caption_of(field, "sung"))
            line.addWidget(field, 1)
            line.addWidget(cut)
            self._tracks.addWidget(row)
            self.mutes.append(box)
            self.sung.append(field)
        self._backing.setVisible(not tracks)
        self._backing.setText(
            "None yet: in Check, Recordings, a sound file that is imported can be made the backing track."
        )

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def edit(self, label: str, change: object) -> None:
        """One edit; a refused one is drawn as it was."""
        if not self._document.edit(label, change):  # type: ignore[arg-type]
            self.refresh()

    def _change(self, **values: object) -> None:
        song = self._document.session.song
        changed = song.model_copy(update=values)
        if changed != song:
            what = next(iter(values)).removesuffix("_bpm").removesuffix("_s").replace("_", " ")
            self.edit(f"{what} of the song", lambda s: set_song(s, changed))

    def _number(self, field: NumberField, name: str) -> None:
        found = field.taken()
        if found is not None:
            self._change(**{name: found[0]})

    def _mute(self, one: Sound, *, on: bool) -> None:
        changed = one.model_copy(update={"is_muted": not on})
        word = "hearing" if on else "muting"
        self.edit(f"{word} of {one.name}", lambda s: change_sound(s, changed))

    def _sing(self, one: Sound, field: QLineEdit) -> None:
        if not field.isModified():
            return
        field.setModified(False)
        try:
            spans = parsed_spans(field.text())
        except InputError as error:
            self._document.refused.emit(f"{one.name}: {error}")
            return
        changed = one.model_copy(update={"sung_s": spans})
        self.edit(f"where somebody sings in {one.name}", lambda s: change_sound(s, changed))

    def _sections_from(self, one: Sound) -> None:
        def change(now: Session) -> Session:
            for start_s, end_s in one.sung_s:
                name = f"Section {len(now.song.sections) + 1}"
                now = add_section(now, name, start_s, end_s)[0]
            return now

        self.edit(f"sections from {one.name}", change)

    def _tune(self) -> None:
        tuning = self._document.session.tuning
        asked = (
            ("each" if self.tuned.value() == 1 else "every") if self.tunes.isChecked() else "never"
        )
        changed = tuning.model_copy(update={"asked": asked, "every": self.tuned.value()})
        if changed != tuning:
            self.edit("how often it is tuned", lambda s: set_tuning(s, changed))

    def tap_once(self) -> None:
        """One tap of the tempo, at this moment."""
        from verve.core.measure import tapped_bpm

        self._taps = [*self._taps[-31:], time.monotonic()]
        found = tapped_bpm(tuple(self._taps))
        if found is not None:
            self._change(tempo_bpm=round(found, 1))

    def _find(self) -> None:
        tracks = backings(self._document.session)
        if not tracks:
            return
        one = max(tracks, key=lambda sound: sound.frames)

        def work(_: Report, __: Stopped) -> object:
            from verve.core.measure import tempo_of
            from verve.core.soundfiles import read_span

            rate_hz = one.sample_rate_hz
            frames = min(one.frames, round(180.0 * rate_hz))
            samples = read_span(Path(one.file), 0, frames, rate_hz).mean(axis=0)
            return (tempo_of(samples, rate_hz), one.offset_s)

        def done(found: object) -> None:
            from verve.core.measure import Tempo

            assert isinstance(found, tuple)
            tempo, offset_s = found
            if not isinstance(tempo, Tempo):
                self._document.refused.emit(
                    f"{one.name}: no steady beat is found in it. Tap the tempo, or type it."
                )
                return
            beat_s = 60.0 / tempo.tempo_bpm
            self._change(
                tempo_bpm=round(tempo.tempo_bpm, 2),
                first_beat_s=(tempo.first_beat_s + offset_s) % beat_s,
            )

        self._tasks.run("tempo", work, done, failed=self._document.refused.emit)

    def add_section(self) -> None:
        """One more, behind the last; as long as that, or what is left of the song."""
        session = self._document.session
        sections = session.song.sections
        start_s = sections[-1].end_s if sections else 0.0
        length_s = sections[-1].end_s - sections[-1].start_s if sections else 30.0
        name = f"Section {len(sections) + 1}"

        def change(now: Session) -> Session:
            return add_section(now, name, start_s, start_s + length_s)[0]

        self.edit("new section", change)
        if self.rows:
            self.rows[-1].name.setFocus()
            self.rows[-1].name.selectAll()
