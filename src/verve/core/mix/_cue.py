"""What is heard in the headphones while something is recorded: backing, the layers it is played over, the click."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np
import soundfile

from verve.core.errors import CancelledError, InputError
from verve.core.files import whole_file
from verve.core.measure import ProgrammeMeter
from verve.core.mix._heard import Heard, backings, heard_of, heard_under, recorded_lines
from verve.core.mix._render import BLOCK_S, backing_span, line_span, plan_of_mix, rendered
from verve.core.session import Session, Sound, cue_of, layer_of, listeners
from verve.core.takes import RecordPlan, clicks
from verve.core.units import FloatArray

_CLICK_S = 0.03
_CLICK_HZ: Final = (1_600.0, 1_100.0)
"""The first beat of a bar, and the others."""
_CLICK_LEVEL = 0.25
_LONGEST_S = 600.0
"""A recording without an end hears so much; what is longer goes on in silence."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CuePlan:
    """What is played while a recording runs, looked up once; `loop_s` is from when to when it goes round."""

    rate_hz: int
    start_s: float
    seconds: float
    loop_s: tuple[float, float] | None
    lines: tuple[tuple[Heard, ...], ...]
    backings: tuple[Sound, ...]
    backing_db: float
    beats: tuple[tuple[float, bool], ...]
    click_db: float

    @property
    def is_silent(self) -> bool:
        """Whether there is nothing to be heard."""
        return not (self.lines or self.backings or self.beats)


def cue_plan(session: Session, plan: RecordPlan) -> CuePlan:
    """Backing and click as loud as Monitor has them for whoever hears them loudest, and all layers it is over."""
    song, layer = session.song, layer_of(session)
    under = () if layer is None else heard_under(session, layer.over)
    own = {line.id for line in session.setup.lines}
    cues = [cue_of(session.setup, who) for who, _ in listeners(session.setup)]
    lines = tuple(heard_of(session, line) for line in under if line not in own)
    ends = [one.until_s for heard in lines for one in heard]
    tracks = backings(session)
    ends += [one.offset_s + one.seconds for one in tracks]
    last = plan.until_s if plan.until_s is not None else max(ends, default=plan.from_s)
    last = min(last, plan.start_s + _LONGEST_S)
    loop = None if plan.round_s is None else (plan.lead_s, plan.lead_s + plan.round_s)
    tail_s = 0.0 if plan.loops else plan.tail_s
    beats = [(at, index % song.beats == 0) for index, at in enumerate(plan.count_in_s)]
    if song.has_click:
        beats += clicks(song, plan.from_s, last)
    return CuePlan(
        rate_hz=session.setup.audio.sample_rate_hz,
        start_s=plan.start_s,
        seconds=max(0.0, last + tail_s - plan.start_s),
        loop_s=loop,
        lines=tuple(heard for heard in lines if heard),
        backings=tracks,
        backing_db=max((c.backing_db for c in cues if c.backing_db is not None), default=0.0),
        beats=tuple(beats),
        click_db=max((c.click_db for c in cues if c.click_db is not None), default=0.0),
    )


def _click(rate_hz: int, *, is_first: bool) -> FloatArray:
    at = np.arange(round(_CLICK_S * rate_hz)) / rate_hz
    hz = _CLICK_HZ[0] if is_first else _CLICK_HZ[1]
    return np.asarray(_CLICK_LEVEL * np.sin(2.0 * np.pi * hz * at) * np.exp(-at / (_CLICK_S / 4.0)))


def cue_span(plan: CuePlan, begin: int, frames: int) -> FloatArray:
    """A stretch of it, counted in frames since the recording began.

    shape: (2, n_frames)
    """
    at = round(plan.start_s * plan.rate_hz) + begin
    found = np.zeros((2, frames))
    for heard in plan.lines:
        found += line_span(heard, at, frames, plan.rate_hz) / np.sqrt(2.0)
    gain = 10.0 ** (plan.backing_db / 20.0)
    for sound in plan.backings:
        found += backing_span(sound, at, frames, plan.rate_hz) * gain
    for beat_s, is_first in plan.beats:
        first = round(beat_s * plan.rate_hz) - at
        click = _click(plan.rate_hz, is_first=is_first) * 10.0 ** (plan.click_db / 20.0)
        low, high = max(0, first), min(frames, first + len(click))
        if high > low:
            found[:, low:high] += click[low - first : high - first]
    return np.clip(found, -1.0, 1.0)


def write_cue(plan: CuePlan, path: Path, goes_on: Callable[[], bool] = lambda: True) -> Path:
    """All of it into a file of floats.

    raises: FileError if a take cannot be read or the file cannot be written; CancelledError
    """
    total, size = round(plan.seconds * plan.rate_hz), round(BLOCK_S * plan.rate_hz)
    with whole_file(path) as temporary, contextlib.ExitStack() as stack:
        file = stack.enter_context(
            soundfile.SoundFile(temporary, "w", plan.rate_hz, 2, "FLOAT", format="WAV")
        )
        for begin in range(0, total, size):
            if not goes_on():
                raise CancelledError
            file.write(cue_span(plan, begin, min(size, total - begin)).T.astype(np.float32))
    return path


def whole_song_s(session: Session) -> float:
    """How long the song is, as far as anything of it is known: its sections, its backing, its takes."""
    ends = [section.end_s for section in session.song.sections]
    ends += [one.offset_s + one.seconds for one in backings(session)]
    ends += [
        one.until_s for line in recorded_lines(session) for one in heard_of(session, line)[-1:]
    ]
    return max(ends, default=0.0)


def write_mix(
    session: Session, path: Path, goes_on: Callable[[], bool] = lambda: True
) -> float | None:
    """The whole rough mix to be heard, under full scale; its loudness in LUFS, None for what is too quiet for one.

    raises: FileError if a take cannot be read or the file cannot be written; InputError for a mix of nothing;
    CancelledError
    """
    plan = plan_of_mix(session)
    if plan.end_s <= plan.start_s:
        raise InputError("mix", "must hold something: record a take first")
    meter = ProgrammeMeter(channels=2, rate_hz=plan.rate_hz)
    with whole_file(path) as temporary, contextlib.ExitStack() as stack:
        file = stack.enter_context(
            soundfile.SoundFile(temporary, "w", plan.rate_hz, 2, "FLOAT", format="WAV")
        )
        for block in rendered(plan, progress=lambda _: goes_on()):
            heard = np.clip(block, -1.0, 1.0)
            meter.feed(heard)
            file.write(heard.T.astype(np.float32))
    return meter.integrated_lufs
