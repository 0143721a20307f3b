"""Watching a folder: files of any recording software are read as they grow, and what ends by itself is told."""

from __future__ import annotations

import struct
import threading
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import follow
from tests.core.check.test_guide import RATE_HZ
from tests.core.check.test_watch import playing
from verve.core.demo import demo_session
from verve.core.errors import FileError, InputError
from verve.core.soundfiles import GrowingFile, WavWriter
from verve.core.units import FloatArray
from verve.devices import WatchRequest, WatchState, holds_text, watch

WELL = follow(demo_session())


def header(
    channels: int, bits: int, *, kind: int = 1, size: int = 0, is_rf64: bool = False
) -> bytes:
    """As recording software begins a file: the length is not known yet."""
    frame = channels * bits // 8
    form = struct.pack("<HHIIHH", kind, channels, RATE_HZ, RATE_HZ * frame, frame, bits)
    chunks = (
        b"bext" + struct.pack("<I", 4) + b"\0" * 4 + b"fmt " + struct.pack("<I", len(form)) + form
    )
    head = b"RF64" + struct.pack("<I", 0xFFFFFFFF) if is_rf64 else b"RIFF" + struct.pack("<I", size)
    return head + b"WAVE" + chunks + b"data" + struct.pack("<I", size)


def coded(samples: FloatArray, bits: int, *, is_float: bool = False) -> bytes:
    whole = samples.T
    if is_float:
        return whole.astype("<f4").tobytes()
    values = np.round(whole * 2.0 ** (bits - 1)).astype("<i4")
    if bits == 24:
        return values.reshape(-1).view(np.uint8).reshape(-1, 4)[:, :3].tobytes()
    return values.astype("<i2" if bits == 16 else "<i4").tobytes()


@settings(max_examples=30, deadline=None)
@given(
    bits=st.sampled_from((16, 24, 32)),
    channels=st.integers(1, 4),
    is_float=st.booleans(),
    cuts=st.lists(st.integers(0, 9000), min_size=1, max_size=6),
    size=st.sampled_from((0, 0xFFFFFFFF, 12)),
    is_rf64=st.booleans(),
)
def test_a_growing_file_is_read_whatever_its_header_says(
    tmp_path_factory: pytest.TempPathFactory,
    bits: int,
    channels: int,
    is_float: bool,
    cuts: list[int],
    size: int,
    is_rf64: bool,
) -> None:
    bits = 32 if is_float else bits
    path = tmp_path_factory.mktemp("grow") / "take.wav"
    samples = np.random.default_rng(1).uniform(-1.0, 0.99, (channels, 2000))
    content = header(channels, bits, kind=3 if is_float else 1, size=size, is_rf64=is_rf64)
    content += coded(samples, bits, is_float=is_float)
    path.write_bytes(b"")
    file, parts = GrowingFile(path), []
    assert not file.is_open
    for cut in [*sorted(cuts), len(content)]:
        path.write_bytes(content[:cut])
        parts.append(file.read_new())
    came = np.concatenate([part for part in parts if part.size], axis=1)
    assert came == pytest.approx(samples, abs=2.0 ** -(bits - 1 if not is_float else 22))
    assert (file.channels, file.rate_hz, file.frames) == (channels, RATE_HZ, 2000)
    assert file.read_new().size == 0


def test_what_is_no_wav_or_is_gone_is_told(tmp_path: Path) -> None:
    other = tmp_path / "other.wav"
    other.write_bytes(b"this is no sound at all")
    with pytest.raises(FileError, match="is no WAV file"):
        GrowingFile(other)
    strange = tmp_path / "strange.wav"
    strange.write_bytes(header(1, 16, kind=2))
    with pytest.raises(FileError, match="samples of another kind"):
        GrowingFile(strange)
    good = tmp_path / "good.wav"
    good.write_bytes(header(1, 16) + bytes(2000))
    file = GrowingFile(good)
    file.skip_to_end()
    assert file.read_new().shape == (1, 0)
    good.unlink()
    with pytest.raises(FileError, match="is gone"):
        file.read_new()
    broken = tmp_path / "broken.wav"
    broken.write_bytes(
        header(1, 32, kind=3) + np.array([np.nan, np.inf, 0.5], dtype="<f4").tobytes()
    )
    assert GrowingFile(broken).read_new().tolist() == [[0.0, 1.0, 0.5]]


