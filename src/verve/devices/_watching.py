"""Listening in while something records: from a device beside it, or from the files that grow in its folder."""

from __future__ import annotations

import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

import numpy as np

from verve.core.check import Mark, Watch, reference_of, words
from verve.core.errors import FileError, InputError
from verve.core.recordings import names_signal
from verve.core.session import Session
from verve.core.soundfiles import GrowingFile, frames_said
from verve.core.words import fill
from verve.devices._record import Live, wait
from verve.devices._system import DeviceError

_POLL_S: Final = 0.25
_STANDS_S: Final = 4.0
"""A file that has grown, and does not for so long, grows no more."""
_REPORTS_PER_S = 8
_SUFFIXES = {".wav", ".wave", ".bwf", ".rf64", ".part"}


@dataclass(frozen=True, slots=True, kw_only=True)
class WatchRequest:
    """What is listened to: a device with its signals, or a folder that a program records into."""

    session: Session
    live: Live | None = None
    folder: Path | None = None

    def __post_init__(self) -> None:
        if (self.live is None) == (self.folder is None):
            raise InputError("watch", "must be of a device or of a folder")


@dataclass(frozen=True, slots=True, kw_only=True)
class WatchState:
    """Where a watch is: what was marked, whether that may be told now, and why recording has stopped, if it has.

    `names` are those of the lines, or of the files that hold them; `levels_dbfs` what they show just now.
    """

    seconds: float
    names: dict[str, str] = field(default_factory=dict)
    marks: tuple[Mark, ...] = ()
    may_tell: bool = False
    stopped: str = ""
    levels_dbfs: dict[str, float] = field(default_factory=dict)


def watch(
    request: WatchRequest,
    report: Callable[[WatchState], None],
    is_cancelled: Callable[[], bool],
) -> WatchState:
    """Listen until cancelled; gives back all that was marked.

    raises: DeviceError if a device cannot be opened; FileError for a folder that cannot be read
    """
    if request.live is not None:
        return _of_device(request, request.live, report, is_cancelled)
    assert request.folder is not None
    return _Folder(request, request.folder).run(report, is_cancelled)


def _references(session: Session, lines: tuple[str, ...]) -> dict[str, tuple[str, float]]:
    found = {line: reference_of(session, line) for line in lines}
    return {line: one for line, one in found.items() if one is not None}


def _levels(lines: tuple[str, ...], samples: np.ndarray) -> dict[str, float]:
    if not samples.size:
        return {}
    peaks = np.abs(samples).max(axis=1)
    return {
        line: float(20.0 * np.log10(max(p, 1e-10))) for line, p in zip(lines, peaks, strict=True)
    }


def _of_device(
    request: WatchRequest,
    live: Live,
    report: Callable[[WatchState], None],
    is_cancelled: Callable[[], bool],
) -> WatchState:
    session = request.session
    rate_hz = session.setup.audio.sample_rate_hz
    lines = tuple(live.channels)
    names = {line.id: line.name for line in session.setup.lines}
    heard = Watch(lines=lines, rate_hz=rate_hz, references=_references(session, lines))
    rows, marks, told, lost = [live.channels[line] for line in lines], list[Mark](), -1.0, 0
    stopped = ""
    with live.open(rate_hz) as system:
        try:
            for block in system.blocks(is_cancelled=is_cancelled):
                samples = block.samples[rows]
                marks += heard.feed(samples)
                if system.lost > lost:
                    lost = system.lost
                    marks += heard.lost()
                stopped = words.SILENT_SAYS if heard.is_silent else ""
                if heard.seconds - told >= 1.0 / _REPORTS_PER_S:
                    told = heard.seconds
                    report(_state(heard, names, marks, stopped, _levels(lines, samples)))
        except DeviceError as error:
            stopped = str(error)
            report(_state(heard, names, marks, stopped, {}))
    marks += heard.end()
    return _state(heard, names, marks, stopped, {})


def _state(
    heard: Watch, names: dict[str, str], marks: list[Mark], stopped: str, levels: dict[str, float]
) -> WatchState:
    return WatchState(
        seconds=heard.seconds,
        names=names,
        marks=tuple(marks),
        may_tell=heard.has_stopped_playing or bool(stopped),
        stopped=stopped,
        levels_dbfs=levels,
    )


@dataclass(slots=True)
class _Grown:
    """A file that is listened to, and how long ago it grew last."""

    file: GrowingFile
    heard: Watch | None = None
    grew_at: float = 0.0
    has_grown: bool = False
    identity: tuple[int, int] | None = None
    """By which it is known under another name."""


