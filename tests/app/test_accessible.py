"""What a screen reader is told: all that can be reached has a role and a name, what is pressed does something.

The bindings leave out Qt's accessibility interface. It gives a widget its role by the class it descends from,
its name by `accessibleName`, its text or its buddy, and "press" to whatever is a button: so that is looked at.
"""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
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

from tests.app.test_fitting import dialogs
from verve.app.views.brief import PAGES
from verve.app.widgets.labels import PressableBox
from verve.app.widgets.tab_order import stops
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


def unsaid(root: QWidget) -> list[str]:
    """What can be reached there and is not told, or told as what it is not."""
    found: list[str] = []
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
        if min(widget.width(), widget.height()) < 24:
            found.append(f"{said}: {widget.width()} × {widget.height()} is too small to hit")
    return found


@pytest.mark.parametrize("step", STEPS)
def test_everything_at_a_step_is_told(qtbot: QtBot, window: MainWindow, step: str) -> None:
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


def test_everything_in_a_dialog_is_told(qtbot: QtBot, window: MainWindow) -> None:
    for name, show in dialogs(window).items():
        found: list[str] = []

        def look(found: list[str] = found, tries: int = 0) -> None:
            dialog = QApplication.activeModalWidget()
            if dialog is None or (not getattr(dialog, "is_ready", True) and tries < 200):
                QTimer.singleShot(20, lambda: look(tries=tries + 1))
                return
            found += unsaid(dialog)
            if not dialog.windowTitle():
                found.append("no title")
            dialog.reject()  # type: ignore[attr-defined]

        QTimer.singleShot(60, look)
        show()
        assert found == [], name


def test_steps_tell_which_is_open(window: MainWindow) -> None:
    window.go("power")
    told = {step: button.isChecked() for step, button in window.steps.buttons.items()}
    assert [step for step, is_open in told.items() if is_open] == ["power"]
    assert "open" in window.steps.buttons["power"].accessibleName()


def test_what_is_pressed_without_looking_like_it_is_a_button(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("stage")
    window.open_reason()
    qtbot.wait(60)
    rows = [w for w in stops(window.reason) if isinstance(w, PressableBox)]
    assert len(rows) > 3
    assert all("typical" in r.accessibleName() or ":" in r.accessibleName() for r in rows)
    before = window.reason.height()
    rows[0].click()
    assert window.reason.height() == before
    assert "&" not in rows[0].text()
