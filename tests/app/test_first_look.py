"""A newcomer opens the demo, presses the button until nothing is left, and undoes it all."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from verve.app.dialogs.calculation import CalculationDialog
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.findings import STEPS


def press_next(qtbot: QtBot, window: MainWindow) -> None:
    qtbot.mouseClick(window.next_bar.button, Qt.MouseButton.LeftButton)


def test_the_first_sentence_is_the_most_urgent_mistake(window: MainWindow) -> None:
    assert window.step == "stage"
    assert (
        window.next_bar.sentence.text() == "Voice: switch phantom power on at Interface, input 1."
    )
    assert window.next_bar.button.text() == "Switch phantom on"
    assert "weaving shed" in window.windowTitle()


def test_the_button_leads_through_all_mistakes_to_a_clean_take_and_undo_leads_back(
    qtbot: QtBot, window: MainWindow
) -> None:
    sentences = []
    while window.document.assessment.next.action == "apply":
        sentences.append(window.next_bar.sentence.text())
        press_next(qtbot, window)
    begun = [s.split(":")[0] for s in sentences]
    assert begun[:6] == ["Voice", "Voice", "Cello bridge", "Harp right", "Harp right", "Harp right"]
    # Then what is heard: a singer twice, and a buffer left for mixing.
    assert begun[6] == "Voice"
    assert begun[7].startswith("Record with 64 samples")
    assert "Record a test take" in window.next_bar.sentence.text()
    press_next(qtbot, window)
    assert window.step == "check"
    window.check.rehearse.seconds.setValue(4)
    with qtbot.waitSignal(window.rehearsal.recorded, timeout=60_000):
        assert window.next_bar.button.text() == "Record it"
        press_next(qtbot, window)
    (take,) = window.document.session.takes
    assert len(take.tracks) == 7
    assert all(track.clipped_frames == 0 for track in take.tracks)
    assert all(Path(track.file).exists() for track in take.tracks)
    assert "Take 1 is clean, and every setting is as it was" in window.next_bar.sentence.text()
    press_next(qtbot, window)
    assert window.step == "takes"
    for _ in range(len(window.document.history.done)):
        window.undo_action.trigger()
    assert window.document.session == demo_session()
    assert not window.undo_action.isEnabled()
    while window.redo_action.isEnabled():
        window.redo_action.trigger()
    assert window.document.session.takes == (take,)


def test_the_menu_names_what_can_be_undone(qtbot: QtBot, window: MainWindow) -> None:
    press_next(qtbot, window)
    assert window.undo_action.text() == "&Undo Switch phantom on"
    window.undo_action.trigger()
    assert window.redo_action.text() == "&Redo Switch phantom on"
    assert window.undo_action.text() == "&Undo"


def test_the_button_selects_the_line_it_speaks_of(qtbot: QtBot, window: MainWindow) -> None:
    window.document.select_line("organ_l")
    press_next(qtbot, window)
    assert window.document.line is not None
    assert window.document.line.line.id == "voice"


def test_why_shows_the_finding_of_the_sentence(qtbot: QtBot, window: MainWindow) -> None:
    window.document.select_line("organ_l")
    qtbot.mouseClick(window.next_bar.why_button, Qt.MouseButton.LeftButton)
    assert window.document.line is not None
    assert window.document.line.line.id == "voice"
    titles = [box._title.text() for box in window.reason._boxes if not box.isHidden()]
    assert titles[0] == "Inline preamp needs phantom power"


def test_a_remedy_in_the_reason_mends_too(qtbot: QtBot, window: MainWindow) -> None:
    window.go("patch")
    window.open_reason()
    window.document.select_line("cello_line")
    (box,) = [box for box in window.reason._boxes if not box.isHidden()]
    qtbot.mouseClick(box.button, Qt.MouseButton.LeftButton)
    item = window.document.assessment.line("cello_line")
    assert item is not None
    assert [f for f in item.findings if f.severity != "know"] == []


def test_the_steps_show_how_many_findings_are_open(window: MainWindow) -> None:
    names = {s: window.steps.accessibleTabName(i) for i, s in enumerate(STEPS)}
    assert names == {
        "brief": "Brief, done",
        "patch": "Patch, 1 open",
        "place": "Place, 2 open",
        "power": "Power, 1 open",
        "stage": "Stage, 2 open",
        "monitor": "Monitor, 2 open",
        "check": "Check, nothing open",
        "takes": "Takes, nothing open",
    }


def test_any_step_at_any_time_with_the_line_staying_selected(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.document.select_line("harp_left")
    for step in STEPS:
        qtbot.mouseClick(window.steps, Qt.MouseButton.LeftButton, pos=window.steps.point_of(step))
        assert window.step == step
        assert window.view(step).isVisible()
        assert window.document.line is not None
        assert window.document.line.line.id == "harp_left"


def test_a_pressed_number_says_how_it_came_about(qtbot: QtBot, window: MainWindow) -> None:
    window.open_reason()
    qtbot.wait(50)
    window.document.select_line("harp_left")
    row = next(r for r in window.reason._walk._rows if r._label.text().startswith("Sound at"))
    assert row._how.isHidden()
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton)
    assert not row._how.isHidden()
    assert "inverse distance law" in row._how.text()
    qtbot.keyClick(row, Qt.Key.Key_Return)
    assert row._how.isHidden()


def test_the_reason_lists_what_would_change_the_level_most(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.open_reason()
    window.document.select_line("harp_left")
    rows = window.reason._changes._rows
    qtbot.waitUntil(lambda: any(not row.isHidden() for row in rows), timeout=5000)
    shown = [row._label.text() for row in rows if not row.isHidden()]
    assert any("distance" in words for words in shown)
    assert len(shown) == 5
    window.document.select_line("voice")
    # At once: what is said about one line is not left standing beside another.
    assert all(row.isHidden() for row in rows)
    # And it is silent as yet: nothing would change what is not there.
    qtbot.wait(300)
    assert all(row.isHidden() for row in rows)


def test_the_whole_calculation_can_be_read_and_copied(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown: list[str] = []

    def look(dialog: CalculationDialog) -> int:
        shown.append(dialog.text.toPlainText())
        dialog._copy()
        return 0

    monkeypatch.setattr(CalculationDialog, "exec", look)
    window.document.select_line("harp_left")
    qtbot.mouseClick(window.reason.whole_button, Qt.MouseButton.LeftButton)
    assert shown[0].startswith("Harp left, loudest passage")
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert clipboard.text() == shown[0]


# ── the reason: only when asked for ───────────────────────────────────────────────────────────
def test_the_reason_opens_when_asked_and_gives_its_space_back(
    qtbot: QtBot, window: MainWindow
) -> None:
    assert window.reason.isHidden()
    wide = window.stage.width()
    qtbot.keyClick(window, Qt.Key.Key_F2)
    assert window.reason.isVisible()
    assert window.step == "power", "the finding of the sentence is one of Power"
    qtbot.mouseClick(window.reason.close_button, Qt.MouseButton.LeftButton)
    assert window.reason.isHidden()
    window.go("stage")
    qtbot.wait(20)
    assert window.stage.width() == wide
    window._ask_round_trip()
    assert window.reason.isVisible(), "a pressed number opens it too"


def test_it_stays_open_by_choice_and_speaks_of_the_open_step_only(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.open_reason()
    window.reason.stay.click()
    assert window._settings.reason_stays
    for step in ("patch", "power", "stage"):
        window.go(step)
        for item in window.document.assessment.lines:
            window.document.select_line(item.line.id)
            shown = {b._title.text() for b in window.reason._boxes if not b.isHidden()}
            here = {f.title for f in item.findings if f.step == step}
            assert shown >= here
            assert not shown & {f.title for f in item.findings if f.step != step}
    window.reason.close_button.click()
    assert not window._settings.reason_stays