class _Folder:
    """All WAV files of a folder and those below it, as they come and grow."""

    def __init__(self, request: WatchRequest, folder: Path) -> None:
        self._request, self._folder = request, folder
        if not folder.is_dir():
            raise FileError(
                folder, "is no folder", "Choose the one your recording software records into."
            )
        self._files: dict[Path, _Grown | None] = {}
        self._names: dict[str, str] = {}
        self._marks: list[Mark] = []
        self._levels: dict[str, float] = {}
        self._began = time.monotonic()

    def run(
        self, report: Callable[[WatchState], None], is_cancelled: Callable[[], bool]
    ) -> WatchState:
        """Until cancelled."""
        self._look(is_first=True)
        while not is_cancelled():
            self._look(is_first=False)
            report(self._state())
            wait(_POLL_S, is_cancelled)
        for one in self._files.values():
            if one is not None and one.heard is not None:
                self._marks += one.heard.end()
        return self._state()

    def _look(self, *, is_first: bool) -> None:
        try:
            paths = sorted(
                p for p in self._folder.rglob("*") if p.suffix.lower() in _SUFFIXES and p.is_file()
            )
        except OSError as error:
            raise FileError(
                self._folder, "cannot be read", "Look at the rights of the folder."
            ) from error
        now = time.monotonic()
        known = {one.identity: path for path, one in self._files.items() if one is not None}
        for path in paths:
            if path in self._files:
                continue
            identity = _identity(path)
            before = known.get(identity) if identity is not None else None
            if before is not None and (one := self._files.pop(before)) is not None:
                # It got its name when it was done: the same file, read on from where it was.
                one.file.path = path
                self._files[path] = one
            else:
                self._files[path] = self._opened(path, is_first=is_first, now=now)
        for path, one in list(self._files.items()):
            if one is not None:
                self._read(path, one, now)

    def _opened(self, path: Path, *, is_first: bool, now: float) -> _Grown | None:
        try:
            file = GrowingFile(path)
        except FileError:
            # Another kind of file: it is none of ours.
            return None
        if is_first:
            file.skip_to_end()
        return _Grown(file=file, grew_at=now, identity=_identity(path))

    def _read(self, path: Path, one: _Grown, now: float) -> None:
        try:
            samples = one.file.read_new()
        except FileError:
            # Moved or renamed when the take ended, most likely.
            self._files[path] = None
            return
        if not samples.shape[1]:
            return
        one.grew_at, one.has_grown = now, True
        if one.heard is None:
            lines = self._lines_of(path, one.file.channels)
            one.heard = Watch(
                lines=lines,
                rate_hz=one.file.rate_hz,
                references=_references(self._request.session, lines),
            )
        with suppress(ValueError):
            self._marks += one.heard.feed(samples)
        self._levels |= _levels(tuple(one.heard.lines), samples)

    def _lines_of(self, path: Path, channels: int) -> tuple[str, ...]:
        """The signal a file is named after; else its own name is that of the line."""
        session = self._request.session
        signal = names_signal(session, path.stem.removesuffix(".wav"))
        found = []
        for channel in range(channels):
            key = signal if signal is not None and channels == 1 else f"{path} {channel}"
            known = next(
                (line.name for line in session.setup.lines if line.id == signal), path.stem
            )
            self._names[key] = known if channels == 1 else f"{path.stem}, channel {channel + 1}"
            found.append(key)
        return tuple(found)

    def _state(self) -> WatchState:
        now = time.monotonic()
        active = [one for one in self._files.values() if one is not None and one.has_grown]
        growing = [one for one in active if now - one.grew_at < _STANDS_S]
        watches = [one.heard for one in growing if one.heard is not None]
        has_ended = bool(active) and not growing and all(_is_finished(one.file) for one in active)
        stopped = words.STANDS_SAYS if active and not growing and not has_ended else ""
        if watches and all(one.is_silent for one in watches):
            stopped = words.SILENT_SAYS
        rests = bool(watches) and all(
            one.has_stopped_playing or not one.has_played for one in watches
        )
        return WatchState(
            seconds=now - self._began,
            names=dict(self._names),
            marks=tuple(self._marks),
            may_tell=has_ended or bool(stopped) or (rests and any(w.has_played for w in watches)),
            stopped=stopped,
            levels_dbfs=dict(self._levels),
        )


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _is_finished(file: GrowingFile) -> bool:
    """Whether whoever wrote a file has said how long it is: then it has ended as it should."""
    try:
        return frames_said(file.path) == file.frames
    except OSError:
        # Moved away when it was done.
        return True


def holds_text(device: str, program: str) -> str:
    """What to do where another program has a device for itself."""
    return fill(words.HELD, device=device, program=program)
