"""The interface that ships: its inputs are the lines of a session, its sound is what they would give."""

from __future__ import annotations

import zlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from verve.core.assess import Assessment, LineAssessment
from verve.core.audio import LONGEST_CYCLE_S, LineRenderer, perform
from verve.core.errors import InputError
from verve.core.session import Play
from verve.core.units import FloatArray

BLOCK_FRAMES = 4096


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Block:
    """One moment of all lines: samples by line, full scale is 1.

    shape: (frames,) each
    """

    samples: Mapping[str, FloatArray]


def _seed(text: str) -> int:
    return zlib.crc32(text.encode())


class SimulatedInterface:
    """An audio device made of a session: every line plays into its recorder input."""

    name = "Simulated interface"

    def __init__(self, assessment: Assessment) -> None:
        self._assessment = assessment

    def inputs(self) -> tuple[str, ...]:
        """Ids of the lines that arrive at it."""
        return tuple(
            item.line.id
            for item in self._assessment.lines
            if item.route.is_complete and item.state.staged is not None
        )

    def blocks(self, lines: tuple[str, ...], play: Play, seconds: float) -> Iterator[Block]:
        """What the recorder would write, block by block; the same session gives the same sound.

        raises: InputError for a line that does not arrive here
        """
        rate_hz = self._assessment.session.setup.audio.sample_rate_hz
        known = self.inputs()
        for line_id in lines:
            if line_id not in known:
                raise InputError("line", f"must be one of {', '.join(known) or 'none'}", line_id)
        players = [self._player(line_id, play, seconds, rate_hz) for line_id in lines]
        left = round(seconds * rate_hz)
        at = 0
        while left > 0:
            frames = min(BLOCK_FRAMES, left)
            yield Block(
                samples={name: render(cycle, at, frames) for name, cycle, render in players}
            )
            at += frames
            left -= frames

    def _player(
        self, line_id: str, play: Play, seconds: float, rate_hz: int
    ) -> tuple[str, FloatArray, _Cycling]:
        item = self._assessment.line(line_id)
        assert item is not None
        assert item.state.staged is not None
        figures = item.route.source.figures
        cycle = perform(
            player=figures.player,
            octave_bands_db=item.state.staged.colour.octave_bands_db,
            playing=item.playing,
            play=play,
            # Longer than its cycle a performance repeats: all of those are one.
            seconds=min(seconds, LONGEST_CYCLE_S),
            rate_hz=rate_hz,
            # One source heard by two microphones plays the same notes into both.
            seed=_seed(item.route.source.id),
        )
        return line_id, cycle, _Cycling(_renderer(item, rate_hz))


class _Cycling:
    """Feeds a repeating performance through a line."""

    def __init__(self, renderer: LineRenderer) -> None:
        self._renderer = renderer

    def __call__(self, cycle: FloatArray, at: int, frames: int) -> FloatArray:
        index = np.arange(at, at + frames) % len(cycle)
        return self._renderer(cycle[index])


def _renderer(item: LineAssessment, rate_hz: int) -> LineRenderer:
    staged, levels = item.state.staged, item.state.levels
    assert staged is not None
    assert levels is not None
    return LineRenderer(
        staged,
        levels,
        rate_hz=rate_hz,
        block_frames=BLOCK_FRAMES,
        is_alive=item.is_alive,
        seed=_seed("noise of " + item.line.id),
    )
