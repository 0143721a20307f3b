"""A bounce is as loud as it was asked for and never over its ceiling, by a measurement of another kind."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.mix.recorded import (
    RATE_HZ,
    loudness_lufs,
    song_of_two_sections,
    sung,
    sung_with_a_double,
    tone,
    true_peak_dbtp,
    with_take,
    write,
)
from verve.core.errors import CancelledError, FileError, InputError
from verve.core.measure import Meter, ProgrammeMeter
from verve.core.mix import MOST_LIMITED_DB, Aim, bounce, plan_of_mix, rendered, standing_of
from verve.core.session import (
    ChannelFigures,
    MixLine,
    Session,
    Sound,
    SoundFigures,
    add_sound,
    change_mix_line,
    set_mix,
)


@pytest.fixture
def recorded(tmp_path: Path) -> Session:
    return sung_with_a_double(tmp_path)


@pytest.mark.parametrize("suffix", [".wav", ".flac"])
@pytest.mark.parametrize("asked", [-23.0, -16.0, -12.0])
def test_a_bounce_is_as_loud_as_it_was_asked_for(
    recorded: Session, tmp_path: Path, suffix: str, asked: float
) -> None:
    path = tmp_path / f"mix{suffix}"
    found = bounce(plan_of_mix(recorded), path, Aim(loudness_lufs=asked, ceiling_dbtp=-1.0))
    samples, rate_hz = soundfile.read(path, always_2d=True)
    assert (rate_hz, samples.shape) == (RATE_HZ, (8 * RATE_HZ, 2))
    lufs, peak = loudness_lufs(samples.T), true_peak_dbtp(samples.T)
    assert peak <= -1.0 + 0.2
    assert found.limited_db <= MOST_LIMITED_DB + 0.1
    assert found.lufs == pytest.approx(lufs, abs=0.05)
    if found.said:
        assert lufs < asked
        assert f"{lufs:.1f}".replace("-", "−") in found.said
    else:
        assert lufs == pytest.approx(asked, abs=0.1)


def test_without_a_limiter_it_is_as_loud_as_the_ceiling_allows(
    recorded: Session, tmp_path: Path
) -> None:
    path = tmp_path / "mix.wav"
    aim = Aim(loudness_lufs=-6.0, ceiling_dbtp=-1.0, may_limit=False)
    found = bounce(plan_of_mix(recorded), path, aim)
    samples, _ = soundfile.read(path, always_2d=True)
    assert true_peak_dbtp(samples.T) == pytest.approx(-1.0, abs=0.1)
    assert found.limited_db == 0.0
    assert "without a limiter" in found.said


@settings(max_examples=5)
@given(
    seed=st.integers(0, 999),
    ceiling=st.floats(-6.0, -0.1),
    asked=st.floats(-20.0, -8.0),
    spikes=st.integers(0, 60),
)
def test_the_ceiling_is_never_exceeded(
    tmp_path_factory: pytest.TempPathFactory, seed: int, ceiling: float, asked: float, spikes: int
) -> None:
    folder = tmp_path_factory.mktemp("mix")
    rng = np.random.default_rng(seed)
    samples = sung(8.0, seed)
    samples[rng.integers(0, len(samples), spikes)] = rng.choice([-0.9, 0.9], spikes)
    session = with_take(song_of_two_sections(), folder, 1, {"voice": samples})
    aim = Aim(loudness_lufs=asked, ceiling_dbtp=ceiling)
    found = bounce(plan_of_mix(session), folder / "mix.wav", aim)
    written, _ = soundfile.read(folder / "mix.wav", always_2d=True)
    assert true_peak_dbtp(written.T) <= ceiling + 0.2
    if not found.said:
        assert loudness_lufs(written.T) == pytest.approx(asked, abs=0.1)


def test_the_quick_meter_agrees_with_the_whole_one() -> None:
    samples = np.stack([sung(5.0, 3), sung(5.0, 4)])
    quick = ProgrammeMeter(channels=2, rate_hz=RATE_HZ)
    for at in range(0, samples.shape[1], 10_007):
        quick.feed(samples[:, at : at + 10_007])
    meter = Meter(channels=2, rate_hz=RATE_HZ, bit_depth=24)
    whole = meter.result(meter.fold(meter.start(), samples)).programme
    assert whole is not None
    assert quick.integrated_lufs == pytest.approx(whole.integrated_lufs, abs=0.01)
    assert quick.true_peak_dbtp == pytest.approx(whole.true_peak_dbtp, abs=0.02)
    with pytest.raises(InputError, match="multiple of 100"):
        ProgrammeMeter(channels=2, rate_hz=44_056)


def level_db(samples: np.ndarray, hz: float) -> float:
    """How strong a tone is in the middle of a sound."""
    middle = samples[len(samples) // 4 : 3 * len(samples) // 4]
    at = np.arange(len(middle)) / RATE_HZ
    return float(20.0 * np.log10(2.0 * np.abs(np.mean(middle * np.exp(-2j * np.pi * hz * at)))))


def test_doubles_stand_left_and_right_under_the_lead(recorded: Session) -> None:
    stands = {one.name: one for one in standing_of(recorded)}
    assert stands["Voice"].standing == "lead"
    assert stands["Voice double"].trim_db == -6.0
    assert stands["Voice double"].pan == -0.7
    assert (stands["Harp left"].pan, stands["Harp right"].pan) == (-1.0, 1.0)
    whole = np.concatenate(list(rendered(plan_of_mix(recorded))), axis=1)
    # The harp's left side is on the left alone; its right one on the right.
    assert level_db(whole[0], 330.0) == pytest.approx(-20.0, abs=1.0)
    assert level_db(whole[1], 330.0) < -35.0


def test_a_low_cut_and_a_trim_do_what_they_say(tmp_path: Path) -> None:
    session = with_take(song_of_two_sections(), tmp_path, 1, {"cello_line": tone(50.0, 8.0)})
    plain = np.concatenate(list(rendered(plan_of_mix(session))), axis=1)
    cut = change_mix_line(session, MixLine(line="cello_line", low_cut_hz=100.0, trim_db=-3.0))
    found = np.concatenate(list(rendered(plan_of_mix(cut))), axis=1)
    # Second order: 12.3 dB an octave below its corner, and 3 dB of trim.
    expected = -10.0 * np.log10(1.0 + (100.0 / 50.0) ** 4) - 3.0
    assert level_db(found[0], 50.0) - level_db(plain[0], 50.0) == pytest.approx(expected, abs=0.2)
    gone = change_mix_line(session, MixLine(line="cello_line", is_muted=True))
    assert plan_of_mix(gone).voices == ()


def backing(path: Path, content: str = "0" * 32) -> Sound:
    figures = SoundFigures(channels=(ChannelFigures(), ChannelFigures()))
    return Sound(
        id="track", name="Track", file=str(path), content=content, size_bytes=10, role="backing",
        sample_rate_hz=RATE_HZ, frames=8 * RATE_HZ, figures=figures,
    )  # fmt: skip


def test_the_backing_goes_down_while_somebody_sings(tmp_path: Path) -> None:
    voice = np.concatenate([np.zeros(4 * RATE_HZ), sung(4.0) + tone(220.0, 4.0, 0.2)])
    session = with_take(song_of_two_sections(), tmp_path, 1, {"voice": voice})
    track = write(tmp_path / "track.wav", np.stack([tone(3000.0, 8.0), tone(3000.0, 8.0)]))
    session = add_sound(session, backing(track))
    session = set_mix(session, session.mix.model_copy(update={"duck_lu": 6.0}))
    whole = np.concatenate(list(rendered(plan_of_mix(session))), axis=1)[0]
    before, under = whole[: 4 * RATE_HZ], whole[5 * RATE_HZ :]
    assert level_db(before, 3000.0) == pytest.approx(-20.0, abs=0.1)
    assert level_db(under, 3000.0) == pytest.approx(-26.0, abs=0.7)
    muted = session.model_copy(
        update={"sounds": (session.sounds[0].model_copy(update={"is_muted": True}),)}
    )
    assert plan_of_mix(muted).backings == ()


def test_what_cannot_be_bounced_is_told_and_leaves_nothing(
    recorded: Session, tmp_path: Path
) -> None:
    plan, aim = plan_of_mix(recorded), Aim(loudness_lufs=-16.0, ceiling_dbtp=-1.0)
    with pytest.raises(InputError, match=r"must end in \.flac or \.wav"):
        bounce(plan, tmp_path / "mix.mp3", aim)
    with pytest.raises(CancelledError):
        bounce(plan, tmp_path / "mix.wav", aim, lambda share: share < 0.3)
    with pytest.raises(FileError):
        bounce(plan, Path("/proc/nowhere/mix.wav"), aim)
    assert not list(tmp_path.glob("*.wav"))
    with pytest.raises(InputError, match="record a take first"):
        bounce(plan_of_mix(song_of_two_sections()), tmp_path / "mix.wav", aim)
    Path(recorded.takes[0].tracks[0].file).unlink()
    with pytest.raises(FileError, match="no such file"):
        bounce(plan_of_mix(recorded), tmp_path / "mix.wav", aim)
    assert not list(tmp_path.glob("*.wav"))


def test_dry_takes_stay_as_they_are(recorded: Session, tmp_path: Path) -> None:
    files = [Path(track.file) for take in recorded.takes for track in take.tracks]
    before = [file.read_bytes() for file in files]
    bounce(plan_of_mix(recorded), tmp_path / "mix.wav", Aim(loudness_lufs=-10.0, ceiling_dbtp=-1.0))
    assert [file.read_bytes() for file in files] == before
