"""Takes every picture in docs/screenshots from the demo data, at the size and in the colours of a day."""

from __future__ import annotations

import datetime
import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication, QScrollArea

from verve.app import connecting, theme
from verve.app._run import make_application
from verve.app.dialogs.gains import SettleDialog
from verve.app.dialogs.loop import LoopDialog
from verve.app.pager import Sheet
from verve.app.settings import Settings
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.measure import Reading, note_of
from verve.core.place import Key
from verve.core.sheets import patch_html, placement_html

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
        self.window = MainWindow(Settings(Path(self._home.name) / "settings"), is_paced=False)

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
        self._settle_dialog()
        window.go("check")
        self._record()
        self.take("check")
        self._change_and_record()
        window.go("takes")
        self.take("takes")
        self._recordings()
        theme.apply(self._application, night=True)
        window.go("stage")
        self.take("stage-night")
        theme.apply(self._application, night=False)
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
        self._on_paper("patch-on-paper", patch_html(window.document.assessment))
        window.document.undo()
        window.patch.tabs.setCurrentIndex(0)

    def _monitor(self) -> None:
        """Who hears what, and a loop-back that has been measured."""
        window = self.window
        window.go("monitor")
        self.take("monitor")
        dialog = LoopDialog(window.document, window.tasks, window)
        dialog.is_paced = False
        dialog.show()
        for point in dialog.points:
            point.click()
        dialog.play.click()
        _until(lambda: bool(dialog.said.text()))
        _settle(200)
        if not self._wanted or "loop-back" in self._wanted:
            path = self._folder / "loop-back.png"
            dialog.grab().save(str(path))
            print(path)
        dialog.close()
        dialog.deleteLater()

    def _place(self) -> None:
        """Who bleeds into the harp's microphone, its pair, and the marks on paper."""
        window = self.window
        window.go("place")
        window.place.table.asked.emit(1, 0)
        self.take("place")
        window.place.table.asked.emit(0, 0)
        window.place.choose(Key("microphone", "harp_mic_left:capsule"))
        for area in window.place.findChildren(QScrollArea):
            area.ensureWidgetVisible(window.place.side.stereo)
        self.take("place-pair")
        self._on_paper("placement-on-paper", placement_html(window.document.session))

    def _on_paper(self, name: str, html: str) -> None:
        """A page as it comes out of the printer."""
        if self._wanted and name not in self._wanted:
            return
        page = QImage(QSize(794, 1123), QImage.Format.Format_RGB32)
        page.fill(Qt.GlobalColor.white)
        painter = QPainter(page)
        Sheet(html, datetime.date(2026, 11, 26)).paint(painter, 0)
        painter.end()
        page.save(str(self._folder / f"{name}.png"))

    def _settle_dialog(self) -> None:
        if self._wanted and "set-all-gains" not in self._wanted:
            return
        dialog = SettleDialog(demo_session(), "harp_right", self.window)
        dialog.show()
        _settle()
        dialog.grab().save(str(self._folder / "set-all-gains.png"))
        dialog.close()

    def _recordings(self) -> None:
        """The files of the last take and a backing track, looked at over time; then the tuner."""
        window = self.window
        window.takes.listen.click()
        _until(lambda: bool(window.document.session.sounds) and not window.importing.is_busy)
        page = window.check.recordings
        page.choose(
            next(one.id for one in window.document.session.sounds if one.name == "Harp left")
        )
        page.details.course.select((4.0, 7.0))
        page.details.course.chosen.emit(4.0)
        page.details.tabs.setCurrentIndex(1)
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


def main() -> int:
    """Take all pictures, or those named on the command line."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    application = make_application()
    theme.apply(application, night=False)
    Shots(application, FOLDER, sys.argv[1:]).all()
    return 0


if __name__ == "__main__":
    sys.exit(main())
