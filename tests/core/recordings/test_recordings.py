"""Sound files become part of a session: taken for their signals, looked at place by place, matched, logged."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.conftest import within_prediction
from tests.core.session.test_sounds import sound
from verve.core.assess import Assessment, assess
from verve.core.demo import demo_session
from verve.core.errors import CancelledError, EditError, FileError, InputError
from verve.core.recordings import (
    Analysed,
    Heard,
    Tuning,
    analyse,
    brought_in,
    columns_of,
    guess_role,
    guess_signals,
    loudness_columns,
    matched_gain_db,
    nearest_string,
    places_of,
    sounds_of_take,
    take_from,
    tuning_of_source,
    tunings,
)
from verve.core.session import ChannelFigures, Session, SoundFigures, add_sound
from verve.core.units import FloatArray
from verve.devices import RecordRequest, record

RATE_HZ = 48_000
SESSION = demo_session()
SOUNDING = ("harp_left", "harp_right", "baritone_line", "cello_line", "organ_l", "organ_r")


@pytest.fixture(scope="module")
def demo() -> Assessment:
    return assess(SESSION)


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What the demo's signals would be as files, each under its name."""
    folder = tmp_path_factory.mktemp("recorded") / "take"
    record(
        RecordRequest(
            id=1, session=SESSION, lines=SOUNDING, play="phrase", seconds=6.0, folder=folder, take_id="t",
            take_name="T", recorded_at="2026-11-26T20:00:00", is_paced=False,
        )
    )  # fmt: skip
    return folder


def written(path: Path, samples: FloatArray) -> Path:
    soundfile.write(path, samples, RATE_HZ, subtype="PCM_24")
    return path


def signals_of(found: Assessment, paths: list[Path]) -> list[list[str | None]]:
    came = brought_in(found.session, found, [analyse(path) for path in paths], added_at="now")
    return [[guess.signal for guess in of_it] for of_it in came.guesses]


# ── which signal it is ────────────────────────────────────────────────────────────────────────
def test_files_with_the_names_of_signals_are_taken_for_them(demo: Assessment, files: Path) -> None:
    came = brought_in(
        SESSION, demo, [analyse(p) for p in sorted(files.glob("*.wav"))], added_at="now"
    )
    names = {line.id: line.name for line in SESSION.setup.lines}
    assert len(came.sounds) == len(SOUNDING)
    for one in came.sounds:
        assert one.role == "take"
        assert names[one.signals[0] or ""] == one.name


def test_files_without_names_are_told_by_level_and_noise(
    demo: Assessment, files: Path, tmp_path: Path
) -> None:
    """None is taken for another; most are recognised, those that are alike are left open."""
    names = {line.name: line.id for line in SESSION.setup.lines}
    paths, truth = [], []
    for number, path in enumerate(sorted(files.glob("*.wav"))):
        paths.append(Path(shutil.copy(path, tmp_path / f"Audio {number:02d}.wav")))
        truth.append(names[path.stem])
    guessed = [one[0] for one in signals_of(demo, paths)]
    assert all(one in {None, true} for one, true in zip(guessed, truth, strict=True))
    assert sum(one is not None for one in guessed) >= 3


def test_a_file_of_all_inputs_is_told_by_its_inputs(
    demo: Assessment, files: Path, tmp_path: Path
) -> None:
    names = {line.id: line.name for line in SESSION.setup.lines}
    inputs: dict[int, str] = {}
    for item in demo.lines:
        recorder = item.route.recorder
        assert recorder is not None
        inputs[recorder.figures.input_ports().index(recorder.in_port)] = item.line.id
    channels = []
    for channel in range(max(inputs) + 1):
        line = inputs.get(channel)
        is_there = line in SOUNDING
        channels.append(
            soundfile.read(files / f"{names[line or '']}.wav")[0]
            if is_there
            else np.zeros(6 * RATE_HZ)
        )
    (guessed,) = signals_of(demo, [written(tmp_path / "Evening 3.wav", np.stack(channels, axis=1))])
    for channel, line in inputs.items():
        assert guessed[channel] == (line if line in SOUNDING else None)


def test_the_two_sides_of_a_pair_are_the_two_channels_of_its_file(demo: Assessment) -> None:
    figures = (ChannelFigures(peak_dbfs=-10.0), ChannelFigures(peak_dbfs=-12.0))
    (guesses,) = guess_signals([Heard(stem="02 Harp", channels=figures)], demo)
    assert [one.signal for one in guesses] == ["harp_left", "harp_right"]


def test_no_signal_is_given_to_two_files(demo: Assessment) -> None:
    heard = [
        Heard(stem=f"Voice {n}", channels=(ChannelFigures(peak_dbfs=-10.0),)) for n in range(3)
    ]
    guessed = [one[0].signal for one in guess_signals(heard, demo)]
    assert guessed.count("voice") == 1


def test_silence_is_no_signal(demo: Assessment) -> None:
    ((guess,),) = guess_signals([Heard(stem="Voice", channels=(ChannelFigures(),))], demo)
    assert (guess.signal, guess.why) == (None, "silent")


