"""What goes wrong on a simulated interface: hum where the patch invites it, gaps where the buffer is too small.

Only in takes that differ from each other (a variation): without one everything is exactly as computed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from verve.core.assess import Assessment
from verve.core.monitor import option
from verve.core.power import hum_risks
from verve.core.units import FloatArray

_MAINS_HZ: Final = 50.0
_HUM_ONE_IN: Final = 2
"""Of what may hum so many takes do: whoever touches a plug changes it."""
_ABOVE_NOISE_DB = (6.0, 18.0)
_HARMONICS: Final = ((1, 1.0), (2, 0.35), (3, 0.6), (5, 0.25), (7, 0.12))
_TIGHT: Final = 0.85
"""A computer that is busier than this drops buffers now and then."""
_GAPS_PER_S: Final = 1.5
"""At twice what the computer can do."""


def hum_wave(at_s: FloatArray, hz: float) -> FloatArray:
    """Hum as of the mains with its harmonics, its first one 1.0 high. shape: (n_frames,)"""
    parts = [a * np.sin(2.0 * np.pi * n * hz * at_s + n) for n, a in _HARMONICS]
    return np.asarray(sum(parts))


def _no_hum() -> Mapping[int, float]:
    return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Spoils:
    """What happens to one take: the amplitude of hum by channel, how often a buffer is lost, and how long it is."""

    seed: int
    rate_hz: int
    buffer_frames: int
    hum: Mapping[int, float] = field(default_factory=_no_hum)
    gaps_per_s: float = 0.0

    @staticmethod
    def of(assessment: Assessment, channels: Mapping[str, int], variation: int) -> Spoils:
        """Those of a take of this session; `channels` are those of its lines."""
        session = assessment.session
        audio = session.setup.audio
        rng = np.random.default_rng([variation, 77])
        risks = set(hum_risks(session.setup))
        hum: dict[int, float] = {}
        for line, channel in channels.items():
            item = assessment.line(line)
            if item is None or not item.route.has_source or item.noise_dbfs_a is None:
                continue
            hums = int(rng.integers(_HUM_ONE_IN)) == 0
            level_db = item.noise_dbfs_a + float(rng.uniform(*_ABOVE_NOISE_DB))
            if hums and item.route.source.name in risks:
                hum[channel] = 10.0 ** (level_db / 20.0)
        busy = option(session, audio.buffer_frames, float(audio.sample_rate_hz)).busy
        over = max(0.0, busy - _TIGHT) / (2.0 - _TIGHT)
        return Spoils(
            seed=variation,
            rate_hz=audio.sample_rate_hz,
            buffer_frames=audio.buffer_frames,
            hum=hum,
            gaps_per_s=min(1.0, over) * _GAPS_PER_S,
        )

    def apply(self, samples: FloatArray, start_frame: int) -> None:
        """Spoil a block in place, the same for every size of block.

        shape: samples (n_channels, n_frames)
        """
        at = start_frame + np.arange(samples.shape[1])
        if self.hum:
            t = at / self.rate_hz
            wave = hum_wave(t, _MAINS_HZ)
            for channel, amplitude in self.hum.items():
                samples[channel] += amplitude * wave
        if self.gaps_per_s > 0.0:
            samples[:, self._is_lost(at)] = 0.0

    def _is_lost(self, at: np.ndarray) -> np.ndarray:
        """Which frames lie in a buffer that was lost: by the number of the buffer, whatever the block."""
        buffers = at // self.buffer_frames
        share = self.gaps_per_s * self.buffer_frames / self.rate_hz
        lost = {
            int(number): np.random.default_rng([self.seed, int(number)]).random() < share
            for number in np.unique(buffers)
        }
        return np.array([lost[int(number)] for number in buffers], dtype=bool)
