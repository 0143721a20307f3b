"""All figures of a recording from its blocks, live or from a file: one reducer, and what becomes of its cells."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields
from functools import partial
from typing import TypeVar

import numpy as np

from verve.core.measure._bands import WINDOW_BANDS_HZ, Spectrum, spectrum_of
from verve.core.measure._blasts import find_blasts
from verve.core.measure._cells import Around, Reducer, Stretch
from verve.core.measure._clipping import REACH_S, Tops, find_clipped, read_tops
from verve.core.measure._dropouts import REACH as DROPOUT_REACH
from verve.core.measure._dropouts import Interruptions, find_dropouts, read_interruptions
from verve.core.measure._figures import Course, Measurement, Programme, Recording
from verve.core.measure._hum import MOST_S, NO_HUM, Hum, Piece, find_hum
from verve.core.measure._loudness import (
    WARM_S,
    highest,
    hop_energies,
    integrated_lufs,
    k_weighting,
    momentary_lufs,
    range_lu,
    short_term_lufs,
)
from verve.core.measure._pair import Products, lags, pair_of, read_products
from verve.core.measure._pauses import Pause, find_pauses, mean_db
from verve.core.measure._true_peak import REACH as PEAK_REACH
from verve.core.measure._true_peak import between, oversampling, true_peak
from verve.core.measure._windows import (
    WINDOWS_PER_S,
    Windows,
    quiet_windows,
    read_windows,
    shape_of,
    slow_factor,
    slow_filter,
    slow_reach,
    slow_samples,
    window_frames,
    window_starts,
)
from verve.core.units import FloatArray, ratio_to_db

_QUIET_WINDOWS = int(MOST_S * WINDOWS_PER_S)

_In = TypeVar("_In")
_Out = TypeVar("_Out")
Each = Callable[[Callable[[_In], _Out], Iterable[_In]], Iterable[_Out]]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Quiet:
    """Slow samples of a window that may be a pause."""

    window: int
    power: float
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
    quiet: tuple[Quiet, ...]
    tops: Tops
    interruptions: Interruptions


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cell:
    """What all channels show in a cell."""

    channels: tuple[ChannelCell, ...]
    products: Products | None


class Meter:
    """Reads blocks of some channels; states are values, so that a live picture can look at any of them."""

    def __init__(
        self,
        *,
        channels: int,
        rate_hz: int,
        bit_depth: int | None,
        pool: ThreadPoolExecutor | None = None,
    ) -> None:
        self.rate_hz, self.bit_depth = rate_hz, bit_depth
        self.lsb = 0.0 if bit_depth is None else 2.0 ** (1 - bit_depth)
        self._pool = pool
        # What depends on the rate alone is worked out once.
        self._k_weighting, self._slow_filter = k_weighting(rate_hz), slow_filter(rate_hz)
        self._between, self._shape = between(oversampling(rate_hz)), shape_of(rate_hz)
        before = max(
            math.ceil(WARM_S * rate_hz), math.ceil(REACH_S * rate_hz), DROPOUT_REACH, PEAK_REACH,
            slow_reach(rate_hz), lags(rate_hz),
        )  # fmt: skip
        after = max(
            math.ceil(REACH_S * rate_hz), DROPOUT_REACH, window_frames(rate_hz) + slow_reach(rate_hz),
            lags(rate_hz),
        )  # fmt: skip
        self._reducer: Reducer[Cell] = Reducer(
            channels=channels, rate_hz=rate_hz, before=before, after=after, read=self._read
        )

    def start(self, start_frame: int = 0) -> Stretch[Cell]:
        """Nothing yet of a stretch that begins there."""
        return self._reducer.start(start_frame)

    def fold(self, state: Stretch[Cell], block: FloatArray) -> Stretch[Cell]:
        """One more block.

        shape: block (n_channels, n_frames)
        raises: InputError if it has another number of channels
        """
        return self._reducer.fold(state, np.asarray(block, dtype=np.float32))

    def merge(self, first: Stretch[Cell], second: Stretch[Cell]) -> Stretch[Cell]:
        """Two neighbouring stretches as one.

        raises: InputError if the second does not begin where the first ends
        """
        return self._reducer.merge(first, second)

    def result(self, state: Stretch[Cell]) -> Recording:
        """What the whole recording shows.

        raises: InputError for nothing, or a stretch that is no beginning
        """
        cells = self._reducer.cells(state)
        count = self._reducer.channels
        parts = [[cell.channels[number] for cell in cells] for number in range(count)]
        energies = [np.concatenate([cell.loud for cell in part]) for part in parts]
        windows = [_windows(part) for part in parts]
        pauses = [find_pauses(one.a_weighted) for one in windows]
        channels = tuple(
            self._channel(number, part, state.frames, windows[number], pauses[number])
            for number, part in enumerate(parts)
        )
        programme, momentary, short_term = None, np.zeros(0), np.zeros(0)
        if count <= 2:
            total = np.sum(energies, axis=0)
            momentary = momentary_lufs(total, state.frames, self.rate_hz)
            short_term = short_term_lufs(total, state.frames, self.rate_hz)
            programme = _programme(momentary, short_term, channels)
        products = [cell.products for cell in cells if cell.products is not None]
        spectra = [self._spectrum(*one) for one in zip(parts, pauses, strict=True)]
        return Recording(
            sample_rate_hz=self.rate_hz,
            frames=state.frames,
            seconds=state.frames / self.rate_hz,
            bit_depth=self.bit_depth,
            channels=channels,
            programme=programme,
            pair=pair_of(products, self.lsb) if products else None,
            course=Course(
                a_weighted=np.array([one.a_weighted for one in windows]),
                peaks=np.array([one.peak for one in windows]),
                momentary_lufs=momentary,
                short_term_lufs=short_term,
                pauses_s=tuple(_seconds(one) for one in pauses),
                spectra=tuple(spectra),
            ),
        )

    def _read(self, around: Around) -> Cell:
        each: Each = map if self._pool is None else self._pool.map  # type: ignore[type-arg]
        read = partial(self._read_channel, around)
        found = tuple(each(read, range(self._reducer.channels)))
        products = None
        if self._reducer.channels == 2:
            products = read_products(around.samples, around.low, around.high, self.rate_hz)
        return Cell(channels=found, products=products)

    def _read_channel(self, around: Around, channel: int) -> ChannelCell:
        samples, low, high = around.samples[channel], around.low, around.high
        inside = samples[low:high]
        frames = high - low
        peak = float(max(inside.max(), -inside.min()))
        left = frames if around.ends else len(samples) - low
        windows = read_windows(samples, low, frames, left, self.rate_hz, self._shape)
        return ChannelCell(
            frames=frames,
            peak=peak,
            true_peak=true_peak(samples, low, high, peak, self._between),
            power=float(np.dot(inside, inside)),
            total=float(inside.sum(dtype=np.float64)),
            loud=hop_energies(samples, low, self.rate_hz, frames, self._k_weighting),
            windows=windows,
            quiet=self._quiet(samples, around, windows),
            tops=read_tops(samples, low, high, around.start_frame, self.lsb),
            interruptions=read_interruptions(samples, low, high, around.start_frame),
        )

    def _quiet(self, samples: FloatArray, around: Around, windows: Windows) -> tuple[Quiet, ...]:
        """Slow samples of the quiet windows of a cell: each has those from its own start to the next one's."""
        power, wanted = windows.a_weighted, quiet_windows(windows.a_weighted)
        if not len(wanted):
            return ()
        starts = window_starts(self.rate_hz, around.high - around.low)
        stops = (np.arange(1, len(starts) + 1) * self.rate_hz) // WINDOWS_PER_S
        step = slow_factor(self.rate_hz)
        # Slow samples stand at multiples of their step on the clock of the recording.
        begins = -(-(around.start_frame + starts[wanted]) // step) * step
        counts = -(-(around.start_frame + stops[wanted] - begins) // step)
        places = [begin + step * np.arange(n) for begin, n in zip(begins, counts, strict=True)]
        at = np.concatenate(places) - around.start_frame + around.low
        slow = np.split(slow_samples(samples, at, self._slow_filter), np.cumsum(counts)[:-1])
        first = around.start_frame * WINDOWS_PER_S // self.rate_hz
        return tuple(
            Quiet(window=first + number, power=float(power[number]), samples=part)
            for number, part in zip(wanted.tolist(), slow, strict=True)
        )

    def _channel(
        self,
        number: int,
        cells: Sequence[ChannelCell],
        frames: int,
        powers: Windows,
        pauses: list[Pause],
    ) -> Measurement:
        peak = max(cell.peak for cell in cells)
        noise_db = mean_db(powers.flat, pauses)
        noise_rms = 0.0 if noise_db is None else 10.0 ** (noise_db / 20.0) / math.sqrt(2.0)
        runs, clipped, clip_level = find_clipped(
            [cell.tops for cell in cells], lsb=self.lsb, noise_rms=noise_rms
        )
        spans = [(run.start_frame, run.start_frame + run.frames) for run in runs]
        peak_dbfs = ratio_to_db(peak)
        mean_square = sum(cell.power for cell in cells) / frames
        rms_dbfs = ratio_to_db(math.sqrt(2.0 * mean_square))
        return Measurement(
            channel=number,
            seconds=frames / self.rate_hz,
            sample_rate_hz=self.rate_hz,
            bit_depth=self.bit_depth,
            peak_dbfs=peak_dbfs,
            rms_dbfs=rms_dbfs,
            noise_dbfs_a=mean_db(powers.a_weighted, pauses),
            clipped_frames=clipped,
            dc_share=sum(cell.total for cell in cells) / frames,
            true_peak_dbtp=ratio_to_db(max(cell.true_peak for cell in cells)),
            crest_db=None if peak_dbfs is None or rms_dbfs is None else peak_dbfs - rms_dbfs,
            noise_dbfs=noise_db,
            clipped_runs=runs,
            clip_level_dbfs=clip_level,
            hum=self._hum(cells, pauses),
            dropouts=find_dropouts([cell.interruptions for cell in cells], spans),
            blasts=find_blasts(powers.low, powers.note, self.rate_hz),
            is_digital_zero=peak == 0.0,
        )

    def _hum(self, cells: Sequence[ChannelCell], pauses: Sequence[Pause]) -> Hum:
        """From the quietest windows of all pauses."""
        step = slow_factor(self.rate_hz)
        pieces = [
            Piece(start_s=start * step / self.rate_hz, samples=samples)
            for start, samples in self._stretches(cells, pauses)
        ]
        return find_hum(pieces, self.rate_hz / step) if pieces else NO_HUM

    def _spectrum(self, cells: Sequence[ChannelCell], pauses: Sequence[Pause]) -> Spectrum:
        """What the pauses sound like."""
        inside = _inside(pauses)
        found, first = [np.zeros((0, len(WINDOW_BANDS_HZ)))], 0
        for cell in cells:
            is_in = [first + int(number) in inside for number in cell.windows.quiet]
            found.append(cell.windows.quiet_bands[is_in])
            first += len(cell.windows.a_weighted)
        stretches = [samples for _, samples in self._stretches(cells, pauses)]
        slow_hz = self.rate_hz / slow_factor(self.rate_hz)
        return spectrum_of(np.concatenate(found), stretches, slow_hz, self.rate_hz)

    def _stretches(
        self, cells: Sequence[ChannelCell], pauses: Sequence[Pause]
    ) -> list[tuple[int, FloatArray]]:
        """Slow samples of the quietest windows of all pauses, joined where they are neighbours, and where each
        begins, counted in slow samples."""
        inside = _inside(pauses)
        quiet = [one for cell in cells for one in cell.quiet if one.window in inside]
        if len(quiet) > _QUIET_WINDOWS:
            limit = sorted(one.power for one in quiet)[_QUIET_WINDOWS]
            quiet = [one for one in quiet if one.power < limit]
        step = slow_factor(self.rate_hz)
        found: list[tuple[int, FloatArray]] = []
        first = 0
        for index in range(1, len(quiet) + 1):
            if index < len(quiet) and quiet[index].window == quiet[index - 1].window + 1:
                continue
            begin = quiet[first].window * self.rate_hz // WINDOWS_PER_S
            joined = np.concatenate([one.samples for one in quiet[first:index]])
            found.append((-(-begin // step), joined))
            first = index
        return found


def _inside(pauses: Sequence[Pause]) -> frozenset[int]:
    """All windows of some pauses."""
    return frozenset(window for pause in pauses for window in range(pause.first, pause.stop))


def _seconds(pauses: Sequence[Pause]) -> tuple[tuple[float, float], ...]:
    """From when to when they last; the last window reaches one step further."""
    return tuple(
        (pause.first / WINDOWS_PER_S, (pause.stop + 1) / WINDOWS_PER_S) for pause in pauses
    )


def _windows(cells: Sequence[ChannelCell]) -> Windows:
    """Those of all cells."""
    names = [field.name for field in fields(Windows)]
    return Windows(
        **{name: np.concatenate([getattr(cell.windows, name) for cell in cells]) for name in names}
    )


def _programme(
    momentary: FloatArray, short_term: FloatArray, channels: Sequence[Measurement]
) -> Programme:
    peaks = [one.true_peak_dbtp for one in channels if one.true_peak_dbtp is not None]
    return Programme(
        integrated_lufs=integrated_lufs(momentary),
        max_momentary_lufs=highest(momentary),
        max_short_term_lufs=highest(short_term),
        lra_lu=range_lu(short_term),
        true_peak_dbtp=max(peaks, default=None),
    )
