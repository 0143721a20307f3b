"""Manners: keys, names for who cannot see, nothing cut off, colours, and a real window."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QScrollArea,
    QSpinBox,
    QWidget,
)
from pytestqt.qtbot import QtBot

from verve.app import theme
from verve.app.dialogs.glossary import GlossaryDialog
from verve.app.dialogs.keys import ShortcutsDialog
from verve.app.window import MainWindow
from verve.core.findings import STEPS
from verve.core.glossary import GLOSSARY


def inputs(widget: QWidget) -> list[QWidget]:
    kinds = (QAbstractButton, QComboBox, QLineEdit, QSpinBox)
    return [
        child
        for child in widget.findChildren(QWidget)
        if isinstance(child, kinds)
        and child.isVisible()
        and child.focusPolicy() != Qt.FocusPolicy.NoFocus
        and not child.objectName().startswith("qt_")
    ]


@pytest.mark.parametrize("step", STEPS)
def test_every_control_has_a_name_and_says_what_it_does(window: MainWindow, step: str) -> None:
    window.go(step)  # type: ignore[arg-type]
    found = inputs(window)
    assert len(found) > 4
    for child in found:
        text = child.text() if isinstance(child, QAbstractButton) else ""
        assert child.accessibleName() or text, child
        if isinstance(child.parent(), (QComboBox, QSpinBox)):
            continue
        assert child.toolTip(), (step, type(child).__name__, text or child.accessibleName())


@pytest.mark.parametrize("step", STEPS)
@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (1920, 1080)])
def test_nothing_is_cut_off(
    qtbot: QtBot, window: MainWindow, step: str, size: tuple[int, int]
) -> None:
    window.resize(*size)
    for line in ("voice", "organ_l"):
        window.document.select_line(line)
        window.go(step)  # type: ignore[arg-type]
        qtbot.wait(20)
        assert (window.width(), window.height()) == size
        # On a busy machine the layout may take a moment longer.
        for _ in range(50):
            if not cut_off(window):
                break
            qtbot.wait(20)
        assert cut_off(window) == []


def cut_off(window: MainWindow) -> list[str]:
    """Words that do not fit where they stand."""
    found = []
    for label in window.findChildren(QLabel):
        if label.isVisible() and label.text() and not label.wordWrap():
            needed = label.fontMetrics().horizontalAdvance(label.text().splitlines()[0])
            if label.width() < needed - 2:
                found.append(label.text())
    for button in window.findChildren(QAbstractButton):
        needed = button.minimumSizeHint().width()
        if button.isVisible() and button.text() and button.width() < needed - 2:
            found.append(button.text())
    for area in window.findChildren(QScrollArea):
        inside = area.widget()
        off = Qt.ScrollBarPolicy.ScrollBarAlwaysOff
        if area.isVisible() and inside is not None and area.horizontalScrollBarPolicy() == off:
            viewport = area.viewport()
            assert viewport is not None
            if inside.width() > viewport.width():
                found.append(f"inside {area.accessibleName() or area.parent()}")
    return found


@pytest.mark.parametrize(
    ("key", "step"),
    [
        ("1", "brief"),
        ("2", "patch"),
        ("3", "place"),
        ("4", "power"),
        ("5", "stage"),
        ("6", "monitor"),
        ("7", "check"),
        ("8", "takes"),
    ],
)
def test_steps_are_reached_by_key(qtbot: QtBot, window: MainWindow, key: str, step: str) -> None:
    qtbot.keyClick(window, getattr(Qt.Key, f"Key_{key}"), Qt.KeyboardModifier.ControlModifier)
    assert window.step == step


def test_lines_are_reached_by_key(qtbot: QtBot, window: MainWindow) -> None:
    def selected() -> str:
        assert window.document.line is not None
        return window.document.line.line.id

    qtbot.keyClick(window, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    assert selected() == "harp_left"
    qtbot.keyClick(window, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(window, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    assert selected() == "organ_r"


def test_the_next_thing_is_done_by_key(qtbot: QtBot, window: MainWindow) -> None:
    qtbot.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert window.undo_action.text() == "&Undo Switch phantom on"
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert not window.undo_action.isEnabled()


def test_the_page_of_keys_lists_every_shortcut(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown: list[str] = []

    def look(dialog: ShortcutsDialog) -> int:
        shown.extend(label.text() for label in dialog.findChildren(QLabel))
        return 0

    monkeypatch.setattr(ShortcutsDialog, "exec", look)
    window.beside.show_keys()
    for keys in ("F1", "F2", "Ctrl+Z", "Ctrl+S", "Ctrl+L", "Ctrl+R", "Shift+Up, Shift+Down"):
        assert keys in shown


def test_no_two_actions_share_a_key(window: MainWindow) -> None:
    keys = [a.shortcut().toString() for a, _ in window.beside.listed if not a.shortcut().isEmpty()]
    assert len(keys) == len(set(keys))


def luminance(colour: str) -> float:
    def linear(value: float) -> float:
        return value / 12.92 if value <= 0.04045 else float(((value + 0.055) / 1.055) ** 2.4)

    c = QColor(colour)
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF())


def contrast(one: str, other: str) -> float:
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("colours", [theme.DAY, theme.NIGHT], ids=["day", "night"])
def test_text_stands_out_from_what_it_is_on(colours: theme.Colours) -> None:
    for ground in (colours.paper, colours.card, colours.raised):
        assert contrast(colours.ink, ground) >= 7.0
        assert contrast(colours.muted, ground) >= 4.5
    assert contrast(colours.ceiling_edge, colours.ceiling) >= 4.5
    assert contrast(colours.floor_edge, colours.floor) >= 4.5
    assert contrast(colours.ceiling_edge, colours.card) >= 4.5
    for line in colours.lines:
        assert contrast(line, colours.card) >= 4.5


def test_night_is_put_on_and_off(window: MainWindow) -> None:
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    theme.apply(application, night=True)
    window.go("stage")
    dark = window.grab().toImage().pixelColor(4, 400)
    theme.apply(application, night=False)
    window.go("stage")
    light = window.grab().toImage().pixelColor(4, 400)
    assert dark.lightness() < 60 < 200 < light.lightness()


def test_the_shipped_typefaces_are_the_ones_in_use(window: MainWindow) -> None:
    assert window.font().family() == theme.WORDS_FAMILY
    assert theme.numbers().family() == theme.NUMBERS_FAMILY


def test_names_with_markup_are_shown_as_they_are(qtbot: QtBot, window: MainWindow) -> None:
    from verve.core.session import rename_line

    window.document.edit("name", lambda s: rename_line(s, "voice", "<b>Alt & Sopran</b>"))
    window.open_reason()
    window.document.select_line("voice")
    assert window.reason._heading.text() == "Why: <b>Alt & Sopran</b>"
    assert window.reason._heading.textFormat() == Qt.TextFormat.PlainText
    assert window.next_bar.sentence.textFormat() == Qt.TextFormat.PlainText


def test_a_refusal_is_shown_for_a_while_and_takes_no_focus(window: MainWindow) -> None:
    window.say("x: must be y; got z")
    assert window.message() == "x: must be y; got z"
    window._message_timer.timeout.emit()
    assert window.message() == ""


_REAL_WINDOW = """
import sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from verve.app._run import make_application
from verve.app.settings import Settings
from verve.app.window import MainWindow
application = make_application()
window = MainWindow(Settings(Path(sys.argv[1]) / "settings"))
window.show_demo()
window.show()
def look():
    picture = window.screen().grabWindow(window.winId()).toImage()
    places = [(x, y) for x in range(0, picture.width(), 9) for y in range(0, picture.height(), 9)]
    colours = {picture.pixelColor(x, y).name() for x, y in places}
    print(application.platformName(), picture.width(), picture.height(), len(colours))
    window.close()
