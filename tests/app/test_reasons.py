"""Any number pressed says where it comes from, in the drawer on the right."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from verve.app.window import MainWindow


def told(window: MainWindow) -> dict[str, str]:
    """What stands in the drawer of what was pressed: by label, how it came about."""
    rows = [row for row in window.reason._asked._rows if not row.isHidden()]
    if window.reason._asked.isHidden():
        return {}
    return {row.accessibleName().split(":")[0]: row.accessibleDescription() for row in rows}


def press_corridor(qtbot: QtBot, window: MainWindow, stage: int) -> None:
    corridor = window.stage.corridor
    item = window.document.line
    assert item is not None
    area = corridor._area()
    x = area.left() + (stage + 0.3) / len(item.spans) * area.width()
    # Below the band, where nothing can be taken hold of.
    qtbot.mouseClick(
        corridor, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(area.bottom()) - 2)
    )


def test_a_stage_of_the_corridor_tells_its_figures_and_levels(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.document.select_line("voice")
    before = window.document.session
    press_corridor(qtbot, window, 0)
    assert "Sensitivity" in told(window) or "Highest peak" in told(window)
    press_corridor(qtbot, window, 2)
    facts = told(window)
    assert {"Input impedance", "Highest peak", "Headroom"} <= set(facts)
    assert all(facts.values())
    assert window.document.session == before
    window.document.select_line("harp_left")
    assert told(window) == {}, "the numbers of another signal are not shown beside this one"


def test_return_in_the_corridor_and_in_the_pictures(qtbot: QtBot, window: MainWindow) -> None:
    window.document.select_line("voice")
    qtbot.keyClick(window.stage.corridor, Qt.Key.Key_Return)
    assert told(window)
    window.stage.show_picture(1)
    qtbot.keyClick(window.stage.response, Qt.Key.Key_Return)
    assert set(told(window)) == {"Bass ends", "Treble ends"}
    window.stage.show_picture(2)
    qtbot.mouseClick(window.stage.noise, Qt.MouseButton.LeftButton)
    item = window.document.line
    assert item is not None
    assert set(told(window)) == {fact.label for fact in item.noise()}


def test_every_stage_in_patch_says_where_its_numbers_come_from(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("patch")
    for item in window.document.assessment.lines:
        window.document.select_line(item.line.id)
        for row in window.patch.rows:
            row._says.click()
            assert told(window), row._subject


def test_the_figures_of_a_take_say_whether_they_were_measured(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("check")
    window.check.rehearse.seconds.setValue(3)
    for box in window.check.rehearse.boxes[1:]:
        if box.isChecked():
            box.click()
    window.document.select_line("voice")
    while window.document.assessment.next.action == "apply":
        window.next_bar.button.click()
    window.go("check")
    window.check.rehearse.start_recording()
    qtbot.waitUntil(lambda: bool(window.document.session.takes), timeout=60_000)
    for view in ("check", "takes"):
        window.go(view)
        table = window.check.rehearse.table if view == "check" else window.takes.log.table
        window.reason.show_asked("", ())
        table.cellClicked.emit(0, 1)
        facts = told(window)
        assert {"Peak", "Peak beforehand", "RMS", "Noise", "Clipped"} <= set(facts)
        assert "largest sample" in facts["Peak"]


def test_the_round_trip_says_how_it_comes_about(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.mouseClick(window._status, Qt.MouseButton.LeftButton)
    assert "2 × 1024 samples ÷ 48000 Hz" in told(window)["Round trip"]


@pytest.mark.parametrize("key", [Qt.Key.Key_Return, Qt.Key.Key_Space])
def test_the_drawer_can_be_emptied_again(qtbot: QtBot, window: MainWindow, key: Qt.Key) -> None:
    qtbot.keyClick(window._status, key)
    assert told(window)
    window.reason._asked_close.click()
    assert told(window) == {}
