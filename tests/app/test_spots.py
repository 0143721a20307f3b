"""Spots by hand, a second source, what is running, one source alone: the deeds beside the plan."""

from __future__ import annotations

import random
from pathlib import Path

import numpy as np
import pytest
import soundfile
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.core.session.test_sounds import sound
from tests.wiring import wired
from verve.app.dialogs.blind import BlindDialog
from verve.app.hearing import SilentOutput
from verve.app.views.place import PlaceView
from verve.app.window import MainWindow
from verve.core.place import Key, spots_of, with_number
from verve.core.session import Session, add_sound

LEFT = Key("microphone", "harp_mic_left:capsule")
VOICE = Key("microphone", "voice_mic:capsule")


@pytest.fixture
def place(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> PlaceView:
    monkeypatch.setattr(window.player, "_find", lambda rate_hz: SilentOutput(rate_hz))
    window.go("place")
    window.place.choose(LEFT)
    return window.place


def two_spots(window: MainWindow, place: PlaceView) -> None:
    place.side.spots.note.click()
    window.document.edit("place", lambda now: with_number(now, LEFT, "distance_m", 0.3))
    place.side.spots.name.setText("Nearer")
    place.side.spots.note.click()


# ── spots ─────────────────────────────────────────────────────────────────────────────────────
def test_spots_are_noted_looked_at_and_chosen(window: MainWindow, place: PlaceView) -> None:
    box = place.side.spots
    before = window.document.session
    assert not box.which.isVisibleTo(place)
    two_spots(window, place)
    assert [one.name for one in spots_of(window.document.session, LEFT.id)] == ["Spot 1", "Nearer"]
    assert box.which.currentText() == "Nearer"
    assert "30 cm away" in box.said.text()
    box.which.setCurrentIndex(0)
    assert "60 cm away" in box.said.text()
    box.choose.click()
    setup = window.document.session.setup
    assert setup.placement == before.setup.placement
    assert "chosen 20" in box.said.text()
    window.document.undo()
    assert window.document.session.spots[0].chosen_at == ""
    box.remove.click()
    assert [one.name for one in window.document.session.spots] == ["Nearer"]


def test_a_spot_is_heard_simulated_and_from_its_recording(
    window: MainWindow, place: PlaceView, tmp_path: Path
) -> None:
    box = place.side.spots
    two_spots(window, place)
    path = tmp_path / "tried.wav"
    rng = np.random.default_rng(1)
    soundfile.write(path, 0.02 * rng.standard_normal(96_000), 48_000, subtype="FLOAT")
    recorded = sound(1, file=str(path), name="Tried there")
    window.document.edit("sound file", lambda now: add_sound(now, recorded))
    levels = []
    for number in range(2):
        box.recording.setCurrentIndex(number)
        box.recording.activated.emit(number)
        box.hear.click()
        finished(window)
        assert window.player.request is not None
        heard, _ = soundfile.read(window.player.request.path)
        levels.append(20.0 * float(np.log10(np.sqrt(2.0 * np.mean(heard**2)))))
        box.hear.click()
        assert not window.player.is_playing
    assert levels == pytest.approx([-23.0, -23.0], abs=0.3)
    assert window.document.session.spots[1].sound == "sound_1"
    assert "recorded in Tried there" in box.said.text()


def test_a_blind_comparison_tells_the_names_last(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    two_spots(window, place)
    heard: list[str] = []
    spots = spots_of(window.document.session, LEFT.id)
    dialog = BlindDialog(spots, heard.append, order=random.Random(3))
    qtbot.addWidget(dialog)
    everything = dialog.told.text() + "".join(one.text() for one in dialog.best.values())
    assert not any(one.name in everything for one in spots)
    assert not dialog.accept_button.isEnabled()
    for button in dialog.hear.values():
        button.click()
    assert sorted(heard) == sorted(one.id for one in spots)
    dialog.best["B"].click()
    dialog.accept_button.click()
    assert dialog.chosen == heard[1]
    assert "Nearer" in dialog.told.text()
    assert dialog.result() == 0
    dialog.accept_button.click()
    assert dialog.result() == 1
    dialog.reject()
    assert dialog.chosen is None


def test_what_was_chosen_blind_becomes_the_placement(
    window: MainWindow, place: PlaceView, monkeypatch: pytest.MonkeyPatch
) -> None:
    two_spots(window, place)

    def decide(dialog: BlindDialog) -> int:
        dialog.chosen = "spot"
        return 1

    monkeypatch.setattr(BlindDialog, "exec", decide)
    place.side.spots.blind.click()
    device = next(d for d in window.document.session.setup.devices if d.id == "harp_mic_left")
    assert device.settings["capsule"].distance_m == 0.6
    assert window.document.session.spots[0].chosen_at


# ── one microphone for two, shield, what runs ─────────────────────────────────────────────────
def test_a_second_source_of_the_same_person_is_added_and_taken_out(
    qtbot: QtBot, window: MainWindow, place: PlaceView
) -> None:
    place.choose(VOICE)
    box = place.side.also
    qtbot.waitUntil(lambda: box.entry.count() > 0)
    assert not box.there.isVisibleTo(place)
    box.entry.setCurrentIndex(box.entry.findData("acoustic_guitar"))
    box.add.click()
    session = window.document.session
    assert session.setup.sources[-1].figures.entry == "acoustic_guitar"
    assert box.there.isVisibleTo(place)
    assert box.said.text()
    place.choose(Key("source", session.setup.sources[-1].id))
    assert place.side.remove.isVisibleTo(place)
    place.side.remove.click()
    assert window.document.session.setup.sources == session.setup.sources[:-1]


def test_a_pop_shield_is_ticked(window: MainWindow, place: PlaceView) -> None:
    place.choose(VOICE)
    assert place.side.shield.isChecked()
    place.side.shield.click()
    assert not window.document.session.setup.placement.aims[VOICE.id].has_shield
    assert any(f.rule == "plosives" for f in window.document.assessment.findings)


def test_what_runs_is_ticked_one_by_one(window: MainWindow, place: PlaceView) -> None:
    side = place.side
    assert side.running.none.isVisibleTo(place)
    for kind in ("fan", "music_stand", "window"):
        side.kind.setCurrentIndex(side.kind.findData(kind))
        side.bring.click()
    assert list(side.running.ticks) == ["fan", "window"]
    place.choose(LEFT)
    noisy = window.document.assessment.line("harp_left")
    side.running.ticks["fan"].click()
    quiet = window.document.assessment.line("harp_left")
    assert noisy is not None
    assert quiet is not None
    assert (noisy.noise_dbfs_a or 0.0) > (quiet.noise_dbfs_a or 0.0)
    assert [one.is_on for one in window.document.session.setup.placement.things] == [
        False,
        True,
        True,
    ]


# ── one source ────────────────────────────────────────────────────────────────────────────────
def one_voice(distance_m: float = 0.4) -> Session:
    return wired(
        {"voice": "voice_singing"},
        {"one": "condenser_small", "io": "interface_two"},
        ["voice:out > one:capsule", "one:out > io:in.1"],
        settings={"one:capsule": {"distance_m": distance_m}},
    )


def test_one_source_begins_with_its_starting_point(window: MainWindow, place: PlaceView) -> None:
    window.document.replace(one_voice(2.0), None, is_saved=True)
    assert "First reflections" in place.alone.said
    window.document.replace(one_voice(), None, is_saved=True)
    assert place.plan_or_start.currentWidget() is place.alone
    assert not place.below.isVisibleTo(place)
    said = place.alone.said
    for words in ("Where to begin", "With a tape", "Pop shield"):
        assert words in said
    place.alone.put.click()
    device = next(d for d in window.document.session.setup.devices if d.id == "one")
    assert device.settings["capsule"].distance_m == 0.18
    assert "0.18 m" in place.alone.said
    place.alone.plan.click()
    assert place.plan_or_start.currentWidget() is place.plan
    place.back.click()
    assert place.plan_or_start.currentWidget() is place.alone
    window.document.replace(window.document.session, None, is_saved=True)


def test_the_second_source_brings_plan_and_table(window: MainWindow, place: PlaceView) -> None:
    assert place.plan_or_start.currentWidget() is place.plan
    assert place.below.isVisibleTo(place)
    assert not place.back.isVisibleTo(place)
