"""Takes every picture in docs/screenshots from the demo data, at the size and in the colours of a day."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEventLoop, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QWidget

from verve.app import connecting, theme
from verve.app._run import make_application
from verve.app.hearing import SilentOutput
from verve.app.practice import PAGES
from verve.app.practice.day import DayPage
from verve.app.practice.hunt import HuntPage
from verve.app.settings import Settings
from verve.app.window import MainWindow
from verve.core.kind import FrozenDict
from verve.core.measure import Reading, note_of
from verve.core.session import (
    Change,
    Session,
    add_section,
    arm_line,
    remove_take,
    routes,
    set_control,
    set_song,
)

_SONG = (
    ("First verse", 0.0, 6.0),
    ("Refrain", 6.0, 10.0),
    ("Second verse", 10.0, 16.0),
    ("Refrain again", 16.0, 20.0),
)
FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
_LONGEST_S = 60.0
_CHANGES_MS = 300
"""What would change a level comes a moment after the rest."""


def _settle(milliseconds: int = 60) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def _until(is_so: Callable[[], bool]) -> None:
    end = time.monotonic() + _LONGEST_S
    while not is_so():
        if time.monotonic() > end:
            raise TimeoutError("the rehearsal did not end")
        _settle()


class Shots:
    """The demo, driven as a person would, photographed on the way."""

    def __init__(self, application: QApplication, folder: Path, wanted: list[str]) -> None:
        self._application, self._folder, self._wanted = application, folder, wanted
        # A home of its own: pictures show no place of the machine they were taken on.
        self._home = tempfile.TemporaryDirectory()
        os.environ["HOME"] = self._home.name
        self.window = MainWindow(
            Settings(Path(self._home.name) / "settings"), is_paced=False, find_output=SilentOutput
        )

    def take(self, name: str) -> None:
        """One picture of the whole window, when all has been worked out."""
        _settle(_CHANGES_MS)
        if self._wanted and name not in self._wanted:
            return
        path = self._folder / f"{name}.png"
        self.window.grab().save(str(path))
        print(path)

    def all(self) -> None:
        """Every picture, in working order."""
        window, document = self.window, self.window.document
        window.resize(1280, 800)
        window.show()
        window.show_demo()
        self.take("stage-first-look")
        self._brief()
        window.go("patch")
        self.take("patch")
        self._place()
        self._monitor()
        while document.assessment.next.action == "apply":
            window.next_bar.button.click()
        window.go("power")
        for box in window.power.boxes[:3]:
            box.click()
        self.take("power")
        window.go("stage")
        document.select_line("voice")
        self.take("stage")
        self._guided()
        window.check.turn_to("Rehearsal")
        self._record()
        self._change_and_record()
        window.go("takes")
        self.take("takes")
        self._compared()
        self._recordings()
        self._in_time()
        theme.apply(self._application, night=True)
        window.go("stage")
        self.take("stage-night")
        theme.apply(self._application, night=False)
        self._practised()
        window.rehearsal.cancel()
        document.replace(document.session, None, is_saved=True)
        window.close()

    def _brief(self) -> None:
        """Brief and what follows from it; the patch that is found for it is undone again."""
        window = self.window
        window.go("brief")
        view = window.brief
        view.passes.setCurrentIndex(view.passes.findData("finale"))
        view.passes.activated.emit(view.passes.currentIndex())
        _until(lambda: view.answered is not None)
        self.take("brief")
        view.open_page("Suggested kits")
        _until(lambda: not window.tasks.is_busy("what to buy"))
        self.take("what-to-buy")
        view.open_page("Needs")
        window.suggest_connections("evening")
        _until(lambda: not window.tasks.is_busy(connecting.LANE))
        self.take("patch-whole")
        window.document.undo()
        window.patch.tabs.setCurrentIndex(0)

    def _monitor(self) -> None:
        """Who hears what."""
        window = self.window
        window.go("monitor")
        self.take("monitor")

    def _place(self) -> None:
        """Who bleeds into the harp's microphone, and its pair."""
        window = self.window
        window.go("place")
        window.place.table.asked.emit(1, 0)
        self.take("place")

    def _recordings(self) -> None:
        """The files of the last take and a backing track, looked at over time; then the tuner."""
        window = self.window
        window.go("takes")
        window.takes.log.listen.click()
        _until(lambda: bool(window.document.session.sounds) and not window.importing.is_busy)
        page = window.check.recordings
        page.choose(
            next(one.id for one in window.document.session.sounds if one.name == "Harp left")
        )
        page.details.course.select((4.0, 7.0))
        page.details.course.chosen.emit(4.0)
        page.details.tabs.setCurrentIndex(1)
        _until(lambda: page.details.pauses._computed is not None)
        self.take("recordings")
        window.show_tuner()
        tuner = window.check.tuner
        tuner.source.setCurrentIndex(tuner.source.findText("Cello bridge, simulated"))
        tuner.tuning.setCurrentIndex(tuner.tuning.findText("Cello: C2 G2 D3 A3"))
        for hz in (65.2, 98.1, 147.1, 219.1):
            note, cents = note_of(hz)
            tuner.listening.heard.emit(
                Reading(pitch_hz=hz, note=note, cents=cents, is_settled=True, at_s=0.0)
            )
        self.take("tuner")
        window.check.turn_to("Rehearsal")

    def _guided(self) -> None:
        """The verdict of a voice whose gain is too high, as it is read from three metres."""
        window = self.window
        item = window.document.assessment.line("voice")
        assert item is not None
        control = item.state.level_control()
        assert control is not None
        window.document.set_control("gain of Voice", control, float(control.value or 0.0) + 5.0)
        window.go("check")
        page = window.check.guided
        page.checking.is_paced = False
        page.start()
        _until(lambda: "voice" in page._answers)
        page.checking.stop()
        _settle(200)
        self.take("check")
        while window.document.session.setup.devices and window.undo_action.isEnabled():
            if "gain of Voice" in window.undo_action.text():
                window.document.undo()
                break
            window.document.undo()

    def _practised(self) -> None:
        """A hunt under way, and a day in which little goes wrong; both on a copy of the demo as it ships."""
        window = self.window
        window.show_demo()
        window.offering.open()
        _until(lambda: window.offering.window is not None)
        practice = window.offering.window
        assert practice is not None
        practice.resize(1180, 740)
        object.__setattr__(practice._needs, "seed", lambda: 3)
        _until(lambda: practice.prepared is not None)
        hunt = practice.pages.page(PAGES["hunt"])
        assert isinstance(hunt, HuntPage)
        hunt.hide_one()
        _until(lambda: hunt.hunt is not None)
        assert hunt.hunt is not None
        for key in ("live", "track", "interface"):
            hunt.hunt = hunt.hunt.do(key)
        hunt.refresh()
        _settle(200)
        self._grab(practice, "practice-hunt")
        practice.turn_to("day")
        day = practice.pages.page(PAGES["day"])
        assert isinstance(day, DayPage)
        _until(lambda: day.day is not None)
        day.keep(end_h=13.0, takes=4, arrivals_h=FrozenDict({"Harpist": 10.75, "Cellist": 10.75}))
        _until(lambda: not window.tasks.is_busy("day"))
        _settle(200)
        self._grab(practice, "practice-day")
        practice.close()

    def _grab(self, widget: QWidget, name: str) -> None:
        if not self._wanted or name in self._wanted:
            path = self._folder / f"{name}.png"
            widget.grab().save(str(path))
            print(path)

    def _compared(self) -> None:
        """Two takes of the harp, one of them with its microphone elsewhere."""
        window = self.window
        change = Change(owner="harp_mic_left", channel="capsule", name="distance_m", value=0.45)
        window.document.edit("nearer", lambda session: set_control(session, change))
        window.check.turn_to("Rehearsal")
        window.go("check")
        self._record()
        window.document.select_line("harp_left")
        window.check.turn_to("Compare")
        page = window.check.compare
        page.refresh()
        for row, is_wanted in ((1, False), (2, True)):
            entry = page.list.item(row)
            assert entry is not None
            entry.setCheckState(Qt.CheckState.Checked if is_wanted else Qt.CheckState.Unchecked)
        page.begin()
        _until(lambda: len(page.hear) > 1)
        for _ in range(4):
            page.vote_for(1)
        page.vote_for(0)
        page.title.setText("Two places at the harp")
        page.reason.setText("Less of the pedals, more of the strings")
        page.log_button.click()
        self.take("compare")
        window.player.stop()
        window.document.undo()
        window.document.undo()
        window.document.undo()

    def _in_round(self, number: int) -> bool:
        sign = self.window.takes.record.sign.sign
        return sign is not None and sign.word == f"Round {number}"

    def _in_time(self) -> None:
        """A loop over each section of the song, and a gain that was turned down for talking."""
        window, document = self.window, self.window.document

        def with_song(session: Session) -> Session:
            song = session.song.model_copy(update={"tempo_bpm": 84.0, "lead_in_s": 1.0})
            session = set_song(session, song)
            for name, start_s, end_s in _SONG:
                session = add_section(session, name, start_s, end_s)[0]
            for line in session.setup.lines:
                session = arm_line(session, line.id, is_armed=line.id.startswith("harp"))
            return session

        document.edit("song", with_song)
        # What was heard before it had sections is no concern of the sheet.
        for take in document.session.takes:
            document.edit("aside", partial(_without, take.id))
        document.select_line("harp_left")
        window.record_in_song()
        page = window.takes.record
        _until(lambda: window.standby.is_on)
        for number, rounds in enumerate((4, 3, 5, 2), 1):
            page.section.setCurrentIndex(number)
            page.section.activated.emit(number)
            page.loops.setChecked(True)
            page.record()
            if page.ready.isVisible():
                page.record()
            _until(lambda: window.standby.is_recording)
            _until(partial(self._in_round, rounds))
            page.mark()
            _until(partial(self._in_round, rounds + 1))
            page.record()
            _until(lambda: not window.standby.is_recording)
        route = next(r for r in routes(document.session.setup) if r.line.id == "harp_left")
        assert route.recorder is not None
        control = route.recorder.controls["gain_db"]
        assert isinstance(control.value, float)
        document.set_control("gain", control, control.value - 9.0)
        page.record()
        self.take("ready-check")
        document.undo()
        page.ready.clear()
        window.takes.turn_to("Take sheet")
        sheet = window.takes.sheet
        sheet.show_line("harp_left")
        sheet._choose(1, 2)
        sheet._rate(1, 2, 5)
        sheet.sheet.turn_to(1, 3)
        sheet.focus_sheet()
        self.take("take-sheet")
        window.takes.turn_to("Log")

    def _record(self) -> None:
        window = self.window
        before = len(window.document.session.takes)
        window.check.rehearse.start_recording()
        _until(lambda: len(window.document.session.takes) > before)

    def _change_and_record(self) -> None:
        window = self.window
        line = window.document.line
        assert line is not None
        control = line.state.level_control()
        assert control is not None
        window.document.set_control("gain of Voice", control, float(control.value or 0.0) + 3.0)
        self._record()


def _without(take_id: str, session: Session) -> Session:
    return remove_take(session, take_id)


def main() -> int:
    """Take all pictures, or those named on the command line."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    application = make_application()
    theme.apply(application, night=False)
    Shots(application, FOLDER, sys.argv[1:]).all()
    return 0


if __name__ == "__main__":
    sys.exit(main())
