"""Setting all gains: proposed with the reason, taken whole, in part, or not at all."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from verve.app.dialogs.gains import SettleDialog
from verve.app.window import MainWindow
from verve.core.session import Session


def worked_out(dialog: SettleDialog) -> None:
    """Until what was asked for beside the window is there."""
    while not dialog.is_ready:
        QApplication.processEvents()


def press(window: MainWindow, do: Callable[[SettleDialog], None]) -> list[str]:
    seen: list[str] = []

    def act() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, SettleDialog)
        worked_out(dialog)
        for row in range(dialog.table.rowCount()):
            item = dialog.table.item(row, 5)
            assert item is not None
            seen.append(item.text())
        do(dialog)

    QTimer.singleShot(0, act)
    window.stage.settle.click()
    return seen


def test_all_are_set_as_one_step(window: MainWindow) -> None:
    before = window.document.session
    seen = press(window, lambda dialog: dialog.all.click())
    assert any("gain" in words for words in seen)
    assert window.document.session != before
    assert window.undo_action.text() == "&Undo all gains"
    levels = [f.rule for f in window.document.assessment.findings if f.severity != "know"]
    assert "clips" not in levels
    assert "pair_unequal" not in levels
    window.document.undo()
    assert window.document.session == before


def test_one_is_set_and_the_others_stay(window: MainWindow) -> None:
    window.document.select_line("harp_right")
    press(window, lambda dialog: dialog.one.click())
    assert window.undo_action.text() == "&Undo gains of Harp right"
    voice = window.document.assessment.line("voice")
    assert voice is not None
    assert any(f.rule == "clips" for f in voice.findings), "only the chosen signal was set"


def test_none_is_set(window: MainWindow) -> None:
    before = window.document.session
    press(window, lambda dialog: dialog.reject())
    assert window.document.session == before


def test_before_and_after_stand_side_by_side_with_the_reason(
    qtbot: QtBot, window: MainWindow
) -> None:
    texts: list[str] = []

    def look(dialog: SettleDialog) -> None:
        texts.append(dialog.before.description())
        texts.append(dialog.after.description())
        texts.append(dialog.words.text())
        dialog.table.setCurrentCell(1, 0)
        worked_out(dialog)
        texts.append(dialog.words.text())
        dialog.grab()
        dialog.reject()

    press(window, look)
    assert texts[0] != texts[1]
    assert "target" in texts[2]
    assert "closer" in texts[3]


def test_it_is_reached_by_key(qtbot: QtBot, window: MainWindow) -> None:
    opened: list[bool] = []

    def act() -> None:
        dialog = QApplication.activeModalWidget()
        opened.append(isinstance(dialog, SettleDialog))
        if isinstance(dialog, SettleDialog):
            dialog.reject()

    QTimer.singleShot(0, act)
    qtbot.keyClick(window, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
    assert opened == [True]


@pytest.mark.parametrize("whole", [True, False])
def test_an_empty_session_has_nothing_to_set(window: MainWindow, whole: bool) -> None:
    window.document.replace(Session(), None, is_saved=True)
    dialog = SettleDialog(window.document.session, "")
    assert not dialog.all.isEnabled()
    assert "No signal" in dialog.words.text()
    dialog.deleteLater()


def keep_toggles(qtbot: QtBot, window: MainWindow) -> dict[str, QPushButton]:
    """The toggles under the corridor by what they keep, once the columns have been laid out."""
    qtbot.wait(20)
    return {
        button.accessibleName(): button
        for button in window.stage.findChildren(QPushButton)
        if button.isVisible() and button.accessibleName().startswith("Lock ")
    }


def test_a_control_can_be_kept_and_everything_is_set_around_it(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("stage")
    window.document.select_line("organ_l")
    toggle = keep_toggles(qtbot, window)["Lock trim"]
    assert toggle.text() == "lock"
    toggle.click()
    assert "locking the trim" in window.undo_action.text()
    toggle = keep_toggles(qtbot, window)["Lock trim"]
    assert toggle.text() == "locked"
    assert toggle.isChecked()
    assert "unlock" in toggle.toolTip()
    window.document.select_line("organ_r")
    said: list[str] = []

    def look(dialog: SettleDialog) -> None:
        lines = [c.line for c in dialog.certificates]
        dialog.table.setCurrentCell(lines.index("organ_l"), 0)
        worked_out(dialog)
        said.append(dialog.words.text())
        said.append(dialog.one.text())
        dialog.one.click()

    press(window, look)
    assert "Locked: the trim of Small mixer, channel 3 at +8 dB" in said[0]
    assert said[1] == "Set these signals", "the other side of the pair is set with it"
    mixer = next(d for d in window.document.session.setup.devices if d.id == "mixer")
    assert mixer.settings["in.3"].gain_db == 8.0
    assert mixer.settings["in.4"].gain_db == 8.0
    window.document.undo()
    window.document.undo()
    window.document.select_line("organ_l")
    assert keep_toggles(qtbot, window)["Lock trim"].text() == "lock"


def test_a_hand_may_still_turn_what_is_kept(qtbot: QtBot, window: MainWindow) -> None:
    window.go("stage")
    window.document.select_line("baritone_line")
    keep_toggles(qtbot, window)["Lock gain"].click()
    item = window.document.line
    assert item is not None
    control = item.state.level_control()
    assert control is not None
    assert control.is_locked
    assert window.document.set_control("gain", control, 20.0)
    item = window.document.line
    assert item is not None
    now = item.state.level_control()
    assert now is not None
    assert now.value == 20.0
    assert now.is_locked


def test_a_line_without_phantom_power_is_silent_now_and_says_so(window: MainWindow) -> None:
    dialog = SettleDialog(window.document.session, "voice")
    row = next(n for n, c in enumerate(dialog.certificates) if c.line == "voice")
    item = dialog.table.item(row, 1)
    assert item is not None
    assert item.text() == "silent"
    assert dialog.words.text().startswith("It is silent until it gets its phantom power")
    dialog.deleteLater()
