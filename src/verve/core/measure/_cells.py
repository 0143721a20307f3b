"""Reading a recording in cells on its own clock: every figure is the same for every size of block.

A cell is four seconds that begin at a multiple of four seconds of the recording, with some frames before and
behind it. What a cell shows depends on these frames alone, so it does not matter how they came: in which blocks,
live or from a file, or from two stretches that were read apart and are merged.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Generic, TypeVar

import numpy as np

from verve.core.errors import InputError
from verve.core.units import FloatArray

CELL_S, MANY_CELL_S = 4, 1
MANY_CHANNELS = 9
"""From so many channels on cells are shorter: of all of them together memory holds no more."""

_Cell = TypeVar("_Cell")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Around:
    """The frames of a cell with those around it; before the recording and behind its end stand zeros.

    shape: samples (n_channels, n_frames), of which [:, low:high] are the cell
    """

    samples: FloatArray
    low: int
    high: int
    start_frame: int
    """Where in the recording the cell begins."""
    begins: bool
    ends: bool
    """Whether nothing of the recording is before it, or behind it."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Stretch(Generic[_Cell]):
    """What has been read of a stretch: cells that are whole, and the frames at both ends that are not.

    `head` are the frames from its start until those behind the first cell, of a stretch that does not begin the
    recording; `tail` those from before the next cell on.
    """

    start_frame: int
    frames: int = 0
    cells: tuple[_Cell, ...] = ()
    first_cell: int | None = None
    head: FloatArray | None = None
    tail: tuple[FloatArray, ...] = ()
    tail_start: int = 0

    @property
    def end_frame(self) -> int:
        """The frame behind the stretch."""
        return self.start_frame + self.frames


class Reducer(Generic[_Cell]):
    """Blocks in, cells out; `read` makes a cell of its frames. `before` and `after` are what it looks at around."""

    def __init__(
        self,
        *,
        channels: int,
        rate_hz: int,
        before: int,
        after: int,
        read: Callable[[Around], _Cell],
    ) -> None:
        self.channels, self.rate_hz = channels, rate_hz
        self.cell_frames = (CELL_S if channels < MANY_CHANNELS else MANY_CELL_S) * rate_hz
        self._before, self._after, self._read = before, after, read

    def start(self, start_frame: int = 0) -> Stretch[_Cell]:
        """Nothing yet of a stretch that begins there."""
        return Stretch(start_frame=start_frame, tail_start=start_frame)

    def fold(self, state: Stretch[_Cell], block: FloatArray) -> Stretch[_Cell]:
        """One more block.

        shape: block (n_channels, n_frames)
        raises: InputError if it has another number of channels
        """
        if block.shape[0] != self.channels:
            raise InputError("block", f"must have {self.channels} channels", block.shape[0])
        if not block.shape[1]:
            return state
        state = replace(state, frames=state.frames + block.shape[1], tail=(*state.tail, block))
        return self._closed(state)

    def merge(self, first: Stretch[_Cell], second: Stretch[_Cell]) -> Stretch[_Cell]:
        """Two neighbouring stretches as one.

        raises: InputError if the second does not begin where the first ends
        """
        if second.start_frame != first.end_frame:
            raise InputError(
                "second stretch", f"must begin at frame {first.end_frame}", second.start_frame
            )
        if not first.frames:
            return second
        if second.head is None:
            frames = replace(
                first, frames=first.frames + second.frames, tail=(*first.tail, *second.tail)
            )
            return self._closed(frames)
        seam = replace(
            first, frames=first.frames + second.head.shape[1], tail=(*first.tail, second.head)
        )
        seam = self._closed(seam, stop_before=second.first_cell)
        return replace(
            seam,
            frames=first.frames + second.frames,
            cells=(*seam.cells, *second.cells),
            first_cell=seam.first_cell if seam.cells else second.first_cell,
            tail=second.tail,
            tail_start=second.tail_start,
        )

    def cells(self, state: Stretch[_Cell]) -> tuple[_Cell, ...]:
        """Every cell of a whole recording, the last one too, which may be shorter.

        raises: InputError for nothing, or a stretch that is no beginning
        """
        if not state.frames:
            raise InputError("recording", "must have at least one frame")
        if state.start_frame:
            raise InputError("recording", "must be read from its first frame", state.start_frame)
        last = self._around(state, _joined(state.tail), self._next(state), ends=True)
        return state.cells if last is None else (*state.cells, self._read(last))

    def _next(self, state: Stretch[_Cell]) -> int:
        """The number of the cell that comes next."""
        if state.first_cell is not None:
            return state.first_cell + len(state.cells)
        if state.start_frame == 0:
            return 0
        return -(-(state.start_frame + self._before) // self.cell_frames)

    def _closed(self, state: Stretch[_Cell], *, stop_before: int | None = None) -> Stretch[_Cell]:
        """With every cell that has all its frames now."""
        while True:
            number = self._next(state)
            needed = (number + 1) * self.cell_frames + self._after
            if state.end_frame < needed or number == stop_before:
                return state
            frames = _joined(state.tail)
            around = self._around(state, frames, number, ends=False)
            assert around is not None
            head = state.head
            if state.first_cell is None and state.start_frame:
                until = number * self.cell_frames + self._after - state.tail_start
                head = frames[:, :until].copy()
            keep = max(state.tail_start, (number + 1) * self.cell_frames - self._before)
            state = replace(
                state,
                cells=(*state.cells, self._read(around)),
                first_cell=number if state.first_cell is None else state.first_cell,
                head=head,
                tail=(frames[:, keep - state.tail_start :].copy(),),
                tail_start=keep,
            )

    def _around(
        self, state: Stretch[_Cell], frames: FloatArray, number: int, *, ends: bool
    ) -> Around | None:
        start = number * self.cell_frames
        stop = min(start + self.cell_frames, state.end_frame)
        if start >= stop:
            return None
        low, high = start - self._before, stop + self._after
        inside = frames[:, max(0, low - state.tail_start) : high - state.tail_start]
        left = max(0, state.tail_start - low)
        right = high - low - left - inside.shape[1]
        if left or right > 0:
            inside = np.pad(inside, ((0, 0), (left, max(0, right))))
        return Around(
            samples=inside,
            low=self._before,
            high=self._before + stop - start,
            start_frame=start,
            begins=start == 0,
            ends=ends and stop == state.end_frame,
        )


def _joined(blocks: Iterable[FloatArray]) -> FloatArray:
    found = list(blocks)
    return found[0] if len(found) == 1 else np.concatenate(found, axis=1)