def test_a_backing_track_is_told_by_its_name(demo: Assessment, tmp_path: Path) -> None:
    tone = 0.2 * np.sin(np.arange(RATE_HZ) * 0.05)
    path = written(tmp_path / "Evening backing track.wav", np.stack([tone, tone], axis=1))
    came = brought_in(SESSION, demo, [analyse(path)], added_at="now")
    assert came.sounds[0].role == "backing"
    assert came.sounds[0].signals == ()
    assert guess_role("Room at night", ()) == "measurement"


def test_what_a_take_says_of_its_files_counts_more_than_their_names(
    demo: Assessment, files: Path
) -> None:
    path = files / "Harp left.wav"
    came = brought_in(SESSION, demo, [analyse(path)], added_at="now", signals={str(path): "voice"})
    assert came.sounds[0].signals == ("voice",)
    assert came.guesses[0][0].why == "told"


def test_what_is_in_the_session_is_not_brought_in_twice(demo: Assessment, files: Path) -> None:
    found = analyse(files / "Harp left.wav")
    once = brought_in(SESSION, demo, [found, found], added_at="now")
    assert len(once.sounds) == 1
    again = brought_in(once.session, demo, [found], added_at="later")
    assert (again.sounds, [one.name for one in again.known]) == ((), ["Harp left"])
    assert again.session == once.session


# ── bad files ─────────────────────────────────────────────────────────────────────────────────
def test_a_file_that_changes_while_it_is_read_is_refused(tmp_path: Path) -> None:
    path = written(tmp_path / "growing.wav", np.full(RATE_HZ, 0.1))

    def report(share: float) -> None:
        if share == 1.0:
            with path.open("ab") as file:
                file.write(b"more")

    with pytest.raises(FileError, match="was changed while it was read"):
        analyse(path, report)


def test_a_name_that_is_no_text_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "caf\udce9.wav"
    written(tmp_path / "plain.wav", np.full(1000, 0.1)).rename(path)
    with pytest.raises(FileError, match="has a name that is no text"):
        analyse(path)


