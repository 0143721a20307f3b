"""Loop-backs of long recordings: where it is at a sixteenth of the rate, and exactly in some windows of all of it."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Final

import numpy as np

from verve.core.measure._clocks import active, delayed
from verve.core.measure._loopback import (
    DIFFERS_PPM,
    LEAST_HEIGHT,
    Answer,
    Loopback,
    Rough,
    answer_of,
    confidence_of,
    is_periodic,
    others_of,
    rough_of,
)
from verve.core.units import FloatArray

_DOWN: Final = 16
_COARSER = 4
_EXCERPT_S = 5.0
_WINDOW_S = 0.3
_WINDOWS = 3
_REACH = 1024
"""Frames about where a window is expected: the coarse answer is true to some sixteens, its clock to some hundreds."""
_DOUBTFUL = (0.7 * LEAST_HEIGHT, 2.0 * LEAST_HEIGHT)
_STRAIGHT = 0.5
_CLOCK_FRAMES = 0.2
"""Windows that are less than this from equal clocks, over all of it, say nothing of a difference."""


def _boxed(samples: FloatArray, frames: int = _DOWN) -> FloatArray:
    """Means of so many frames: what is folded down by it is noise beside what it keeps."""
    whole = samples.shape[1] // frames * frames
    return np.asarray(samples[:, :whole].reshape(samples.shape[0], -1, frames).mean(axis=2))


def long_loopback(sent: FloatArray, returned: FloatArray, rate_hz: int) -> Loopback | None:
    """What a long recording says; None where that cannot be told so, and all of it has to be looked at.

    shape: sent (n_sent_channels, n_frames), returned (n_returned_channels, m_frames)
    """
    coarse, back = _boxed(sent), _boxed(returned)
    coarse_hz = rate_hz // _DOWN
    # What repeats itself does so at any rate.
    if any(is_periodic(one) for one in _boxed(coarse, _COARSER) if np.any(one)):
        return None
    loud = coarse[int(np.argmax(np.sum(coarse**2, axis=1)))]
    if not np.any(loud):
        return None
    begin = active(loud)[0]
    excerpt = coarse[:, begin : begin + round(_EXCERPT_S * coarse_hz)]
    roughs = [
        [
            rough_of(one, came, coarse_hz)[0] if np.any(one) and np.any(came) else None
            for one in excerpt
        ]
        for came in back
    ]
    heights = [[0.0 if one is None else one.height for one in row] for row in roughs]
    # What is neither clear nor clearly nothing has to be looked at as a whole.
    if any(_DOUBTFUL[0] < one < _DOUBTFUL[1] for row in heights for one in row):
        return None
    mapped = tuple(int(np.argmax(row)) if max(row) >= LEAST_HEIGHT else None for row in heights)
    held = [
        (heights[channel][number], channel, number)
        for channel, number in enumerate(mapped)
        if number is not None
    ]
    if not held:
        return None
    first_sent = min(number for _, _, number in held)
    _, channel, number = max(one for one in held if one[2] == first_sent)
    found = roughs[channel][number]
    assert found is not None
    one, came_back = sent[number], returned[channel]
    first, last = active(one)
    windows = _windows(one, came_back, rate_hz, found, begin * _DOWN, (first, last))
    if len(windows) < 2:
        return None
    begins = np.array([one[0] for one in windows], dtype=np.float64)
    places = np.array([one[1] for one in windows])
    slope, delay = np.polyfit(begins, places, 1)
    if float(np.abs(places - slope * begins - delay).max()) > _STRAIGHT:
        return None
    share = float(slope) - 1.0
    if abs(share) * float(np.ptp(begins)) < _CLOCK_FRAMES:
        share, delay = 0.0, float(np.mean(places - begins))
    inverted = tuple(
        n is not None and (a := row[n]) is not None and a.sign < 0
        for n, row in zip(mapped, roughs, strict=True)
    )
    best = max(windows, key=lambda window: window[2].height)
    level_db, snr_db = _level(
        one, came_back, best[0], round(_WINDOW_S * rate_hz), float(delay), share
    )
    ends = [float(delay) + at * (1.0 + share) for at in (first, last)]
    return Loopback(
        found=True,
        delay_frames=float(delay),
        delay_ms=1000.0 * float(delay) / rate_hz,
        polarity_inverted=best[2].sign < 0,
        level_db=level_db,
        clock_difference_ppm=share * 1e6,
        clock_differs=abs(share * 1e6) > DIFFERS_PPM,
        is_complete=ends[0] >= -1.0 and ends[1] <= len(came_back),
        channel=channel,
        channel_map=mapped,
        channels_inverted=inverted,
        snr_db=snr_db,
        confidence=confidence_of(best[2]),
        other_arrivals=tuple(
            replace(other, delay_frames=other.delay_frames - best[2].delay + float(delay))
            for other in others_of(best[2], rate_hz)
        ),
        reason=None,
    )


_Window = tuple[int, float, Answer, int]
"""Where it begins in the sent file and where that came back; its answer; where it was looked for from."""


def _windows(
    sent: FloatArray,
    returned: FloatArray,
    rate_hz: int,
    coarse: Rough,
    begin: int,
    ends: tuple[int, int],
) -> list[_Window]:
    """Some windows of all that was sent, each found by itself."""
    first, last = ends
    length = round(_WINDOW_S * rate_hz)
    found: list[_Window] = []
    for at in np.linspace(first, max(first, last - length), _WINDOWS).astype(int).tolist():
        expected = _DOWN * coarse.delay + (at - begin) * (1.0 + coarse.share)
        low = round(expected) - _REACH
        if low < 0 or low + length + 2 * _REACH > len(returned):
            continue
        part, came = sent[at : at + length], returned[low : low + length + 2 * _REACH]
        answer = answer_of(part, came, rate_hz) if np.any(part) and np.any(came) else None
        if answer is not None:
            found.append((at, low + answer.delay, answer, low))
    return found


def _level(
    sent: FloatArray, returned: FloatArray, at: int, length: int, delay: float, share: float
) -> tuple[float | None, float | None]:
    """How loud one window came back, and how far above what else is there."""
    low = max(0, at - _REACH)
    around = sent[low : at + length + _REACH]
    begin = math.ceil(delay + at * (1.0 + share))
    frames = np.arange(begin, min(begin + length, len(returned)), dtype=np.float64)
    model = delayed(around, (frames - delay) / (1.0 + share) - low)
    came = returned[begin : begin + len(frames)]
    energy = float(model @ model)
    if not energy:
        return None, None
    gain = float(came @ model) / energy
    left = float(np.mean((came - gain * model) ** 2))
    signal = float(np.mean((gain * model) ** 2))
    level_db = 20.0 * math.log10(abs(gain)) if gain else None
    return level_db, 10.0 * math.log10(signal / left) if signal > 0.0 and left > 0.0 else None
