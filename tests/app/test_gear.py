"""Own gear: a microphone and an interface entered by hand, used in a session, carried elsewhere."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.core.datasheet.test_sheets import INTERFACE, MICROPHONE, bare
from verve.app.dialogs.data_sheet import DataSheetDialog
from verve.app.dialogs.own_gear import MyGearDialog
from verve.app.dialogs.replace import ReplaceDialog
from verve.app.window import MainWindow
from verve.core.catalogue import catalogue
from verve.core.datasheet import FORMS, OwnGear, entry_of, read_gear, with_entry

DEVICES = catalogue().devices


def type_sheet(qtbot: QtBot, dialog: DataSheetDialog, kind: str, texts: dict[str, str]) -> int:
    """Fill a sheet with keys alone, in the order of its fields; how many keys it took."""
    keys = 0
    dialog.kind.setCurrentIndex(list(FORMS).index(kind))
    for key, row in dialog.rows.items():
        # As somebody writes who has no Ω and no long dash on the keyboard.
        text = texts.get(key, "").translate({ord("Ω"): "ohm", ord("−"): "-", ord("–"): "-"})
        row.field_widget.setFocus()
        keys += 1
        if row.edit is not None and text:
            qtbot.keyClicks(row.edit, text)
            keys += len(text)
        elif row.choice is not None and text:
            while row.value() != text:
                qtbot.keyClick(row.choice, Qt.Key.Key_Down)
                keys += 1
                assert keys < 2000, f"{key} has no choice {text}"
    return keys


def test_a_microphone_and_an_interface_by_hand_in_two_minutes(qtbot: QtBot) -> None:
    typed = 0
    for kind, texts, like in (
        ("microphone", MICROPHONE, "moving_coil"),
        ("interface", INTERFACE, "interface_two"),
    ):
        dialog = DataSheetDialog()
        qtbot.addWidget(dialog)
        dialog.show()
        typed += type_sheet(qtbot, dialog, kind, texts)
        dialog.keep.click()
        assert dialog.result() == DataSheetDialog.DialogCode.Accepted
        assert bare(dialog.entry().figures) == bare(DEVICES[like].figures)
    # Four keys a second, with time to look each figure up, is what somebody slow at typing does.
    assert typed <= 2 * 60 * 4


def test_the_sheet_says_at_once_what_it_understood(qtbot: QtBot) -> None:
    dialog = DataSheetDialog()
    qtbot.addWidget(dialog)
    dialog.rows["sensitivity"].set_value("−34 dBV/Pa")
    assert dialog.rows["sensitivity"].said.text() == "19.95 mV/Pa"
    dialog.rows["name"].set_value("Mine")
    assert "20 dB apart" in dialog.rows["sensitivity"].more.text()
    assert "1 implausible" in dialog.verdict.text()
    dialog.rows["sensitivity"].set_value("loud")
    assert dialog.rows["sensitivity"].said.text() == "not understood"
    assert dialog.rows["sensitivity"].field_widget.property("wrong") == "true"
    dialog.keep.click()
    assert not dialog.result()
    assert dialog.rows["sensitivity"].value() == "loud", "a wrong text stays"


def test_what_is_missing_is_asked_for_when_it_is_to_be_kept(qtbot: QtBot) -> None:
    dialog = DataSheetDialog()
    qtbot.addWidget(dialog)
    assert dialog.rows["name"].field_widget.property("wrong") != "true"
    dialog.keep.click()
    assert dialog.rows["name"].field_widget.property("wrong") == "true"
    assert "2 still needed" in dialog.verdict.text()


@pytest.fixture
def gear() -> OwnGear:
    gear = with_entry(OwnGear(), entry_of("microphone", MICROPHONE))
    return with_entry(gear, entry_of("interface", INTERFACE))


def test_my_gear_is_listed_changed_taken_out_and_brought_back(qtbot: QtBot, gear: OwnGear) -> None:
    dialog = MyGearDialog(gear)
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.list.count() == 2
    dialog.list.setCurrentRow(0)
    dialog.remove()
    assert [entry.name for entry in dialog.gear.entries] == ["My two inputs"]
    dialog.buttons["Undo"].click()
    assert dialog.gear == gear


def test_gear_goes_out_and_in_and_a_wrong_file_changes_nothing(
    qtbot: QtBot, gear: OwnGear, tmp_path: Path
) -> None:
    dialog = MyGearDialog(gear)
    qtbot.addWidget(dialog)
    dialog.carry_out(tmp_path / "gear.csv")
    fresh = MyGearDialog(OwnGear())
    qtbot.addWidget(fresh)
    fresh.bring_in(tmp_path / "gear.csv")
    assert fresh.gear == gear
    (tmp_path / "x.json").write_text("{", encoding="utf-8")
    fresh.bring_in(tmp_path / "x.json")
    assert fresh.gear == gear


def test_own_gear_stands_first_where_gear_is_exchanged(
    qtbot: QtBot, window: MainWindow, gear: OwnGear, monkeypatch: pytest.MonkeyPatch
) -> None:
    def enter() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, MyGearDialog)
        dialog.gear = gear
        dialog.accept()

    from PyQt6.QtCore import QTimer

    QTimer.singleShot(0, enter)
    window.beside.edit_gear()
    assert read_gear(window._settings.gear_file) == gear

    window.go("patch")
    line = next(x for x in window.document.assessment.lines if x.line.name == "Voice")
    window.document.select_line(line.line.id)
    before = window.document.session

    def choose() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, ReplaceDialog)
        item = dialog.list.item(0)
        assert item is not None
        assert item.text() == "My dynamic microphone  ·  yours"
        qtbot.keyClicks(dialog.search, "coil yours")
        assert dialog.verdict.text()
        dialog.put_in.click()

    QTimer.singleShot(0, choose)
    row = next(row for row in window.patch.rows if row._owner == "voice_mic")
    row.replace.click()
    device = next(d for d in window.document.session.setup.devices if d.id == "voice_mic")
    assert device.name == "My dynamic microphone"
    row = next(row for row in window.patch.rows if row._owner == "voice_mic")
    row._says.click()
    shown = window.reason._asked
    texts = " ".join(r.accessibleDescription() for r in shown._rows if not r.isHidden())
    assert "the data sheet says “1.9 mV/Pa”" in texts
    window.document.undo()
    assert window.document.session == before
