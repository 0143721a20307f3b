"""Recording a rehearsal: from a device to WAV files, measured and compared with the prediction."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from verve.core.assess import Assessment, assess
from verve.core.errors import CancelledError, FileError, InputError, VerveError
from verve.core.measure import Measurement, Meter
from verve.core.session import Figure, Play, Session, Take, TakeTrack
from verve.core.soundfiles import Said, WavWriter, file_stem
from verve.core.units import FloatArray, to_thousandth
from verve.devices._device import Arrival, AudioDevice, Block, arrivals_of
from verve.devices._log import forget_log, with_measured, write_log
from verve.devices._simulated import BLOCK_FRAMES, SimulatedInterface
from verve.devices._system import SystemDevice, SystemInterface

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

    def open(self, rate_hz: int, *, at_least: int = 1) -> SystemInterface:
        """The device, recording as many channels as are needed, and at least so many.

        raises: DeviceError if it cannot be opened so
        """
        most = max(at_least, max(self.channels.values()) + 1)
        return SystemInterface(self.device, channels=most, rate_hz=rate_hz)


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

    def __post_init__(self) -> None:
        longest = LONGEST_S if self.live is None else LONGEST_LIVE_S
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


def _peak_dbfs(samples: FloatArray) -> float | None:
    peak = float(np.max(np.abs(samples))) if len(samples) else 0.0
    return float(20.0 * np.log10(peak)) if peak > 0.0 else None


def _paths(request: RecordRequest, assessment: Assessment) -> dict[str, Path]:
    found: dict[str, Path] = {}
    taken: set[str] = set()
    for line_id in request.lines:
        item = assessment.line(line_id)
        if item is None:
            raise InputError("lines", "must be signals of the session", line_id)
        stem = wanted = file_stem(item.line.name)
        number = 2
        while stem.casefold() in taken:
            stem = f"{wanted} {number}"
            number += 1
        taken.add(stem.casefold())
        found[line_id] = request.folder / f"{stem}.wav"
    return found


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Session:
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
    ) -> _Session:
        """raises: InputError for a line that does not arrive anywhere; DeviceError if a device cannot be opened"""
        if live is not None:
            rate_hz = assessment.session.setup.audio.sample_rate_hz
            system, name = live.open(rate_hz), live.device.name
            return _Session(
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
        return _Session(arrivals=found, streams=streams)

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
    paths = _paths(request, assessment)
    names = {item.line.id: item.line.name for item in assessment.lines}
    session = _Session.of(
        assessment,
        request.lines,
        request.play,
        request.seconds,
        live=request.live,
        variation=request.variation,
        is_cancelled=lambda: is_cancelled() or is_stopped(),
    )
    meter = Meter(channels=1, rate_hz=audio.sample_rate_hz, bit_depth=audio.bit_depth)
    states = {line_id: meter.start() for line_id in paths}
    writers: dict[str, WavWriter] = {}
    planned = _take(request, {key: _planned(assessment, request, key, paths[key]) for key in paths})
    total = round(request.seconds * audio.sample_rate_hz)
    done, ended, reason = 0, "whole", ""
    try:
        for line_id, path in paths.items():
            writers[line_id] = WavWriter(
                path,
                rate_hz=audio.sample_rate_hz,
                bit_depth=audio.bit_depth,
                said=Said(
                    description=f"{names[line_id]}, {request.take_name}", at=request.recorded_at
                ),
            )
        write_log(planned)
        began = time.monotonic()
        for block in session.blocks():
            if is_cancelled():
                raise CancelledError
            if is_stopped():
                if not done:
                    raise CancelledError
                ended = "stopped"
                break
            peaks = {}
            for line_id, samples in block.items():
                writers[line_id].write(samples)
                states[line_id] = meter.fold(states[line_id], samples[None, :])
                peaks[line_id] = _peak_dbfs(samples)
            done += len(next(iter(block.values())))
            if request.is_paced and request.live is None:
                ahead_s = done / audio.sample_rate_hz - (time.monotonic() - began)
                wait(ahead_s, lambda: is_cancelled() or is_stopped())
            report(
                Progress(
                    id=request.id,
                    share=done / total,
                    peaks_dbfs=peaks,
                    seconds=done / audio.sample_rate_hz,
                )
            )
        if is_cancelled():
            raise CancelledError
        if request.live is not None and done < total:
            if not done:
                raise CancelledError
            ended = "stopped"
    except CancelledError:
        _discard(writers, planned)
        raise
    except VerveError as error:
        if not done:
            _discard(writers, planned)
            raise
        ended, reason = "cut_off", _reason(error)
    except Exception as error:  # whatever it is: what was recorded is kept
        if not done:
            _discard(writers, planned)
            raise
        ended, reason = "cut_off", f"{type(error).__name__}: {error}"
    finally:
        session.close()
    kept: dict[str, TakeTrack] = {}
    lost: list[FileError] = []
    for line_id, path in paths.items():
        try:
            writers[line_id].finish()
        except FileError as error:
            lost.append(error)
            continue
        found = meter.result(states[line_id]).channels[0]
        kept[line_id] = _track(assessment, request, line_id, path, found)
    if lost:
        ended, reason = "cut_off", _reason(lost[0])
    if not kept:
        raise lost[0]
    seconds = done / audio.sample_rate_hz
    take = _take(
        request, kept, seconds=seconds, ended=ended, reason=reason, notes=_lost_words(session.lost)
    )
    # Its log is all that knows of it until it is in a session; on a full disk the planned one stays.
    with contextlib.suppress(FileError):
        write_log(take)
    return take


def _reason(error: VerveError) -> str:
    return error.why if isinstance(error, FileError) else str(error)


def _lost_words(count: int) -> str:
    if not count:
        return ""
    times = "once" if count == 1 else f"{count} times"
    return f"Sound was lost {times} on its way into the computer: a larger buffer, and fewer programs, help."


def _discard(writers: Mapping[str, WavWriter], planned: Take) -> None:
    """Nothing is left of it but folders that others may use too."""
    for writer in writers.values():
        writer.discard()
    forget_log(planned)
    with contextlib.suppress(OSError):
        Path(planned.tracks[0].file).parent.rmdir()


def _take(
    request: RecordRequest,
    tracks: Mapping[str, TakeTrack],
    *,
    seconds: float | None = None,
    ended: str = "cut_off",
    reason: str = "",
    notes: str = "",
) -> Take:
    return Take.model_validate(
        {
            "id": request.take_id,
            "name": request.take_name,
            "recorded_at": request.recorded_at,
            "seconds": request.seconds if seconds is None else seconds,
            "play": request.play,
            "tracks": tuple(tracks.values()),
            "setup": request.session.setup,
            "ended": ended,
            "reason": reason,
            "notes": notes,
        }
    )


def listen(
    request: ListenRequest, report: Callable[[Progress], None], is_cancelled: Callable[[], bool]
) -> None:
    """Play the lines in time and report their peaks until cancelled.

    raises: InputError for a line that does not arrive at the interface
    """
    rate_hz = request.session.setup.audio.sample_rate_hz
    session = _Session.of(
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
            peaks = {line_id: _peak_dbfs(samples) for line_id, samples in block.items()}
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


def _planned(assessment: Assessment, request: RecordRequest, line_id: str, path: Path) -> TakeTrack:
    """A track before anything of it is recorded."""
    item = assessment.line(line_id)
    assert item is not None
    return TakeTrack(
        line=line_id,
        name=item.line.name,
        file=str(path),
        peak_dbfs=Figure(
            measured=None, predicted=to_thousandth(item.predicted_peak_dbfs(request.play))
        ),
        noise_dbfs_a=Figure(measured=None, predicted=to_thousandth(item.noise_dbfs_a)),
        clipped_frames=0,
    )


def _track(
    assessment: Assessment, request: RecordRequest, line_id: str, path: Path, measured: Measurement
) -> TakeTrack:
    return with_measured(_planned(assessment, request, line_id, path), measured)
