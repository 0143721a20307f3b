"""The simulated interface: what it records is what was computed."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.conftest import within_prediction
from verve.core.assess import assess
from verve.core.errors import CancelledError, InputError
from verve.core.gear import InterfaceFigures
from verve.core.session import (
    Audio,
    Change,
    Device,
    Play,
    Session,
    Take,
    set_audio,
    set_control,
)
from verve.devices import (
    ListenRequest,
    Progress,
    RecordRequest,
    arrivals,
    free_folder,
    listen,
    record,
)


def request_for(
    session: Session,
    folder: Path,
    lines: tuple[str, ...] = ("voice",),
    play: Play = "hardest",
    seconds: float = 6.0,
    *,
    is_paced: bool = False,
) -> RecordRequest:
    return RecordRequest(
        id=7,
        session=session,
        lines=lines,
        play=play,
        seconds=seconds,
        folder=folder,
        take_id="take_1",
        take_name="Take 1",
        recorded_at="2026-05-04T20:15:00+02:00",
        is_paced=is_paced,
    )


def all_lines(session: Session) -> tuple[str, ...]:
    return tuple(line.id for line in session.setup.lines)


def held_against_prediction(take: Take) -> None:
    for track in take.tracks:
        if track.peak_dbfs.predicted is None:
            # A dead line: what is heard is the input's own hiss.
            assert track.peak_dbfs.measured is None or track.peak_dbfs.measured < -80.0
            continue
        assert take.setup is not None
        within_prediction(track, Session(setup=take.setup), take.play)
        measured, predicted = track.noise_dbfs_a.measured, track.noise_dbfs_a.predicted
        assert measured is not None
        assert predicted is not None
        assert measured == pytest.approx(predicted, abs=1.5), track


@pytest.mark.parametrize("play", ["softest", "typical", "hardest", "phrase"])
def test_every_line_of_the_demo_as_it_ships_agrees_with_its_prediction(
    demo: Session, tmp_path: Path, play: Play
) -> None:
    held_against_prediction(record(request_for(demo, tmp_path, all_lines(demo), play)))


@pytest.mark.parametrize("play", ["softest", "hardest"])
def test_every_line_of_the_mended_demo_agrees_with_its_prediction(
    mended: Session, tmp_path: Path, play: Play
) -> None:
    take = record(request_for(mended, tmp_path, all_lines(mended), play, 10.0))
    held_against_prediction(take)
    assert all(track.clipped_frames == 0 for track in take.tracks)


@pytest.mark.parametrize(
    "audio",
    [
        Audio(sample_rate_hz=44100, bit_depth=16),
        Audio(sample_rate_hz=88200),
        Audio(sample_rate_hz=96000, bit_depth=24),
    ],
)
def test_it_records_at_the_rate_and_depth_of_the_session(
    mended: Session, tmp_path: Path, audio: Audio
) -> None:
    take = record(request_for(set_audio(mended, audio), tmp_path, ("voice", "harp_left")))
    held_against_prediction(take)
    info = soundfile.info(take.tracks[0].file)
    assert info.samplerate == audio.sample_rate_hz
    assert info.subtype == f"PCM_{audio.bit_depth}"
    assert info.frames == 6 * audio.sample_rate_hz


def test_a_gain_too_high_clips_the_recording(mended: Session, tmp_path: Path) -> None:
    change = Change(owner="interface", channel="in.1", name="gain_db", value=35.0)
    take = record(request_for(set_control(mended, change), tmp_path))
    (track,) = take.tracks
    assert track.clipped_frames > 100
    assert track.peak_dbfs.measured == pytest.approx(0.0, abs=0.01)
    assert track.peak_dbfs.predicted == 0.0


def clipping_inline(session: Session, max_output_dbu: float, high_pass_hz: float | None) -> Session:
    """The voice's inline preamp clips at so much; behind it the interface's input has a low cut, or none."""

    def with_figures(device: Device) -> Device:
        figures = device.figures
        if device.id == "inline":
            changed = figures.model_copy(update={"max_output_dbu": max_output_dbu})
            return device.model_copy(update={"figures": changed})
        if not isinstance(figures, InterfaceFigures) or high_pass_hz is None:
            return device
        first = figures.inputs[0].model_copy(update={"high_pass_hz": high_pass_hz})
        changed = figures.model_copy(update={"inputs": (first, *figures.inputs[1:])})
        return device.model_copy(update={"figures": changed})

    devices = tuple(with_figures(device) for device in session.setup.devices)
    setup = session.setup.model_copy(update={"devices": devices})
    changed = session.model_copy(update={"setup": setup})
    if high_pass_hz is None:
        return changed
    on = Change(owner="interface", channel="in.1", name="high_pass", value=True)
    return set_control(changed, on)


@pytest.mark.parametrize(
    ("high_pass_hz", "ceiling_dbu"), [(None, -24.0), (None, -30.0), (80.0, -30.0), (200.0, -24.0)]
)
def test_what_clips_on_the_way_ends_where_it_is_said_to(
    alone: Session, tmp_path: Path, ceiling_dbu: float, high_pass_hz: float | None
) -> None:
    session = clipping_inline(alone, ceiling_dbu, high_pass_hz)
    item = assess(session).line("voice")
    assert item is not None
    expected = item.predicted_range("hardest")
    assert expected is not None
    width_db = expected.high_dbfs - expected.low_dbfs
    assert width_db == pytest.approx(1.43 if high_pass_hz is None else 9.16, abs=0.01)
    unclipped = item.state.peak_dbfs
    assert unclipped is not None
    assert expected.low_dbfs < unclipped - 3.0
    (track,) = record(request_for(session, tmp_path)).tracks
    measured = track.peak_dbfs.measured
    assert measured is not None
    assert expected.low_dbfs - 0.5 <= measured <= expected.high_dbfs + 0.5


def test_a_ceiling_before_the_recorder_flattens_the_wave_below_full_scale(
    mended: Session, tmp_path: Path
) -> None:
    devices = tuple(
        d.model_copy(update={"figures": d.figures.model_copy(update={"max_output_dbu": -25.0})})
        if d.id == "inline"
        else d
        for d in mended.setup.devices
    )
    session = mended.model_copy(
        update={"setup": mended.setup.model_copy(update={"devices": devices})}
    )
    item = assess(session).line("voice")
    assert item is not None
    assert item.verdict.startswith("would clip")
    (track,) = record(request_for(session, tmp_path)).tracks
    samples, _ = soundfile.read(track.file)
    peak = float(np.max(np.abs(samples)))
    assert 20.0 * np.log10(peak) < -10.0
    # Flattened: far more of the wave is near its top than of an unharmed one.
    assert np.mean(np.abs(samples) > 0.93 * peak) > 0.01


def test_a_low_cut_takes_the_bass_of_the_recording(mended: Session, tmp_path: Path) -> None:
    def bass(session: Session, name: str) -> float:
        take = record(request_for(session, tmp_path / name, ("harp_left",)))
        samples, rate = soundfile.read(take.tracks[0].file)
        power = np.abs(np.fft.rfft(samples)) ** 2
        hz = np.fft.rfftfreq(len(samples), 1.0 / rate)
        return float(10.0 * np.log10(power[(hz > 20.0) & (hz < 50.0)].sum()))

    cut = Change(owner="interface", channel="in.2", name="high_pass", value=True)
    assert bass(set_control(mended, cut), "cut") < bass(mended, "flat") - 4.0


def test_the_same_session_gives_the_same_sound(mended: Session, tmp_path: Path) -> None:
    first = record(request_for(mended, tmp_path / "a")).tracks[0].file
    second = record(request_for(mended, tmp_path / "b")).tracks[0].file
    assert Path(first).read_bytes() == Path(second).read_bytes()


def test_a_pair_hears_one_player(alone: Session, tmp_path: Path) -> None:
    take = record(request_for(alone, tmp_path, ("harp_left", "harp_right")))
    left, _ = soundfile.read(take.tracks[0].file)
    right, _ = soundfile.read(take.tracks[1].file)
    assert np.corrcoef(left, right)[0, 1] > 0.99


def test_progress_ends_at_one_and_reports_every_line(mended: Session, tmp_path: Path) -> None:
    seen: list[Progress] = []
    record(request_for(mended, tmp_path, ("voice", "harp_left"), seconds=3.0), seen.append)
    shares = [p.share for p in seen if p.share is not None]
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)
    assert all(set(p.peaks_dbfs) == {"voice", "harp_left"} for p in seen)
    assert all(p.id == 7 for p in seen)
    peaks = [p.peaks_dbfs["voice"] for p in seen if p.peaks_dbfs["voice"] is not None]
    assert max(peaks) == pytest.approx(-7.8, abs=1.0)


def test_a_cancelled_recording_leaves_nothing(mended: Session, tmp_path: Path) -> None:
    calls = iter(range(1000))
    with pytest.raises(CancelledError):
        record(request_for(mended, tmp_path / "t"), is_cancelled=lambda: next(calls) > 5)
    assert [p for p in tmp_path.rglob("*") if p.is_file()] == []


def test_two_lines_with_like_names_get_files_of_their_own(mended: Session, tmp_path: Path) -> None:
    lines = tuple(
        line.model_copy(
            update={"name": {"voice": "a/b", "harp_left": "a:b"}.get(line.id, line.name)}
        )
        for line in mended.setup.lines
    )
    session = mended.model_copy(update={"setup": mended.setup.model_copy(update={"lines": lines})})
    take = record(request_for(session, tmp_path, ("voice", "harp_left"), seconds=3.0))
    assert [Path(t.file).name for t in take.tracks] == ["a b.wav", "a b 2.wav"]


def test_a_line_that_does_not_arrive_cannot_be_recorded(mended: Session, tmp_path: Path) -> None:
    links = tuple(link for link in mended.setup.links if link.id != "di_cable")
    session = mended.model_copy(update={"setup": mended.setup.model_copy(update={"links": links})})
    assert "baritone_line" not in arrivals(assess(session))
    with pytest.raises(InputError, match="line: must be one of voice"):
        record(request_for(session, tmp_path, ("baritone_line",)))


@pytest.mark.parametrize("seconds", [0.0, 2.9, 60.1, -1.0, float("nan")])
def test_lengths_out_of_range_are_refused(mended: Session, tmp_path: Path, seconds: float) -> None:
    with pytest.raises(InputError, match="seconds: must be 3 to 60"):
        request_for(mended, tmp_path, seconds=seconds)


def test_a_take_needs_a_line_that_is_there(mended: Session, tmp_path: Path) -> None:
    with pytest.raises(InputError, match="at least one signal"):
        request_for(mended, tmp_path, lines=())
    with pytest.raises(InputError, match="must be signals of the session"):
        record(request_for(mended, tmp_path, lines=("nobody",)))


def test_listening_reports_until_it_is_stopped(mended: Session) -> None:
    seen: list[Progress] = []
    stop = threading.Event()

    def report(progress: Progress) -> None:
        seen.append(progress)
        if len(seen) == 4:
            stop.set()

    request = ListenRequest(id=3, session=mended, lines=("voice",), play="typical")
    listen(request, report, stop.is_set)
    assert len(seen) == 4
    assert all(p.share is None for p in seen)


def test_a_new_take_never_writes_into_the_folder_of_another(tmp_path: Path) -> None:
    assert free_folder(tmp_path, "Take 1") == tmp_path / "Take 1"
    (tmp_path / "Take 1").mkdir()
    assert free_folder(tmp_path, "Take 1") == tmp_path / "Take 1 (2)"
