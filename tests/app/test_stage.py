"""The corridor: taken hold of with the hand and the keys, everything follows, one drag is one step."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QCheckBox, QLineEdit
from pytestqt.qtbot import QtBot

from verve.app.widgets.corridor_shape import shape_of, shared_scale
from verve.app.window import MainWindow
from verve.core.kind import Control
from verve.core.session import Session


def gain_of(window: MainWindow, line: str) -> float:
    item = window.document.assessment.line(line)
    assert item is not None
    control = item.state.level_control()
    assert control is not None
    return float(control.value or 0.0)


def choose(window: MainWindow, line: str) -> None:
    window.go("stage")
    window.document.select_line(line)


def drag(qtbot: QtBot, window: MainWindow, by: int, steps: int = 5) -> None:
    corridor = window.stage.corridor
    start = corridor.handle_position(corridor.chosen_stage).toPoint()
    qtbot.mousePress(corridor, Qt.MouseButton.LeftButton, pos=start)
    for step in range(1, steps + 1):
        qtbot.mouseMove(corridor, start + QPoint(0, round(by * step / steps)))
    qtbot.mouseRelease(corridor, Qt.MouseButton.LeftButton, pos=start + QPoint(0, by))


def test_pulling_the_band_down_turns_the_gain_down_as_one_step(
    qtbot: QtBot, window: MainWindow
) -> None:
    choose(window, "voice")
    before = gain_of(window, "voice")
    steps = len(window.document.history.done)
    drag(qtbot, window, 40)
    assert gain_of(window, "voice") < before - 5.0
    assert len(window.document.history.done) == steps + 1
    assert window.undo_action.text() == "&Undo gain of Voice"
    window.undo_action.trigger()
    assert gain_of(window, "voice") == before


def test_two_drags_are_two_steps(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "voice")
    drag(qtbot, window, 20)
    drag(qtbot, window, 20)
    assert len(window.document.history.done) == 2


def test_a_drag_stops_at_the_end_of_the_knob(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "voice")
    drag(qtbot, window, 2000)
    assert gain_of(window, "voice") == 0.0
    drag(qtbot, window, -4000)
    assert gain_of(window, "voice") == 60.0


def test_the_band_is_where_the_hand_is(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "voice")
    corridor = window.stage.corridor
    before = corridor.handle_position(corridor.chosen_stage).y()
    drag(qtbot, window, 30)
    after = corridor.handle_position(corridor.chosen_stage).y()
    assert after - before == pytest.approx(30.0, abs=2.0)


def test_everything_follows_a_drag(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "baritone_line")
    window.open_reason()
    assert window.stage.columns[2].isVisible()
    drag(qtbot, window, -60)
    item = window.document.line
    assert item is not None
    assert item.worst is not None
    assert item.worst.rule == "clips"
    assert "clips" not in item.verdict or item.verdict
    assert window.reason._boxes[0]._title.text() == item.worst.title
    row = [x.line.id for x in window.document.assessment.lines].index("baritone_line")
    assert window.lines.assessed(row).verdict == item.verdict


@pytest.mark.parametrize(
    ("key", "modifier", "change"),
    [
        (Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier, 1.0),
        (Qt.Key.Key_Down, Qt.KeyboardModifier.NoModifier, -1.0),
        (Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier, 0.1),
        (Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier, -0.1),
    ],
)
def test_keys_nudge_by_one_and_by_a_tenth(
    qtbot: QtBot,
    window: MainWindow,
    key: Qt.Key,
    modifier: Qt.KeyboardModifier,
    change: float,
) -> None:
    choose(window, "voice")
    before = gain_of(window, "voice")
    qtbot.keyClick(window.stage.corridor, key, modifier)
    assert gain_of(window, "voice") == pytest.approx(before + change)


def test_left_and_right_choose_the_stage_to_move(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "organ_l")
    corridor = window.stage.corridor
    stages = corridor.gain_stages()
    assert len(stages) == 2
    first = corridor.chosen_stage
    qtbot.keyClick(corridor, Qt.Key.Key_Left)
    assert corridor.chosen_stage != first
    assert corridor.chosen_stage in stages
    trim = gain_of(window, "organ_l")
    qtbot.keyClick(corridor, Qt.Key.Key_Up)
    assert gain_of(window, "organ_l") == pytest.approx(trim + 1.0)


def test_the_corridor_is_told_in_words(window: MainWindow) -> None:
    choose(window, "harp_left")
    words = window.stage.corridor.accessibleDescription()
    assert words.startswith("Harp left, loudest passage:")
    assert "gain +40 dB" in words
    assert "below its ceiling" in words


def test_a_dead_line_is_said_to_be_silent(window: MainWindow) -> None:
    choose(window, "voice")
    assert window.document.line is not None
    assert not window.document.line.is_alive
    picture = window.stage.corridor.grab().toImage()
    assert not picture.isNull()


def test_phantom_and_gain_are_set_under_the_stage_they_belong_to(
    qtbot: QtBot, window: MainWindow
) -> None:
    choose(window, "voice")
    column = window.stage.columns[2]
    (switch,) = column.findChildren(QCheckBox)
    assert switch.text() == "off"
    qtbot.mouseClick(switch, Qt.MouseButton.LeftButton, pos=QPoint(8, switch.height() // 2))
    assert switch.text() == "on"
    assert window.document.line is not None
    assert window.document.line.is_alive
    (field,) = column.findChildren(QLineEdit)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "20 dB")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert gain_of(window, "voice") == 20.0
    assert window.undo_action.text() == "&Undo gain of Input 1"


def test_a_wrong_number_stays_framed_with_the_rule_and_changes_nothing(
    qtbot: QtBot, window: MainWindow
) -> None:
    choose(window, "voice")
    (field,) = window.stage.columns[2].findChildren(QLineEdit)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "loud")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.text() == "loud"
    assert field.property("wrong") == "true"
    assert "must be 0 to 60 dB" in field.toolTip()
    assert gain_of(window, "voice") == 26.0
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "+26 dB"
    assert field.property("wrong") == "false"


def test_up_and_down_nudge_in_a_field_too(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "voice")
    distance = window.stage.columns[0].findChildren(QLineEdit)[0]
    qtbot.keyClick(distance, Qt.Key.Key_Up)
    assert distance.text() == "13 cm"
    qtbot.keyClick(distance, Qt.Key.Key_Down)
    qtbot.keyClick(distance, Qt.Key.Key_Down)
    assert distance.text() == "11 cm"


def test_another_aim_moves_the_target_of_all_lines(qtbot: QtBot, window: MainWindow) -> None:
    window.go("stage")
    index = window.stage.level_target.findData("peaks")
    window.stage.level_target.setCurrentIndex(index)
    window.stage.level_target.activated.emit(index)
    assert window.document.session.setup.level_target == "peaks"
    assert all(item.target.target_dbfs == -12.0 for item in window.document.assessment.lines)
    assert "Risk:" in window.stage.level_target.toolTip()


def test_columns_stand_under_their_stages(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "organ_l")
    qtbot.wait(20)
    corridor = window.stage.corridor
    item = window.document.line
    assert item is not None
    area = corridor._area()
    for index in range(len(item.spans)):
        column = window.stage.columns[index]
        middle = column.mapTo(window, QPoint(column.width() // 2, 0)).x()
        wanted = corridor.mapTo(
            window,
            QPointF(area.left() + (index + 0.5) * area.width() / len(item.spans), 0).toPoint(),
        ).x()
        assert abs(middle - wanted) <= 6


def test_all_lines_are_drawn_on_one_scale(window: MainWindow) -> None:
    assessment = window.document.assessment
    low, high = shared_scale(assessment)
    for item in assessment.lines:
        shape = shape_of(item)
        for _, y in (*shape.hardest, *shape.softest):
            assert low <= y <= high
        assert len(shape.hardest) == 4 * len(item.spans)


def test_a_gain_refused_leaves_everything_as_it_is(window: MainWindow) -> None:
    choose(window, "voice")
    item = window.document.line
    assert item is not None
    control = item.state.level_control()
    assert isinstance(control, Control)
    before = window.document.session
    assert not window.document.move("gain", control, 99.0)
    assert window.document.session is before
    assert "must be 0 to 60 dB" in window.message()


def test_the_pictures_follow_the_line_and_the_settings(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "cello_line")
    qtbot.keyClick(window, Qt.Key.Key_F3)
    stage = window.stage
    assert stage.response.isVisible()
    assert "bass down to" in stage.response.accessibleDescription()
    before = stage.response.accessibleDescription()
    window.document.apply_remedy(window.document.assessment.findings[2].remedy)  # type: ignore[arg-type]
    assert stage.response.accessibleDescription() != before
    assert not stage.response.grab().isNull()
    qtbot.keyClick(window, Qt.Key.Key_F3)
    assert stage.noise.isVisible()
    assert "Preamp" in stage.noise.accessibleDescription()
    window.document.select_line("harp_left")
    assert "Room" in stage.noise.accessibleDescription()
    assert not stage.noise.grab().isNull()
    qtbot.keyClick(window, Qt.Key.Key_F3)
    assert stage.all_lines.isVisible()
    qtbot.keyClick(window, Qt.Key.Key_F3)
    assert stage.corridor.isVisible()
    assert stage.columns[0].isVisible()


def test_pictures_of_a_line_that_cannot_be_computed_say_so(window: MainWindow) -> None:
    window.document.replace(Session(), None, is_saved=True)
    window.go("stage")
    for index in range(3):
        window.stage.show_picture(index)
        assert not window.grab().isNull()
    assert window.stage.response.accessibleDescription() == "Nothing to draw."
    assert window.stage.noise.accessibleDescription() == "Nothing to draw."


def test_the_band_can_be_taken_hold_of_anywhere_on_its_stage(
    qtbot: QtBot, window: MainWindow
) -> None:
    choose(window, "voice")
    corridor = window.stage.corridor
    before = gain_of(window, "voice")
    start = corridor.handle_position(corridor.chosen_stage).toPoint() + QPoint(25, 30)
    qtbot.mousePress(corridor, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(corridor, start + QPoint(0, 20))
    qtbot.mouseRelease(corridor, Qt.MouseButton.LeftButton, pos=start + QPoint(0, 20))
    assert gain_of(window, "voice") < before - 3.0


def test_pressing_beside_the_band_moves_nothing(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "voice")
    corridor = window.stage.corridor
    before = window.document.session
    for x, y in ((0.1, 0.5), (0.7, 0.95), (0.95, 0.3), (1.5, 0.5)):
        start = QPoint(round(corridor.width() * x), round(corridor.height() * y))
        qtbot.mousePress(corridor, Qt.MouseButton.LeftButton, pos=start)
        qtbot.mouseMove(corridor, start + QPoint(0, 40))
        qtbot.mouseRelease(corridor, Qt.MouseButton.LeftButton, pos=start + QPoint(0, 40))
    assert window.document.session is before


def test_all_lines_stand_side_by_side_and_are_chosen_there(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.stage.show_picture(3)
    picture = window.stage.all_lines
    assert picture.isVisible()
    said = picture.description()
    assert all(item.line.name in said for item in window.document.assessment.lines)
    assert "tightest at" in said
    qtbot.keyClick(picture, Qt.Key.Key_Right)
    assert window.document.line is not None
    assert window.document.line.line.id == "harp_left"
    strips = picture._strips()
    assert len(strips) == 7
    qtbot.mouseClick(
        picture, Qt.MouseButton.LeftButton, pos=QPoint(round(strips[4].center().x()), 100)
    )
    assert window.document.line.line.id == "cello_line"
    assert picture.strip_at(2.0) is None
    picture.grab()


def test_a_held_gain_shows_what_moves_and_what_does_not(qtbot: QtBot, window: MainWindow) -> None:
    choose(window, "organ_l")
    corridor = window.stage.corridor
    assert corridor.held_words() == ""
    first = corridor.gain_stages()[0]
    corridor.choose_stage(first)
    start = corridor.handle_position(first).toPoint()
    before = gain_of(window, "organ_l")
    still = corridor.grab().toImage()
    qtbot.mousePress(corridor, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(corridor, start + QPoint(0, 20))
    by_db = gain_of(window, "organ_l") - before
    assert by_db < -3.0
    said = f"{by_db:+.1f}".replace("-", "−")
    assert corridor.held_words() == f"Mixer 3 and all behind it: {said} dB; before it nothing moves"
    assert corridor.grab().toImage() != still
    qtbot.mouseRelease(corridor, Qt.MouseButton.LeftButton, pos=start + QPoint(0, 20))
    assert corridor.held_words() == ""
    assert gain_of(window, "organ_l") == before + by_db


def test_lamps_and_meters_stand_where_they_would_light(window: MainWindow) -> None:
    choose(window, "organ_l")
    words = window.stage.corridor.description()
    assert "its meter at 0 at +4.0 dBu" in words
    # Full scale at +12 dBu: a clip lamp at −1 dBFS, a signal lamp at −40 dBFS.
    assert "clip lamp at +11.0 dBu" in words
    assert "signal lamp at −28.0 dBu" in words
