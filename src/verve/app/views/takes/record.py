"""Recording in the song: one key from ready to recording, one for again, for a good one, for hearing the last."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QKeySequence, QShortcut, QShowEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.looking import Looking
from verve.app.pedal import FootPedal
from verve.app.standing import Cue, Standby
from verve.app.views.takes.ready import ReadyPanel
from verve.app.widgets.buttons import push
from verve.app.widgets.choice import Choice
from verve.app.widgets.far_sign import FarSign
from verve.app.widgets.grain import Grain
from verve.app.widgets.labels import Elided, caption, caption_of, card, scrolling_rest
from verve.core.errors import VerveError
from verve.core.mix import section_begins_s, track_of
from verve.core.session import (
    Session,
    Take,
    arm_line,
    edit_take,
    last_take_of,
    name_settings,
    next_settings,
    settings_in_use,
    use_settings,
)
from verve.core.sheets import knob_sign, off_sign, ready_sign, standing_sign, verdict_text
from verve.core.takes import RecordPlan, armed_lines, plan_of, ready_check

if TYPE_CHECKING:
    from verve.app.player import Player
    from verve.devices import Begun, Live, Recorded, Standing

_KEYS = (
    (("R", "PgDown"), "record"),
    (("A", "PgUp"), "again"),
    (("M",), "mark"),
    (("P",), "play"),
    (("K",), "keep"),
    (("N",), "next_settings"),
)
"""Page turners and foot switches send page keys."""
_HEARD_DB = 4.0
"""A knob is where it was when the level is so near to that of the last good take."""


class RecordPage(QWidget):
    """What is armed, the sign that is read from afar, and what is asked before a take."""

    double_wanted = pyqtSignal(bool)
    """The selected signal once more, as a harmony or not."""

    def __init__(
        self,
        document: Document,
        standby: Standby,
        take_folder: Callable[[], Path],
        player: Callable[[], Player],
        looking: Looking,
        live_of: Callable[[], Live | None] = lambda: None,
    ) -> None:
        super().__init__()
        self._document, self.standby = document, standby
        self._looking, self._pedal = looking, FootPedal()
        self._pedal.pressed.connect(self._on_pedal)
        self._pedal.told.connect(document.refused.emit)
        looking.found.connect(self._on_looked)
        self._take_folder, self._player, self._live_of = take_folder, player, live_of
        self._section: str | None = None
        self._shown: tuple[str, ...] = ()
        self._set: object = None
        self._passed: object = None
        """The session that somebody has seen the ready check of: it is asked once, not before each round."""
        self._plan: RecordPlan | None = None
        self._last: tuple[str, ...] = ()
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        frame, layout = card()
        layout.setContentsMargins(16, 8, 16, 8)
        outer.addWidget(frame, 1)
        layout.addLayout(self._make_controls())
        self.sign = FarSign()
        layout.addWidget(self.sign, 3)
        self.ready = ReadyPanel()
        layout.addWidget(self.ready)
        self.verdict = Elided()
        layout.addWidget(self.verdict)
        holder = QWidget()
        self._grid = QGridLayout(holder)
        self._grid.setContentsMargins(0, 0, 4, 0)
        self._grid.setColumnStretch(1, 1)
        layout.addWidget(scrolling_rest(holder), 2)
        self.boxes: list[QCheckBox] = []
        self.grains: list[Grain] = []
        for names, deed in _KEYS:
            for name in names:
                shortcut = QShortcut(QKeySequence(name), self)
                shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
                shortcut.activated.connect(getattr(self, deed))
        for name, is_harmony in (("D", False), ("H", True)):
            shortcut = QShortcut(QKeySequence(name), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(lambda it=is_harmony: self.double_wanted.emit(it))
        # ── connections ──
        standby.stood.connect(self._on_stood)
        standby.begun.connect(self._on_begun)
        standby.recorded.connect(self._on_recorded)
        standby.changed.connect(self._show_state)
        self.section.activated.connect(self._choose_section)
        self.loops.toggled.connect(lambda _: self._prepare())
        self.ready.mend_wanted.connect(self._mend)
        self.ready.declined.connect(self._decline)

    def _make_controls(self) -> QVBoxLayout:
        column = QVBoxLayout()
        row = QHBoxLayout()
        row.setSpacing(8)
        self.record_button = push(
            "Record",
            "Counts in and records what is armed; again it stops. R, or a foot switch that sends page down",
            self.record,
            strong=True,
        )
        self.again_button = push(
            "Again",
            "Drops a false start, which is kept aside, and counts in anew. A, or page up",
            self.again,
        )
        self.mark_button = push(
            "Good one", "Marks this round, or the last take, as a good one. M", self.mark
        )
        self.play_button = push(
            "Play the last", "The last take from where its section begins. P", self.play
        )
        self.keep_button = push(
            "Keep what I just played",
            "Makes a take of what was played since the last one, up to three minutes. K",
            self.keep,
        )
        for button in (
            self.record_button,
            self.again_button,
            self.mark_button,
            self.play_button,
            self.keep_button,
        ):
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        second = QHBoxLayout()
        second.setSpacing(8)
        self.section = Choice()
        self.section.setAccessibleName("Section")
        self.section.setToolTip("What is recorded: the whole song, or one section with its lead-in")
        self.loops = QCheckBox("Loop")
        self.loops.setToolTip(
            "Over the section again and again, hands free, until it is stopped: every round is kept as a take"
        )
        self.settings = Choice()
        self.settings.setAccessibleName("Settings of the selected signal")
        self.settings.setToolTip(
            "Talk, sing, scream: everything that is set for one way of playing, switched as one. N takes the next"
        )
        self.save_settings = push(
            "Save settings as…",
            "Keeps what is set for the selected signal now under a name: talk, sing, scream",
            self._save_settings,
        )
        self._settings_label = caption("Settings")
        second.addWidget(caption_of(self.section, "Section"))
        second.addWidget(self.section)
        second.addWidget(self.loops)
        self.pedal = push(
            "Pedal…",
            "A MIDI pedal as a key for the foot: sustain records and stops, any other marks a good one",
            self._choose_pedal,
        )
        second.addWidget(self.pedal)
        second.addStretch(1)
        for widget in (self._settings_label, self.settings, self.save_settings):
            second.addWidget(widget)
        column.addLayout(second)
        self.settings.activated.connect(self._choose_settings)
        return column

    # ── drawing ───────────────────────────────────────────────────────────────────────────────
    def refresh(self) -> None:
        """Draw the document as it is now."""
        session = self._document.session
        self.section.clear()
        self.section.addItem("Whole song", None)
        for one in session.song.sections:
            self.section.addItem(one.name, one.id)
        if session.song.section(self._section) is None:
            self._section = None
        self.section.setCurrentIndex(max(0, self.section.findData(self._section)))
        self.loops.setEnabled(self._section is not None)
        if self._section is None:
            self.loops.setChecked(False)
        self._show_settings(session)
        lines = session.setup.lines
        ids = tuple(line.id for line in lines)
        if ids != self._shown:
            self._make_rows(ids)
        for box, grain, item in zip(
            self.boxes, self.grains, self._document.assessment.lines, strict=True
        ):
            box.setText(item.line.name)
            box.setChecked(item.line.is_armed)
            box.setToolTip(f"Whether {item.line.name} is recorded in the next take")
            grain.show_line(item)
        self._show_state()
        self._follow()

    def _show_settings(self, session: Session) -> None:
        item = self._document.line
        named = [x for x in session.named_settings if item is not None and x.line == item.line.id]
        self.settings.clear()
        for one in named:
            self.settings.addItem(one.name, one.id)
        now = None if item is None else settings_in_use(session, item.line.id)
        self.settings.setCurrentIndex(-1 if now is None else self.settings.findData(now.id))
        self._settings_label.setText("" if item is None else f"{item.line.name} is set to")
        for widget in (self._settings_label, self.settings, self.save_settings):
            widget.setVisible(item is not None)

    def _make_rows(self, ids: tuple[str, ...]) -> None:
        for widget in (*self.boxes, *self.grains):
            self._grid.removeWidget(widget)
            widget.deleteLater()
        self.boxes, self.grains = [], []
        for row, line_id in enumerate(ids):
            box, grain = QCheckBox(), Grain()
            box.clicked.connect(lambda on, line_id=line_id: self._arm(line_id, on=on))
            self._grid.addWidget(box, row, 0)
            self._grid.addWidget(grain, row, 1)
            self.boxes.append(box)
            self.grains.append(grain)
        self._shown = ids

    def _follow(self) -> None:
        """Whoever stands by hears what is armed as it is set now."""
        session = self._document.session
        lines = tuple(line.id for line in armed_lines(session))
        if self.standby.is_on and not self.standby.is_recording:
            if self.standby.owner != self._document.number:
                self.standby.leave()
            elif self._set is not session:
                self._set = session
                self.standby.change(session, lines)
                self._prepare()

    def _section_name(self) -> str:
        return self.section.currentText() or "Whole song"

    def _show_state(self) -> None:
        is_recording = self.standby.is_recording
        self.record_button.setText("Stop" if is_recording else "Record")
        self.again_button.setEnabled(is_recording)
        self.mark_button.setEnabled(is_recording or bool(self._last))
        self.keep_button.setEnabled(self.standby.is_on and not is_recording)
        self.play_button.setEnabled(not is_recording and self._last_take() is not None)
        for widget in (self.section, self.loops, *self.boxes):
            widget.setEnabled(not is_recording)
        self.loops.setEnabled(not is_recording and self._section is not None)
        if not self.standby.is_on:
            self.sign.show_sign(off_sign(self._section_name()))

    def _on_stood(self, standing: Standing) -> None:
        asked = self.ready.asked
        if standing.state == "ready" and asked is not None and self.ready.knob is None:
            self.sign.show_sign(ready_sign(asked))
        elif standing.state != "ready" or self.ready.knob is None:
            self.sign.show_sign(
                standing_sign(
                    standing.state,
                    section=self._section_name(),
                    song_s=standing.song_s,
                    seconds=standing.seconds,
                    round_number=standing.round,
                    counts=standing.counts,
                    marks=standing.marks,
                )
            )
        for line_id, grain in zip(self._shown, self.grains, strict=True):
            if line_id in standing.peaks_dbfs:
                grain.add(standing.peaks_dbfs[line_id])
        self._hear_knob()

    def _hear_knob(self) -> None:
        """A knob that was to be turned is heard: the level is what it was in the last good take."""
        knob = self.ready.knob
        if knob is None or knob.line not in self._shown:
            return
        take = last_take_of(self._document.session, knob.line)
        track = None if take is None else track_of(take, knob.line)
        highest = self.grains[self._shown.index(knob.line)].highest_dbfs
        was = None if track is None else track.peak_dbfs.measured
        if highest is not None and was is not None and abs(highest - was) <= _HEARD_DB:
            self.ready.clear()

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _choose_pedal(self) -> None:
        """Listen to a MIDI pedal; chosen again it is let go."""
        from verve.devices import pedals

        if self._pedal.name:
            self._pedal.let_go()
            return
        found = pedals()
        if isinstance(found, str):
            self._document.refused.emit(found)
            return
        name, is_given = QInputDialog.getItem(self, "Pedal", "Listen to", list(found), 0, False)
        if is_given:
            self._pedal.listen_to(name)

    def _on_pedal(self, press: str) -> None:
        if self.isVisible() or self.standby.is_recording:
            (self.record if press == "record" else self.mark)()

    def _choose_section(self, index: int) -> None:
        self._section = self.section.itemData(index)
        self.refresh()
        self._prepare()

    def _arm(self, line_id: str, *, on: bool) -> None:
        name = self.boxes[self._shown.index(line_id)].text()
        word = "arming" if on else "disarming"
        self._document.edit(f"{word} of {name}", lambda s: arm_line(s, line_id, is_armed=on))

    def _wanted(self) -> RecordPlan | None:
        try:
            return plan_of(self._document.session, self._section, loops=self.loops.isChecked())
        except VerveError as error:
            self._document.refused.emit(str(error))
            return None

    def _prepare(self) -> None:
        plan = self._wanted()
        if self.standby.is_on and plan is not None and not self.standby.is_recording:
            self.standby.prepare(self._document.session, plan)

    def stand_by(self) -> None:
        """Listen to what is armed from now on."""
        session = self._document.session
        lines = tuple(line.id for line in armed_lines(session))
        if self.standby.is_on or not lines:
            return
        self._set = session
        live = self._live_of()
        self.standby.begin(
            session, lines, "phrase", self._take_folder(), self._document.number, live
        )
        self._prepare()

    def record(self) -> None:
        """From ready to recording with one key; the same key stops."""
        if self.standby.is_recording:
            self.standby.ask("stop")
            return
        session = self._document.session
        today = datetime.date.today().isoformat()
        check = ready_check(session, self._document.assessment.findings, today)
        if not check.is_clear and self._passed is not session and not self.ready.isVisible():
            self.ready.show_ready(check)
            self.stand_by()
            return
        if not check.armed:
            self.ready.show_ready(check)
            return
        self._passed = session
        self.ready.clear()
        plan = self._wanted()
        if plan is None:
            return
        self._player().stop()
        self.stand_by()
        for grain in self.grains:
            grain.clear()
        self._plan = plan
        self.standby.record(plan)

    def again(self) -> None:
        """Drop a false start and count in anew; from ready it begins."""
        if self.standby.is_recording:
            self.standby.ask("again")
        else:
            self.record()

    def mark(self) -> None:
        """Mark this round, or the last take, as a good one."""
        if self.standby.is_recording:
            self.standby.ask("mark")
            return
        names = {take.id: take.name for take in self._document.session.takes}
        last = self._last[-1] if self._last else ""
        if last in names:
            self._document.edit(f"mark of {names[last]}", lambda s: edit_take(s, last, rating=4))

    def keep(self) -> None:
        """Make a take of what was played since the last one."""
        if self.standby.is_on and not self.standby.is_recording:
            self.standby.ask("keep")

    def _last_take(self) -> Take | None:
        item = self._document.line
        session = self._document.session
        if item is not None:
            found = last_take_of(session, item.line.id)
            if found is not None:
                return found
        return next((take for take in reversed(session.takes) if not take.aside), None)

    def play(self) -> None:
        """Hear the last take from where its section begins; a second press ends it."""
        from verve.core.soundfiles import PlayRequest

        player, take = self._player(), self._last_take()
        if self.standby.is_recording or take is None:
            return
        if player.is_playing:
            player.stop()
            return
        item = self._document.line
        track = (None if item is None else track_of(take, item.line.id)) or take.tracks[0]
        session = self._document.session
        begin_s = section_begins_s(session, take, track)
        player.play(
            PlayRequest(path=Path(track.file), start_s=begin_s, channel=track.channel),
            session.setup.audio.sample_rate_hz,
        )

    def next_settings(self) -> None:
        """Switch the selected signal to its next settings with a name."""
        item = self._document.line
        wanted = None if item is None else next_settings(self._document.session, item.line.id)
        if wanted is not None and not self.standby.is_recording:
            self._use(wanted.id, wanted.name)

    def _use(self, settings_id: str, name: str) -> None:
        self._document.edit(f"settings “{name}”", lambda s: use_settings(s, settings_id))

    def _choose_settings(self, index: int) -> None:
        key = self.settings.itemData(index)
        if key is not None:
            self._use(key, self.settings.itemText(index))

    def _save_settings(self) -> None:
        item = self._document.line
        if item is None:
            return
        name, is_given = QInputDialog.getText(
            self, "Save settings", f"{item.line.name} is set now to"
        )
        if is_given and name.strip():
            self.call_settings(name)

    def call_settings(self, name: str) -> None:
        """Keep what is set for the selected signal now under a name."""
        item = self._document.line
        if item is not None:
            line = item.line.id
            self._document.edit(f"settings “{name}”", lambda s: name_settings(s, line, name)[0])

    def _mend(self, number: int) -> None:
        item = self.ready.items[number]
        mend = item.mend
        if mend is None or not self._document.edit(item.button.lower(), mend):
            return
        today = datetime.date.today().isoformat()
        check = ready_check(self._document.session, self._document.assessment.findings, today)
        self.ready.show_ready(check, knob=item.knob)
        if item.knob is not None:
            self.sign.show_sign(knob_sign(item.knob))
            for grain in self.grains:
                grain.clear()

    def _decline(self) -> None:
        from verve.core.session import decline_tuning

        today = datetime.date.today().isoformat()
        self._document.edit("tuning later", lambda s: decline_tuning(s, today))
        check = ready_check(self._document.session, self._document.assessment.findings, today)
        self.ready.show_ready(check)

    def _on_begun(self, begun: Begun, cue: Cue | None) -> None:
        from verve.core.soundfiles import PlayRequest

        if cue is None or cue.path is None or self._live_of() is not None:
            return
        # Simulated players need no cue; whoever sits before the window hears what they would.
        rate_hz = self._document.session.setup.audio.sample_rate_hz
        self._player().play(PlayRequest(path=cue.path, loop_s=cue.loop_s), rate_hz)

    def _on_recorded(self, recorded: Recorded) -> None:
        self._player().stop()
        self._last = tuple(take.id for take in recorded.takes if not take.aside) or self._last
        shown = [take for take in recorded.takes if not take.aside]
        if shown:
            self.verdict.show_text(verdict_text(shown[-1], self._document.assessment))
        if shown:
            self._looking.begin(shown)
        if not self.isVisible():
            self.standby.leave()
        if not shown and recorded.takes:
            self.verdict.show_text(f"{recorded.takes[-1].name}: a false start, kept aside.")

    def _on_looked(self, take: Take, said: str) -> None:
        """How it was played is known a moment later: told beside its levels."""
        if take.id in self._last[-1:] and said:
            levels = verdict_text(take, self._document.assessment)
            self.verdict.show_text(f"{levels} {said}")

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        # From now on nothing that is played is lost, and a recording begins at once.
        QTimer.singleShot(0, self._stand_if_seen)

    def _stand_if_seen(self) -> None:
        if self.isVisible():
            self.stand_by()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        if not self.standby.is_recording:
            self.standby.leave()
