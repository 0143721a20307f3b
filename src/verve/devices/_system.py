"""The sound devices of this machine, through PortAudio in a process of its own; where it is missing, that is said."""

from __future__ import annotations

import json
import queue
import struct
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import numpy as np

from verve.core.errors import VerveError
from verve.core.soundfiles import read_sound
from verve.core.units import FloatArray
from verve.devices._day import holder_of
from verve.devices._device import Block
from verve.devices._ear import NO_LIBRARY_CODE

NO_LIBRARY: Final = (
    "Sound devices cannot be reached: the package “sounddevice” or the system library libportaudio2 is missing. "
    "Everything else works; so does checking with recordings and with simulated players."
)
NO_DEVICE: Final = (
    "This machine has no sound device that records. Is the interface plugged in and switched on? "
    "Meanwhile check with recordings or with simulated players."
)
BROKEN: Final = (
    "The sound system of this machine cannot be asked for its devices. Look whether other programs hear and record; "
    "meanwhile check with recordings or with simulated players."
)
LATENCY_S: Final = 0.2
"""So much waits in the driver: what is only measured may come late, but nothing of it may be lost."""
_LONGEST_LIST_S, _LONGEST_START_S = 10.0, 10.0
_SILENT_S: Final = 2.0
"""A device that gives nothing for so long is gone."""
_POLL_S: Final = 0.1
_EAR = Path(__file__).with_name("_ear.py")


class DeviceError(VerveError):
    """A sound device that cannot be opened, or has gone: which, why, and what to do."""

    def __init__(self, device: str, why: str, remedy: str) -> None:
        self.device, self.why, self.remedy = device, why, remedy
        super().__init__(f"{device}: {why}. {remedy}")


@dataclass(frozen=True, slots=True, kw_only=True)
class SystemDevice:
    """A sound device of this machine, with the most channels it takes and gives."""

    key: int
    name: str
    channels_in: int
    channels_out: int
    usual_rate_hz: int
    is_usual: bool = False
    """Whether the system uses it where nobody says which."""


def system_devices() -> tuple[SystemDevice, ...] | str:
    """The devices there are now, those first that the system uses by itself; else the sentence that says why not."""
    try:
        done = subprocess.run(
            [sys.executable, str(_EAR), "list"],
            capture_output=True,
            timeout=_LONGEST_LIST_S,
            check=False,
        )
        if done.returncode == NO_LIBRARY_CODE:
            return NO_LIBRARY
        rows = json.loads(done.stdout) if done.returncode == 0 else None
    except (OSError, subprocess.TimeoutExpired, json.JSONDecodeError):
        rows = None
    if rows is None:
        return BROKEN
    found = (SystemDevice(**row) for row in rows)
    return tuple(sorted(found, key=lambda one: (not one.is_usual, one.key)))


def recording_devices() -> tuple[SystemDevice, ...] | str:
    """Those that record; else the sentence that says why there are none."""
    found = system_devices()
    if isinstance(found, str):
        return found
    return tuple(one for one in found if one.channels_in) or NO_DEVICE


