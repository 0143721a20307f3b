"""What a computer that could not keep up leaves in a recording: gaps, blocks twice, frames that are missing.

A gap is held or zero in the middle of sound; a repeat is a block that stands there once more; a skip is a jump that
no instrument makes: far off what the wave before and behind it foretells, with nothing new sounding after it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.linalg import solve_toeplitz
from scipy.signal import lfilter

from verve.core.units import FloatArray

Kind = Literal["gap", "repeat", "skip"]
SHORTEST = 32
LONGEST_REPEAT = 8_192
REACH = LONGEST_REPEAT + 64
"""How far around a cell is looked at."""
_SOUND_FRAMES = 512
_EDGE_FRAMES = 64
_LEAST = 1e-3
_FADED = 0.08
"""A wave that has sunk to less of itself just before it stops was faded."""
_BLOCK = 256
_FEW = 8
"""Blocks on either side that tell what is usual."""
_STANDS_OUT, _ALONE = 2.5, 2.0
_LEAST_DIFFERENCE = 1e-4
_ORDER = 24
_FAR_OFF = 14.0
_LEAST_JUMP = 0.08
_LOUDER_AFTER = 4.0
_MOST = 1_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Dropout:
    """Where sound is missing, or there twice."""

    start_frame: int
    frames: int
    kind: Kind


@dataclass(frozen=True, slots=True, kw_only=True)
class Still:
    """Equal frames within a cell; `is_cut` tells that sound stopped there, `goes_on` that sound follows."""

    start_frame: int
    stop_frame: int
    value: float
    is_cut: bool
    goes_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Interruptions:
    """Of a cell: equal frames, and jumps with how many frames are repeated after each (0: none)."""

    stills: tuple[Still, ...]
    jumps: tuple[tuple[int, int], ...]


def read_interruptions(samples: FloatArray, low: int, high: int, start_frame: int) -> Interruptions:
    """What stands still and what jumps in samples[low:high], which begins at that frame of the recording."""
    stills = _stills(samples, low, high, start_frame)
    if float(np.abs(samples[low:high]).max()) < _LEAST:
        return Interruptions(stills=stills, jumps=())
    jumps: list[tuple[int, int]] = []
    lone, all_out = _outliers(samples, low, high)
    behind = 0
    for at in all_out:
        here = at - low + start_frame
        if at < behind or any(s.start_frame - 8 <= here <= s.stop_frame + 8 for s in stills):
            continue
        if found := _repeated(samples, at):
            begin, length = found
            jumps.append((begin - low + start_frame, length))
            # Where the repeated block ends the wave jumps once more.
            behind = begin + length + 8
        elif at in lone and (jump := _jump_at(samples, at)):
            length = _repeated_before(samples, jump)
            jumps.append((jump - length - low + start_frame, length))
    jumps = jumps[:_MOST]
    return Interruptions(stills=stills, jumps=tuple(jumps))


def _stills(samples: FloatArray, low: int, high: int, start_frame: int) -> tuple[Still, ...]:
    # Every stretch that is long enough has two equal frames at one of these places, and a third one beside them.
    some = np.arange(low, high, SHORTEST // 2)
    some = some[samples[some] == samples[some - 1]]
    beside = (samples[some - 2] == samples[some]) | (
        samples[np.minimum(some + 1, len(samples) - 1)] == samples[some]
    )
    ends = np.array([low, high - 1])
    if not beside.any() and not (samples[ends] == samples[ends - 1]).any():
        return ()
    equal = samples[low:high] == samples[low - 1 : high - 1]
    edges = np.flatnonzero(np.diff(np.concatenate([[0], equal.astype(np.int8), [0]])))
    first, stop = edges[::2], edges[1::2]
    touches = (first == 0) | (stop == high - low)
    wanted = (stop - first >= SHORTEST - 1) | (touches & (stop > first))
    found = []
    for begin, end in zip(first[wanted].tolist(), stop[wanted].tolist(), strict=True):
        # The first of equal frames is the one they are equal to.
        at, until = low + begin - 1, low + end
        before, after = (
            samples[max(0, at - _SOUND_FRAMES) : at],
            samples[until : until + _SOUND_FRAMES],
        )
        found.append(
            Still(
                start_frame=start_frame + begin - 1,
                stop_frame=start_frame + end,
                value=float(samples[at]),
                is_cut=_stops_short(before, float(samples[at])),
                goes_on=len(after) > 0 and float(np.abs(after).max()) >= _LEAST,
            )
        )
        if len(found) == _MOST:
            break
    return tuple(found)


def _stops_short(before: FloatArray, value: float) -> bool:
    """Whether sound was there, and did not sink before it stopped."""
    if len(before) < _EDGE_FRAMES:
        return False
    loudest = float(np.abs(before).max())
    edge = float(np.abs(before[-_EDGE_FRAMES:]).max())
    return loudest >= _LEAST and max(edge, abs(value)) >= max(_FADED * loudest, _LEAST)


def _outliers(samples: FloatArray, low: int, high: int) -> tuple[set[int], list[int]]:
    """Places where the fourth difference stands far out of what is usual around: those alone there, and all."""
    difference = np.abs(np.diff(samples[low - _FEW * _BLOCK - 4 : high + _FEW * _BLOCK], n=4))
    blocks = len(difference) // _BLOCK
    if blocks < 2 * _FEW + 1:
        # So short a recording has nothing around it that could be usual.
        return set(), []
    peaks = difference[: blocks * _BLOCK].reshape(blocks, _BLOCK)
    highest = peaks.max(axis=1)
    around = np.lib.stride_tricks.sliding_window_view(highest, 2 * _FEW + 1)
    usual = np.partition(around, _FEW, axis=1)[:, _FEW]
    middle = highest[_FEW : _FEW + len(usual)]
    out = np.flatnonzero((middle > _STANDS_OUT * usual) & (middle > _LEAST_DIFFERENCE))
    # The next blocks are left out: a jump may lie on the edge of two.
    others = np.delete(around, [_FEW - 1, _FEW, _FEW + 1], axis=1)[:, _FEW - 5 : _FEW + 4]
    is_lone = middle > _ALONE * others.max(axis=1)
    lone, found = set(), []
    for block in out.tolist()[:_MOST]:
        at = low + block * _BLOCK + int(np.argmax(peaks[block + _FEW]))
        if low <= at < high:
            found.append(at)
            if is_lone[block]:
                lone.add(at)
    return lone, found


def _jump_at(samples: FloatArray, at: int) -> int:
    """The frame at which the wave jumps, near one that stands out; 0 where it does not."""
    span = 2_048
    if at < span or at + span > len(samples):
        return 0
    piece = samples[at - span : at + span].astype(np.float64)
    left, right = piece[: span - 40], piece[span + 40 :]
    error = _prediction_error(piece, np.concatenate([left, right]))
    scale = 1.4826 * float(
        np.median(np.abs(np.concatenate([error[200 : span - 40], error[span + 40 :]])))
    )
    near = np.abs(error[span - 16 : span + 16])
    loudest = float(np.abs(piece[span - 600 : span + 600]).max())
    if near.max() < max(_FAR_OFF * scale, _LEAST_JUMP * loudest):
        return 0
    # Something that begins to sound goes on being unforeseen.
    before = (
        float(np.mean(left[-1_000:] ** 2)),
        float(np.mean(error[span - 1_040 : span - 40] ** 2)),
    )
    after = float(np.mean(right[:1_000] ** 2)), float(np.mean(error[span + 40 : span + 1_040] ** 2))
    if any(b > _LOUDER_AFTER * a + 1e-12 for a, b in zip(before, after, strict=True)):
        return 0
    if any(a > _LOUDER_AFTER * b + 1e-12 for a, b in zip(before, after, strict=True)):
        return 0
    first = int(np.flatnonzero(near >= 0.5 * near.max())[0])
    return at - 16 + first


def _prediction_error(piece: FloatArray, learnt_from: FloatArray) -> FloatArray:
    """What linear prediction does not foretell, with coefficients learnt from other frames."""
    windowed = learnt_from * np.hanning(len(learnt_from))
    count = len(windowed)
    lags = np.array([windowed[lag:] @ windowed[: count - lag] for lag in range(_ORDER + 1)])
    lags[0] = lags[0] * (1.0 + 1e-9) + 1e-15
    taps = solve_toeplitz(lags[:_ORDER], lags[1 : _ORDER + 1])
    return np.asarray(lfilter(np.concatenate([[1.0], -taps]), [1.0], piece))


def _repeated(samples: FloatArray, at: int) -> tuple[int, int] | None:
    """Where a block that stands just before stands once more, near a jump, and how long it is."""
    for begin in range(at - 4, at + 3):
        probe = samples[begin : begin + SHORTEST]
        past = samples[max(0, begin - LONGEST_REPEAT) : begin]
        if len(probe) < SHORTEST or len(past) < SHORTEST:
            continue
        for place in _places_of(probe, past):
            length = len(past) - place
            is_same = np.array_equal(samples[begin : begin + length], past[place:])
            # A wave that is the same over and over was no block that came twice.
            if is_same and not np.array_equal(
                samples[begin - 2 * length : begin - length], past[place:]
            ):
                return begin, length
    return None


def _places_of(probe: FloatArray, past: FloatArray) -> list[int]:
    """Where in the past these frames stand, the nearest first; what stands still stands everywhere and nowhere."""
    if (probe == probe[0]).all():
        return []
    places = np.flatnonzero(past[: len(past) - SHORTEST + 1] == probe[0])
    for offset in range(1, SHORTEST):
        if not len(places):
            break
        places = places[past[places + offset] == probe[offset]]
    return [int(place) for place in places[::-1]]


def _repeated_before(samples: FloatArray, at: int) -> int:
    """How long the block is that ends at a jump and is the one before it once more; 0 for none.

    Where it begins the wave may have happened to go on as if nothing were.
    """
    for end in range(at - 4, at + 3):
        probe = samples[end - SHORTEST : end]
        past = samples[max(0, end - LONGEST_REPEAT) : end - SHORTEST]
        for place in _places_of(probe, past):
            length = len(past) - place
            if end >= 2 * length and np.array_equal(
                samples[end - length : end], samples[end - 2 * length : end - length]
            ):
                return length
    return 0


def find_dropouts(
    found: Sequence[Interruptions], clipped: Sequence[tuple[int, int]]
) -> tuple[Dropout, ...]:
    """The dropouts of a channel: stills that are gaps and no clipped tops (start, stop), repeats, skips."""
    gaps = [
        Dropout(start_frame=s.start_frame, frames=s.stop_frame - s.start_frame, kind="gap")
        for s in _joined(found)
        if s.is_cut
        and s.goes_on
        and s.stop_frame - s.start_frame >= SHORTEST
        and not any(a < s.stop_frame and b > s.start_frame for a, b in clipped)
    ]
    tops = np.array([edge for span in clipped for edge in span])
    jumps = []
    for cell in found:
        for at, repeated in cell.jumps:
            in_gap = any(g.start_frame - 8 <= at <= g.start_frame + g.frames + 8 for g in gaps)
            at_top = len(tops) > 0 and int(np.abs(tops - at).min()) <= 6
            if in_gap or (at_top and not repeated):
                continue
            kind: Kind = "repeat" if repeated else "skip"
            jumps.append(Dropout(start_frame=at, frames=repeated, kind=kind))
    return tuple(sorted([*gaps, *jumps], key=lambda one: one.start_frame))[:_MOST]


def _joined(found: Sequence[Interruptions]) -> list[Still]:
    """Equal frames that go on in the next cell as one."""
    joined: list[Still] = []
    for cell in found:
        for still in cell.stills:
            last = joined[-1] if joined else None
            if last and last.value == still.value and still.start_frame <= last.stop_frame:
                joined[-1] = Still(
                    start_frame=last.start_frame,
                    stop_frame=still.stop_frame,
                    value=last.value,
                    is_cut=last.is_cut,
                    goes_on=still.goes_on,
                )
            else:
                joined.append(still)
    return joined
