"""The guided check in the real window: by keyboard alone from the demo to a calibrated line, and what it shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.conftest import follow
from tests.core.check.test_learning import take_of
from verve.app.views.check.guided import GuidedPage
from verve.app.window import MainWindow
from verve.core.check import Proof, Who
from verve.core.gain import dial_words
from verve.core.session import Change, add_take
from verve.core.words import Fact
from verve.devices import NO_DEVICE, SystemDevice


@pytest.fixture
def page(window: MainWindow) -> GuidedPage:
    """The mended demo at its guided check, whose players need no time of their own."""
    window.document.replace(follow(window.document.session), None, is_saved=True)
    window.go("check")
    window.check.guided.checking.is_paced = False
    return window.check.guided


def until(qtbot: QtBot, is_so: Callable[[], bool]) -> None:
    qtbot.waitUntil(is_so, timeout=60_000)


def phase_of(page: GuidedPage) -> str:
    return "" if page._guide is None else page._guide.phase


def measured(window: MainWindow, source_id: str) -> bool:
    source = next(s for s in window.document.session.setup.sources if s.id == source_id)
    return source.figures.origin_of(source.figures.level_figure) == "measured"


def key(qtbot: QtBot, window: MainWindow, *keys: Qt.Key, ctrl: bool = False) -> None:
    modifier = Qt.KeyboardModifier.ControlModifier if ctrl else Qt.KeyboardModifier.NoModifier
    for one in keys:
        qtbot.keyClick(QApplication.focusWidget() or window, one, modifier)


def test_from_the_demo_to_a_calibrated_line_with_the_keyboard_alone(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.activateWindow()
    for _ in range(60):
        if window.document.assessment.next.action != "apply":
            break
        key(qtbot, window, Qt.Key.Key_Return, ctrl=True)
        finished(window)
    key(qtbot, window, Qt.Key.Key_7, ctrl=True)
    assert window.step == "check"
    page = window.check.guided
    page.checking.is_paced = False
    key(qtbot, window, Qt.Key.Key_F6)
    while QApplication.focusWidget() is not page.start_button:
        key(qtbot, window, Qt.Key.Key_Tab)
    assert not measured(window, "singer_voice")
    key(qtbot, window, Qt.Key.Key_Space)
    assert page.checking.doing == "check"
    assert page.sign.hasFocus()
    until(qtbot, lambda: "voice" in page._answers)
    assert page._answers["voice"].verdict == "right"
    assert measured(window, "singer_voice")
    assert window.undo_action.text().startswith("&Undo check of")
    sign = page.sign.sign
    assert sign is not None
    assert "Right" in page.sign.accessibleDescription()
    page.checking.stop()
    key(qtbot, window, Qt.Key.Key_Z, ctrl=True)
    assert not measured(window, "singer_voice")


def test_it_opens_on_what_sounds_and_needs_no_key_between_players(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    window.document.select_line("organ_l")
    page.start()
    until(qtbot, lambda: phase_of(page) == "loudest")
    assert window.document.line is not None
    first = window.document.line.line.id
    assert first != "organ_l"
    until(qtbot, lambda: len(page._answers) >= 2 and phase_of(page) == "easy")
    assert window.document.line.line.id != first
    verdicts = [page.table.item(row, 1).text() for row in range(page.table.rowCount())]  # type: ignore[union-attr]
    assert any(said.startswith("Right") for said in verdicts)
    qtbot.mouseClick(page.start_button, Qt.MouseButton.LeftButton)
    assert page.checking.doing == "nothing"
    assert page.start_button.text() == "Start the check"


def test_a_gain_far_off_is_told_turned_with_one_key_and_heard_again(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    item = window.document.assessment.line("voice")
    assert item is not None
    control = item.state.level_control()
    assert control is not None
    window.document.set_control("gain", control, 0.0)
    page.start()
    until(qtbot, lambda: phase_of(page) == "turn" and bool(page._pending))
    assert page.turned_button.isVisible()
    sign = page.sign.sign
    assert sign is not None
    assert sign.word == "Turn"
    assert "o’clock" in sign.says or "half past" in sign.says
    qtbot.keyClick(page.sign, Qt.Key.Key_Return)
    assert window.undo_action.text() == "&Undo gain turned as told"
    assert not page.turned_button.isVisible()
    until(qtbot, lambda: "voice" in page._answers)
    assert page._answers["voice"].verdict == "right"


def test_a_gain_moved_elsewhere_meanwhile_is_heard(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    page.start()
    until(qtbot, lambda: phase_of(page) == "loudest")
    item = window.document.assessment.line("voice")
    assert item is not None
    control = item.state.level_control()
    assert control is not None
    window.document.set_control("gain", control, float(control.value or 0.0) + 20.0)
    until(qtbot, lambda: phase_of(page) == "turn")
    page._post("skip")
    until(qtbot, lambda: "voice" in page._answers)
    assert page._answers["voice"].verdict in {"clips", "loud"}
    assert page.turned_button.isVisible()
    assert page.reason.text()


def test_a_player_can_be_chosen_skipped_and_heard_again(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    page.start()
    until(qtbot, lambda: phase_of(page) not in {"", "silence"})
    row = page.sound.lines().index("baritone_line")
    page.table.asked.emit(row)
    until(qtbot, lambda: page._guide is not None and phase_of(page) == "easy")
    qtbot.keyClick(page.sign, Qt.Key.Key_Space)
    until(qtbot, lambda: phase_of(page) in {"loudest", "done"})
    until(qtbot, lambda: "baritone_line" in page._answers)
    qtbot.mouseClick(page.again_button, Qt.MouseButton.LeftButton)
    until(qtbot, lambda: phase_of(page) == "easy")


def test_another_page_and_another_session_end_the_check(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    page.start()
    window.check.turn_to("Rehearsal")
    assert page.checking.doing == "nothing"
    window.check.turn_to("Guided check")
    page.start()
    window.go("stage")
    assert page.checking.doing == "nothing"
    window.document.replace(
        window.document.session.model_copy(update={"title": "B"}), None, is_saved=True
    )
    window.go("check")
    assert page._guide is None
    assert page.sign.sign is not None
    assert page.sign.sign.word == "Check"


def test_who_is_it_asks_for_one_after_the_other(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    qtbot.mouseClick(page.who_button, Qt.MouseButton.LeftButton)
    assert page.checking.doing == "who"
    until(qtbot, lambda: page.checking.doing == "nothing")
    assert page._proofs["voice"].found == "proven"
    inputs = [page.table.item(row, 2).text() for row in range(page.table.rowCount())]  # type: ignore[union-attr]
    assert "1, proven" in inputs


def test_inputs_that_were_found_elsewhere_can_be_used(
    window: MainWindow, page: GuidedPage, monkeypatch: pytest.MonkeyPatch
) -> None:
    device = SystemDevice(key=0, name="Box", channels_in=8, channels_out=2, usual_rate_hz=48_000)
    page.sound.on_devices((device,))
    page.sound.choice.setCurrentIndex(page.sound.choice.findData("Box"))
    page.sound.choose()
    assert page.sound.device() == device
    lines = page.sound.lines()
    who = Who.of(())
    page._proofs = {
        "harp_left": Proof(line="harp_left", found="swapped", channel=2, other="harp_right")
    }
    page._found = {**page.sound.inputs(), "harp_left": 2, "harp_right": 1}
    assert who.is_done
    page._on_proved(())
    assert page.use_button.isVisible()
    page.use_button.click()
    assert page.sound.inputs()["harp_left"] == 2
    live = page.sound.live()
    assert live is not None
    assert set(live.channels) == set(lines)
    assert not page.use_button.isVisible()


def test_a_missing_device_is_said_when_somebody_asks_and_a_broken_one_when_it_is_started(
    qtbot: QtBot, window: MainWindow, page: GuidedPage, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("verve.devices.recording_devices", lambda: NO_DEVICE)
    page.sound.choice.setCurrentIndex(page.sound.choice.findData("look again"))
    page.sound.choose()
    finished(window)
    assert window.message() == NO_DEVICE
    assert page.sound.choice.currentData() == "simulated"
    gone = SystemDevice(key=99, name="Gone", channels_in=8, channels_out=2, usual_rate_hz=48_000)
    page.sound.on_devices((gone,))
    page.sound.choice.setCurrentIndex(page.sound.choice.findData("Gone"))
    page.sound.choose()
    page.start()
    until(qtbot, lambda: page.checking.doing == "nothing")
    assert window.message().startswith("Gone: ")


def test_a_change_that_cannot_be_said_leaves_nothing_behind(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    before = window.document.session
    page.turned()
    assert window.document.session is before
    page._pending = (Change(owner="interface", channel="in.1", name="gain_db", value=999.0),)
    page.turned()
    assert window.document.session is before
    assert "must be" in window.message()


def test_the_numbers_of_a_check_are_asked_for_by_pressing_its_row(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    page.start()
    until(qtbot, lambda: "voice" in page._answers)
    page.checking.stop()
    asked: list[tuple[str, tuple[Fact, ...]]] = []
    window.document.asked.connect(lambda title, facts: asked.append((title, facts)))
    page.table.asked.emit(page.sound.lines().index("voice"))
    ((title, facts),) = asked
    assert title == "Voice in the check"
    labels = {fact.label: fact for fact in facts}
    assert labels["Loudest passage"].origin == "measured"
    assert " to " in labels["Noise gate"].text
    assert labels["Compressor"].text.startswith("bites")


def test_a_knob_is_told_and_learnt_from_takes_at_two_positions(
    window: MainWindow, page: GuidedPage
) -> None:
    window.document.select_line("voice")
    assert not page.knob.learn_button.isVisible()
    for number, hour in ((1, 9.0), (2, 13.5)):
        page.knob.hour.setCurrentIndex(page.knob.hour.findData(str(hour)))
        page.knob.tell_hour()
        session = window.document.session
        take = take_of(session, session, "voice", number=number)
        window.document.edit("take", lambda s, t=take: add_take(s, t))  # type: ignore[misc]
        window.document.set_control("gain", page.knob.knob(), 12.0 + 6.0 * number)  # type: ignore[arg-type]
        assert page.knob.hour.currentData() == "", "turned since, and nobody has said whereto"
    assert page.knob.learn_button.isVisible()
    page.knob.learn_button.click()
    knob = page.knob.knob()
    assert knob is not None
    assert knob.is_dial_learned
    assert "measured" in dial_words(knob, 20.0)


def test_when_everybody_has_been_checked_that_is_said(
    qtbot: QtBot, window: MainWindow, page: GuidedPage
) -> None:
    page.start()
    until(qtbot, lambda: "voice" in page._answers)
    page.checking.stop()
    guide = page._guide
    assert guide is not None
    groups = frozenset(one.group for one in guide.signals)
    page._guide = replace(guide, done=groups)
    page._show_guide("")
    sign = page.sign.sign
    assert sign is not None
    assert sign.says.endswith("All signals are checked.")
