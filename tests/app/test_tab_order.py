"""Tab goes next thing, steps, signals, view, reason, status; a key goes straight to the view."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QScrollArea, QWidget
from pytestqt.qtbot import QtBot

from verve.app.widgets.tab_order import stops
from verve.app.window import MainWindow
from verve.core.findings import STEPS


def walk(qtbot: QtBot, window: MainWindow, key: Qt.Key = Qt.Key.Key_Tab) -> list[QWidget]:
    """Everything Tab stops at, from the next thing until it comes round."""
    window.next_bar.button.setFocus()
    seen: list[QWidget] = []
    for _ in range(200):
        focus = QApplication.focusWidget()
        assert focus is not None
        if focus in seen:
            break
        seen.append(focus)
        qtbot.keyClick(focus, key)
    return seen


@pytest.mark.parametrize("step", STEPS)
def test_tab_goes_through_everything_as_it_is_laid_out(
    qtbot: QtBot, window: MainWindow, step: str
) -> None:
    window.go(step)  # type: ignore[arg-type]
    window.open_reason()
    qtbot.wait(60)
    seen = walk(qtbot, window)
    places = [window.next_bar, window.steps, window.lines, window.view(window.step), window.reason]
    order = [
        next(
            i
            for i, place in enumerate([*places, window._status])
            if place is w or place.isAncestorOf(w)
        )
        for w in seen
    ]
    assert order == sorted(order), "each place after the one before it"
    assert set(order) == set(range(6))
    assert order.index(3) <= 6, "the view is near"
    assert not any(type(w) is QScrollArea for w in seen)
    for stop in seen:
        name = stop.accessibleName() or getattr(stop, "text", str)()
        assert name, stop
    # And back the other way.
    back = walk(qtbot, window, Qt.Key.Key_Backtab)
    assert back[1:] == seen[:0:-1]


@pytest.mark.parametrize("step", STEPS)
def test_a_key_goes_straight_to_the_view(qtbot: QtBot, window: MainWindow, step: str) -> None:
    window.go(step)  # type: ignore[arg-type]
    qtbot.keyClick(window, Qt.Key.Key_F6)
    focus = QApplication.focusWidget()
    assert focus is not None
    assert window.view(window.step).isAncestorOf(focus)


def test_what_has_the_focus_is_in_sight(qtbot: QtBot, window: MainWindow) -> None:
    window.go("power")
    qtbot.waitUntil(lambda: len(window.power.boxes) > 25)
    last = [w for w in stops(window._stack) if w in window.power.boxes][-1]
    for _ in range(80):
        focus = QApplication.focusWidget() or window.next_bar.button
        if focus is last:
            break
        qtbot.keyClick(focus, Qt.Key.Key_Tab)
    assert not last.visibleRegion().isEmpty()
