"""Many filters at once, block by block: a bank of convolutions, partitioned so that short blocks are quick."""

from __future__ import annotations

import numpy as np

from verve.core.units import ComplexArray, FloatArray

_LARGER = 8
"""How many blocks are taken together for the later part of a long filter."""


class ConvolverBank:
    """Fixed filters, one a row, applied to blocks of one length.

    The first taps are applied block by block, the later ones to several blocks at once: they are not
    needed before those have come.

    shape: taps (n_rows, n_taps); blocks (n_rows, block_frames)
    source: Gardner, JAES 43 (1995), with two sizes of parts
    """

    def __init__(self, taps: FloatArray, block_frames: int) -> None:
        self.block_frames = block_frames
        rows, length = taps.shape
        large = block_frames * _LARGER
        self._later: _UniformBank | None = None
        if length > 2 * large:
            self._later = _UniformBank(taps[:, large:], large)
            taps = taps[:, :large]
            self._coming = np.zeros((rows, large))
            self._ready = np.zeros((rows, large))
            self._at = 0
        self._first = _UniformBank(taps, block_frames)

    def __call__(self, block: FloatArray) -> FloatArray:
        """The next block of every row."""
        out = self._first(block)
        if self._later is None:
            return out
        here = slice(self._at, self._at + self.block_frames)
        out = out + self._ready[:, here]
        self._coming[:, here] = block
        self._at += self.block_frames
        if self._at == self._coming.shape[1]:
            # The later taps begin where these frames end: what they make is due from now on.
            self._ready = self._later(self._coming.copy())
            self._at = 0
        return out


class _UniformBank:
    """Filters in parts as long as a block (uniformly partitioned overlap-save).

    source: Wefers, partitioned convolution algorithms (2015), uniform case
    """

    def __init__(self, taps: FloatArray, block_frames: int) -> None:
        self.block_frames = block_frames
        rows, length = taps.shape
        parts = max(1, -(-length // block_frames))
        padded = np.zeros((rows, parts * block_frames))
        padded[:, :length] = taps
        pieces = padded.reshape(rows, parts, block_frames)
        # Last piece first, so that one product with the spectra in the order they came does it.
        self._filters: ComplexArray = np.ascontiguousarray(
            np.fft.rfft(pieces, 2 * block_frames, axis=2)[:, ::-1]
        )
        # Every spectrum is written twice, half a ring apart: a stretch of it is always in one piece.
        self._ring: ComplexArray = np.zeros(
            (rows, 2 * parts, block_frames + 1), dtype=np.complex128
        )
        self._parts, self._at = parts, 0
        self._before: FloatArray = np.zeros((rows, block_frames))

    def __call__(self, block: FloatArray) -> FloatArray:
        """The next block of every row."""
        window = np.concatenate([self._before, block], axis=1)
        # A piece of the window, not the block: whoever gave that may write into it.
        self._before = window[:, self.block_frames :]
        spectrum = np.fft.rfft(window, axis=1)
        if self._parts == 1:
            mixed = spectrum * self._filters[:, 0]
        else:
            self._ring[:, self._at] = spectrum
            self._ring[:, self._at + self._parts] = spectrum
            self._at = (self._at + 1) % self._parts
            recent = self._ring[:, self._at : self._at + self._parts]
            mixed = np.einsum("rpf,rpf->rf", recent, self._filters)
        return np.asarray(np.fft.irfft(mixed, axis=1)[:, self.block_frames :])
