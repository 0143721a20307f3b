"""The practice window, by keyboard alone: a whole hunt, an order, a played day; the session stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TypeVar

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.hearing import SilentOutput
from verve.app.practice import PAGES, PracticeWindow
from verve.app.practice.advice import AdvicePage
from verve.app.practice.day import DayPage
from verve.app.practice.ear import EarPage
from verve.app.practice.hand import HandPage
from verve.app.practice.hunt import HuntPage
from verve.app.practice.order import OrderPage
from verve.app.settings import Settings
from verve.app.widgets.table import Table
from verve.app.window import MainWindow
from verve.core.hunt import signs_of
from verve.core.learning import read_progress
from verve.core.session import to_json

Key = Qt.Key
Kind = TypeVar("Kind", bound=QWidget)


@pytest.fixture
def practice(window: MainWindow, qtbot: QtBot) -> Iterator[PracticeWindow]:
    """The practice window, opened with its key, on a copy of the demo; chance is always the same."""
    window.activateWindow()
    finished(window)
    qtbot.keyClick(window, Key.Key_F4)
    finished(window)
    made = window.offering.window
    assert made is not None
    finished(window)
    qtbot.waitUntil(lambda: made.prepared is not None)
    object.__setattr__(made._needs, "seed", lambda: 4)
    qtbot.waitExposed(made)
    made.activateWindow()
    yield made
    if window.offering.window is not None:
        made.close()
    finished(window)


def page(practice: PracticeWindow, key: str, kind: type[Kind]) -> Kind:
    """A page, put in front with the keys of its bar."""
    tabs = practice.pages.tabs
    tabs.setFocus()
    names = list(PAGES.values())
    apart = names.index(PAGES[key]) - names.index(practice.pages.current)
    press(tabs, *[Key.Key_Right if apart > 0 else Key.Key_Left] * abs(apart))
    assert practice.pages.current == PAGES[key]
    found = practice.pages.page(PAGES[key])
    assert isinstance(found, kind)
    finished_beside(practice)
    found.focus_first()  # type: ignore[attr-defined]
    return found


def press(widget: QWidget, *keys: Qt.Key) -> None:
    for key in keys:
        QTest.keyClick(widget, key)  # type: ignore[call-overload]


def finished_beside(practice: PracticeWindow) -> None:
    practice._tasks.wait()
    QApplication.processEvents()


def choose(table: Table, wanted: Callable[[str], bool]) -> None:
    """Go down to the row whose words are wanted, and press Return on it."""
    table.setFocus()
    rows = [item.text() if (item := table.item(n, 0)) else "" for n in range(table.rowCount())]
    row = next(n for n, words in enumerate(rows) if wanted(words))
    press(table, Key.Key_Home)
    table.setCurrentCell(0, 0)
    for _ in range(row):
        press(table, Key.Key_Down)
    assert table.currentRow() == row
    press(table, Key.Key_Return)


# ── a whole hunt ──────────────────────────────────────────────────────────────────────────────────
def test_a_whole_hunt_by_keyboard_and_the_session_is_never_changed(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    before, number = to_json(window.document.session), window.document.number
    hunt = page(practice, "hunt", HuntPage)
    press(hunt.begin, Key.Key_Space)
    finished_beside(practice)
    assert hunt.hunt is not None
    assert hunt.sign.text().startswith("You play Voice.")
    choose(hunt.deeds, lambda words: words.startswith("Look at the track"))
    choose(hunt.deeds, lambda words: words.startswith("Play, and listen"))
    assert hunt.clock.text() == "10 s gone"
    assert hunt.seen.rowCount() == 2
    right = hunt.hunt.hidden[0]
    wrong = next(name for name in hunt.hunt.names() if name != right.title)
    choose(hunt.names, lambda words: words == wrong)
    assert not hunt.hunt.is_over
    choose(hunt.names, lambda words: words == right.title)
    finished_beside(practice)
    qtbot.waitUntil(lambda: hunt.told is not None)
    assert hunt.sign.text() == f"{right.title}."
    assert "It showed so: " in hunt.below.text()
    assert hunt.ending is not None
    assert "The quickest search takes" in hunt.ending.quickest_name.text()
    assert hunt.ending.own.rowCount() == 4
    # Nothing of the session has moved, nothing can be undone, nothing is unsaved.
    assert to_json(window.document.session) == before
    assert window.document.number == number
    assert not window.document.history.done
    assert window.document.is_saved
    # And the next one, with one key.
    press(hunt, Key.Key_N)
    finished_beside(practice)
    assert hunt.told is None
    assert hunt.hunt.steps == ()


def test_being_told_is_one_key_and_counts_as_missed(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    hunt = page(practice, "hunt", HuntPage)
    press(hunt, Key.Key_N)
    finished_beside(practice)
    press(hunt, Key.Key_G)
    finished_beside(practice)
    qtbot.waitUntil(lambda: hunt.told is not None)
    assert hunt.told is not None
    kind = hunt.told.faults[0].kind
    kept = read_progress(tmp_path / "settings" / "practice.json")
    assert [(one.key, one.grade) for one in kept.reviews] == [(f"fault:{kind}", 1)]
    # What was missed is what comes next, once it is due.
    practice._practising.now = lambda: datetime.now(UTC) + timedelta(days=2)
    for seed in (5, 6, 7):
        object.__setattr__(hunt._needs, "seed", lambda seed=seed: seed)
        press(hunt, Key.Key_N)
        finished_beside(practice)
        assert hunt.hunt is not None
        assert hunt.hunt.hidden[0].kind == kind


def test_two_faults_are_mended_one_after_the_other(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    hunt = page(practice, "hunt", HuntPage)
    hunt.count.setFocus()
    press(hunt.count, Key.Key_Down, Key.Key_Down)
    press(hunt, Key.Key_N)
    finished_beside(practice)
    assert hunt.hunt is not None
    first, second = hunt.hunt.hidden
    choose(hunt.names, lambda words: words == first.title)
    assert not hunt.hunt.is_over
    assert signs_of(hunt.hunt.world) == signs_of(hunt.hunt.case.world((second,)))
    choose(hunt.names, lambda words: words == second.title)
    finished_beside(practice)
    qtbot.waitUntil(lambda: hunt.told is not None, timeout=20_000)
    assert first.title in hunt.sign.text()
    assert second.title in hunt.sign.text()


def test_what_is_listened_to_is_heard_as_well(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    heard: list[SilentOutput] = []

    def find(rate_hz: int) -> SilentOutput:
        heard.append(SilentOutput(rate_hz, keeps=True, is_instant=True))
        return heard[-1]

    window.player._find = find
    hunt = page(practice, "hunt", HuntPage)
    press(hunt, Key.Key_N, Key.Key_S)
    finished_beside(practice)
    assert hunt.with_sound.isChecked()
    choose(hunt.deeds, lambda words: words.startswith("Look at the track"))
    assert not heard
    choose(hunt.deeds, lambda words: words.startswith("Record five seconds"))
    qtbot.waitUntil(lambda: bool(heard and heard[0].played), timeout=20_000)
    window.player.stop()
    finished_beside(practice)


# ── the other drills ──────────────────────────────────────────────────────────────────────────────
def test_an_order_by_keyboard_stops_where_it_would_harm_and_ends_safely(
    window: MainWindow, practice: PracticeWindow
) -> None:
    order = page(practice, "order", OrderPage)
    assert order.cards is not None
    plug = next(step for step in order.cards.sheet if step.kind == "plug")
    choose(order.left, lambda words: words == plug.words)
    assert "Stop:" in order.sign.text()
    assert order.done.rowCount() == 0
    for _ in range(len(order.cards.sheet)):
        press(order, Key.Key_H)
        press(order.left, Key.Key_Return)
    assert order.cards.is_over
    assert order.sign.text().startswith("All of it, in a safe order. 1 stop")
    assert order.count.text() == f"{len(order.cards.sheet)} of {len(order.cards.sheet)}"
    order.sheet.setFocus()
    press(order.sheet, Key.Key_Down)
    assert order.cards.done == ()
    assert any(step.kind == "unplug" for step in order.cards.sheet)


def test_a_gain_by_keyboard_from_turned_away_to_the_song(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    hand = page(practice, "hand", HandPage)
    press(hand, Key.Key_N)
    assert hand.exercise is not None
    press(hand, Key.Key_T)
    assert hand.sign.text().startswith("Voice: ")
    gain = next(field for key, field in hand.fields.items() if key[2] == "gain_db")
    gain.setFocus()
    for _ in range(20):
        press(gain, Key.Key_Down)
    press(hand, Key.Key_T)
    assert hand.sign.text() == "Voice: over, it clips."
    press(hand, Key.Key_R)
    finished_beside(practice)
    qtbot.waitUntil(lambda: hand.score is not None)
    assert hand.sign.text() == "1 take of 1 lost."
    assert "harder than in the test" in hand.below.text()
    assert "Lost: it clips" in hand.results.item(0, 5).text()  # type: ignore[union-attr]


def test_of_all_signals_each_is_set_in_turn(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    hand = page(practice, "hand", HandPage)
    hand.whom.setFocus()
    press(hand.whom, Key.Key_Down)
    press(hand, Key.Key_N)
    exercise = hand.exercise
    assert exercise is not None
    assert len(exercise.lines) == 7
    owners = [{key[0] for key in hand.fields}]
    practice.line.setFocus()
    for _ in range(2):
        press(practice.line, Key.Key_Down)
        owners.append({key[0] for key in hand.fields})
    # The exercise goes on, with the knobs of another signal.
    assert hand.exercise is exercise
    assert owners[0] != owners[1] != owners[2]
    press(hand, Key.Key_R)
    finished_beside(practice)
    qtbot.waitUntil(lambda: hand.score is not None)
    assert hand.results.rowCount() == 7


def test_a_listening_drill_without_sound_by_its_picture_in_words(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    ear = page(practice, "ear", EarPage)
    press(ear, Key.Key_W)
    ear.drills.setFocus()
    for _ in range(7):
        press(ear.drills, Key.Key_Down)
    assert ear.drill.key == "delay"
    press(ear.drills, Key.Key_Return)
    for _ in range(60):
        qtbot.waitUntil(lambda: ear.example is not None or ear.session.is_over, timeout=20_000)  # type: ignore[union-attr]
        if ear.example is None:
            break
        late = [
            abs(float(ear.pictures.item(0, column).text().split()[0].replace("−", "-")))  # type: ignore[union-attr]
            for column in (1, 2)
        ]
        place = late.index(max(late))
        assert place == ear.example.odd
        # Who reads well and hears well down to 20 ms.
        if ear.example.value < 20.0:
            place = 1 - place
        press(ear, Key.Key_1 if place == 0 else Key.Key_2)
        finished_beside(practice)
    assert ear.session is not None
    assert ear.session.is_over
    assert "What that means: " in ear.sign.text()
    (kept,) = [one for one in practice._practising.progress.thresholds if one.drill == "delay"]
    assert kept.value == pytest.approx(20.0, rel=0.4)
    assert not ear.course.isHidden()
    assert "ms" in ear.course.accessibleDescription()
    assert "ms" in ear.drills.item(7, 1).text()  # type: ignore[union-attr]


def test_the_other_example_is_heard_at_once_and_an_answer_is_silence(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    window.player._find = SilentOutput
    ear = page(practice, "ear", EarPage)
    press(ear, Key.Key_N)
    qtbot.waitUntil(lambda: ear.example is not None, timeout=20_000)
    heard: list[object] = []
    for key in (Key.Key_A, Key.Key_B):
        press(ear, key)
        qtbot.waitUntil(lambda: window.player.is_playing and window.player.request not in heard)
        heard.append(window.player.request)
    press(ear, Key.Key_B)
    assert not window.player.is_playing
    press(ear, Key.Key_A)
    qtbot.waitUntil(lambda: window.player.is_playing)
    press(ear, Key.Key_1)
    assert not window.player.is_playing
    finished_beside(practice)


def test_a_day_played_through_by_keyboard(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    day = page(practice, "day", DayPage)
    assert day.day is not None
    planned = len(day.day.events)
    assert day.times.rowCount() == planned
    day.incidents.setFocus()
    press(day.incidents, Key.Key_Down, Key.Key_Down, Key.Key_Down)
    finished_beside(practice)
    press(day, Key.Key_N)
    assert day.run is not None
    decided = 0
    for _ in range(200):
        if day.run.is_over:
            break
        if day.run.pending is not None:
            decided += 1
            assert day.run.pending.title in day.sign.text()
            press(day, Key.Key_1)
        else:
            press(day.forward, Key.Key_Space)
    assert day.run.is_over
    assert decided > 0
    assert day.sign.text().startswith("The day is over at ")
    assert day.times.rowCount() == planned
    assert day.told.text()


def test_the_times_of_the_day_are_typed_and_kept_with_the_person(
    window: MainWindow, practice: PracticeWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = to_json(window.document.session)
    day = page(practice, "day", DayPage)
    day.begin.setFocus()
    day.begin.selectAll()
    for letter in (Key.Key_9, Key.Key_Period, Key.Key_3, Key.Key_0, Key.Key_Return):
        press(day.begin, letter)
    finished_beside(practice)
    assert day.day is not None
    assert day.day.events[0].start_s == 9.5 * 3600.0
    day.arrivals.item(1, 1).setText("13:00")  # type: ignore[union-attr]
    finished_beside(practice)
    assert "waits for Harpist" in day.told.text()
    day.arrivals.item(1, 1).setText("soon")  # type: ignore[union-attr]
    assert "9:30" in practice.message.text()
    kept = read_progress(tmp_path / "settings" / "practice.json")
    assert kept.days["Evening in the weaving shed"].begin_h == 9.5
    assert to_json(window.document.session) == before
    path = tmp_path / "day.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    press(day.print, Key.Key_Space)
    finished_beside(practice)
    assert "Set up The songs" in path.read_text(encoding="utf-8")


def test_the_plan_of_takes_leads_to_the_clock(window: MainWindow, qtbot: QtBot) -> None:
    window.go("takes")
    window.takes.turn_to("Day")
    finished(window)
    plan = window.takes._pages.page("Day")
    press(plan.clock, Key.Key_Space)  # type: ignore[attr-defined]
    finished(window)
    made = window.offering.window
    assert made is not None
    qtbot.waitUntil(lambda: made.pages.current == PAGES["day"])
    qtbot.waitUntil(lambda: made.prepared is not None)
    made.close()
    finished(window)


def test_advice_is_translated_for_the_signal_that_is_chosen(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    advice = page(practice, "advice", AdvicePage)
    qtbot.keyClicks(advice.said, "half past three")
    press(advice.said, Key.Key_Return)
    finished_beside(practice)
    (first,) = advice.found
    assert first.taken == "Gain of Interface at half past 3"
    assert first.suits is False
    practice.line.setFocus()
    press(practice.line, Key.Key_Down)
    finished_beside(practice)
    assert "Harp left" in " ".join(advice.found[0].says)


def test_what_comes_back_is_told_by_name_and_chosen_first(window: MainWindow, qtbot: QtBot) -> None:
    practising = window.offering.practising
    long_ago = datetime.now(UTC) - timedelta(days=9)
    practising.now = lambda: long_ago
    for key in ("ear:comb", "order:tear down", "fault:fan", "fault:window"):
        practising.reviewed(key, 1)
    practising.now = lambda: datetime.now(UTC)
    window.offering.open()
    finished(window)
    made = window.offering.window
    assert made is not None
    finished(window)
    qtbot.waitUntil(lambda: made.prepared is not None)
    assert made.due.text() == "Comes back today: 2 faults, Comb and the order to tear down"
    assert page(made, "ear", EarPage).drill.key == "comb"
    order = page(made, "order", OrderPage)
    assert order.sheet.currentData() == "tear down"
    made.close()
    finished(window)


# ── the window itself ─────────────────────────────────────────────────────────────────────────────
def test_escape_ends_it_and_it_opens_again(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    press(practice, Key.Key_Escape)
    assert window.offering.window is None
    window.activateWindow()
    QApplication.processEvents()
    qtbot.keyClick(window, Key.Key_F4)
    finished(window)
    assert window.offering.window is not None
    window.offering.window.close()


def test_its_key_brings_an_open_one_to_the_front_and_a_hunt_goes_on(
    window: MainWindow, practice: PracticeWindow, qtbot: QtBot
) -> None:
    hunt = page(practice, "hunt", HuntPage)
    press(hunt, Key.Key_N)
    finished_beside(practice)
    begun = hunt.hunt
    window.activateWindow()
    QApplication.processEvents()
    qtbot.keyClick(window, Key.Key_F4)
    finished(window)
    assert window.offering.window is practice
    assert hunt.hunt is begun


def test_with_the_main_window_it_goes_as_well(
    dressed: QApplication, qtbot: QtBot, tmp_path: Path
) -> None:
    made = MainWindow(Settings(tmp_path / "settings"), is_paced=False)
    made.show_demo()
    qtbot.addWidget(made)
    made.show()
    made.offering.open()
    finished(made)
    assert made.offering.window is not None
    made.close()
    assert made.offering.window is None


def test_a_session_without_signals_sends_to_the_demo(window: MainWindow, qtbot: QtBot) -> None:
    window.files.new()
    finished(window)
    qtbot.keyClick(window, Key.Key_F4)
    finished(window)
    made = window.offering.window
    assert made is not None
    finished(window)
    qtbot.waitUntil(lambda: made.prepared is not None)
    assert "practise on the demo session" in made.message.text()
    assert not made.pages.page(PAGES["hunt"]).begin.isEnabled()  # type: ignore[attr-defined]
    made.on.setFocus()
    press(made.on, Key.Key_Down)
    finished(window)
    qtbot.waitUntil(lambda: made.prepared is not None and bool(made.prepared.cases))
    assert made.pages.page(PAGES["hunt"]).begin.isEnabled()  # type: ignore[attr-defined]
    made.close()
    finished(window)


def test_a_minute_is_offered_once_before_the_first_phantom_power(
    window: MainWindow, qtbot: QtBot
) -> None:
    bar = window.offering.bar
    window.go("power")
    finished(window)
    assert bar.isVisible()
    assert "60 seconds" in bar.says.text()
    window.go("stage")
    assert not bar.isVisible()
    window.go("power")
    finished(window)
    assert not bar.isVisible()


def test_what_is_offered_opens_where_it_is_needed(window: MainWindow, qtbot: QtBot) -> None:
    window.go("power")
    finished(window)
    qtbot.keyClick(window.offering.bar.practise, Key.Key_Space)
    finished(window)
    made = window.offering.window
    assert made is not None
    finished(window)
    qtbot.waitUntil(lambda: made.prepared is not None and made.pages.current == PAGES["order"])
    order = made.pages.page(PAGES["order"])
    assert isinstance(order, OrderPage)
    qtbot.waitUntil(lambda: order.cards is not None)
    made.close()
    finished(window)


def test_a_progress_that_cannot_be_read_is_told_and_not_written_over(
    dressed: QApplication, qtbot: QtBot, tmp_path: Path
) -> None:
    settings = Settings(tmp_path / "settings")
    settings.practice_file.parent.mkdir(parents=True)
    settings.practice_file.write_text("{ not")
    made = MainWindow(settings, is_paced=False)
    made.show_demo()
    qtbot.addWidget(made)
    made.show()
    made.offering.open()
    finished(made)
    practice = made.offering.window
    assert practice is not None
    finished(made)
    qtbot.waitUntil(lambda: practice.prepared is not None)
    assert "practice.json" in practice.message.text()
    hunt = practice.pages.page(PAGES["hunt"])
    assert isinstance(hunt, HuntPage)
    hunt.hide_one()
    finished(made)
    hunt.end()
    finished(made)
    assert settings.practice_file.read_text() == "{ not"
    practice.close()
    made.document.replace(made.document.session, None, is_saved=True)
    made.close()
