"""A sound server with a device of eight channels that no machine has: what is played into it is recorded."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from tests.big_session import big_session
from verve.core.session import Session, Take
from verve.core.units import FloatArray
from verve.devices import NO_LIBRARY, Live, RecordRequest, record, recording_devices

CHANNELS, RATE_HZ = 8, 48_000
_MAP = "front-left,front-right,rear-left,rear-right,front-center,lfe,side-left,side-right"
"""As the plugin names eight channels: under other names they would be mixed, or be silent."""
_PLUGINS = ("alsa-lib/libasound_module_pcm_pulse.so",)
_LONGEST_START_S = 15.0
_CALM_S = 1.0
_MATCH = 4096


def why_not() -> str:
    """Why there can be none here; empty where there can."""
    if shutil.which("pulseaudio") is None or shutil.which("pacat") is None:
        return "needs the package pulseaudio"
    if not any(Path("/usr/lib").glob(f"*/{name}") for name in _PLUGINS):
        return "needs the package libasound2-plugins"
    if recording_devices() == NO_LIBRARY:
        return "needs the packages sounddevice and libportaudio2"
    return ""


@dataclass(slots=True)
class Server:
    """A running one."""

    process: subprocess.Popen[bytes]
    folder: Path

    def end(self) -> None:
        """As if the interface were unplugged."""
        self.process.kill()
        self.process.wait()


@contextmanager
def virtual_server(takes: Path) -> Iterator[Server]:
    """Start one; this process and its children find it, and no other device. Takes go into that folder."""
    # Its own folder has a short name: that of a socket may not be long.
    with tempfile.TemporaryDirectory(prefix="v") as folder:
        yield from _served(Path(folder), takes)


def _served(folder: Path, takes: Path) -> Iterator[Server]:
    names = {"XDG_RUNTIME_DIR": "run", "HOME": "home", "PULSE_SERVER": "run/pulse/native"}
    before = {name: os.environ.get(name) for name in (*names, "ALSA_CONFIG_PATH")}
    for name, place in names.items():
        os.environ[name] = str(folder / place)
    (folder / "run").mkdir(mode=0o700)
    (folder / "home").mkdir()
    config = folder / "asound.conf"
    config.write_text("pcm.!default { type pulse }\nctl.!default { type pulse }\n")
    os.environ["ALSA_CONFIG_PATH"] = str(config)
    sink = f"sink_name=v channels={CHANNELS} channel_map={_MAP} rate={RATE_HZ} format=float32le"
    command = [
        "pulseaudio", "-n", "--exit-idle-time=-1", "--daemonize=no", "-L", "module-native-protocol-unix",
        "-L", f"module-null-sink {sink}",
    ]  # fmt: skip
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    server = Server(process=process, folder=takes)
    try:
        end = time.monotonic() + _LONGEST_START_S
        while not (folder / "run/pulse/native").exists() and time.monotonic() < end:
            time.sleep(0.05)
        yield server
    finally:
        server.end()
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value


def sent_second(number: int, seed: int) -> FloatArray:
    """A second of noise of its own in each channel.

    shape: (n_frames, channels)
    """
    rng = np.random.default_rng([seed, number])
    return np.asarray(rng.uniform(-0.3, 0.3, (RATE_HZ, CHANNELS)).astype(np.float32))


def live_session() -> tuple[Session, Live]:
    """A session of eight signals, and the device of the server for them."""
    session = big_session(CHANNELS)
    found = recording_devices()
    assert not isinstance(found, str), found
    lines = [line.id for line in session.setup.lines][:CHANNELS]
    return session, Live(
        device=found[0], channels={line: number for number, line in enumerate(lines)}
    )


def request_live(folder: Path, seconds: float) -> RecordRequest:
    """All eight, for so long."""
    session, live = live_session()
    return RecordRequest(
        id=1, session=session, lines=tuple(live.channels), play="hardest", seconds=seconds, folder=folder,
        take_id="take_1", take_name="Take 1", recorded_at="2026-05-04T20:15:00+02:00", is_paced=True, live=live,
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Carried:
    """What came of sound that was played into the device and recorded from it."""

    take: Take
    seconds: int
    wrong: int
    """Seconds that are not, frame by frame, what was played."""


def carried(server: Server, seconds: int, seed: int) -> Carried:
    """Play so many seconds of noise and record them."""
    player = subprocess.Popen(
        [
            "pacat", "--playback", "--raw", "--format=float32le", f"--rate={RATE_HZ}", f"--channels={CHANNELS}",
            f"--channel-map={_MAP}", "--device=v", "--no-remix", "--latency-msec=500",
        ],
        stdin=subprocess.PIPE,
    )  # fmt: skip
    whole = seconds + 2.0 * _CALM_S + 2.0
    takes: list[Take] = []
    request, is_heard = request_live(server.folder / "take", whole), threading.Event()
    recording = threading.Thread(
        target=lambda: takes.append(record(request, lambda _: is_heard.set()))
    )
    recording.start()
    is_heard.wait()
    assert player.stdin is not None
    # The server swallows the first tenth of what is played into a sink that was at rest: a second for that.
    for number in range(seconds + 1):
        player.stdin.write(sent_second(number, seed).tobytes())
    player.stdin.close()
    recording.join()
    player.wait()
    (take,) = takes
    return Carried(take=take, seconds=seconds, wrong=_wrong_seconds(take, seconds, seed))


def _wrong_seconds(take: Take, seconds: int, seed: int) -> int:
    """How many are not bit for bit (24 of them) what was played, in any channel."""
    files = [soundfile.SoundFile(track.file) for track in take.tracks]
    first = sent_second(1, seed)
    head = files[0].read(5 * RATE_HZ)
    where = np.correlate(head, first[:_MATCH, 0], "valid")
    begin, wrong = int(np.argmax(where)), 0
    for file in files:
        file.seek(begin)
    for number in range(1, seconds + 1):
        sent = sent_second(number, seed)
        came = np.stack([file.read(RATE_HZ) for file in files], axis=1)
        wrong += came.shape != sent.shape or bool(np.abs(came - sent).max() > 2.0**-22)
    for file in files:
        file.close()
    return wrong


def lag_frames(recorded: FloatArray, cue: FloatArray) -> int:
    """By how much what was recorded lies behind what was played."""
    size = 1 << int(np.ceil(np.log2(2 * len(recorded))))
    product = np.fft.rfft(recorded, size) * np.conj(np.fft.rfft(cue, size))
    lag = int(np.argmax(np.fft.irfft(product)))
    return lag if lag < size // 2 else lag - size


_PLAIN = """
import sys
import numpy as np, sounddevice, soundfile
noise, rate_hz = soundfile.read(sys.argv[1], dtype="float32", always_2d=True)
heard = sounddevice.playrec(noise, rate_hz, channels=1, device=int(sys.argv[3]), blocking=True)
np.save(sys.argv[2], heard[:, 0])
"""


def alike_without_verve(folder: Path, key: int) -> float:
    """How alike comes back what is played into the server by nothing but the sound library."""
    cue, heard = folder / "cue.wav", folder / "heard.npy"
    arguments = [sys.executable, "-c", _PLAIN, str(cue), str(heard), str(key)]
    subprocess.run(arguments, check=True, capture_output=True, timeout=60)
    noise, _ = soundfile.read(cue)
    recorded = np.load(heard)
    behind = recorded[max(0, lag_frames(recorded, noise[:, 0])) :]
    return float(np.corrcoef(behind, noise[: len(behind), 0])[0, 1])
