"""Recording a rehearsal: from a device to WAV files, measured and compared with the prediction."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

from verve.core.assess import Assessment, assess
from verve.core.errors import CancelledError, InputError, VerveError
from verve.core.session import Play, Session, Take
from verve.core.soundfiles import file_stem
from verve.core.takes import RecordPlan
from verve.core.units import FloatArray
from verve.devices._device import Arrival, AudioDevice, Block, arrivals_of
from verve.devices._simulated import BLOCK_FRAMES, SimulatedInterface
from verve.devices._system import SystemDevice, SystemInterface
from verve.devices._writing import Writing, peak_dbfs, reason_of

SHORTEST_S = 3.0
LONGEST_S = 60.0
LONGEST_LIVE_S = 4 * 3600.0
"""Four hours of one channel at 96 kHz and 24 bit are the 4 GB that a WAV file holds."""
LONGEST_LISTENING_S = 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Live:
    """A sound device of this machine, and by signal which of its channels, counted from 0, it arrives on."""

    device: SystemDevice
    channels: Mapping[str, int]

    def open(
        self, rate_hz: int, *, at_least: int = 1, buffer_frames: int | None = None
    ) -> SystemInterface:
        """The device, recording as many channels as are needed, and at least so many.

        With a buffer size it also plays what it is told to, where it has outputs.

        raises: DeviceError if it cannot be opened so
        """
        most = max(at_least, max(self.channels.values()) + 1)
        gives = buffer_frames is not None and self.device.channels_out > 0
        return SystemInterface(
            self.device,
            channels=most,
            rate_hz=rate_hz,
            gives=gives,
            buffer_frames=buffer_frames if gives else None,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordRequest:
    """A rehearsal to be recorded: what, how, for how long, and where to."""

    id: int
    session: Session
    lines: tuple[str, ...]
    play: Play
    seconds: float
    folder: Path
    take_id: str
    take_name: str
    recorded_at: str
    is_paced: bool
    live: Live | None = None
    """Where the sound comes from; None for simulated players. What is live is recorded until it is stopped."""
    variation: int = 0
    """Players play otherwise in each take; 0 is exactly as announced."""
    plan: RecordPlan | None = None
    """Where in the song it is; None for what has no place in it."""
    is_standing: bool = False
    """Whether it is stopped by hand, whoever plays."""

    def __post_init__(self) -> None:
        longest = LONGEST_LIVE_S if self.is_standing or self.live is not None else LONGEST_S
        if not SHORTEST_S <= self.seconds <= longest:
            rule = f"must be {SHORTEST_S:g} to {longest:g}"
            raise InputError("seconds", rule, self.seconds)
        if not self.lines:
            raise InputError("lines", "must have at least one signal")
        if self.live is not None and (missing := set(self.lines) - self.live.channels.keys()):
            raise InputError("channels", "must say where each signal arrives", sorted(missing)[0])


@dataclass(frozen=True, slots=True, kw_only=True)
class ListenRequest:
    """Lines to be heard, and seen, without recording anything, until cancelled."""

    id: int
    session: Session
    lines: tuple[str, ...]
    play: Play
    live: Live | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far a recording is (None when listening), the peak of each line since the last report, in dBFS, and how
    long it is until now."""

    id: int
    share: float | None
    peaks_dbfs: Mapping[str, float | None]
    seconds: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Streams:
    """The recorders of some lines, each with its stream, in step with each other."""

    arrivals: Mapping[str, Arrival]
    streams: Mapping[str, Iterator[Block]]
    system: SystemInterface | None = None

    @staticmethod
    def of(
        assessment: Assessment,
        lines: tuple[str, ...],
        play: Play,
        seconds: float,
        *,
        live: Live | None = None,
        variation: int = 0,
        is_cancelled: Callable[[], bool] = lambda: False,
        gives: bool = False,
    ) -> Streams:
        """`gives`: a device of this machine also plays what it is told to.

        raises: InputError for a line that does not arrive anywhere; DeviceError if a device cannot be opened
        """
        if live is not None:
            audio = assessment.session.setup.audio
            rate_hz, name = audio.sample_rate_hz, live.device.name
            system = live.open(rate_hz, buffer_frames=audio.buffer_frames if gives else None)
            return Streams(
                arrivals={
                    line: Arrival(device=name, channel=live.channels[line]) for line in lines
                },
                streams={name: system.blocks(round(seconds * rate_hz), is_cancelled)},
                system=system,
            )
        found = arrivals_of(assessment, lines)
        streams = {}
        for device in dict.fromkeys(arrival.device for arrival in found.values()):
            wanted = frozenset(a.channel for a in found.values() if a.device == device)
            interface: AudioDevice = SimulatedInterface(
                assessment, device, play=play, seconds=seconds, wanted=wanted, variation=variation
            )
            streams[device] = interface.blocks(round(seconds * interface.sample_rate_hz))
        return Streams(arrivals=found, streams=streams)

    def listening_to(self, lines: tuple[str, ...], live: Live) -> Streams:
        """The same device, already open, for other signals."""
        name = live.device.name
        arrivals = {line: Arrival(device=name, channel=live.channels[line]) for line in lines}
        return replace(self, arrivals=arrivals)

    def blocks(self) -> Iterator[Mapping[str, FloatArray]]:
        """By line, what its recorder's channel holds, moment by moment."""
        while True:
            moment = {device: next(stream, None) for device, stream in self.streams.items()}
            if any(block is None for block in moment.values()):
                return
            yield {
                line_id: block.samples[arrival.channel]
                for line_id, arrival in self.arrivals.items()
                if (block := moment[arrival.device]) is not None
            }

    def close(self) -> None:
        """Let go of a device of this machine."""
        if self.system is not None:
            self.system.close()

    def play(self, cue: Path, loop_s: tuple[float, float] | None) -> int | None:
        """Let a device of this machine play a sound from now on; the frame of what it records at which that began.

        None where nothing plays here: simulated players need no cue, and whoever wants to hear it plays it beside.
        """
        if self.system is None or not self.system.gives:
            return None
        return self.system.play(cue, loop_s)

    def silence(self) -> None:
        """Play nothing any more."""
        if self.system is not None and self.system.gives:
            self.system.silence()

    @property
    def lost(self) -> int:
        """How often sound was lost on its way into the computer."""
        return 0 if self.system is None else self.system.lost


