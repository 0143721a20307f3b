"""Loudness and true peak of a stereo sound alone, block by block: what a bounce is measured with while it is made."""

from __future__ import annotations

import numpy as np
from scipy.signal import sosfilt

from verve.core.errors import InputError
from verve.core.measure._loudness import HOPS_PER_S, integrated_lufs, k_weighting, momentary_lufs
from verve.core.measure._true_peak import REACH, between, oversampling, true_peak
from verve.core.units import FloatArray


class ProgrammeMeter:
    """Takes blocks of a sound from its beginning; at any time it tells the loudness and the true peak so far.

    source: BS.1770-5, as `Meter`, which measures the same with everything else
    """

    def __init__(self, *, channels: int, rate_hz: int) -> None:
        """raises: InputError for a rate that has no whole frames in 10 ms"""
        if rate_hz % HOPS_PER_S:
            raise InputError("rate_hz", f"must be a multiple of {HOPS_PER_S}", rate_hz)
        self.rate_hz, self._hop = rate_hz, rate_hz // HOPS_PER_S
        self._sections = k_weighting(rate_hz)
        self._memory = np.zeros((len(self._sections), channels, 2))
        self._rest = np.zeros(0)
        self._energies: list[FloatArray] = []
        self._table = between(oversampling(rate_hz))
        self._before = np.zeros((channels, 2 * REACH), dtype=np.float32)
        self._peak = 0.0
        self.frames = 0

    def feed(self, block: FloatArray) -> None:
        """One more block.

        shape: block (n_channels, n_frames)
        """
        weighted, self._memory = sosfilt(self._sections, block, zi=self._memory)
        squares = np.concatenate([self._rest, np.sum(weighted**2, axis=0)])
        whole = len(squares) // self._hop * self._hop
        self._energies.append(squares[:whole].reshape(-1, self._hop).sum(axis=1))
        self._rest = squares[whole:]
        self.frames += block.shape[1]
        joined = np.concatenate([self._before, block.astype(np.float32)], axis=1)
        self._look(joined)
        self._before = joined[:, -2 * REACH :]

    def _look(self, joined: FloatArray) -> None:
        low, high = REACH, joined.shape[1] - REACH
        for one in joined:
            self._peak = max(self._peak, float(np.abs(one).max(initial=0.0)))
            if high > low:
                self._peak = max(self._peak, true_peak(one, low, high, self._peak, self._table))

    @property
    def true_peak_dbtp(self) -> float | None:
        """The highest true peak; None for silence."""
        return 20.0 * float(np.log10(self._peak)) if self._peak > 0.0 else None

    @property
    def integrated_lufs(self) -> float | None:
        """The integrated loudness; None for silence, or less than 400 ms."""
        energies = np.concatenate([*self._energies, np.zeros(0)])
        return integrated_lufs(momentary_lufs(energies, self.frames, self.rate_hz))
