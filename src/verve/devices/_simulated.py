"""The interface that ships: what arrives at its inputs is what the session would give."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from verve.core.assess import Assessment
from verve.core.engine import Remembered
from verve.core.session import Play
from verve.core.sound import LONGEST_CYCLE_S, PlayerKey, Renderer, perform, seed_of
from verve.core.units import FloatArray
from verve.devices._device import Block, arrivals

BLOCK_FRAMES = 4096


class SimulatedInterface:
    """A recorder of a session as an audio device: every input hears everything that reaches it."""

    def __init__(
        self,
        assessment: Assessment,
        device: str,
        *,
        play: Play,
        seconds: float,
        wanted: frozenset[int] | None = None,
        block_frames: int = BLOCK_FRAMES,
    ) -> None:
        """`seconds` is how long the players have to fit their performance into; `wanted` are the channels
        that will be looked at, all of them unless said: the others stay silent."""
        self._assessment = assessment
        self._seconds, self._play = seconds, play
        self._block_frames = block_frames
        owner = next(d for d in assessment.session.setup.devices if d.id == device)
        self.name = f"{owner.name}, simulated"
        self.channels_in = len(owner.figures.input_ports())
        self.channels_out = 2
        self.sample_rate_hz: int = assessment.session.setup.audio.sample_rate_hz
        self._channels: list[int] = []
        lines = []
        for line_id, arrival in arrivals(assessment).items():
            is_wanted = wanted is None or arrival.channel in wanted
            if arrival.device == device and is_wanted and arrival.channel not in self._channels:
                item = assessment.line(line_id)
                assert item is not None
                self._channels.append(arrival.channel)
                lines.append((item.state, item.is_alive))
        self._renderer = Renderer(lines, rate_hz=self.sample_rate_hz, block_frames=block_frames)
        self._cycles = [self._perform(key) for key in self._renderer.players]

    def _perform(self, key: PlayerKey) -> FloatArray:
        """One cycle of playing; made once as long as the engine remembers it, since it takes a while."""
        setup = self._assessment.session.setup
        figures = next(s.figures for s in setup.sources if s.id == key.source)
        table: Remembered[FloatArray] = self._assessment.engine.table("performances", 32)
        # Longer than its cycle a performance repeats: all of those are one.
        seconds = min(self._seconds, LONGEST_CYCLE_S)
        asked = (
            figures.player,
            key.octave_bands_db,
            figures.playing(),
            self._play,
            seconds,
            self.sample_rate_hz,
            # One source heard by two microphones plays the same notes into both.
            seed_of(key.source),
        )
        known = table.find_equal(asked)
        if known is not None:
            return known
        made = perform(
            player=figures.player,
            octave_bands_db=key.octave_bands_db,
            playing=figures.playing(),
            play=self._play,
            seconds=seconds,
            rate_hz=self.sample_rate_hz,
            seed=seed_of(key.source),
        )
        return table.keep_equal(asked, made)

    def blocks(self, frames: int) -> Iterator[Block]:
        """What it records, so many frames in all; the same session gives the same sound."""
        at = 0
        while at < frames:
            index = np.arange(at, at + self._block_frames)
            performances = np.zeros((len(self._cycles), self._block_frames))
            for number, cycle in enumerate(self._cycles):
                performances[number] = cycle[index % len(cycle)]
            count = min(self._block_frames, frames - at)
            samples = np.zeros((self.channels_in, count))
            if self._channels:
                samples[self._channels] = self._renderer(performances)[:, :count]
            yield Block(start_frame=at, samples=samples)
            at += count
