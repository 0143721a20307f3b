"""All figures of a recording from its blocks, live or from a file: one reducer, and what becomes of its cells."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, fields
from itertools import repeat
from typing import Any

import numpy as np

from verve.core.measure._bands import WINDOW_BANDS_HZ, Spectrum, spectrum_of
from verve.core.measure._blasts import find_blasts
from verve.core.measure._cells import CELL_S, Around, Reducer, Stretch
from verve.core.measure._clipping import REACH_S, find_clipped, read_tops
from verve.core.measure._dropouts import REACH as DROPOUT_REACH
from verve.core.measure._dropouts import find_dropouts, read_interruptions
from verve.core.measure._figures import Course, Measurement, Programme, Recording
from verve.core.measure._hum import MOST_S, NO_HUM, Hum, Piece, find_hum
from verve.core.measure._loudness import (
    WARM_S,
    highest,
    hop_energies,
    integrated_lufs,
    k_filter,
    momentary_lufs,
    range_lu,
    short_term_lufs,
)
from verve.core.measure._pair import Products, lags, pair_of, read_products
from verve.core.measure._pauses import Pause, find_pauses, mean_db
from verve.core.measure._shown import ChannelCell, Coming, Quiet
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
_EARLY_S = 60
_LATER_QUIET = WINDOWS_PER_S
"""Of how many neighbouring windows a cell behind the first minute keeps slow samples: one second, the quietest."""


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
        self._pool, self._last = pool, Coming([])
        # What depends on the rate alone is worked out once.
        self._k_weighting, self._slow_filter = k_filter(rate_hz), slow_filter(rate_hz)
        self._between, self._shape = between(oversampling(rate_hz)), shape_of(rate_hz)
        before = max(
            math.ceil(WARM_S * rate_hz), math.ceil(REACH_S * rate_hz), DROPOUT_REACH, PEAK_REACH,
            slow_reach(rate_hz), lags(rate_hz),
        )  # fmt: skip
        after = max(
            math.ceil(REACH_S * rate_hz), DROPOUT_REACH, window_frames(rate_hz) + slow_reach(rate_hz),
            lags(rate_hz),
        )  # fmt: skip
        self._reducer: Reducer[Coming] = Reducer(
            channels=channels, rate_hz=rate_hz, before=before, after=after, read=self._read
        )

    def start(self, start_frame: int = 0) -> Stretch[Coming]:
        """Nothing yet of a stretch that begins there."""
        return self._reducer.start(start_frame)

    def fold(self, state: Stretch[Coming], block: FloatArray) -> Stretch[Coming]:
        """One more block.

        shape: block (n_channels, n_frames)
        raises: InputError if it has another number of channels
        """
        return self._reducer.fold(state, np.asarray(block, dtype=np.float32))

    def merge(self, first: Stretch[Coming], second: Stretch[Coming]) -> Stretch[Coming]:
        """Two neighbouring stretches as one.

        raises: InputError if the second does not begin where the first ends
        """
        return self._reducer.merge(first, second)

    def result(self, state: Stretch[Coming]) -> Recording:
        """What the whole recording shows.

        raises: InputError for nothing, or a stretch that is no beginning
        """
        cells = [one.cell() for one in self._reducer.cells(state)]
        count = self._reducer.channels
        parts = [[cell.channels[number] for cell in cells] for number in range(count)]
        energies = [np.concatenate([cell.loud for cell in part]) for part in parts]
        windows = [_windows(part) for part in parts]
        pauses = [find_pauses(one.a_weighted.astype(np.float64)) for one in windows]
        each: Callable[..., Iterable[Any]] = map if self._pool is None else self._pool.map
        frames = repeat(state.frames)
        channels = tuple(each(self._channel, range(count), parts, frames, windows, pauses))
        programme, momentary, short_term = None, np.zeros(0), np.zeros(0)
        if count <= 2:
            total = np.asarray(np.sum(energies, axis=0, dtype=np.float64))
            momentary = momentary_lufs(total, state.frames, self.rate_hz)
            short_term = short_term_lufs(total, state.frames, self.rate_hz)
            programme = _programme(momentary, short_term, channels)
        products = [one for cell in cells for one in cell.products]
        spectra = each(self._spectrum, parts, pauses)
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

    def _read(self, around: Around) -> Coming:
        count = self._reducer.channels
        # How two channels go together is read beside them, in halves, so that nobody waits for the last piece.
        halves = [] if count != 2 else [-1] if around.high - around.low < 2 else [-2, -1]
        pieces = [*halves, *range(count)]
        if self._pool is None:
            return Coming([self._read_piece(around, piece) for piece in pieces])
        # One cell is read while the next one comes; memory has no room for more of them.
        self._last.cell()
        self._last = Coming(
            [self._pool.submit(self._read_piece, around, piece) for piece in pieces]
        )
        return self._last

    def _read_piece(self, around: Around, piece: int) -> ChannelCell | Products:
        """A channel by its number, or with −2 and −1 one half of how both go together."""
        if piece >= 0:
            return self._read_channel(around, piece)
        middle = (around.low + around.high) // 2
        low, high = (around.low, middle) if piece == -2 else (middle, around.high)
        # Which lag fits best tells itself from half of a long recording as well.
        number = around.start_frame // (CELL_S * self.rate_hz)
        has_lags = number % 2 == 0 or around.start_frame < _EARLY_S * self.rate_hz
        return read_products(around.samples, low, high, self.rate_hz, has_lags=has_lags)

    def _read_channel(self, around: Around, channel: int) -> ChannelCell:
        samples, low, high = around.samples[channel], around.low, around.high
        inside = samples[low:high]
        frames = high - low
        peak = float(max(inside.max(), -inside.min()))
        left = frames if around.ends else len(samples) - low
        is_early = around.start_frame < _EARLY_S * self.rate_hz
        windows = read_windows(
            samples, low, frames, left, self.rate_hz, self._shape, is_early=is_early
        )
        return ChannelCell(
            frames=frames,
            peak=peak,
            true_peak=true_peak(samples, low, high, peak, self._between),
            power=float(np.dot(inside, inside)),
            total=float(inside.sum(dtype=np.float64)),
            loud=hop_energies(samples, low, self.rate_hz, frames, self._k_weighting).astype(
                np.float32
            ),
            windows=windows,
            quiet=self._quiet(samples, around, windows),
            tops=read_tops(samples, low, high, around.start_frame, self.lsb),
            interruptions=read_interruptions(samples, low, high, around.start_frame),
        )

    def _quiet(self, samples: FloatArray, around: Around, windows: Windows) -> Quiet | None:
        """Slow samples of the quiet windows of a cell; None where it has none."""
        wanted = quiet_windows(windows.a_weighted)
        if not len(wanted):
            return None
        if around.start_frame >= _EARLY_S * self.rate_hz and len(wanted) > _LATER_QUIET:
            sums = np.cumsum(np.concatenate([[0.0], windows.a_weighted]), dtype=np.float64)
            stretch = sums[_LATER_QUIET:] - sums[:-_LATER_QUIET]
            first = int(np.argmin(stretch))
            wanted = wanted[(wanted >= first) & (wanted < first + _LATER_QUIET)]
        starts = window_starts(self.rate_hz, around.high - around.low)
        stops = (np.arange(1, len(starts) + 1) * self.rate_hz) // WINDOWS_PER_S
        step = slow_factor(self.rate_hz)
        # Slow samples stand at multiples of their step on the clock of the recording.
        zero = -(-around.start_frame // step)
        begins = -(-(around.start_frame + starts[wanted]) // step) - zero
        ends = -(-(around.start_frame + stops[wanted]) // step) - zero
        first = zero * step - around.start_frame + around.low
        slow = slow_samples(samples, first, int(ends[-1]), step, self._slow_filter)
        chosen = [
            slow[begin:end] for begin, end in zip(begins.tolist(), ends.tolist(), strict=True)
        ]
        joined = np.concatenate(chosen)
        scale = float(np.abs(joined).max(initial=0.0)) or 1.0
        return Quiet(
            scale=scale,
            windows=around.start_frame * WINDOWS_PER_S // self.rate_hz + wanted,
            powers=windows.a_weighted[wanted],
            edges=np.concatenate([[0], np.cumsum(ends - begins)]),
            samples=(joined / scale).astype(np.float16),
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
        edges = np.array([edge for pause in pauses for edge in (pause.first, pause.stop)])
        found, first = [np.zeros((0, len(WINDOW_BANDS_HZ)))], 0
        for cell in cells:
            # Between an even and an odd edge one is in a pause.
            is_in = np.searchsorted(edges, first + cell.windows.quiet, side="right") % 2 == 1
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
        found = [cell.quiet for cell in cells if cell.quiet is not None]
        if not found or not pauses:
            return []
        is_pause = np.zeros(pauses[-1].stop + 1, dtype=bool)
        for pause in pauses:
            is_pause[pause.first : pause.stop] = True
        inside = [is_pause[np.minimum(one.windows, len(is_pause) - 1)] for one in found]
        step = slow_factor(self.rate_hz)
        runs: list[_Run] = []
        last = -2
        for one, chosen in zip(found, inside, strict=True):
            for number in np.flatnonzero(chosen).tolist():
                window = int(one.windows[number])
                if window != last + 1:
                    begin = window * self.rate_hz // WINDOWS_PER_S
                    runs.append(_Run(start=-(-begin // step)))
                runs[-1].parts.append((one, number))
                runs[-1].powers.append(float(one.powers[number]))
                last = window
        # The quietest ones as wholes: single windows of each would be too short to tell a frequency from.
        count, chosen_runs = 0, []
        for run in sorted(runs, key=lambda run: (sum(run.powers) / len(run.powers), run.start)):
            if count and count + len(run.powers) > _QUIET_WINDOWS:
                break
            count += len(run.powers)
            chosen_runs.append(run)
        chosen_runs.sort(key=lambda run: run.start)
        return [(run.start, run.samples()) for run in chosen_runs]


@dataclass(slots=True)
class _Run:
    """Windows of pauses that are neighbours, and where the first begins, counted in slow samples."""

    start: int
    parts: list[tuple[Quiet, int]] = field(default_factory=list)
    powers: list[float] = field(default_factory=list)

    def samples(self) -> FloatArray:
        """Those of all its windows, in double precision."""
        kept = [
            one.samples[one.edges[n] : one.edges[n + 1]].astype(np.float64) * one.scale
            for one, n in self.parts
        ]
        return np.concatenate(kept)


def _seconds(pauses: Sequence[Pause]) -> tuple[tuple[float, float], ...]:
    """From when to when they last; the last window reaches one step further."""
    return tuple(
        (pause.first / WINDOWS_PER_S, (pause.stop + 1) / WINDOWS_PER_S) for pause in pauses
    )


def _windows(cells: Sequence[ChannelCell]) -> Windows:
    """Those of all cells."""
    names = [one.name for one in fields(Windows)]
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
