"""What is heard and what is listened to: the system's sound through Qt, or a stand-in that only keeps time."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING, Protocol

import numpy as np

from verve.core.units import FloatArray

if TYPE_CHECKING:
    from PyQt6.QtCore import QIODevice

NO_OUTPUT = (
    "There is no audio output on this machine, so nothing is heard; everything else works as usual."
)
NO_INPUT = (
    "There is no audio input on this machine. Choose a signal or a sound file to tune from instead."
)
NO_SUPPORT = (
    "Sound cannot be played or listened to here: a system library that Qt needs for it is missing "
    "(libpulse0). Everything else works as usual."
)
_BUFFER_S = 0.2


class Output(Protocol):
    """Something that plays two channels."""

    @property
    def rate_hz(self) -> int:
        """At which rate it wants to be given sound."""

    def start(self) -> None:
        """Begin to play what is written."""

    def room(self) -> int:
        """How many frames it takes just now."""

    def write(self, block: FloatArray) -> None:
        """More to play. shape: (n_frames, 2)"""

    def heard(self) -> int:
        """How many frames have been heard since it was started."""

    def stop(self) -> None:
        """Be silent at once."""


class Input(Protocol):
    """Something that is listened to."""

    @property
    def rate_hz(self) -> int:
        """Its clock."""

    def read(self) -> FloatArray:
        """What has come since the last time, one channel. shape: (n_frames,)"""

    def stop(self) -> None:
        """Listen no longer."""


class SilentOutput:
    """A stand-in that plays in time, and is not heard: it keeps what it was given when asked to."""

    def __init__(self, rate_hz: int, *, keeps: bool = False, is_instant: bool = False) -> None:
        """`is_instant`: what is written has been heard at once, so that nobody waits for it."""
        self._rate_hz, self._keeps, self._is_instant = rate_hz, keeps, is_instant
        self._begin_s = time.monotonic()
        self._written = 0
        self.played: list[FloatArray] = []

    @property
    def rate_hz(self) -> int:
        return self._rate_hz

    def start(self) -> None:
        self._begin_s, self._written = time.monotonic(), 0

    def room(self) -> int:
        return max(0, round(_BUFFER_S * self._rate_hz) + self.heard() - self._written)

    def write(self, block: FloatArray) -> None:
        self._written += len(block)
        if self._keeps:
            self.played.append(block)

    def heard(self) -> int:
        if self._is_instant:
            return self._written
        return min(self._written, round((time.monotonic() - self._begin_s) * self._rate_hz))

    def stop(self) -> None:
        """Nothing goes on that would have to end."""


class QtOutput:
    """The system's default output."""

    def __init__(self, rate_hz: int) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices

        device = QMediaDevices.defaultAudioOutput()
        wanted = QAudioFormat()
        wanted.setSampleFormat(QAudioFormat.SampleFormat.Float)
        wanted.setChannelCount(2)
        wanted.setSampleRate(rate_hz)
        if not device.isFormatSupported(wanted):
            # At its own rate: what is played is converted to it.
            wanted.setSampleRate(device.preferredFormat().sampleRate())
        if not device.isFormatSupported(wanted):
            wanted.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._is_float = wanted.sampleFormat() == QAudioFormat.SampleFormat.Float
        self._rate_hz = wanted.sampleRate()
        self._frame_bytes = wanted.bytesPerFrame()
        self._sink = QAudioSink(device, wanted)
        self._sink.setBufferSize(round(_BUFFER_S * self._rate_hz) * self._frame_bytes)
        self._into: QIODevice | None = None

    @property
    def rate_hz(self) -> int:
        return self._rate_hz

    def start(self) -> None:
        self._into = self._sink.start()

    def room(self) -> int:
        return self._sink.bytesFree() // self._frame_bytes

    def write(self, block: FloatArray) -> None:
        if self._into is not None:
            values = block if self._is_float else np.round(block * 32767.0)
            self._into.write(values.astype(np.float32 if self._is_float else np.int16).tobytes())

    def heard(self) -> int:
        return round(self._sink.processedUSecs() * 1e-6 * self._rate_hz)

    def stop(self) -> None:
        self._into = None
        self._sink.stop()


class QtInput:
    """The system's default input, its first channel."""

    def __init__(self, rate_hz: int) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSource, QMediaDevices

        device = QMediaDevices.defaultAudioInput()
        wanted = device.preferredFormat()
        for sample_format in (QAudioFormat.SampleFormat.Float, QAudioFormat.SampleFormat.Int16):
            wanted.setSampleFormat(sample_format)
            wanted.setSampleRate(rate_hz)
            if device.isFormatSupported(wanted):
                break
            wanted.setSampleRate(device.preferredFormat().sampleRate())
            if device.isFormatSupported(wanted):
                break
        self._is_float = wanted.sampleFormat() == QAudioFormat.SampleFormat.Float
        self._channels = wanted.channelCount()
        self._rate_hz = wanted.sampleRate()
        self._source = QAudioSource(device, wanted)
        self._from = self._source.start()

    @property
    def rate_hz(self) -> int:
        return self._rate_hz

    def read(self) -> FloatArray:
        if self._from is None:
            return np.zeros(0)
        found = self._from.readAll().data()
        values = np.frombuffer(found, dtype=np.float32 if self._is_float else np.int16)
        whole = len(values) // self._channels * self._channels
        first = values[:whole].reshape(-1, self._channels)[:, 0].astype(np.float64)
        return first if self._is_float else first / 32768.0

    def stop(self) -> None:
        self._source.stop()


def find_output(rate_hz: int) -> Output | str:
    """The system's output; without one the sentence that says so."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return NO_SUPPORT
    return NO_OUTPUT if QMediaDevices.defaultAudioOutput().isNull() else QtOutput(rate_hz)


def find_input(rate_hz: int) -> Input | str:
    """The system's input; without one the sentence that says so."""
    try:
        from PyQt6.QtMultimedia import QMediaDevices
    except ImportError:
        return NO_SUPPORT
    return NO_INPUT if QMediaDevices.defaultAudioInput().isNull() else QtInput(rate_hz)