def record(
    request: RecordRequest,
    report: Callable[[Progress], None] = lambda _: None,
    is_cancelled: Callable[[], bool] = lambda: False,
    is_stopped: Callable[[], bool] = lambda: False,
) -> Take:
    """Record, measure, and give back the take, not yet logged in any session.

    A take that is stopped, or that a fault cuts off, has what was recorded until then, and says how it
    ended. Beside its files lies its log, until `forget_log`: whatever happens to the program, it can be
    taken up.

    raises: FileError if nothing could be recorded or kept; CancelledError if it is discarded, with nothing
    left behind
    """
    assessment = assess(request.session)
    audio = request.session.setup.audio
    writing = Writing.of(request, assessment)
    session = Streams.of(
        assessment,
        request.lines,
        request.play,
        request.seconds,
        live=request.live,
        variation=request.variation,
        is_cancelled=lambda: is_cancelled() or is_stopped(),
    )
    total = round(request.seconds * audio.sample_rate_hz)
    ended, reason = "whole", ""
    try:
        writing.begin()
        began = time.monotonic()
        for block in session.blocks():
            if is_cancelled():
                raise CancelledError
            if is_stopped():
                if not writing.frames:
                    raise CancelledError
                ended = "stopped"
                break
            peaks = writing.write(block)
            done_s = writing.frames / audio.sample_rate_hz
            if request.is_paced and request.live is None:
                ahead_s = done_s - (time.monotonic() - began)
                wait(ahead_s, lambda: is_cancelled() or is_stopped())
            report(
                Progress(
                    id=request.id,
                    share=writing.frames / total,
                    peaks_dbfs=peaks,
                    seconds=done_s,
                )
            )
        if is_cancelled():
            raise CancelledError
        if request.live is not None and writing.frames < total:
            if not writing.frames:
                raise CancelledError
            ended = "stopped"
    except CancelledError:
        writing.discard()
        raise
    except VerveError as error:
        if not writing.frames:
            writing.discard()
            raise
        ended, reason = "cut_off", reason_of(error)
    except Exception as error:  # whatever it is: what was recorded is kept
        if not writing.frames:
            writing.discard()
            raise
        ended, reason = "cut_off", f"{type(error).__name__}: {error}"
    finally:
        session.close()
    (take,) = writing.finish(ended, reason, notes=lost_words(session.lost))
    return take


def lost_words(count: int) -> str:
    """What to note where sound was lost on its way into the computer; empty where none was."""
    if not count:
        return ""
    times = "once" if count == 1 else f"{count} times"
    return f"Sound was lost {times} on its way into the computer: a larger buffer, and fewer programs, help."


def listen(
    request: ListenRequest, report: Callable[[Progress], None], is_cancelled: Callable[[], bool]
) -> None:
    """Play the lines in time and report their peaks until cancelled.

    raises: InputError for a line that does not arrive at the interface
    """
    rate_hz = request.session.setup.audio.sample_rate_hz
    session = Streams.of(
        assess(request.session),
        request.lines,
        request.play,
        LONGEST_LISTENING_S,
        live=request.live,
        is_cancelled=is_cancelled,
    )
    began = time.monotonic()
    try:
        for count, block in enumerate(session.blocks(), 1):
            if is_cancelled():
                return
            peaks = {line_id: peak_dbfs(samples) for line_id, samples in block.items()}
            report(Progress(id=request.id, share=None, peaks_dbfs=peaks))
            if request.live is None:
                wait(count * BLOCK_FRAMES / rate_hz - (time.monotonic() - began), is_cancelled)
    finally:
        session.close()


def free_folder(base: Path, name: str) -> Path:
    """A folder for a take that is not there yet: "Take 3", else "Take 3 (2)"."""
    stem = file_stem(name)
    folder, number = base / stem, 2
    while folder.exists():
        folder, number = base / f"{stem} ({number})", number + 1
    return folder


def wait(seconds: float, is_cancelled: Callable[[], bool]) -> None:
    """Keep to the clock of a real interface; a cancel is noticed at the next block."""
    if seconds > 0.0 and not is_cancelled():
        threading.Event().wait(seconds)