QTimer.singleShot(1500, look)
sys.exit(application.exec())
"""


_INTERRUPTED = """
import os, signal, sys
from PyQt6.QtCore import QTimer
from verve.app import _run
from verve.app.window import MainWindow
from verve.core.session import rename_session
class Changed(MainWindow):
    def _show_all(self):
        super()._show_all()
        self.document.edit("title", lambda session: rename_session(session, "In the middle of it"))
        QTimer.singleShot(400, lambda: os.kill(os.getpid(), signal.SIGINT))
_run.MainWindow = Changed
sys.exit(_run.run(file=None, is_demo=True))
"""


def test_ctrl_c_in_the_terminal_ends_at_once_and_keeps_what_is_unsaved(own_home: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-c", _INTERRUPTED],
        env=os.environ | {"QT_QPA_PLATFORM": "offscreen", "HOME": str(own_home)},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode == 2, done.stderr
    (kept,) = (own_home / ".local" / "state" / "verve").glob("unsaved-*.verve.json")
    assert "In the middle of it" in kept.read_text(encoding="utf-8")


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="Xvfb is not installed")
def test_a_real_window_opens_on_a_virtual_display(tmp_path: Path) -> None:
    reading, writing = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writing), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=(writing,),
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    os.close(writing)
    try:
        with os.fdopen(reading) as told:
            display = f":{told.readline().strip()}"
        environment = os.environ | {"DISPLAY": display, "QT_QPA_PLATFORM": "xcb"}
        done = subprocess.run(
            [sys.executable, "-c", _REAL_WINDOW, str(tmp_path)],
            env=environment,
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )
    finally:
        server.terminate()
        server.wait(timeout=10)
    assert done.returncode == 0, done.stderr
    platform, width, height, colours = done.stdout.split()
    assert platform == "xcb"
    assert int(width) >= 1000
    assert int(height) >= 700
    assert int(colours) > 20, "the window must show more than one colour"


def test_the_glossary_explains_each_term_in_two_sentences_and_is_searched(
    qtbot: QtBot, window: MainWindow
) -> None:
    dialog = GlossaryDialog(window)
    qtbot.addWidget(dialog)
    dialog.show()
    names = [term.name for term in GLOSSARY]
    assert names == sorted(names, key=str.casefold)
    assert len(names) >= 25
    for term in GLOSSARY:
        ends = term.says.count(". ") + 1
        assert ends == 2, term.name
        assert term.where.endswith(".")
    dialog.search.setText("48 V")
    shown = [rows[0] for _, rows in dialog.entries if rows[0].isVisible()]
    assert len(shown) == 1
