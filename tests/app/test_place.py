"""Place by hand and by keyboard: dragging, turning, typing, the table, the room; one undo brings all back."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.core.measure.test_clap import RATE_HZ, clap
from verve.app.dialogs.session import SessionDialog
from verve.app.hearing import SilentOutput
from verve.app.views.place import PlaceView
from verve.app.window import MainWindow
from verve.core.air import PlacedMicrophone, positions_of
from verve.core.place import Key, placed
from verve.core.session import Session

LEFT = Key("microphone", "harp_mic_left:capsule")
HARP = Key("source", "harp")


@pytest.fixture
def place(window: MainWindow) -> PlaceView:
    window.go("place")
    return window.place


def at(session: Session, key: Key) -> tuple[float, float]:
    one = placed(positions_of(session.setup), key)
    return one.at.x_m, one.at.y_m


def angle(session: Session, key: Key) -> float:
    one = placed(positions_of(session.setup), key)
    assert isinstance(one, PlacedMicrophone)
    return -one.angle_deg if one.aim.turns_left else one.angle_deg


def drag(qtbot: QtBot, place: PlaceView, key: Key, by: QPoint) -> None:
    point = place.plan.point_of(key)
    assert point is not None
    start = QPointF(point).toPoint()
    left = Qt.MouseButton.LeftButton
    qtbot.mousePress(place.plan, left, pos=start)
    for step in range(1, 6):
        qtbot.mouseMove(place.plan, start + QPoint(by.x() * step // 5, by.y() * step // 5))
    qtbot.mouseRelease(place.plan, left, pos=start + by)


def test_a_dragged_player_moves_with_the_microphones_in_one_step(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    before = window.document.session
    harp, mic = at(before, HARP), at(before, LEFT)
    drag(qtbot, place, HARP, QPoint(60, -40))
    after = window.document.session
    assert place.chosen == HARP
    assert at(after, HARP)[0] > harp[0] + 0.2
    assert at(after, HARP)[1] > harp[1] + 0.1
    moved = at(after, HARP)[0] - harp[0], at(after, HARP)[1] - harp[1]
    assert at(after, LEFT) == pytest.approx((mic[0] + moved[0], mic[1] + moved[1]))
    window.document.undo()
    assert window.document.session == before


def test_keys_move_and_turn_what_is_chosen(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    place.choose(LEFT)
    first = at(window.document.session, LEFT)
    qtbot.keyClick(place.plan, Qt.Key.Key_Right)
    assert at(window.document.session, LEFT)[0] == pytest.approx(first[0] + 0.1)
    qtbot.keyClick(place.plan, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert at(window.document.session, LEFT)[1] == pytest.approx(first[1] + 0.01)
    qtbot.keyClick(place.plan, Qt.Key.Key_PageDown)
    assert angle(window.document.session, LEFT) == pytest.approx(15.0)
    qtbot.keyClick(place.plan, Qt.Key.Key_PageUp, Qt.KeyboardModifier.ShiftModifier)
    assert angle(window.document.session, LEFT) == pytest.approx(14.0)


def test_a_microphone_and_its_signal_are_selected_together(
    window: MainWindow, place: PlaceView
) -> None:
    place.choose(LEFT)
    assert window.document.line is not None
    assert window.document.line.line.id == "harp_left"
    window.document.select_line("voice")
    assert place.chosen == Key("microphone", "voice_mic:capsule")
    # A signal without a microphone leaves what is chosen.
    window.document.select_line("cello_line")
    assert place.chosen == Key("microphone", "voice_mic:capsule")


def test_everything_is_chosen_by_keyboard(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    seen = set()
    for _ in range(5):
        qtbot.keyClick(place.plan, Qt.Key.Key_End)
        assert place.chosen is not None
        seen.add(place.chosen)
    assert len(seen) == 5
    last = place.chosen
    qtbot.keyClick(place.plan, Qt.Key.Key_Home)
    qtbot.keyClick(place.plan, Qt.Key.Key_End)
    assert place.chosen == last


def test_a_figure_typed_is_where_it_stands(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    place.choose(LEFT)
    field = place.side.numbers.fields["distance_m"]
    assert field.isVisibleTo(place)
    field.selectAll()
    qtbot.keyClicks(field, "0,45")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    mic = placed(positions_of(window.document.session.setup), LEFT)
    assert isinstance(mic, PlacedMicrophone)
    assert mic.distance_m == pytest.approx(0.45)
    assert not place.side.numbers.fields["x_m"].isVisibleTo(place)


def test_a_figure_outside_the_room_is_refused_in_words(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    said: list[str] = []
    window.document.refused.connect(said.append)
    place.choose(HARP)
    before = window.document.session
    field = place.side.numbers.fields["x_m"]
    field.selectAll()
    qtbot.keyClicks(field, "90")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert window.document.session == before
    assert "within the room" in said[-1]


def test_a_cell_says_where_it_comes_from(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    asked: list[str] = []
    window.document.asked.connect(lambda title, _: asked.append(title))
    names = [place.table.cells.headerData(n, Qt.Orientation.Vertical) for n in range(3)]
    row = names.index("Condenser left")
    place.table.setCurrentIndex(place.table.cells.index(row, 0))
    qtbot.keyClick(place.table, Qt.Key.Key_Return)
    assert place.chosen == LEFT
    assert place.side.path_title.text() == "Singer in Condenser left"
    assert "wanted source" in place.side.path.text()
    assert place.side.sum.isVisibleTo(place)
    place.side.why.click()
    assert asked == ["Singer in Condenser left"]


def test_the_room_is_two_presses(window: MainWindow, place: PlaceView) -> None:
    place.room.sizes["small"].click()
    place.room.furnishings["soft"].click()
    room = window.document.session.setup.room
    assert (room.length_m, room.furnishing, room.reverberation_s) == (4.0, "soft", None)
    assert place.room.sizes["small"].isChecked()
    assert not place.room.sizes["large"].isChecked()
    assert "estimated" in place.side.room_words.text()
    # Whoever stood farther away than that is told to be outside.
    assert "outside the walls" in place.side.faults.text()


def test_the_dialog_of_the_room_keeps_what_it_does_not_ask_for(
    window: MainWindow, place: PlaceView
) -> None:
    place.room.sizes["medium"].click()
    place.room.furnishings["soft"].click()
    dialog = SessionDialog(window.document.session)
    dialog.width_m.setText("18 ft")
    after = dialog.apply(window.document.session).setup.room
    dialog.deleteLater()
    assert after.furnishing == "soft"
    assert (after.length_m, after.height_m) == (7.0, 2.8)
    assert after.width_m == pytest.approx(18 * 0.3048)


def test_what_was_typed_wrong_for_one_is_not_meant_for_another(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    place.choose(LEFT)
    field = place.side.numbers.fields["distance_m"]
    field.selectAll()
    qtbot.keyClicks(field, "far")
    place.choose(Key("microphone", "voice_mic:capsule"))
    assert field.text() == "0.12 m"


def test_a_fan_is_brought_switched_off_and_taken_away(window: MainWindow, place: PlaceView) -> None:
    before = window.document.session
    place.side.kind.setCurrentIndex(place.side.kind.findData("fan"))
    place.side.bring.click()
    assert place.chosen == Key("thing", "fan")
    assert place.table.cells.columnCount() == 3
    place.side.is_on.click()
    assert place.table.cells.cell(0, 2).text == "off"
    place.side.remove.click()
    assert place.table.cells.columnCount() == 2
    assert window.document.session.setup.placement == before.setup.placement


def test_a_pair_is_put_into_one_point_with_one_press(window: MainWindow, place: PlaceView) -> None:
    place.choose(LEFT)
    assert place.side.stereo.isVisibleTo(place)
    before = window.document.session
    place.side.stereo.buttons["coincident"].click()
    assert at(window.document.session, LEFT) == pytest.approx(
        at(window.document.session, Key("microphone", "harp_mic_right:capsule")), abs=1e-3
    )
    said: list[str] = []
    window.document.refused.connect(said.append)
    place.side.stereo.buttons["middle_side"].click()
    assert "figure-of-eight" in said[-1]
    window.document.undo()
    assert window.document.session == before
    place.choose(Key("microphone", "voice_mic:capsule"))
    assert not place.side.stereo.isVisibleTo(place)


def test_a_microphone_goes_to_its_starting_point(window: MainWindow, place: PlaceView) -> None:
    key = Key("microphone", "voice_mic:capsule")
    place.choose(key)
    assert "pop shield" in place.side.start.said.text().lower()
    place.side.start.button.click()
    mic = placed(positions_of(window.document.session.setup), key)
    assert isinstance(mic, PlacedMicrophone)
    assert mic.distance_m == pytest.approx(0.18)
    place.choose(HARP)
    assert not place.side.start.isVisibleTo(place)


def test_a_clap_gives_the_room_its_reverberation(
    window: MainWindow, place: PlaceView, tmp_path: Path
) -> None:
    path = tmp_path / "clap.wav"
    soundfile.write(path, clap(0.8), RATE_HZ)
    place.side.clap.read(path)
    finished(window)
    assert "It rings for 0." in place.side.clap.said.text()
    place.side.clap.use.click()
    assert window.document.session.setup.room.reverberation_s == pytest.approx(0.8, abs=0.08)
    soundfile.write(path, clap(0.5), RATE_HZ)
    place.side.clap.read(path)
    finished(window)
    assert "% of the first one" in place.side.clap.said.text()


def test_a_file_without_a_clap_is_refused_in_words(
    window: MainWindow, place: PlaceView, tmp_path: Path
) -> None:
    said: list[str] = []
    window.document.refused.connect(said.append)
    path = tmp_path / "silence.wav"
    soundfile.write(path, [0.0] * RATE_HZ, RATE_HZ)
    place.side.clap.read(path)
    finished(window)
    assert "silent" in said[-1]
    assert not place.side.clap.use.isVisibleTo(place)


def test_a_microphone_is_heard_where_it_stands(
    window: MainWindow, place: PlaceView, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(window.player, "_find", lambda rate_hz: SilentOutput(rate_hz))
    place.choose(LEFT)
    for number in range(3):
        place.side.listen.whom.setCurrentIndex(number)
        place.side.listen.button.click()
        finished(window)
        assert window.player.request is not None
        heard, rate_hz = soundfile.read(window.player.request.path)
        assert rate_hz == 48_000
        assert 20.0 * np.log10(np.sqrt(2.0 * np.mean(heard**2))) == pytest.approx(-23.0, abs=0.2)
        place.side.listen.button.click()
        assert not window.player.is_playing
    place.choose(HARP)
    assert not place.side.listen.isVisibleTo(place)


def test_the_placement_goes_on_paper(
    window: MainWindow, place: PlaceView, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "placement.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    place.paper.click()
    finished(window)
    assert path.read_bytes().startswith(b"%PDF")


def test_everything_that_can_be_put_in_can_be_moved_and_taken_out(
    window: MainWindow, place: PlaceView
) -> None:
    before = window.document.session
    for number in range(place.side.kind.count()):
        place.side.kind.setCurrentIndex(number)
        place.side.bring.click()
        key = place.chosen
        assert key is not None
        assert key.kind == "thing"
        first = at(window.document.session, key)
        place.plan.nudged.emit(key, -0.1, 0.0)
        assert at(window.document.session, key)[0] == pytest.approx(first[0] - 0.1)
        place.plan.turned.emit(key, 15.0)
        place.side.remove.click()
    assert window.document.session.setup.placement == before.setup.placement


def test_an_edit_made_while_something_is_dragged_is_not_lost(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    point = place.plan.point_of(HARP)
    assert point is not None
    start, left = point.toPoint(), Qt.MouseButton.LeftButton
    qtbot.mousePress(place.plan, left, pos=start)
    qtbot.mouseMove(place.plan, start + QPoint(30, 0))
    place.side.kind.setCurrentIndex(place.side.kind.findData("desk"))
    place.side.bring.click()
    qtbot.mouseRelease(place.plan, left, pos=start + QPoint(30, 0))
    assert [one.kind for one in window.document.session.setup.placement.things] == ["desk"]


def test_without_a_microphone_it_says_what_goes_here(window: MainWindow) -> None:
    window.document.replace(Session(), None, is_saved=True)
    window.go("place")
    assert not window.place.plan.isVisibleTo(window.place)


def test_who_does_not_see_the_plan_is_told_where_all_stands(place: PlaceView) -> None:
    said = place.plan.accessibleDescription()
    for name in ("Singer", "Harp", "Condenser left", "Condenser right"):
        assert name in said
