"""Choosing: the take sheet of one signal, heard in its place over everything that is recorded already."""

from __future__ import annotations

import bisect
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.looking import Looking
from verve.app.rendered import Rendered
from verve.app.tasks import Tasks
from verve.app.widgets.buttons import push
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, caption_of, card, heading, scrolling_rest, text
from verve.app.widgets.take_sheet import TakeSheet
from verve.core.mix import (
    SheetRow,
    chosen_take,
    first_line_of,
    name_of,
    recorded_lines,
    take_sheet,
    write_in_a_row,
    write_in_place,
)
from verve.core.session import choose_take, edit_take, line_of, put_aside

if TYPE_CHECKING:
    from verve.app.player import Player
    from verve.core.playing import WorthHearing


class SheetPage(QWidget):
    """The sheet, the signal it is of, and what can be done with the take that has the attention."""

    def __init__(
        self, document: Document, tasks: Tasks, player: Callable[[], Player], looking: Looking
    ) -> None:
        super().__init__()
        self._document, self._looking = document, looking
        self._line = ""
        self._rows: tuple[SheetRow, ...] = ()
        self._rendered = Rendered("take in place", tasks, player)
        self._player = player
        self._followed: Player | None = None
        self._in_row: tuple[Path, str, int, tuple[float, ...]] | None = None
        self._sounds = -1
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, layout = card()
        outer.addWidget(frame)
        row = QHBoxLayout()
        title = heading("Take sheet")
        title.setWordWrap(False)
        row.addWidget(title)
        row.addStretch(1)
        self.line = Choice()
        self.line.setAccessibleName("Signal")
        self.line.setToolTip("The signal whose takes are on the sheet; of all layers")
        row.addWidget(caption_of(self.line, "of"))
        row.addWidget(self.line)
        layout.addLayout(row)
        self.says = text()
        layout.addWidget(self.says)
        buttons = QHBoxLayout()
        self.choose = push(
            "Choose", "This take is heard in this section; the one before becomes a spare. Return",
            lambda: self._choose(*self.sheet.at), strong=True,
        )  # fmt: skip
        self.hear = push(
            "Hear it in place",
            "This take over everything else that is recorded, as loud as the others. P",
            lambda: self._hear(*self.sheet.at),
        )
        self.row_button = push(
            "Hear all in a row",
            "Every take of this section, eight seconds each; what is pressed meanwhile is of the one that sounds. L",
            self.hear_row,
        )
        self.good = push(
            "Good one", "Four of five; keys 0 to 5 rate it", lambda: self._rate(*self.sheet.at, 4)
        )
        self.aside = push(
            "Put aside",
            "Out of the sheet; its sound stays, and two takes are always kept. X",
            lambda: self._drop(*self.sheet.at),
        )
        self._buttons = (self.choose, self.hear, self.row_button, self.good, self.aside)
        for button in self._buttons:
            buttons.addWidget(button)
        buttons.addStretch(1)
        layout.addLayout(buttons)
        layout.addLayout(self._make_beside())
        self.sheet = TakeSheet()
        layout.addWidget(scrolling_rest(self.sheet), 1)
        self._help = caption(
            "Inked is heard, outlined is kept. Round is clean, cut off is clipped, open below is noisy, leaning is "
            "off the beat; strokes are its rating.",
            wrap=True,
        )
        layout.addWidget(self._help)
        # ── connections ──
        self.line.activated.connect(self._choose_line)
        self.sheet.turned.connect(lambda _, __: self._show_mark())
        self.sheet.chosen.connect(self._choose)
        self.sheet.heard.connect(self._hear)
        self.sheet.all_heard.connect(self.hear_row)
        self.sheet.rated.connect(self._rate)
        self.sheet.dropped.connect(self._drop)

    def _make_beside(self) -> QHBoxLayout:
        """A double beside its first: asked for, three places at most, heard one by one."""
        row = QHBoxLayout()
        self.compare = push(
            "Compare with its first",
            "Where this double is farthest beside what it doubles: the places most worth hearing, no score",
            self._compare,
        )
        self.tolerance = Choice()
        self.tolerance.setAccessibleName("How tight a double has to be")
        self.tolerance.setToolTip("What is nearer than this need not be heard again")
        for words, key in (("tight", "tight"), ("natural", "natural"), ("loose", "loose")):
            self.tolerance.addItem(words, key)
        self.tolerance.setCurrentIndex(1)
        self.compared = caption(wrap=True)
        self.place_buttons = [
            push(f"Hear {number}", "A few seconds around it, in the mix", partial(self._hear_place, number - 1))
            for number in (1, 2, 3)
        ]  # fmt: skip
        row.addWidget(self.compare)
        row.addWidget(self.tolerance)
        row.addWidget(self.compared, 1)
        for button in self.place_buttons:
            row.addWidget(button)
        self._places: tuple[WorthHearing, ...] = ()
        return row

    def _show_beside(self) -> None:
        first = first_line_of(self._document.session, self._line)
        for widget in (self.compare, self.tolerance, self.compared):
            widget.setVisible(first is not None)
        for number, button in enumerate(self.place_buttons):
            button.setVisible(first is not None and number < len(self._places))

    def _compare(self) -> None:
        """The take that has the attention, beside what is heard of the first in the same section."""
        session, mark = self._document.session, self.sheet.mark()
        first = first_line_of(session, self._line)
        if mark is None or first is None:
            return
        row = self._rows[self.sheet.at[0]]
        take = next(one for one in session.takes if one.id == mark.take)
        other = chosen_take(session, first, row.section)
        if other is None:
            self.compared.setText(f"{name_of(session, first)} has no take of {row.name}.")
            return
        names = f"{mark.name} beside {other.name}"

        def told(places: tuple[WorthHearing, ...]) -> None:
            from verve.core.playing import place_text

            self._places = places
            said = "; ".join(place_text(place) for place in places)
            self.compared.setText(f"{names}: {said or 'together'}.")
            self._show_beside()

        self.compared.setText(f"{names} …")
        tolerance = self.tolerance.currentData()
        self._looking.compare(
            (other, first), (take, self._line), tolerance, told, self.compared.setText
        )

    def _hear_place(self, number: int) -> None:
        if self._rendered.stopped() or number >= len(self._places):
            return
        session, at_s = self._document.session, self._places[number].at_s

        def write(path: Path, _: object) -> Path:
            return write_in_place(session, path, max(0.0, at_s - 0.5), at_s + 1.5)

        rate_hz = session.setup.audio.sample_rate_hz
        self._rendered.play(write, rate_hz, self._document.refused.emit)

    def refresh(self) -> None:
        """Draw the document as it is now."""
        session = self._document.session
        lines = recorded_lines(session)
        selected = self._document.line
        if self._line not in lines:
            own = "" if selected is None else selected.line.id
            self._line = own if own in lines else (lines[0] if lines else "")
        self.line.show_entries([(name_of(session, line), line) for line in lines])
        self.line.setCurrentIndex(max(0, self.line.findData(self._line)))
        self._rows = take_sheet(session, self._line) if self._line else ()
        line = line_of(session, self._line)
        self.sheet.show_rows(self._rows, 0 if line is None else line.colour)
        for widget in self._buttons:
            widget.setVisible(bool(lines))
        self._help.setVisible(bool(lines))
        self._show_beside()
        self._show_mark()

    def show_line(self, line_id: str) -> None:
        """Turn to the takes of a signal."""
        self._line = line_id
        self._places = ()
        self.compared.setText("")
        self.refresh()

    def _show_mark(self) -> None:
        mark = self.sheet.mark()
        if not self._rows:
            self.says.setText("No take yet. Record shows them here, section by section.")
        elif mark is None:
            self.says.setText(f"{self._rows[self.sheet.at[0]].name}: no take of it yet.")
        else:
            heard = " It is the one that is heard." if mark.is_chosen else ""
            self.says.setText(mark.says + heard)
        for button in self._buttons:
            button.setEnabled(mark is not None)
        if mark is not None:
            self.choose.setEnabled(not mark.is_chosen)

    def _choose_line(self, index: int) -> None:
        self.show_line(self.line.itemData(index))

    def _choose(self, row: int, place: int) -> None:
        section, mark = self._rows[row].section, self._rows[row].marks[place]
        line = self._line
        self._document.edit(
            f"choice of {mark.name} for {self._rows[row].name}",
            lambda s: choose_take(s, line, section, mark.take),
        )

    def _rate(self, row: int, place: int, rating: int) -> None:
        mark = self._rows[row].marks[place]
        self._document.edit(
            f"rating of {mark.name}", lambda s: edit_take(s, mark.take, rating=rating)
        )

    def _drop(self, row: int, place: int) -> None:
        mark = self._rows[row].marks[place]
        self._document.edit(
            f"putting {mark.name} aside", lambda s: put_aside(s, mark.take, is_aside=True)
        )

    def _hear(self, row: int, place: int) -> None:
        """The take in its section, cross-faded, over all that is recorded; a second press ends it."""
        if self._rendered.stopped():
            return
        shown, session, line = self._rows[row], self._document.session, self._line
        tried = choose_take(session, line, shown.section, shown.marks[place].take)

        def write(path: Path, _: object) -> Path:
            return write_in_place(tried, path, shown.start_s, shown.end_s)

        rate_hz = session.setup.audio.sample_rate_hz
        self._rendered.play(write, rate_hz, self._document.refused.emit)

    def hear_row(self) -> None:
        """All takes of the section one after another; the attention goes with what sounds. Pressed again: silence."""
        if self._rendered.stopped() or self.sheet.mark() is None:
            return
        number, session, line = self.sheet.at[0], self._document.session, self._line
        shown = self._rows[number]

        def write(path: Path, goes_on: Callable[[], bool]) -> tuple[float, ...]:
            return write_in_a_row(session, line, shown, path, goes_on)

        def begun(path: Path, begins: object) -> None:
            assert isinstance(begins, tuple)
            self._in_row, self._sounds = (path, line, number, begins), -1

        rate_hz = session.setup.audio.sample_rate_hz
        self._follow_player()
        self._rendered.play(write, rate_hz, self._document.refused.emit, begun)

    def _follow_player(self) -> None:
        player = self._player()
        if self._followed is not player:
            self._followed = player
            player.moved.connect(self._follow)

    def _follow(self, at_s: float) -> None:
        """Turn to the take that sounds now, when it is another one: whoever looks elsewhere meanwhile may."""
        request = self._player().request
        if self._in_row is None or request is None or request.path != self._in_row[0]:
            return
        _, line, number, begins = self._in_row
        sounds = bisect.bisect_right(begins, at_s) - 1
        if line == self._line and sounds >= 0 and sounds != self._sounds:
            self._sounds = sounds
            self.sheet.turn_to(number, sounds)

    def focus_sheet(self) -> None:
        """Give the keys to the sheet."""
        self.sheet.setFocus(Qt.FocusReason.OtherFocusReason)
