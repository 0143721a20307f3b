"""Sound to tune from, moment by moment: what a simulated player plays, or a file, each in its own time."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from verve.core.assess import assess
from verve.core.measure import Reading, Tuner
from verve.core.session import Session
from verve.core.soundfiles import Playback, PlayRequest
from verve.core.units import FloatArray
from verve.devices._device import arrivals_of
from verve.devices._record import LONGEST_LISTENING_S, wait
from verve.devices._simulated import SimulatedInterface

BLOCK_FRAMES = 1024
"""About 21 ms at 48 kHz: a reading is never later than that."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneRequest:
    """What to tune from: a signal's simulated player, or a sound file, over and over."""

    session: Session
    line: str | None = None
    path: Path | None = None
    channel: int | None = None
    is_paced: bool = True


def tune(
    request: TuneRequest,
    report: Callable[[Reading | None], None],
    is_cancelled: Callable[[], bool],
) -> None:
    """Report what is heard after each block until cancelled; None in a rest.

    raises: InputError for a signal that arrives nowhere; FileError for a file that cannot be read
    """
    rate_hz, blocks = _blocks(request, is_cancelled)
    tuner = Tuner(rate_hz=rate_hz, a4_hz=request.session.a4_hz)
    state, given, began = tuner.start(), 0, time.monotonic()
    for block in blocks:
        if is_cancelled():
            return
        state = tuner.fold(state, block)
        given += len(block)
        report(state.reading)
        if request.is_paced:
            wait(given / rate_hz - (time.monotonic() - began), is_cancelled)


def _blocks(
    request: TuneRequest, is_cancelled: Callable[[], bool]
) -> tuple[int, Iterator[FloatArray]]:
    if request.path is not None:
        loop = PlayRequest(path=request.path, loop_s=(0.0, np.inf), channel=request.channel)
        playback = Playback(
            loop, request.session.setup.audio.sample_rate_hz, lambda: not is_cancelled()
        )
        return playback.rate_hz, _of_file(playback)
    assert request.line is not None
    assessment = assess(request.session)
    arrival = arrivals_of(assessment, (request.line,))[request.line]
    interface = SimulatedInterface(
        assessment,
        arrival.device,
        play="typical",
        seconds=LONGEST_LISTENING_S,
        wanted=frozenset({arrival.channel}),
        block_frames=BLOCK_FRAMES,
    )
    frames = round(LONGEST_LISTENING_S * interface.sample_rate_hz)
    blocks = (block.samples[arrival.channel] for block in interface.blocks(frames))
    return interface.sample_rate_hz, blocks


def _of_file(playback: Playback) -> Iterator[FloatArray]:
    with playback:
        while len(block := playback.read(BLOCK_FRAMES)):
            yield block.mean(axis=1)
