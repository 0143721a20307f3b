"""A day at the keyboard: lead, double and harmonies over a backing track, the best of it, a balance, a bounce."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QDialog, QWidget
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.core.measure.test_onsets import plucked
from tests.core.mix.recorded import loudness_lufs, sung, tone, true_peak_dbtp, with_take, write
from verve.app.dialogs.add_line import AddLineDialog
from verve.app.hearing import SilentOutput
from verve.app.window import MainWindow
from verve.core.mix import start_of
from verve.core.session import (
    ChannelFigures,
    Session,
    Sound,
    SoundFigures,
    add_double,
    add_section,
    add_sound,
    known_lines,
    layer_of,
    routes,
    set_song,
)

RATE_HZ = 48_000


class Hands:
    """Two hands at the keyboard: every press is counted."""

    def __init__(self, qtbot: QtBot, window: MainWindow) -> None:
        self.qtbot, self.window, self.count = qtbot, window, 0

    def press(
        self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        """One key, wherever the focus is."""
        self.count += 1
        target = QApplication.focusWidget() or self.window
        self.qtbot.keyClick(target, key, modifier)

    def control(self, key: Qt.Key) -> None:
        """A key with Ctrl."""
        self.press(key, Qt.KeyboardModifier.ControlModifier)

    def until(self, is_so: Callable[[], bool]) -> None:
        self.qtbot.waitUntil(is_so, timeout=30_000)


@pytest.fixture
def hands(qtbot: QtBot, window: MainWindow) -> Iterator[Hands]:
    """The window in front, its keys where a user has them; what is heard goes nowhere."""
    window.activateWindow()
    window._find_output = SilentOutput
    yield Hands(qtbot, window)
    window.standby.leave()
    qtbot.waitUntil(lambda: not window.standby.is_on, timeout=30_000)


def recorded(hands: Hands) -> None:
    """One take: begun with a key, ended by itself or with the same key."""
    window = hands.window
    before = len(window.document.session.takes)
    hands.press(Qt.Key.Key_R)
    hands.until(lambda: window.standby.is_recording or len(window.document.session.takes) > before)
    hands.until(lambda: len(window.document.session.takes) > before)


def sounding(window: MainWindow) -> bool:
    """Whether a recording has gone on for a second."""
    sign = window.takes.record.sign.sign
    if sign is None or sign.word != "Recording":
        return False
    return sign.number != "0:00" and not sign.number.startswith("−")


def test_from_nothing_to_the_first_kept_take_in_twelve_actions_and_a_double_in_two(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = hands.window
    window.document.replace(Session(), None, is_saved=True)
    window.go("patch")

    def typed(dialog: QWidget) -> int:
        # The first chain is a voice into a two-input interface: Return adds it.
        assert isinstance(dialog, AddLineDialog)
        hands.count += 1
        return int(QDialog.DialogCode.Accepted)

    monkeypatch.setattr(AddLineDialog, "exec", typed)
    hands.control(Qt.Key.Key_L)
    assert [line.name for line in window.document.session.setup.lines] == ["Voice"]
    while window.document.assessment.next.action == "apply":
        hands.control(Qt.Key.Key_Return)
        finished(window)
    hands.control(Qt.Key.Key_T)
    hands.press(Qt.Key.Key_R)
    hands.until(lambda: window.standby.is_recording)
    hands.until(lambda: sounding(window))
    hands.press(Qt.Key.Key_R)
    hands.until(lambda: bool(window.document.session.takes))
    assert hands.count <= 12, hands.count
    # The double after it: two keys.
    hands.count = 0
    hands.press(Qt.Key.Key_D)
    hands.press(Qt.Key.Key_R)
    assert hands.count == 2
    hands.until(lambda: sounding(window))
    hands.press(Qt.Key.Key_R)
    hands.until(lambda: len(window.document.session.takes) == 2)
    first, second = window.document.session.takes
    assert first.tracks[0].line != second.tracks[0].line
    assert Path(second.tracks[0].file).exists()


def backed(session: Session, folder: Path) -> Session:
    """Two short sections over a backing track of eight seconds."""
    samples = np.stack([tone(220.0, 8.0, 0.05), tone(330.0, 8.0, 0.05)])
    path = write(folder / "track.wav", samples)
    figures = SoundFigures(channels=(ChannelFigures(), ChannelFigures()))
    sound = Sound(
        id="track", name="Track", file=str(path), content="0" * 32, size_bytes=path.stat().st_size,
        role="backing", sample_rate_hz=RATE_HZ, frames=8 * RATE_HZ, figures=figures,
    )  # fmt: skip
    session = add_sound(session, sound)
    song = session.song.model_copy(update={"tempo_bpm": 120.0, "lead_in_s": 0.5, "tail_s": 0.5})
    session = set_song(session, song)
    session, _ = add_section(session, "Verse", 0.0, 3.0)
    return add_section(session, "Chorus", 3.0, 6.0)[0]


def only_the_voice(session: Session) -> Session:
    """The mended demo with one singer at one microphone."""
    from verve.core.session import only_lines

    return session.model_copy(update={"setup": only_lines(session.setup, {"voice"})})


def rules(window: MainWindow) -> set[str]:
    return {finding.rule for finding in window.document.assessment.findings}


def test_one_singer_over_a_backing_track_from_the_lead_to_the_bounce(
    hands: Hands, mended: Session, tmp_path: Path
) -> None:
    window = hands.window
    session = backed(only_the_voice(mended), tmp_path)
    audio = session.setup.audio.model_copy(update={"buffer_frames": 64})
    session = session.model_copy(
        update={"setup": session.setup.model_copy(update={"audio": audio})}
    )
    window.document.replace(session, tmp_path / "day.verve.json", is_saved=True)
    hands.control(Qt.Key.Key_T)
    page = window.takes.record
    page.section.setFocus()
    hands.press(Qt.Key.Key_Down)
    page.section.activated.emit(page.section.currentIndex())
    assert page.section.currentText() == "Verse"
    page.record_button.setFocus()

    # ── the lead, three takes, the second one marked as the good one ──
    recorded(hands)
    recorded(hands)
    hands.press(Qt.Key.Key_M)
    recorded(hands)
    takes = window.document.session.takes
    assert [take.section for take in takes] == ["verse"] * 3
    assert [take.rating for take in takes] == [0, 4, 0]
    assert "moved_since_take" not in rules(window)

    # ── the forgotten gain: turned down for talking, caught before the next take ──
    (route,) = routes(window.document.session.setup)
    assert route.recorder is not None
    control = route.recorder.controls["gain_db"]
    assert isinstance(control.value, float)
    window.document.set_control("gain", control, control.value - 9.0)
    hands.press(Qt.Key.Key_R)
    assert page.ready.isVisible()
    assert "9 dB lower since Take 2: turned down for talking?" in page.ready.items[0].words
    assert not window.standby.is_recording
    page.ready.buttons[0].setFocus()
    hands.press(Qt.Key.Key_Space)
    assert page.ready.knob is not None
    assert "+" in page.sign.sign.number or page.sign.sign.number  # type: ignore[union-attr]
    page.record_button.setFocus()

    # ── the double and two harmonies, each taking the input over ──
    names = []
    for key in (Qt.Key.Key_D, Qt.Key.Key_H, Qt.Key.Key_H):
        hands.press(key)
        here = window.document.session
        (line,) = here.setup.lines
        names.append(line.name)
        assert [r.recorder.in_port for r in routes(here.setup) if r.recorder] == ["in.1"]
        assert "moved_since_take" not in rules(window)
        recorded(hands)
        assert not page.ready.isVisible()
        assert "moved_since_take" not in rules(window)
    assert names == ["Voice double", "Voice harmony", "Voice harmony 2"]
    layer = layer_of(window.document.session)
    assert layer is not None
    assert len(layer.over) == 3

    # ── the best of it: by keys on the take sheet ──
    window.takes.turn_to("Take sheet")
    sheet = window.takes.sheet
    sheet.show_line("voice")
    sheet.focus_sheet()
    assert [len(row.marks) for row in sheet.sheet._rows] == [3, 0]
    marked = [mark.is_chosen for mark in sheet.sheet._rows[0].marks]
    assert marked == [False, True, False]
    hands.press(Qt.Key.Key_Right)
    hands.press(Qt.Key.Key_Right)
    hands.press(Qt.Key.Key_Return)
    hands.press(Qt.Key.Key_5)
    chosen = {(x.line, x.section): x for x in window.document.session.chosen}
    assert chosen["voice", "verse"].take == "take_3"
    # Two are always kept.
    hands.press(Qt.Key.Key_Left)
    hands.press(Qt.Key.Key_X)
    assert "two takes of Voice are always kept" not in window.message()
    hands.press(Qt.Key.Key_X)
    assert "two takes of Voice are always kept" in window.message()

    # ── the balance, and the bounce ──
    window.takes.turn_to("Rough mix")
    mix = window.takes.mix
    # The rows come a few at a time.
    hands.until(lambda: len([row for row in mix.rows if row.stand]) == 4)
    assert [row.stand.standing for row in mix.rows if row.stand] == [
        "lead", "double", "harmony", "harmony",
    ]  # fmt: skip
    mix.rows[1].trim.setFocus()
    mix.rows[1].trim.selectAll()
    hands.qtbot.keyClicks(mix.rows[1].trim, "-9")
    hands.press(Qt.Key.Key_Return)
    assert window.document.session.mix.lines
    path = tmp_path / "mix.flac"
    mix.bounce_to(path)
    hands.until(lambda: path.exists() and not window.tasks.is_busy("bounce"))
    samples, _ = soundfile.read(path, always_2d=True)
    assert true_peak_dbtp(samples.T) <= -0.8
    if "possible" not in mix.said.text():
        assert loudness_lufs(samples.T) == pytest.approx(-16.0, abs=0.1)
    assert set(known_lines(window.document.session)) == {
        "voice", *(x.line for x in window.document.session.mix.lines if x.line != "voice")
    }  # fmt: skip
    # All of it is one row of edits, and undone to the beginning.
    for _ in range(len(window.document.history.done)):
        window.undo_action.trigger()
    assert window.document.session == session


def test_a_loop_is_kept_round_by_round_and_again_drops_a_false_start(
    hands: Hands, mended: Session, tmp_path: Path
) -> None:
    window = hands.window
    session = backed(only_the_voice(mended), tmp_path)
    window.document.replace(session, tmp_path / "day.verve.json", is_saved=True)
    hands.control(Qt.Key.Key_T)
    page = window.takes.record
    page.section.setCurrentIndex(2)
    page.section.activated.emit(2)
    page.loops.setChecked(True)
    page.record_button.setFocus()
    hands.press(Qt.Key.Key_R)
    if page.ready.isVisible():
        hands.press(Qt.Key.Key_R)
    hands.until(lambda: window.standby.is_recording)
    hands.press(Qt.Key.Key_A)
    hands.until(lambda: any(take.aside for take in window.document.session.takes))
    hands.until(lambda: page.sign.sign is not None and page.sign.sign.word == "Round 4")
    hands.press(Qt.Key.Key_R)
    hands.until(lambda: len(window.document.session.takes) >= 4)
    takes = window.document.session.takes
    assert [take.aside for take in takes[:3]] == [True, None, None]
    assert len({track.file for take in takes[1:] for track in take.tracks}) == 1
    # What was played is heard from its section with one key.
    hands.press(Qt.Key.Key_P)
    assert window.player.request is not None
    begin_s = window.player.request.start_s
    last = takes[-1]
    assert begin_s == pytest.approx(
        (last.tracks[0].begin_frame or 0) / RATE_HZ + 3.0 - (last.start_s or 0.0)
    )
    window.player.stop()
    hands.until(lambda: page.keep_button.isEnabled())


def test_the_day_is_planned_and_turned_at_the_keyboard(hands: Hands) -> None:
    window = hands.window
    window.go("takes")
    window.takes.turn_to("Day")
    day = window.takes.day
    assert [row._name.text() for row in day.rows] == ["The songs", "Finale with the drum"]
    window.document.select_line("voice")
    day.double.setFocus()
    hands.press(Qt.Key.Key_Space)
    assert len(day.rows) == 3
    assert "Voice double has the input now" in window.message()
    assert window.document.line is not None
    assert window.document.line.line.name == "Voice double"
    first = day.rows[0]
    first.steps.setFocus()
    hands.press(Qt.Key.Key_Space)
    assert "From what is set up now:" in first._told.text()
    first.set_up.setFocus()
    hands.press(Qt.Key.Key_Space)
    assert len(window.document.session.setup.lines) == 7
    day.rows[1].later.setFocus()
    hands.press(Qt.Key.Key_Space)
    assert [row._name.text() for row in day.rows][1] == "Finale with the drum"
    # The kit does not bear the finale: which layer lacks what is said, and nothing is changed.
    before = window.document.session
    day.plan.setFocus()
    hands.press(Qt.Key.Key_Space)
    finished(window)
    assert "Finale with the drum needs what the kit does not have" in window.message()
    assert window.document.session == before


def test_the_day_goes_on_paper(window: MainWindow, tmp_path: Path) -> None:
    window.go("takes")
    window.takes.turn_to("Day")
    for name in ("day.html", "day.csv", "day.pdf"):
        window.takes.day.put_on_paper(tmp_path / name)
    finished(window)
    page = (tmp_path / "day.html").read_text()
    assert "The songs" in page
    assert "Monitors and headphones" in page
    assert "Plug" in (tmp_path / "day.csv").read_text()
    assert (tmp_path / "day.pdf").read_bytes().startswith(b"%PDF")


def test_the_song_is_typed_tapped_and_cut_into_sections(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.go("takes")
    window.takes.turn_to("Song")
    page = window.takes.song
    page.tempo.selectAll()
    qtbot.keyClicks(page.tempo, "92")
    qtbot.keyClick(page.tempo, Qt.Key.Key_Return)
    assert window.document.session.song.tempo_bpm == 92.0
    now = iter(np.arange(0.0, 9.0, 0.5).tolist())
    monkeypatch.setattr("verve.app.views.takes.song.time.monotonic", lambda: next(now))
    for _ in range(5):
        page.tap_once()
    assert window.document.session.song.tempo_bpm == pytest.approx(120.0)
    qtbot.mouseClick(page.add, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(page.add, Qt.MouseButton.LeftButton)
    row = page.rows[1]
    row.name.selectAll()
    qtbot.keyClicks(row.name, "Chorus")
    row.end.selectAll()
    qtbot.keyClicks(row.end, "45")
    qtbot.keyClick(row.end, Qt.Key.Key_Return)
    assert [(x.name, x.start_s, x.end_s) for x in window.document.session.song.sections] == [
        ("Section 1", 0.0, 30.0),
        ("Chorus", 30.0, 45.0),
    ]
    row.end.selectAll()
    qtbot.keyClicks(row.end, "10")
    qtbot.keyClick(row.end, Qt.Key.Key_Return)
    assert "must be after its start" in window.message()
    assert window.document.session.song.sections[1].end_s == 45.0
    qtbot.mouseClick(page.rows[0].remove, Qt.MouseButton.LeftButton)
    assert len(page.rows) == 1


def test_the_tempo_of_the_backing_is_found_and_where_it_is_sung(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    session = backed(window.document.session, tmp_path)
    beats = np.zeros(20 * RATE_HZ)
    for at in np.arange(0.2, 19.5, 0.5):
        begin = round(at * RATE_HZ)
        beats[begin : begin + 2_000] += sung(1.0)[5_000:7_000] + tone(900.0, 2_000 / RATE_HZ)
    write(tmp_path / "track.wav", np.stack([beats, beats]))
    sound = session.sounds[0].model_copy(update={"frames": 20 * RATE_HZ})
    session = session.model_copy(update={"sounds": (sound,)})
    window.document.replace(session, None, is_saved=True)
    window.go("takes")
    window.takes.turn_to("Song")
    window.takes.song.find_tempo.click()
    finished(window)
    assert window.document.session.song.tempo_bpm == pytest.approx(120.0, abs=0.5)
    assert len(window.takes.song.mutes) == 1
    window.takes.song.mutes[0].click()
    assert window.document.session.sounds[0].is_muted
    page = window.takes.song
    page.sung[0].setText("")
    qtbot.keyClicks(page.sung[0], "0:08-0:12, 14 to 19")
    qtbot.keyClick(page.sung[0], Qt.Key.Key_Return)
    assert window.document.session.sounds[0].sung_s == ((8.0, 12.0), (14.0, 19.0))
    before = len(window.document.session.song.sections)
    page._sections_from(window.document.session.sounds[0])
    assert len(window.document.session.song.sections) == before + 2
    qtbot.keyClicks(page.sung[0], ", never")
    qtbot.keyClick(page.sung[0], Qt.Key.Key_Return)
    assert "must be times such as" in window.message()


def test_settings_with_a_name_are_two_keys(hands: Hands) -> None:
    window = hands.window
    window.document.select_line("harp_left")
    hands.control(Qt.Key.Key_T)
    page = window.takes.record
    page.call_settings("sing")
    route = next(r for r in routes(window.document.session.setup) if r.line.id == "harp_left")
    assert route.recorder is not None
    window.document.set_control("gain", route.recorder.controls["gain_db"], 5.0)
    page.call_settings("talk")
    assert page.settings.currentText() == "talk"
    hands.press(Qt.Key.Key_N)
    assert page.settings.currentText() == "sing"
    back = next(r for r in routes(window.document.session.setup) if r.line.id == "harp_left")
    assert back.recorder is not None
    assert back.recorder.controls["gain_db"].value == route.recorder.controls["gain_db"].value


def test_all_takes_of_a_section_are_heard_in_a_row_and_rated_meanwhile(
    hands: Hands, tmp_path: Path
) -> None:
    window = hands.window
    session = backed(window.document.session, tmp_path)
    times = np.asarray(0.25 + 0.5 * np.arange(11), dtype=np.float64)
    for number in (1, 2, 3):
        session = with_take(session, tmp_path, number, {"voice": plucked(times, 6.0, number)})
    window.document.replace(session, None, is_saved=True)
    window.go("takes")
    window.takes.turn_to("Take sheet")
    page = window.takes.sheet
    page.show_line("voice")
    page.focus_sheet()
    hands.press(Qt.Key.Key_L)
    hands.until(lambda: window.player.is_playing)
    assert page._in_row is not None
    _, _, row, begins = page._in_row
    for place, begin_s in enumerate(begins):
        window.player.moved.emit(begin_s + 0.1)
        assert page.sheet.at == (row, place)
        if place == 1:
            hands.press(Qt.Key.Key_4)
    # Whoever looks at another one meanwhile is let.
    page.sheet.turn_to(row, 0)
    window.player.moved.emit(begins[2] + 0.2)
    assert page.sheet.at == (row, 0)
    assert [take.rating for take in window.document.session.takes] == [0, 4, 0]
    hands.press(Qt.Key.Key_L)
    assert not window.player.is_playing


def test_where_an_imported_take_begins_in_the_song_is_typed(hands: Hands, tmp_path: Path) -> None:
    window = hands.window
    session = backed(window.document.session, tmp_path)
    times = np.asarray(0.25 + 0.5 * np.arange(11), dtype=np.float64)
    session = with_take(session, tmp_path, 1, {"voice": plucked(times, 6.0)})
    take = session.takes[0].model_copy(update={"start_s": None})
    window.document.replace(session.model_copy(update={"takes": (take,)}), None, is_saved=True)
    window.go("takes")
    window.takes.turn_to("Log")
    log = window.takes.log
    assert log.start.text() == "0 s"
    for typed, kept in (("2,5", 2.5), ("-1.25 s", -1.25), ("soon", -1.25), ("99999", -1.25)):
        log.start.setFocus()
        log.start.selectAll()
        hands.qtbot.keyClicks(log.start, typed)
        hands.press(Qt.Key.Key_Return)
        assert window.document.session.takes[0].start_s == kept
        assert start_of(window.document.session.takes[0]) == kept
    assert log.start.toolTip().startswith("Where it begins in the song")
    window.undo_action.trigger()
    window.undo_action.trigger()
    assert window.document.session.takes[0].start_s is None


def test_a_double_is_compared_with_its_first_and_heard_where_it_matters(
    hands: Hands, tmp_path: Path
) -> None:
    window = hands.window
    session = backed(window.document.session, tmp_path)
    times = np.asarray(0.25 + 0.5 * np.arange(11), dtype=np.float64)
    session = with_take(session, tmp_path, 1, {"voice": plucked(times, 6.0)})
    doubled = add_double(session, "voice")
    late = np.asarray(times + np.where(times > 3.0, 0.05, 0.0), dtype=np.float64)
    line = doubled.setup.lines[0].id
    doubled = with_take(doubled, tmp_path, 2, {line: plucked(late, 6.0, 1)})
    window.document.replace(doubled, None, is_saved=True)
    window.go("takes")
    window.takes.turn_to("Take sheet")
    page = window.takes.sheet
    page.show_line("voice")
    assert not page.compare.isVisible()
    page.show_line(line)
    assert page.compare.isVisible()
    page.compare.setFocus()
    hands.press(Qt.Key.Key_Space)
    finished(window)
    assert "the double is" in page.compared.text()
    assert page.place_buttons[0].isVisible()
    page.place_buttons[0].setFocus()
    hands.press(Qt.Key.Key_Space)
    hands.until(lambda: window.player.request is not None)
    window.player.stop()


def test_how_a_take_was_played_is_told_after_it_and_undone_with_it(
    hands: Hands, mended: Session, tmp_path: Path
) -> None:
    window = hands.window
    session = backed(only_the_voice(mended), tmp_path)
    times = np.asarray(0.04 + 0.5 * np.arange(11), dtype=np.float64)
    window.document.replace(session, None, is_saved=True)
    window.go("takes")
    window.takes.turn_to("Record")
    (take,) = with_take(session, tmp_path, 1, {"voice": plucked(times, 6.0)}).takes
    window.recordings.take_up_all((take,), window.document.number)
    window.takes._looking.begin((take,))
    finished(window)
    (track,) = window.document.session.takes[0].tracks
    assert track.late_ms == pytest.approx(40.0, abs=8.0)
    window.undo_action.trigger()
    assert window.document.session.takes == ()
