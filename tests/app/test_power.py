"""Power: the sheet to tick, told what to do now, the budget, and paper."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.window import MainWindow
from verve.core.session import Session


@pytest.fixture
def power(window: MainWindow) -> MainWindow:
    """The mended demo at Power."""
    while window.document.assessment.next.action == "apply":
        window.next_bar.button.click()
    window.go("power")
    return window


def shown(window: MainWindow) -> list[str]:
    view = window.power
    return [row.box.accessibleName() for row in view._rows.rows if not row.isHidden()]


def test_the_sheet_is_made_from_the_patch(power: MainWindow) -> None:
    texts = shown(power)
    assert "Monitors and headphones all the way down" in texts[0]
    assert "Headphones up again" in texts[-1]
    assert "loudspeakers stay down while Voice" in texts[-1]
    assert any("Plug Inline preamp into Interface, 1" in words for words in texts)
    assert any("Phantom power on" in words for words in texts)
    assert power.power.now.text().startswith("Now: Monitors")


def test_steps_are_ticked_and_the_next_one_is_told(qtbot: QtBot, power: MainWindow) -> None:
    view = power.power
    view.boxes[0].click()
    second = view.boxes[1].accessibleName()
    assert view.now.text().startswith(f"Now: {second}")
    view.boxes[0].click()
    assert view.now.text().startswith("Now: Monitors")


def test_out_of_order_says_what_it_could_have_done(power: MainWindow) -> None:
    view = power.power
    gains = [
        b
        for b in view.boxes
        if "up to gain" in b.accessibleName() or "up to trim" in b.accessibleName()
    ]
    for box in gains:
        box.click()
    next(b for b in view.boxes if "Phantom power on" in b.accessibleName()).click()
    assert "bangs" in view.now.text()
    assert "Monitors and headphones down first" in view.now.text()
    view.again.click()
    assert view.now.text().startswith("Now: Monitors")


def test_all_ticked_is_done(power: MainWindow) -> None:
    view = power.power
    for box in view.boxes[: len(shown(power))]:
        box.click()
    assert view.now.text() == "Done: everything is in order."


def test_the_other_sheets(power: MainWindow) -> None:
    view = power.power
    power.document.select_line("harp_left")
    view.sheet.setCurrentIndex(1)
    view.sheet.activated.emit(1)
    change = shown(power)
    assert any("Unplug Condenser left" in words for words in change)
    assert any("Plug Condenser left" in words for words in change)
    view.sheet.setCurrentIndex(2)
    view.sheet.activated.emit(2)
    down = shown(power)
    assert "Unplug" in down[-1]
    assert len(down) > len(change)


def test_the_budget_says_who_draws_what(qtbot: QtBot, power: MainWindow) -> None:
    view = power.power
    (row,) = view.budget.rows
    assert "mA of 60 mA" in row.accessibleName()
    view.budget.grab()
    qtbot.keyClick(row, Qt.Key.Key_Return)
    rows = [row for row in power.reason._asked._rows if not row.isHidden()]
    assert rows
    # 48 V − 6,810 Ω × 4 mA ÷ 2 are 34.4 V at the inline preamp.
    assert any("34.4 V" in row.accessibleDescription() for row in rows)


def test_the_sheet_on_paper(power: MainWindow, tmp_path: Path) -> None:
    for name in ("run.csv", "run.html", "run.pdf"):
        power.power.put_on_paper(tmp_path / name)
        finished(power)
    assert (tmp_path / "run.pdf").read_bytes().startswith(b"%PDF")
    page = (tmp_path / "run.html").read_text(encoding="utf-8")
    assert "licensed electrician" in page
    assert page.count("☐") == len(shown(power))
    power.power.put_on_paper(tmp_path / "run.csv" / "below.html")
    finished(power)
    assert power.message()


def test_without_a_patch_there_is_no_sheet(window: MainWindow) -> None:
    window.document.replace(Session(), None, is_saved=True)
    window.go("power")
    assert "made from the patch" in window.power.now.text()


def test_switches_are_thrown_where_they_are_listed(qtbot: QtBot, power: MainWindow) -> None:
    view = power.power
    row = next(box for box in view.switches if "Baritone" in box.box.accessibleName())
    assert not row.box.isChecked()
    assert "Passive DI box blocks it to Baritone guitar" in row._notes.text()
    row.box.click()
    assert power.undo_action.text() == "&Undo phantom power on"
    assert row.box.isChecked()
    rules = [f.rule for f in power.document.assessment.findings]
    assert "phantom_idle" in rules
    power.document.undo()
    assert not row.box.isChecked()
