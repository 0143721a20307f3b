"""What a screen reader is told: all that can be reached has a role and a name, what is pressed does something.

The bindings leave out Qt's accessibility interface. It gives a widget its role by the class it descends from,
its name by `accessibleName`, its text or its buddy, and "press" to whatever is a button: so that is looked at.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QTabBar,
    QTabWidget,
    QTextEdit,
    QWidget,
)
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.app.test_fitting import dialogs, look_in, with_a_file
from tests.core.mix.recorded import sung_with_a_double
from verve.app.settings import Settings
from verve.app.views.brief import PAGES
from verve.app.widgets.labels import PressableBox
from verve.app.widgets.tab_order import stops
from verve.app.widgets.table import Table
from verve.app.window import MainWindow
from verve.core.findings import STEPS

WITH_A_ROLE = (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QTabBar,
    QTabWidget,
    QTextEdit,
)


def name_of(widget: QWidget) -> str:
    """What is read out for it."""
    window = widget.window()
    assert window is not None
    buddies = [label.text() for label in window.findChildren(QLabel) if label.buddy() is widget]
    own = widget.text() if isinstance(widget, QAbstractButton) else ""
    return widget.accessibleName() or own or next(iter(buddies), "")


def namers(root: QWidget, field: QWidget) -> list[QLabel]:
    """Labels that stand right before a field and name it, without being tied to it."""
    at = field.mapTo(root, field.rect().topLeft())
    found = []
    for label in root.findChildren(QLabel):
        words = label.text().strip(" :").lower()
        if not label.isVisible() or not words or words not in field.accessibleName().lower():
            continue
        place = label.mapTo(root, label.rect().topLeft())
        apart = at.x() - place.x() - label.width()
        lower = at.y() + field.height() / 2 - place.y() - label.height() / 2
        if -2 <= apart < 30 and abs(lower) < 14 and label.buddy() is not field:
            found.append(label)
    return found


def unsaid(root: QWidget) -> list[str]:
    """What can be reached there and is not told, or told as what it is not."""
    found: list[str] = []
    for own in root.findChildren(QWidget):
        is_ours = type(own).__module__.startswith("verve.") and own.isVisible() and own.isEnabled()
        by_mouse = {"mousePressEvent", "mouseReleaseEvent"} & vars(type(own)).keys()
        if is_ours and by_mouse and not any(stops(own)):
            found.append(f"{type(own).__name__}: by mouse only")
    for widget in stops(root):
        said = f"{type(widget).__name__} “{name_of(widget)}”"
        if not name_of(widget).strip():
            found.append(f"{said} {widget.toolTip()}: no name")
        if not isinstance(widget, WITH_A_ROLE) and not widget.accessibleDescription():
            # A picture has no role of its own: what it shows is told in words.
            found.append(f"{said}: no role and no description")
        if isinstance(widget, QAbstractButton) and not (
            widget.receivers(widget.clicked)
            or widget.receivers(widget.toggled)
            or widget.group() is not None
            or (isinstance(widget, QPushButton) and widget.menu() is not None)
        ):
            found.append(f"{said}: pressing it does nothing")
        if isinstance(widget, QComboBox | QAbstractSpinBox | QLineEdit):
            found += (f"{said}: “{near.text()}” is not its buddy" for near in namers(root, widget))
        if min(widget.width(), widget.height()) < 24:
            found.append(f"{said}: {widget.width()} × {widget.height()} is too small to hit")
    return found


@pytest.fixture
def bare(dressed: QApplication, qtbot: QtBot, tmp_path: Path) -> Iterator[MainWindow]:
    """A window as it is the first time: with nothing in it."""
    made = MainWindow(Settings(tmp_path / "settings"), is_paced=False)
    qtbot.addWidget(made)
    made.show()
    yield made
    made.document.replace(made.document.session, None, is_saved=True)


@pytest.mark.parametrize("step", STEPS)
def test_everything_at_a_step_is_told(
    qtbot: QtBot, window: MainWindow, step: str, tmp_path: Path
) -> None:
    window.go(step)  # type: ignore[arg-type]
    window.open_reason()
    for _ in range(20):
        # What was made just now gets its place when the window comes to it.
        qtbot.wait(20)
        window.tasks.wait()
        if not (found := unsaid(window.centralWidget() or window)):
            break
    assert found == []
    if step == "brief":
        for page in PAGES:
            window.brief.open_page(page)
            qtbot.wait(30)
            assert unsaid(window.brief) == [], page
    if step == "stage":
        for _ in range(4):
            assert unsaid(window.view("stage")) == []
            window.next_picture()
            qtbot.wait(30)
    if step == "patch":
        window.patch.tabs.setCurrentIndex(1)
        qtbot.wait(30)
        assert unsaid(window.patch) == []
    if step == "check":
        with_a_file(qtbot, window, tmp_path)
        for tab in range(window.check.recordings.details.tabs.count()):
            window.check.recordings.details.tabs.setCurrentIndex(tab)
            qtbot.wait(30)
            assert unsaid(window.check.recordings) == [], tab
        window.show_tuner()
        qtbot.wait(30)
        assert unsaid(window.check.tuner) == []
    if step == "takes":
        window.document.replace(sung_with_a_double(tmp_path), None, is_saved=True)
        for page in window.takes.names:
            window.takes.turn_to(page)
            qtbot.wait(60)
            assert unsaid(window.takes) == [], page
        window.takes.turn_to("Log")
        finished(window)


def test_everything_in_a_dialog_is_told(qtbot: QtBot, window: MainWindow) -> None:
    for name, show in dialogs(window).items():
        found: list[str] = []

        def look(dialog: QDialog, found: list[str] = found) -> bool:
            found[:] = unsaid(dialog)
            if not dialog.windowTitle():
                found.append("no title")
            return not found

        look_in(show, look)
        assert found == [], name


def test_dialogs_end_alike(window: MainWindow) -> None:
    """What is done stands last and is what Enter presses, Cancel before it; what decides nothing is closed."""
    for name, show in dialogs(window).items():
        row: list[tuple[int, str, bool]] = []
        margins: set[int] = set()

        def look(
            dialog: QDialog,
            row: list[tuple[int, str, bool]] = row,
            margins: set[int] = margins,
        ) -> bool:
            layout = dialog.layout()
            assert layout is not None
            margins.add(layout.contentsMargins().left())
            places = [
                (b.mapTo(dialog, b.rect().bottomRight()), b)
                for b in dialog.findChildren(QPushButton)
                if b.isVisible()
            ]
            lowest = max(at.y() for at, _ in places)
            row[:] = sorted(
                (at.x(), b.text(), b.isDefault()) for at, b in places if lowest - at.y() < 8
            )
            return True

        look_in(show, look)
        texts = [text for _, text, _ in row]
        assert row[-1][2], (name, texts)
        assert "Cancel" in texts[:-1] or texts[-1] == "Close", (name, texts)
        assert margins == {11}, name


def test_letters_of_menus_stand_once_each(window: MainWindow) -> None:
    bar = window.menuBar()
    assert bar is not None

    def letters(actions: list[QAction]) -> list[str]:
        texts = [a.text() for a in actions if a.text()]
        return [t[t.index("&") + 1].lower() for t in texts if "&" in t]

    menus = [a.menu() for a in bar.actions()]
    for actions in (bar.actions(), *(m.actions() for m in menus if m is not None)):
        found = letters(actions)
        assert len(found) == len(set(found)), [a.text() for a in actions]
        assert len(found) == len([a for a in actions if a.text()]), [a.text() for a in actions]


def test_an_empty_table_says_what_goes_there(qtbot: QtBot, bare: MainWindow) -> None:
    window = bare
    seen: set[Table] = set()
    for step in STEPS:
        window.go(step)
        for page in PAGES if step == "brief" else ("",):
            if page:
                window.brief.open_page(page)
            for _ in range(20):
                qtbot.wait(20)
                window.tasks.wait()
            seen |= {t for t in window.findChildren(Table) if t.isVisible() and not t.rowCount()}
    assert len(seen) > 5
    for table in seen:
        assert table.accessibleDescription() == table.empty_words
        assert table.empty_words.endswith(".")


def test_steps_are_tabs_and_tell_which_is_open(qtbot: QtBot, window: MainWindow) -> None:
    window.go("power")
    bar = window.steps
    assert isinstance(bar, QTabBar)
    assert STEPS[bar.currentIndex()] == "power"
    assert "open" in bar.accessibleTabName(STEPS.index("power"))
    # The arrows turn to the next one, as in every row of tabs.
    bar.setFocus()
    qtbot.keyClick(bar, Qt.Key.Key_Right)
    assert window.step == "stage"


def test_what_is_pressed_without_looking_like_it_is_a_button(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("stage")
    window.open_reason()
    qtbot.wait(60)

    def pressed() -> list[PressableBox]:
        return [w for w in stops(window.reason) if isinstance(w, PressableBox)]

    qtbot.waitUntil(lambda: len(pressed()) > 3)
    rows = pressed()
    assert all("typical" in r.accessibleName() or ":" in r.accessibleName() for r in rows)
    before = window.reason.height()
    rows[0].click()
    assert window.reason.height() == before
    assert "&" not in rows[0].text()
