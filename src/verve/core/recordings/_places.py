"""Where in a recording something is: what touches the ceiling, what breaks off, where nobody plays."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from verve.core.measure import ClippedRun, Recording
from verve.core.units import ratio_to_db

PlaceKind = Literal["loudest", "clipped", "gap", "repeat", "skip", "plosive", "pause"]
MOST_PLACES = 200
_TOGETHER_S = 0.5
"""Clipped runs nearer to each other are one place to listen to."""
_PAUSES = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A stretch of one channel: from when to when, how many faults of its kind it holds, and at which level."""

    kind: PlaceKind
    start_s: float
    end_s: float
    count: int = 1
    frames: int = 0
    """Samples of the longest of its faults."""
    level_dbfs: float | None = None


def places_of(recording: Recording, channel: int) -> tuple[Place, ...]:
    """The places of a channel in the order of time: the loudest, every fault, the longest pauses.

    Of very many faults the first ones.
    """
    rate_hz = recording.sample_rate_hz
    found = recording.channels[channel]
    places: list[Place] = [*_loudest(recording, channel), *_clipped(recording, channel)]
    places += [
        Place(
            kind=one.kind,
            start_s=one.start_frame / rate_hz,
            end_s=(one.start_frame + one.frames) / rate_hz,
            frames=one.frames,
        )
        for one in found.dropouts
    ]
    places += [
        Place(
            kind="plosive",
            start_s=one.start_frame / rate_hz,
            end_s=(one.start_frame + one.frames) / rate_hz,
        )
        for one in found.blasts
    ]
    places = sorted(places, key=lambda place: place.start_s)[:MOST_PLACES]
    return tuple(sorted([*places, *_pauses(recording, channel)], key=lambda place: place.start_s))


def _loudest(recording: Recording, channel: int) -> Iterator[Place]:
    peaks = recording.course.peaks
    if channel >= len(peaks) or not len(peaks[channel]) or not peaks[channel].max():
        return
    first = int(np.argmax(peaks[channel]))
    start_s = first * recording.course.window_s
    yield Place(
        kind="loudest",
        start_s=start_s,
        end_s=start_s + 2.0 * recording.course.window_s,
        level_dbfs=ratio_to_db(float(peaks[channel][first])),
    )


def _clipped(recording: Recording, channel: int) -> Iterator[Place]:
    rate_hz = recording.sample_rate_hz
    runs = recording.channels[channel].clipped_runs
    group = [*runs[:1]]
    for run in runs[1:]:
        last = group[-1]
        if run.start_frame - last.start_frame - last.frames <= _TOGETHER_S * rate_hz:
            group.append(run)
            continue
        yield _one_place(group, rate_hz)
        group = [run]
    if group:
        yield _one_place(group, rate_hz)


def _one_place(runs: Sequence[ClippedRun], rate_hz: int) -> Place:
    return Place(
        kind="clipped",
        start_s=runs[0].start_frame / rate_hz,
        end_s=(runs[-1].start_frame + runs[-1].frames) / rate_hz,
        count=len(runs),
        frames=max(run.frames for run in runs),
        level_dbfs=max(run.level_dbfs for run in runs),
    )


def _pauses(recording: Recording, channel: int) -> Iterator[Place]:
    course = recording.course
    if channel >= len(course.pauses_s):
        return
    longest = sorted(course.pauses_s[channel], key=lambda one: one[0] - one[1])[:_PAUSES]
    for start_s, end_s in longest:
        first, stop = round(start_s / course.window_s), round(end_s / course.window_s)
        powers = course.a_weighted[channel][first:stop]
        level = ratio_to_db(float(np.sqrt(2.0 * powers.mean()))) if len(powers) else None
        yield Place(
            kind="pause", start_s=start_s, end_s=min(end_s, recording.seconds), level_dbfs=level
        )
