"""Simulated players in a check: they do what is asked of them, one at a time, on the simulated interface."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from verve.core.assess import Assessment
from verve.core.session import Play
from verve.core.units import FloatArray
from verve.devices._device import arrivals_of
from verve.devices._simulated import SimulatedInterface

BLOCK_FRAMES: Final = 2048
_SECONDS, _LONGEST_S = 5.0, 24.0 * 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """Who should play, by source, and how; nobody where there is none."""

    sources: frozenset[str] = frozenset()
    play: Play = "typical"


class CheckPlayers:
    """What arrives of some lines while their players do as asked: `wish` may change at any moment."""

    def __init__(self, assessment: Assessment, lines: Sequence[str], *, variation: int = 0) -> None:
        """raises: InputError for a line that does not arrive anywhere"""
        self._assessment, self._variation = assessment, variation
        self._arrivals = arrivals_of(assessment, tuple(lines))
        self._lines = tuple(lines)
        self.sample_rate_hz: int = assessment.session.setup.audio.sample_rate_hz
        self.wish = Wish()

    def blocks(self) -> Iterator[FloatArray]:
        """Blocks without an end.

        shape: (n_lines, n_frames)
        """
        playing = self.wish
        interfaces = {
            device: self._interface(device, playing)
            for device in dict.fromkeys(one.device for one in self._arrivals.values())
        }
        frames = round(_LONGEST_S * self.sample_rate_hz)
        streams = {device: one.blocks(frames) for device, one in interfaces.items()}
        while True:
            if self.wish != playing:
                playing = self.wish
                for one in interfaces.values():
                    one.perform_as(playing.play, playing.sources)
            moment = {device: next(stream).samples for device, stream in streams.items()}
            yield np.stack(
                [
                    moment[self._arrivals[line].device][self._arrivals[line].channel]
                    for line in self._lines
                ]
            )

    def _interface(self, device: str, wish: Wish) -> SimulatedInterface:
        wanted = frozenset(a.channel for a in self._arrivals.values() if a.device == device)
        return SimulatedInterface(
            self._assessment, device, play=wish.play, seconds=_SECONDS, wanted=wanted,
            block_frames=BLOCK_FRAMES, variation=self._variation, only=wish.sources,
        )  # fmt: skip