class Watched:
    """A watch of a folder in a thread, and everything it reports."""

    def __init__(self, folder: Path) -> None:
        self.states: list[WatchState] = []
        self.last: WatchState | None = None
        self._stop = threading.Event()
        request = WatchRequest(session=WELL, folder=folder)
        self._thread = threading.Thread(target=self._run, args=(request,), daemon=True)
        self._thread.start()

    def _run(self, request: WatchRequest) -> None:
        self.last = watch(request, self.states.append, self._stop.is_set)

    def until(self, is_so: Callable[[WatchState], bool], seconds: float = 20.0) -> WatchState:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            if self.states and is_so(self.states[-1]):
                return self.states[-1]
            time.sleep(0.05)
        raise AssertionError(self.states[-1] if self.states else "nothing was reported")

    def end(self) -> WatchState:
        self._stop.set()
        self._thread.join()
        assert self.last is not None
        return self.last


def test_a_take_that_grows_is_analysed_as_it_grows_and_told_when_nobody_plays(
    tmp_path: Path,
) -> None:
    old = tmp_path / "old take.wav"
    soundfile.write(old, np.ones(RATE_HZ), RATE_HZ)
    watched = Watched(tmp_path)
    watched.until(lambda state: state.seconds > 0.3)
    samples = playing(20.0)
    samples[0, 5 * RATE_HZ : 5 * RATE_HZ + 500] = 1.0
    rest = 1e-4 * np.random.default_rng(2).standard_normal((1, 4 * RATE_HZ))
    folder = tmp_path / "Take 7"
    writer = WavWriter(folder / "Voice.wav", rate_hz=RATE_HZ, bit_depth=24)
    for at in range(0, samples.shape[1], RATE_HZ):
        writer.write(samples[0, at : at + RATE_HZ])
    state = watched.until(lambda s: bool(s.marks))
    assert not state.may_tell, "somebody plays"
    writer.write(rest[0])
    # What a program holds back is on the disk when it closes the file.
    writer.finish()
    state = watched.until(lambda s: s.may_tell)
    assert state.names["voice"] == "Voice"
    assert [(one.line, one.kind) for one in state.marks] == [("voice", "clipped")]
    assert state.marks[0].at_s == pytest.approx(5.0, abs=0.1)
    assert state.stopped == "", "it has ended as it should"
    assert watched.end().marks == state.marks


def test_a_file_that_grows_no_more_before_it_is_done_is_told_at_once(tmp_path: Path) -> None:
    watched = Watched(tmp_path)
    watched.until(lambda state: state.seconds > 0.3)
    path = tmp_path / "Harp left.wav"
    path.write_bytes(header(1, 24))
    with path.open("ab") as file:
        for second in range(3):
            file.write(coded(playing(3.0)[:1, second * RATE_HZ : (second + 1) * RATE_HZ], 24))
            file.flush()
            time.sleep(0.3)
    state = watched.until(lambda s: bool(s.stopped))
    assert "grows no more" in state.stopped
    assert state.may_tell
    watched.end()


def test_a_file_of_nothing_but_zeros_is_told_at_once(tmp_path: Path) -> None:
    watched = Watched(tmp_path)
    watched.until(lambda state: state.seconds > 0.3)
    path = tmp_path / "all.wav"
    path.write_bytes(header(2, 16))
    with path.open("ab") as file:
        for _ in range(12):
            file.write(bytes(4 * RATE_HZ))
            file.flush()
            time.sleep(0.15)
    state = watched.until(lambda s: bool(s.stopped))
    assert "digital silence" in state.stopped
    assert "all, channel 2" in state.names.values()
    watched.end()


def test_a_watch_needs_one_thing_to_watch(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="of a device or of a folder"):
        WatchRequest(session=WELL)
    file = tmp_path / "file"
    file.write_text("")
    with pytest.raises(FileError, match="is no folder"):
        watch(WatchRequest(session=WELL, folder=file), lambda _: None, lambda: True)
    assert "Let it record" in holds_text("Box", "recorder")
