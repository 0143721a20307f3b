"""Loop-backs on the simulated interface and from files, and one's own sound as it comes back."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from verve.core.demo import demo_session
from verve.core.errors import InputError
from verve.core.measure import loop_signal
from verve.core.monitor import dropouts_told, ledger_of
from verve.core.session import Session, change_cue, cue_of, set_audio
from verve.core.units import FloatArray
from verve.devices import (
    SIMULATED_FIXED_MS,
    SpotRequest,
    heard_sound,
    late_by,
    loop_of_file,
    simulated_loop,
    spot_sound,
    write_heard,
    write_loop_signal,
)


def with_buffer(frames: int, **cue: object) -> Session:
    demo = demo_session()
    demo = set_audio(demo, demo.setup.audio.model_copy(update={"buffer_frames": frames}))
    return change_cue(demo, "singer", cue)


def nothing(_: float) -> None:
    return


@pytest.mark.parametrize("frames", [32, 256])
def test_the_stand_in_brings_back_its_own_delay(frames: int) -> None:
    shares: list[float] = []
    result = simulated_loop(with_buffer(frames), shares.append, lambda: False)
    assert result.found is not None
    assert result.found.delay_ms == pytest.approx(
        2000.0 * frames / 48_000.0 + SIMULATED_FIXED_MS, abs=0.01
    )
    assert shares == sorted(shares)
    assert shares[-1] == 1.0


def test_it_stops_by_itself_and_when_it_is_called_off() -> None:
    def howls(returned: FloatArray) -> FloatArray:
        return np.asarray(returned * np.exp(np.linspace(0.0, 9.0, returned.shape[1])))

    result = simulated_loop(with_buffer(64), nothing, lambda: False, spoiled=howls)
    assert result.found is None
    assert result.stopped in {"rises", "too loud"}
    gone = simulated_loop(with_buffer(64), nothing, lambda: True)
    assert (gone.found, gone.stopped) == (None, None)


def test_a_recording_of_the_test_signal_is_read(tmp_path: Path) -> None:
    path = write_loop_signal(48_000, tmp_path / "test.wav")
    sent, rate_hz = soundfile.read(path, always_2d=True)
    assert rate_hz == 48_000
    late = np.stack([late_by(np.pad(one, (0, 9600)), 1234.5) for one in sent.T])
    soundfile.write(tmp_path / "back.wav", late.T, 48_000, subtype="FLOAT")
    result = loop_of_file(tmp_path / "back.wav", 48_000)
    assert result.found is not None
    assert result.found.delay_frames == pytest.approx(1234.5, abs=0.1)
    assert result.dropouts == 0
    holes = late.copy()
    for second in (2, 3, 4):
        holes[:, second * 48_000 : second * 48_000 + 600] = 0.0
    soundfile.write(tmp_path / "back.wav", holes.T, 48_000, subtype="FLOAT")
    result = loop_of_file(tmp_path / "back.wav", 48_000)
    assert result.dropouts >= 3
    assert "dropped out" in dropouts_told(result.dropouts)[0]
    assert dropouts_told(0) == ()


def test_what_cannot_be_read_is_said(tmp_path: Path) -> None:
    back = tmp_path / "back.wav"
    soundfile.write(back, loop_signal(44_100).T, 44_100)
    with pytest.raises(InputError, match="must be 48000 Hz"):
        loop_of_file(back, 48_000)
    soundfile.write(back, np.zeros((48_000, 2)), 48_000)
    with pytest.raises(InputError, match="must not be silent"):
        loop_of_file(back, 48_000)
    rng = np.random.default_rng(2)
    soundfile.write(back, 0.1 * rng.standard_normal((6 * 48_000, 2)), 48_000)
    unrelated = loop_of_file(back, 48_000).found
    assert unrelated is not None
    assert not unrelated.found
    # Mono, clipped and too short: an answer, or that there is none.
    short = loop_signal(48_000)[0, : 3 * 48_000]
    soundfile.write(back, np.clip(short * 200.0, -1.0, 1.0), 48_000)
    answer = loop_of_file(back, 48_000).found
    assert answer is not None
    assert answer.reason or answer.found


# ── heard ─────────────────────────────────────────────────────────────────────────────────────
def test_two_ways_are_heard_as_far_apart_as_they_are() -> None:
    # Nobody's voice: what goes by wire is heard by its ways alone.
    session = change_cue(with_buffer(256), "guitarist", {"ways": ("direct", "software")})
    both, rate_hz = heard_sound(session, "guitarist")
    cue = cue_of(session.setup, "guitarist")
    late = [ledger_of(session, cue, way).total_ms for way in ("direct", "software")]
    apart = round((late[1] - late[0]) * rate_hz / 1000.0)
    spectrum = np.abs(np.fft.rfft(both, 1 << 20)) ** 2
    echo = np.fft.irfft(spectrum)
    window = echo[apart - 40 : apart + 41]
    assert abs(int(np.argmax(window)) - 40) <= 20
    assert float(np.abs(both).max()) < 0.9
    assert np.abs(both[:2400]).max() <= np.abs(both).max() * 0.2


def test_the_direct_way_alone_is_what_is_left_without_the_software() -> None:
    session = with_buffer(256)
    alone, _ = heard_sound(session, "singer", "direct")
    whole, _ = heard_sound(session, "singer")
    left, _ = heard_sound(change_cue(session, "singer", {"ways": ("direct",)}), "singer")
    # Her own voice is in her head by either; only the echo is gone.
    assert np.array_equal(alone, left)
    assert not np.allclose(alone, whole, atol=1e-3)
    assert np.sqrt(np.mean(alone**2)) == pytest.approx(np.sqrt(np.mean(whole**2)), rel=0.01)


def test_who_else_is_in_the_microphone_is_heard_without_oneself() -> None:
    session = demo_session()
    others, rate_hz = heard_sound(session, "singer", "others")
    request = SpotRequest(microphone="voice_mic:capsule", whom="others")
    placed, _ = spot_sound(session, request)
    # The same sound as Place lets one hear, softly and faded in.
    apart = slice(rate_hz, None)
    assert float(np.corrcoef(others[apart], placed[apart])[0, 1]) == pytest.approx(1.0, abs=1e-9)
    assert np.abs(others).max() < np.abs(placed).max()
    with pytest.raises(InputError, match="goes by wire"):
        heard_sound(session, "guitarist", "others")


def test_nobody_and_nothing_are_refused(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="somebody who plays"):
        heard_sound(demo_session(), "tubist")
    with pytest.raises(InputError, match="no monitoring"):
        heard_sound(with_buffer(64, worn="nothing"), "singer")
    with pytest.raises(InputError, match="no monitoring"):
        heard_sound(with_buffer(64, worn="nothing"), "singer", "direct")
    path = write_heard(demo_session(), "singer", tmp_path / "heard.wav")
    assert soundfile.info(path).samplerate == 48_000


def test_a_delay_is_exact_to_a_fraction_of_a_frame() -> None:
    rng = np.random.default_rng(3)
    wave = np.convolve(rng.standard_normal(4000), np.hanning(9), "same")
    half = late_by(late_by(wave, 10.5), 10.5)
    assert half[21:-50] == pytest.approx(wave[:-71], abs=0.02 * np.abs(wave).max())
