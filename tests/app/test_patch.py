"""Patch: set what stands on a line, add, rename and remove lines."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QCheckBox, QComboBox
from pytestqt.qtbot import QtBot

from verve.app.dialogs.add_line import AddLineDialog
from verve.app.dialogs.replace import ReplaceDialog
from verve.app.dialogs.session import SessionDialog
from verve.app.window import MainWindow
from verve.core.catalogue import catalogue
from verve.core.session import Session


@pytest.fixture
def patch(window: MainWindow) -> MainWindow:
    window.go("patch")
    window.document.select_line("voice")
    return window


def test_a_line_is_shown_from_source_to_recorder(patch: MainWindow) -> None:
    names = [row._name.text() for row in patch.patch.rows]
    assert names == [
        "Singer",
        "Moving coil, low output",
        "Balanced cable, 0.5 m",
        "Inline preamp",
        "Balanced cable, 10 m",
        "Interface, input 1",
    ]
    says = [row._says.text() for row in patch.patch.rows]
    assert "blocks it to the microphone" in says[3]


def test_a_switch_is_switched(qtbot: QtBot, patch: MainWindow) -> None:
    boxes = patch.patch.rows[-1].findChildren(QCheckBox)
    phantom = next(box for box in boxes if box.text().startswith("Phantom"))
    qtbot.mouseClick(phantom, Qt.MouseButton.LeftButton, pos=QPoint(8, phantom.height() // 2))
    assert phantom.text() == "Phantom 48 V: on"
    assert patch.undo_action.text() == "&Undo phantom 48 V of Interface, input 1"


def test_an_input_mode_is_chosen_and_its_gain_range_follows(patch: MainWindow) -> None:
    patch.document.select_line("cello_line")
    (mode,) = patch.patch.rows[-1].findChildren(QComboBox)
    index = mode.findText("instrument")
    mode.activated.emit(index)
    item = patch.document.line
    assert item is not None
    assert [f.rule for f in item.findings] == ["bass_thin"]
    assert mode.currentText() == "instrument"


def test_a_line_is_renamed(qtbot: QtBot, patch: MainWindow) -> None:
    patch.patch.name.setFocus()
    patch.patch.name.selectAll()
    patch.patch.name.insert("Первый голос")
    qtbot.keyClick(patch.patch.name, Qt.Key.Key_Return)
    assert patch.document.session.setup.lines[0].name == "Первый голос"
    assert patch.undo_action.text() == "&Undo name of Voice"


@pytest.mark.parametrize(
    ("name", "said"), [("Harp left", "is the name of another signal"), ("  ", "visible character")]
)
def test_a_name_that_cannot_be_is_refused_and_put_back(
    qtbot: QtBot, patch: MainWindow, name: str, said: str
) -> None:
    patch.patch.name.setFocus()
    patch.patch.name.selectAll()
    qtbot.keyClicks(patch.patch.name, name)
    qtbot.keyClick(patch.patch.name, Qt.Key.Key_Return)
    assert said in patch.message()
    assert patch.patch.name.text() == "Voice"
    assert not patch.undo_action.isEnabled()


def test_a_line_is_removed_and_brought_back(qtbot: QtBot, patch: MainWindow) -> None:
    qtbot.mouseClick(patch.patch.remove, Qt.MouseButton.LeftButton)
    assert "voice" not in [line.id for line in patch.document.session.setup.lines]
    assert patch.lines.list.count() == 6
    assert patch.document.line is not None
    patch.undo_action.trigger()
    assert patch.lines.list.count() == 7


def test_the_last_line_removed_leaves_a_page_that_teaches(qtbot: QtBot, patch: MainWindow) -> None:
    for _ in range(7):
        qtbot.mouseClick(patch.patch.remove, Qt.MouseButton.LeftButton)
    assert patch.document.session.setup.lines == ()
    assert patch.patch._empty.isVisible()
    assert patch.next_bar.button.text() == "Suggest connections", "the brief is still there"
    for step in ("stage", "check", "takes"):
        patch.go(step)
        assert patch.view(step).isVisible()


def accepting(monkeypatch: pytest.MonkeyPatch, row: int, name: str | None) -> None:
    def answer(dialog: AddLineDialog) -> int:
        dialog.list.setCurrentRow(row)
        if name is not None:
            dialog.name.setText(name)
            dialog.name.setModified(True)
        return int(dialog.DialogCode.Accepted)

    monkeypatch.setattr(AddLineDialog, "exec", answer)


@pytest.mark.parametrize("row", range(len(catalogue().chains)))
def test_every_chain_can_be_added_from_the_window(
    qtbot: QtBot, patch: MainWindow, monkeypatch: pytest.MonkeyPatch, row: int
) -> None:
    accepting(monkeypatch, row, "Guest")
    qtbot.mouseClick(patch.lines.add_button, Qt.MouseButton.LeftButton)
    chain = catalogue().chains[row]
    added = patch.document.session.setup.lines[7:]
    assert len(added) == len(chain.lines)
    assert patch.document.line is not None
    assert patch.document.line.line.id == added[0].id
    assert patch.undo_action.text() == "&Undo signal Guest"
    patch.undo_action.trigger()
    assert len(patch.document.session.setup.lines) == 7


def test_a_line_can_be_added_to_an_empty_session(
    qtbot: QtBot, patch: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    patch.document.replace(Session(), None, is_saved=True)
    accepting(monkeypatch, 0, None)
    qtbot.mouseClick(patch.next_bar.button, Qt.MouseButton.LeftButton)
    assert [line.name for line in patch.document.session.setup.lines] == ["Voice"]
    assert patch.document.line is not None


def test_leaving_the_dialog_adds_nothing(
    qtbot: QtBot, patch: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(AddLineDialog, "exec", lambda _: 0)
    qtbot.mouseClick(patch.lines.add_button, Qt.MouseButton.LeftButton)
    assert len(patch.document.session.setup.lines) == 7


def test_the_dialog_explains_each_chain(qtbot: QtBot, patch: MainWindow) -> None:
    dialog = AddLineDialog(catalogue(), patch)
    qtbot.addWidget(dialog)
    for row, chain in enumerate(catalogue().chains):
        dialog.list.setCurrentRow(row)
        assert dialog._says.text() == chain.says
        assert dialog.name.text() == chain.line_name
        assert dialog.chain() is chain
    dialog.name.setText("Mine")
    dialog.name.setModified(True)
    dialog.list.setCurrentRow(0)
    assert dialog.line_name() == "Mine"


def test_title_and_room_are_edited_as_one_step(
    patch: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    def answer(dialog: SessionDialog) -> int:
        dialog.title.setText("Morning in the barn")
        dialog.noise_dba.setText("41,5 dBA")
        dialog.volume_m3.setText("")
        return int(dialog.DialogCode.Accepted)

    monkeypatch.setattr(SessionDialog, "exec", answer)
    patch.beside.edit_session()
    session = patch.document.session
    assert session.title == "Morning in the barn"
    assert session.setup.room.noise_dba == 41.5
    assert session.setup.room.volume_m3 is None
    assert patch.undo_action.text() == "&Undo session and room"
    assert "Morning in the barn" in patch.windowTitle()


def test_a_box_is_put_into_a_cable_and_taken_out_again(qtbot: QtBot, patch: MainWindow) -> None:
    before = patch.document.session
    seen: list[str] = []

    def put_in() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, ReplaceDialog)
        seen.append(dialog.windowTitle())
        assert dialog.take_out.isHidden()
        qtbot.keyClicks(dialog.search, "splitter isolated")
        chosen = dialog.chosen()
        assert chosen is not None
        seen.append(chosen.label)
        assert dialog.verdict.text()
        dialog.put_in.click()

    QTimer.singleShot(0, put_in)
    row = next(row for row in patch.patch.rows if row._name.text() == "Balanced cable, 10 m")
    assert row.replace.text() == "Add…"
    row.replace.click()
    assert seen[0] == "Add"
    assert seen[1].endswith("isolated output")
    assert patch.undo_action.text().startswith("&Undo adding Microphone splitter")
    row = next(row for row in patch.patch.rows if "splitter" in row._name.text())
    assert "keeps phantom power" in row._says.text()
    assert "Other desk gives phantom power" in {
        box.accessibleName().split(":")[0] for box in row.findChildren(QCheckBox)
    }

    def take_out() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, ReplaceDialog)
        dialog.take_out.click()

    QTimer.singleShot(0, take_out)
    row.replace.click()
    assert patch.undo_action.text().startswith("&Undo removing Microphone splitter")
    assert patch.document.session == before