class SystemInterface:
    """A sound device of this machine that records: blocks as they come, and a plain word when they end.

    With `sent` it plays at the same time, through `output` where that is another device.
    """

    def __init__(
        self,
        device: SystemDevice,
        *,
        channels: int,
        rate_hz: int,
        sent: FloatArray | None = None,
        gives: bool = False,
        output: SystemDevice | None = None,
        buffer_frames: int | None = None,
        root: Path = Path("/"),
    ) -> None:
        """`channels` are the first ones of it, as many as are looked at. With `buffer_frames` the driver works in
        buffers of that size, as recording software would; without, in large ones that lose nothing. What `gives`
        plays whatever it is told to while it records.

        shape: sent (n_channels_out, n_frames), full scale is 1
        raises: DeviceError if it has not so many, or cannot be opened so
        """
        if not 1 <= channels <= device.channels_in:
            raise DeviceError(
                device.name,
                f"has {device.channels_in} inputs, and {channels} are asked for",
                "Choose another device, or connect the signals to other inputs.",
            )
        self.name, self.channels_in, self.channels_out = device.name, channels, device.channels_out
        self.sample_rate_hz = rate_hz
        self.lost = 0
        """How often sound was lost because the computer did not keep up."""
        self._root, self.gives = root, gives
        self._came, self._playing_at = 0, -1
        self._waiting: list[Block] = []
        self._messages: queue.SimpleQueue[tuple[bytes, bytes] | None] = queue.SimpleQueue()
        self._sent: Path | None = None
        asked: dict[str, Any] = {
            "key": device.key, "channels": channels, "rate_hz": rate_hz,
            "latency_s": LATENCY_S if buffer_frames is None else buffer_frames / rate_hz,
            "block_frames": buffer_frames or 0,
        }  # fmt: skip
        if sent is not None:
            with tempfile.NamedTemporaryFile(prefix="verve-sent-", delete=False) as file:
                file.write(np.ascontiguousarray(sent.T, dtype="<f4").tobytes())
            self._sent = Path(file.name)
            asked |= {
                "sent": file.name, "output": (output or device).key, "channels_out": len(sent),
            }  # fmt: skip
        if gives:
            asked |= {"gives": True, "output": (output or device).key, "channels_out": 2}
        self._process = subprocess.Popen(
            [sys.executable, str(_EAR), "record", json.dumps(asked)],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        threading.Thread(target=self._read, name=f"{device.name}", daemon=True).start()
        try:
            self._started()
        except DeviceError:
            self.close()
            raise

    def _read(self) -> None:
        """What the process says, until it ends, however it does."""
        out = self._process.stdout
        assert out is not None
        with suppress(OSError, ValueError):
            while len(head := out.read(5)) == 5:
                size = struct.unpack("<I", head[1:])[0]
                self._messages.put((head[:1], out.read(size)))
        self._messages.put(None)

    def _started(self) -> None:
        try:
            message = self._messages.get(timeout=_LONGEST_START_S)
        except queue.Empty:
            message = None
        if message is not None and message[0] == b"r":
            return
        if message is None:
            # It has closed its mouth; its last word is its code.
            with suppress(subprocess.TimeoutExpired):
                self._process.wait(timeout=_POLL_S * 10.0)
        if message is None and self._process.returncode == NO_LIBRARY_CODE:
            raise DeviceError(self.name, "cannot be reached", NO_LIBRARY)
        said = json.loads(message[1]) if message is not None else "its driver does not answer"
        raise self._refused(said)

    def _refused(self, said: str) -> DeviceError:
        holder = holder_of(self._root)
        if "sample rate" in said.lower():
            return DeviceError(
                self.name,
                f"does not record at {self.sample_rate_hz} Hz",
                "Choose another sample rate for the session, or set that of the interface.",
            )
        if holder:
            return DeviceError(
                self.name,
                f"is being used by {holder}",
                "Close it there, or let it record and have Verve watch the folder it records into.",
            )
        return DeviceError(
            self.name,
            f"cannot be opened ({said})",
            "Unplug it, plug it in again, and try once more.",
        )

    def blocks(
        self, frames: int | None = None, is_cancelled: Callable[[], bool] = lambda: False
    ) -> Iterator[Block]:
        """What it records from now on, so many frames in all, without an end where nothing is said.

        raises: DeviceError when it has gone
        """
        at = 0
        while (frames is None or at < frames) and not is_cancelled():
            block = self._waiting.pop(0) if self._waiting else self._next(is_cancelled)
            if block is None:
                return
            samples = block.samples if frames is None else block.samples[:, : frames - at]
            yield Block(start_frame=at, samples=samples)
            at += samples.shape[1]

    def _next(self, is_cancelled: Callable[[], bool]) -> Block | None:
        """The next block that comes; None where it is not wanted any more.

        raises: DeviceError when the device has gone
        """
        last = time.monotonic()
        while not is_cancelled():
            try:
                message = self._messages.get(timeout=_POLL_S)
            except queue.Empty:
                if time.monotonic() - last > _SILENT_S:
                    raise self._gone() from None
                continue
            if message is None or message[0] == b"e":
                raise self._gone()
            if message[0] == b"l":
                self.lost += 1
            elif message[0] == b"b":
                came = np.frombuffer(message[1], dtype="<f4").reshape(-1, self.channels_in)
                samples = came.T.astype(np.float64)
                self._came += samples.shape[1]
                return Block(start_frame=self._came - samples.shape[1], samples=samples)
            elif message[0] == b"p":
                self._playing_at = self._came
        return None

    def play(self, path: Path, loop_s: tuple[float, float] | None) -> int:
        """Play a sound file of two channels from now on, over and over from when to when if wanted.

        Gives back the frame of what is recorded at which it began; blocks that come until then are not lost.

        raises: DeviceError when the device has gone
        """
        self._playing_at = -1
        loop = [round(one * self.sample_rate_hz) for one in loop_s] if loop_s else None
        sound = read_sound(path)[0]
        with tempfile.NamedTemporaryFile(prefix="verve-cue-", delete=False) as file:
            file.write(np.ascontiguousarray(sound.T, dtype="<f4").tobytes())
        try:
            self._tell({"play": file.name, "loop": loop})
            until = time.monotonic() + _SILENT_S
            while self._playing_at < 0:
                block = self._next(lambda: time.monotonic() > until)
                if block is None:
                    raise self._gone()
                self._waiting.append(block)
        finally:
            Path(file.name).unlink(missing_ok=True)
        return self._playing_at

    def silence(self) -> None:
        """Play nothing any more."""
        self._tell({"play": None, "loop": None})

    def _tell(self, what: dict[str, Any]) -> None:
        with suppress(OSError):
            assert self._process.stdin is not None
            self._process.stdin.write(json.dumps(what).encode() + b"\n")
            self._process.stdin.flush()

    def _gone(self) -> DeviceError:
        return DeviceError(
            self.name,
            "gives no sound any more",
            "Look at its cable and its power, then start again.",
        )

    def close(self) -> None:
        """Let go of the device."""
        with suppress(OSError):
            if self._process.stdin is not None:
                self._process.stdin.close()
        try:
            self._process.wait(timeout=_SILENT_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        if self._process.stdout is not None:
            self._process.stdout.close()
        if self._sent is not None:
            self._sent.unlink(missing_ok=True)

    def __enter__(self) -> SystemInterface:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