def test_reading_is_told_and_can_be_stopped(tmp_path: Path) -> None:
    path = written(tmp_path / "long.wav", np.full(20 * RATE_HZ, 0.1))
    shares: list[float] = []
    analyse(path, shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    with pytest.raises(CancelledError):
        analyse(path, is_stopped=lambda: True)


# ── places and pictures ───────────────────────────────────────────────────────────────────────
def with_faults(tmp_path: Path) -> Analysed:
    t = np.arange(8 * RATE_HZ) / RATE_HZ
    wave = 0.1 * np.sin(2.0 * np.pi * 220.0 * t) + 1e-4 * np.random.default_rng(1).standard_normal(
        len(t)
    )
    wave[: 2 * RATE_HZ] *= 0.001
    hot = slice(4 * RATE_HZ, 4 * RATE_HZ + 9600)
    wave[hot] = np.clip(14.0 * wave[hot], -0.8, 0.8)
    wave[6 * RATE_HZ : 6 * RATE_HZ + 500] = 0.0
    return analyse(written(tmp_path / "faults.wav", wave))


def test_places_are_where_the_faults_are_in_the_order_of_time(tmp_path: Path) -> None:
    places = places_of(with_faults(tmp_path).recording, 0)
    assert [one.start_s for one in places] == sorted(one.start_s for one in places)
    clipped = [one for one in places if one.kind == "clipped"]
    (gap,) = [one for one in places if one.kind == "gap"]
    assert len(clipped) == 1, "runs that belong together are one place"
    assert clipped[0].count > 50
    assert clipped[0].start_s == pytest.approx(4.0, abs=0.01)
    assert clipped[0].end_s == pytest.approx(4.2, abs=0.01)
    assert clipped[0].level_dbfs == pytest.approx(20.0 * np.log10(0.8), abs=0.2)
    assert (gap.start_s, gap.frames) == (pytest.approx(6.0, abs=1e-3), pytest.approx(500, abs=3))
    loudest = next(one for one in places if one.kind == "loudest")
    assert 3.9 <= loudest.start_s <= 4.2


@pytest.mark.parametrize("count", [1, 7, 160, 5000])
def test_columns_hold_every_window_they_span(tmp_path: Path, count: int) -> None:
    recording = with_faults(tmp_path).recording
    columns = columns_of(recording, 0, 0.0, recording.seconds, count)
    assert len(columns) == count
    assert columns[0].start_s == 0.0
    assert columns[-1].end_s == pytest.approx(recording.seconds)
    highest = max(column.peak_dbfs for column in columns if column.peak_dbfs is not None)
    assert highest == pytest.approx(recording.channels[0].peak_dbfs, abs=1e-6)
    for column in columns:
        if column.lowest_dbfs is not None and column.highest_dbfs is not None:
            assert column.lowest_dbfs <= column.highest_dbfs


def test_loudness_over_time_reaches_what_the_programme_says(tmp_path: Path) -> None:
    recording = with_faults(tmp_path).recording
    found = loudness_columns(recording, 0.0, recording.seconds, 300)
    assert recording.programme is not None
    assert max(one for _, one, _ in found if one is not None) == pytest.approx(
        recording.programme.max_momentary_lufs, abs=1e-9
    )
    assert found[0][1] is None, "before its window fits there is none"


# ── matched ───────────────────────────────────────────────────────────────────────────────────
def loud(number: int, lufs: float | None, rms: float | None = -20.0, channels: int = 1):  # type: ignore[no-untyped-def]
    figures = SoundFigures(
        channels=(ChannelFigures(rms_dbfs=rms),) * channels, integrated_lufs=lufs
    )
    return sound(number, figures=figures)


def test_the_louder_one_comes_down_and_the_quieter_stays() -> None:
    one, other = loud(1, -14.0), loud(2, -23.5)
    assert matched_gain_db(one, other) == pytest.approx(-9.5)
    assert matched_gain_db(other, one) == 0.0


def test_files_of_many_channels_are_matched_by_their_power() -> None:
    assert matched_gain_db(
        loud(1, -14.0, -18.0), loud(2, None, -30.0, channels=4), other_channel=2
    ) == pytest.approx(-12.0)
    assert matched_gain_db(loud(1, -14.0), loud(2, None, None)) is None


def test_matched_files_have_one_loudness_when_played(tmp_path: Path) -> None:
    """Within 0.1 LU, measured again of what is heard."""
    from verve.core.soundfiles import Playback, PlayRequest, measure_file

    rng = np.random.default_rng(8)
    session = Session()
    for name, gain in (("a", 0.3), ("b", 0.05)):
        path = written(
            tmp_path / f"{name}.wav", gain * rng.standard_normal(5 * RATE_HZ).clip(-2, 2)
        )
        came = brought_in(session, assess(session), [analyse(path)], added_at="")
        session = came.session
    one, other = session.sounds
    heard = []
    for this, that in ((one, other), (other, one)):
        gain_db = matched_gain_db(this, that)
        assert gain_db is not None
        with Playback(PlayRequest(path=Path(this.file), gain_db=gain_db), RATE_HZ) as playback:
            played = written(tmp_path / "heard.wav", playback.read(4 * RATE_HZ)[:, 0])
        programme = measure_file(played).programme
        assert programme is not None
        assert programme.integrated_lufs is not None
        heard.append(programme.integrated_lufs)
    assert heard[0] == pytest.approx(heard[1], abs=0.1)


# ── logged ────────────────────────────────────────────────────────────────────────────────────
def test_files_that_came_together_are_one_take_with_what_is_set_now(
    demo: Assessment, files: Path
) -> None:
    found = [analyse(p) for p in sorted(files.glob("*.wav"))]
    came = brought_in(SESSION, demo, found, added_at="2026-11-26T20:00:00")
    together = sounds_of_take(came.session, came.sounds[0])
    assert len(together) == len(SOUNDING)
    take = take_from(together, assess(came.session), "2026-11-26T19:00:00")
    assert {track.line for track in take.tracks} == set(SOUNDING)
    assert take.setup == SESSION.setup
    for track in take.tracks:
        within_prediction(track, came.session, "phrase", abs_db=1.5)


def test_a_file_that_holds_no_signal_is_no_take(demo: Assessment) -> None:
    with pytest.raises(EditError, match="no channel is assigned"):
        take_from([sound()], demo, "")


def test_files_of_other_days_or_signals_are_other_takes() -> None:
    session = Session()
    for number, (added, signal, frames) in enumerate(
        [
            ("a", "voice", 96_000),
            ("b", "harp_left", 96_000),
            ("a", "voice", 96_000),
            ("a", "harp_right", 960_000),
        ]
    ):
        session = add_sound(
            session, sound(number, added_at=added, signals=(signal,), frames=frames)
        )
    assert sounds_of_take(session, session.sounds[0]) == session.sounds[:1]


# ── tunings ───────────────────────────────────────────────────────────────────────────────────
def test_strings_are_where_equal_temperament_has_them() -> None:
    violin = Tuning.of("Violin", "G3 D4 A4 E5")
    assert [round(one.hz(440.0), 2) for one in violin.strings] == [196.0, 293.66, 440.0, 659.26]
    assert nearest_string(violin, 445.0, 440.0)[0].note == "A4"
    assert nearest_string(violin, 196.0, 440.0)[1] == pytest.approx(0.0, abs=0.1)
    assert Tuning.of("", "Bb1 F#3").notes == "A#1 F#3"


@pytest.mark.parametrize("notes", ["", "H2", "E2 A", "E2 A2 x", " ".join(["E2"] * 25)])
def test_what_is_no_tuning_is_refused(notes: str) -> None:
    with pytest.raises(InputError, match=r"tuning: must be"):
        Tuning.of("", notes)


def test_instruments_of_the_catalogue_have_their_strings() -> None:
    names = {one.name for one in tunings()}
    assert {"Viola", "Cello", "Acoustic guitar", "Bass, five strings"} <= names
    assert len({one.notes for one in tunings()}) == len(tunings())
    baritone = next(s for s in SESSION.setup.sources if "aritone" in s.name)
    assert tuning_of_source(baritone.figures) is not None or baritone.figures.entry is None
