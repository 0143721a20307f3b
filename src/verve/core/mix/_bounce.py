"""The rough mix as a file: at the loudness that was asked for, under a ceiling; what cannot be is said."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from verve.core.errors import CancelledError, FileError, InputError
from verve.core.files import unwritable, whole_file
from verve.core.measure import ProgrammeMeter
from verve.core.mix import _words as words
from verve.core.mix._limit import REACH_S, gains_for
from verve.core.mix._render import BLOCK_S, Plan, rendered
from verve.core.soundfiles import read_span
from verve.core.units import FloatArray
from verve.core.words import fill

MOST_LIMITED_DB = 3.0
"""More than this is no gentle limiting any more (a choice)."""
NEAR_LU = 0.1
FORMATS = {".wav": ("WAV", "PCM_24"), ".flac": ("FLAC", "PCM_24")}
_TRIES = 6
_MARGIN_DB = 0.03
_STEPS = 2.0**23
_SHARE_RENDERED = 0.5

Progress = Callable[[float], bool]


@dataclass(frozen=True, slots=True, kw_only=True)
class Bounced:
    """What was written: its loudness and true peak as measured, by how much the limiter goes down at most.

    `said` tells in a sentence what was asked for and could not be; empty where all of it could.
    """

    path: Path
    seconds: float
    asked_lufs: float
    lufs: float | None
    true_peak_dbtp: float | None
    gain_db: float
    limited_db: float
    said: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Aim:
    """How loud a bounce is to be, under which ceiling, and whether a limiter may help."""

    loudness_lufs: float
    ceiling_dbtp: float
    may_limit: bool = True


def bounce(plan: Plan, path: Path, aim: Aim, progress: Progress | None = None) -> Bounced:
    """Write a mix as WAV or FLAC of 24 bits, whole or not at all; takes and backing stay as they are.

    raises: FileError if a take cannot be read or the file cannot be written; InputError for another kind of file, or
    a mix of nothing; CancelledError if `progress` has said so
    """
    kind = FORMATS.get(path.suffix.lower())
    if kind is None:
        known = " or ".join(sorted(FORMATS))
        raise InputError("file", f"must end in {known}", path.name)
    if plan.end_s <= plan.start_s:
        raise InputError("mix", "must hold something: record a take first")
    goes_on = progress or (lambda _: True)
    with _whole_mix(plan, goes_on) as (raw, meter):
        lufs, peak = meter.integrated_lufs, meter.true_peak_dbtp
        if peak is None:
            raise InputError("mix", "must hold something: all of it is silent")
        found = _found(raw, plan, aim, lufs, peak, goes_on)
        with whole_file(path) as temporary:
            _write(raw, temporary, plan, kind, found, aim, goes_on)
    return Bounced(
        path=path,
        seconds=meter.frames / plan.rate_hz,
        asked_lufs=aim.loudness_lufs,
        lufs=found.lufs,
        true_peak_dbtp=found.peak_dbtp,
        gain_db=found.gain_db,
        limited_db=found.limited_db,
        said=_said(found, aim, lufs),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Found:
    """A gain, and what comes of it: loudness, true peak, and how far the limiter goes down."""

    gain_db: float
    limits: bool
    lufs: float | None
    peak_dbtp: float
    limited_db: float
    trim_db: float = 0.0


@contextlib.contextmanager
def _whole_mix(plan: Plan, goes_on: Progress) -> Iterator[tuple[Path, ProgrammeMeter]]:
    """The mix in a file of floats, which may go over full scale, and what was measured of it."""
    meter = ProgrammeMeter(channels=2, rate_hz=plan.rate_hz)
    try:
        handle, name = tempfile.mkstemp(prefix="verve-mix-", suffix=".wav")
    except OSError as error:
        raise unwritable(Path(tempfile.gettempdir()), error) from error
    os.close(handle)
    raw = Path(name)
    try:
        # RF64 where it grows beyond what a WAV file holds: an hour and a half of floats.
        with _writing(raw, plan.rate_hz, ("RF64", "FLOAT"), raw) as file:
            for block in rendered(plan, progress=lambda share: goes_on(_SHARE_RENDERED * share)):
                meter.feed(block)
                file.write(block.T.astype(np.float32))
        yield raw, meter
    finally:
        raw.unlink(missing_ok=True)


@contextlib.contextmanager
def _writing(
    path: Path, rate_hz: int, kind: tuple[str, str], told: Path
) -> Iterator[soundfile.SoundFile]:
    """A stereo file that is being written; `told` is the name that errors say."""
    try:
        with soundfile.SoundFile(path, "w", rate_hz, 2, kind[1], format=kind[0]) as file:
            yield file
    except OSError as error:
        raise unwritable(told, error) from error
    except (soundfile.LibsndfileError, AssertionError) as error:
        said = getattr(error, "error_string", "not all of it was taken")
        raise FileError(told, f"cannot be written: {said}", "Make room there.") from error


def _found(
    raw: Path, plan: Plan, aim: Aim, lufs: float | None, peak_dbtp: float, goes_on: Progress
) -> _Found:
    """The gain with which the mix is as loud as it was asked for, or as near to it as it may be."""
    wanted_db = 0.0 if lufs is None else aim.loudness_lufs - lufs
    over_db = peak_dbtp + wanted_db - aim.ceiling_dbtp
    if over_db <= 0.0 or lufs is None:
        gain_db = wanted_db if lufs is not None else min(0.0, -over_db)
        return _Found(
            gain_db=gain_db,
            limits=False,
            lufs=None if lufs is None else lufs + gain_db,
            peak_dbtp=peak_dbtp + gain_db,
            limited_db=0.0,
        )
    if not aim.may_limit:
        gain_db = aim.ceiling_dbtp - peak_dbtp
        return _Found(
            gain_db=gain_db,
            limits=False,
            lufs=lufs + gain_db,
            peak_dbtp=aim.ceiling_dbtp,
            limited_db=0.0,
        )
    most_db = aim.ceiling_dbtp + MOST_LIMITED_DB - peak_dbtp
    gain_db = min(wanted_db, most_db)
    best = _limited(raw, plan, aim, gain_db, goes_on)
    for _ in range(_TRIES):
        missing_db = aim.loudness_lufs - (best.lufs if best.lufs is not None else lufs)
        if abs(missing_db) <= NEAR_LU / 4.0 or (missing_db > 0.0 and gain_db >= most_db):
            break
        gain_db = min(gain_db + missing_db, most_db)
        best = _limited(raw, plan, aim, gain_db, goes_on)
    return best


def _limited(raw: Path, plan: Plan, aim: Aim, gain_db: float, goes_on: Progress) -> _Found:
    """What comes of a gain with the limiter behind it, measured on the whole."""
    meter = ProgrammeMeter(channels=2, rate_hz=plan.rate_hz)
    least = 1.0
    for block, gains in _limited_blocks(raw, plan, gain_db, aim.ceiling_dbtp - _MARGIN_DB):
        if not goes_on(_SHARE_RENDERED):
            raise CancelledError
        meter.feed(block)
        least = min(least, float(gains.min(initial=1.0)))
    peak = meter.true_peak_dbtp
    assert peak is not None
    # What two filters see between samples differs by hundredths: the whole is let down by that, if at all.
    trim_db = min(0.0, aim.ceiling_dbtp - peak)
    lufs = meter.integrated_lufs
    return _Found(
        gain_db=gain_db,
        limits=True,
        lufs=None if lufs is None else lufs + trim_db,
        peak_dbtp=peak + trim_db,
        limited_db=-20.0 * float(np.log10(least)),
        trim_db=trim_db,
    )


def _limited_blocks(
    raw: Path, plan: Plan, gain_db: float, ceiling_db: float
) -> Iterator[tuple[FloatArray, FloatArray]]:
    """The mix, louder and limited, stretch by stretch, with the gains of the limiter."""
    rate_hz, reach = plan.rate_hz, round(REACH_S * plan.rate_hz)
    total = round(plan.end_s * rate_hz) - round(plan.start_s * rate_hz)
    size = round(BLOCK_S * rate_hz)
    for begin in range(0, total, size):
        frames = min(size, total - begin)
        wide = read_span(raw, begin - reach, frames + 2 * reach, rate_hz) * 10.0 ** (gain_db / 20.0)
        gains = gains_for(wide, 10.0 ** (ceiling_db / 20.0), rate_hz)[reach : reach + frames]
        yield wide[:, reach : reach + frames] * gains, gains


def _write(
    raw: Path,
    path: Path,
    plan: Plan,
    kind: tuple[str, str],
    found: _Found,
    aim: Aim,
    goes_on: Progress,
) -> None:
    """The file itself: dithered to 24 bits."""
    rng = np.random.default_rng(24)
    total = max(1, round((plan.end_s - plan.start_s) * plan.rate_hz))
    done = 0
    with _writing(path, plan.rate_hz, kind, path) as file:
        for block in _final_blocks(raw, plan, found, aim):
            if not goes_on(_SHARE_RENDERED + (1.0 - _SHARE_RENDERED) * done / total):
                raise CancelledError
            noise = rng.random(block.shape) - rng.random(block.shape)
            steps = np.clip(np.round(block * _STEPS + noise), -_STEPS, _STEPS - 1.0)
            file.write((steps.astype(np.int32) << 8).T)
            done += block.shape[1]
    try:
        with path.open("rb") as written:
            os.fsync(written.fileno())
    except OSError as error:
        raise unwritable(path, error) from error


def _final_blocks(raw: Path, plan: Plan, found: _Found, aim: Aim) -> Iterator[FloatArray]:
    gain = 10.0 ** ((found.gain_db + found.trim_db) / 20.0)
    if found.limits:
        trim = 10.0 ** (found.trim_db / 20.0)
        ceiling_db = aim.ceiling_dbtp - _MARGIN_DB
        for block, _ in _limited_blocks(raw, plan, found.gain_db, ceiling_db):
            yield block * trim
        return
    total = round(plan.end_s * plan.rate_hz) - round(plan.start_s * plan.rate_hz)
    size = round(BLOCK_S * plan.rate_hz)
    for begin in range(0, total, size):
        yield read_span(raw, begin, min(size, total - begin), plan.rate_hz) * gain


def _said(found: _Found, aim: Aim, lufs: float | None) -> str:
    if lufs is None or found.lufs is None:
        return words.TOO_SHORT
    missing_db = aim.loudness_lufs - found.lufs
    if abs(missing_db) <= NEAR_LU:
        return ""
    said = words.NOT_SO_LOUD_LIMITED if found.limits else words.NOT_SO_LOUD
    return fill(
        said,
        asked_lufs=aim.loudness_lufs,
        lufs=found.lufs,
        ceiling_dbtp=aim.ceiling_dbtp,
        most_db=MOST_LIMITED_DB,
    )
