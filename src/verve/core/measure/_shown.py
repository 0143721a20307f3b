"""What a recording shows in each of its cells."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Future
from dataclasses import dataclass

from verve.core.measure._clipping import Tops
from verve.core.measure._dropouts import Interruptions
from verve.core.measure._pair import Products
from verve.core.measure._windows import Windows
from verve.core.units import FloatArray, IntArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Quiet:
    """Slow samples of the windows of a cell that may be pauses, each from its own start to the next one's.

    shape: windows, powers (n_windows,), edges (n_windows + 1,), samples (n_samples,)
    """

    scale: float
    """What the samples are multiplied by: they are kept in half precision, of their own size."""
    windows: IntArray
    """Counted from the beginning of the recording."""
    powers: FloatArray
    edges: IntArray
    """Where among the samples those of each window begin, and the last ones end."""
    samples: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ChannelCell:
    """What a channel shows in a cell."""

    frames: int
    peak: float
    true_peak: float
    power: float
    total: float
    loud: FloatArray
    windows: Windows
    quiet: Quiet | None
    tops: Tops
    interruptions: Interruptions


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cell:
    """What all channels show in a cell."""

    channels: tuple[ChannelCell, ...]
    products: tuple[Products, ...]


Read = ChannelCell | Products


class Coming:
    """A cell that is being read, perhaps by others meanwhile."""

    def __init__(self, pieces: Sequence[Read | Future[Read]]) -> None:
        self._pieces = pieces

    def cell(self) -> Cell:
        """What it shows, when it has been read."""
        found = [one.result() if isinstance(one, Future) else one for one in self._pieces]
        self._pieces = found
        return Cell(
            channels=tuple(one for one in found if isinstance(one, ChannelCell)),
            products=tuple(one for one in found if isinstance(one, Products)),
        )
