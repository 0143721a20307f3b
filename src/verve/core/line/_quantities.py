"""What a solved line means in decibels: levels, losses, headroom, noise and whose it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

import numpy as np

from verve.core.errors import InputError
from verve.core.line._grid import MOST_HALVINGS, Grid, grid
from verve.core.line._network import LadderStage
from verve.core.line._solve import Batch, Junction, solve_many
from verve.core.stages import Amplifier, Converter, Microphone, Sound
from verve.core.units import (
    ComplexArray,
    FloatArray,
    ratio_to_db,
    v2_to_dbu,
)

if TYPE_CHECKING:
    from numpy.typing import NDArray

TOLERANCE_DB = 0.05
"""Fine and coarse sums must agree so well; the error of the fine one is then far smaller."""
_EQUAL_DB = 1e-9
"""Two headrooms closer than this are equal: they differ by rounding alone."""


class Solved(Protocol):
    """A line solved at every frequency, by itself or as a way through a network.

    shape: hz (n_freq,); end_noise_v2_per_hz (n_stages, n_freq)
    """

    @property
    def stages(self) -> tuple[LadderStage, ...]:
        """Its stages."""

    @property
    def hz(self) -> FloatArray:
        """The frequencies."""

    @property
    def junctions(self) -> Sequence[Junction | None]:
        """The wire behind each stage; None behind a sound."""

    def junction(self, index: int) -> Junction | None:
        """One of them."""

    @property
    def end_noise_v2_per_hz(self) -> FloatArray:
        """Noise at the end by the stage it comes from."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Powers:
    """Powers of a solved line as plain numbers, one entry a stage, None where there is no wire.

    unit: V² RMS; `end` is the noise in the recording by the stage it comes from
    """

    loaded_v2: tuple[float | None, ...]
    open_v2: tuple[float | None, ...]
    noise_v2: tuple[float | None, ...]
    noise_a_v2: tuple[float | None, ...]
    end_noise_v2: tuple[float, ...]
    end_noise_a_v2: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """A line solved on a grid fine enough for its noise, with levels for one spectrum.

    The spectrum says how the source's power is spread over the frequencies (sum 1); one frequency
    alone is a sine. The first `len(band.hz)` frequencies are the grid's.
    """

    solution: Solved
    band: Grid
    powers: Powers

    # ── levels ────────────────────────────────────────────────────────────────────────────────
    def junction(self, at: int) -> Junction:
        """raises: InputError behind a sound, where there is no wire yet."""
        found = self.solution.junction(at)
        if found is None:
            raise InputError(f"at {at}", "has no junction, a sound is not a voltage")
        return found

    def peak_dbu(self, at: int) -> float | None:
        """Peak level behind stage `at`; None for no signal."""
        return self._level_dbu(self.powers.loaded_v2, at)

    def open_peak_dbu(self, at: int) -> float | None:
        """Peak level of stage `at` with nothing behind it."""
        return self._level_dbu(self.powers.open_v2, at)

    def _level_dbu(self, powers_v2: Sequence[float | None], at: int) -> float | None:
        power_v2 = powers_v2[at]
        if power_v2 is None:
            raise InputError(f"at {at}", "has no junction, a sound is not a voltage")
        return v2_to_dbu(power_v2)

    def loss_db(self, at: int) -> float | None:
        """How far the load lowers stage `at` below its open output; positive when it falls."""
        opened, loaded = self.open_peak_dbu(at), self.peak_dbu(at)
        return None if opened is None or loaded is None else opened - loaded

    def converter(self) -> Converter:
        """raises: InputError on a line without one."""
        last = self.solution.stages[-1]
        if not isinstance(last, Converter):
            raise InputError("line", "must end in a converter for a level in dBFS", last.stage)
        return last

    def peak_dbfs(self) -> float | None:
        """Peak level at the converter; 0 dBFS is a full-scale sine."""
        level = self.peak_dbu(len(self.solution.stages) - 1)
        return None if level is None else level - self.converter().full_scale_dbu

    # ── limits ────────────────────────────────────────────────────────────────────────────────
    def limits_db(self, at: int) -> tuple[float, ...]:
        """Margins of stage `at` to each of its limits at the peak level; empty without any."""
        stage = self.solution.stages[at]
        margins: list[tuple[float | None, float | None]] = []
        if isinstance(stage, Microphone) and stage.max_spl_db is not None:
            margins.append((stage.max_spl_db + stage.pad_db, sound_at_microphone_db(self.sound())))
        elif isinstance(stage, Amplifier):
            if stage.max_input_dbu is not None:
                margins.append((stage.max_input_dbu, self.peak_dbu(at - 1)))
            if stage.max_output_dbu is not None:
                margins.append((stage.max_output_dbu, self.open_peak_dbu(at)))
        elif isinstance(stage, Converter):
            margins.append((0.0, self.peak_dbfs()))
        return tuple(
            limit - level for limit, level in margins if limit is not None and level is not None
        )

    def sound(self) -> Sound:
        """raises: InputError on a line that does not begin in the air."""
        first = self.solution.stages[0]
        if not isinstance(first, Sound):
            raise InputError("line[0]", "must be a sound", first.stage)
        return first

    def headroom_db(self, at: int) -> float | None:
        """Least margin of stage `at` at the peak level; None without limit or signal."""
        if not isinstance(self.solution.stages[at], Amplifier | Converter | Microphone):
            return None
        margins = self.limits_db(at)
        return min(margins) if margins else None

    def first_to_clip(self) -> int | None:
        """Position of the stage with the least headroom, the earliest of equals."""
        return tightest([self.headroom_db(at) for at in range(len(self.solution.stages))])

    # ── noise ─────────────────────────────────────────────────────────────────────────────────
    def noise_dbu(self, at: int) -> float | None:
        """Noise behind stage `at` over the band, unweighted; at a converter what arrives."""
        return self._level_dbu(self.powers.noise_v2, at)

    def noise_dba(self, at: int) -> float | None:
        """The same A-weighted, still in dBu."""
        return self._level_dbu(self.powers.noise_a_v2, at)

    def noise_dbfs(self) -> float | None:
        """Noise in the recording, the converter's own included, unweighted."""
        return self._end_noise_dbfs(self.powers.end_noise_v2)

    def noise_dbfs_a(self) -> float | None:
        """The same A-weighted."""
        return self._end_noise_dbfs(self.powers.end_noise_a_v2)

    def _end_noise_dbfs(self, by_stage_v2: Sequence[float]) -> float | None:
        full_scale = self.converter().full_scale_dbu
        level = v2_to_dbu(sum(by_stage_v2))
        return None if level is None else level - full_scale

    def snr_db(self, at: int) -> float | None:
        """Peak level over A-weighted noise, behind stage `at` or in the recording."""
        if isinstance(self.solution.stages[at], Converter):
            level, noise = self.peak_dbfs(), self.noise_dbfs_a()
        else:
            level, noise = self.peak_dbu(at), self.noise_dba(at)
        return None if level is None or noise is None else level - noise

    def noise_shares(self) -> tuple[float, ...] | None:
        """Share of the A-weighted noise power at the end by stage; None without any noise."""
        by_stage = self.powers.end_noise_a_v2
        total = sum(by_stage)
        return tuple(power / total for power in by_stage) if total > 0.0 else None


def tightest(headrooms_db: Sequence[float | None]) -> int | None:
    """Position of the least headroom, the earliest of equals; None where there is none."""
    found: tuple[float, int] | None = None
    for at, headroom in enumerate(headrooms_db):
        if headroom is not None and (found is None or headroom < found[0] - _EQUAL_DB):
            found = (headroom, at)
    return None if found is None else found[1]


def sound_at_microphone_db(sound: Sound) -> float:
    """Peak level at the microphone; doubling the distance lowers it by 6.02 dB.

    source: inverse distance law of a point source in the free field
    """
    falls = ratio_to_db(sound.distance_m / sound.reference_distance_m)
    return sound.peak_spl_db - (falls or 0.0)


def source_impedance_ohm(junction: Junction, index: int) -> float:
    """Magnitude at one frequency looking back into the output."""
    return float(np.abs(_at(junction.source_impedance_ohm, index)))


def response_db(junction: Junction, index: int, reference_index: int) -> float | None:
    """Level at one frequency relative to another, behind the same stage."""
    here = float(np.abs(_at(junction.v_rms, index)))
    there = float(np.abs(_at(junction.v_rms, reference_index)))
    return ratio_to_db(here / there) if there > 0.0 else None


def _at(spectrum: object, index: int) -> complex:
    values = np.asarray(spectrum)
    return complex(values if values.ndim == 0 else values[index])


_RATIO_TOLERANCE = 10.0 ** (TOLERANCE_DB / 10.0) - 1.0


def _read_many(
    lines: Sequence[Sequence[LadderStage]],
    extra_hz: Sequence[float],
    weights_at: Callable[[int, Grid], FloatArray],
    halvings: int = 0,
) -> list[Reading]:
    """Solve all lines on one grid, and those whose noise still depends on it on a finer one.

    `weights_at` gives the spectrum's weights for line number so-and-so on a grid, finely and
    coarsely, (n_freq, 2), extra frequencies behind.
    """
    band = grid(halvings)
    hz = np.concatenate([band.hz, np.asarray(extra_hz, dtype=float)]) if extra_hz else band.hz
    batch = solve_many(lines, hz)
    sums = _Sums.of(batch, band, np.stack([weights_at(n, band) for n in range(len(lines))]))
    found = [
        Reading(solution=batch.line(n), band=band, powers=sums.powers(batch, n))
        for n in range(len(lines))
    ]
    unfinished = np.flatnonzero(~sums.agree()).tolist() if halvings < MOST_HALVINGS else []
    if unfinished:
        finer = _read_many(
            [lines[number] for number in unfinished],
            extra_hz,
            lambda number, band: weights_at(unfinished[number], band),
            halvings + 1,
        )
        for number, reading in zip(unfinished, finer, strict=True):
            found[number] = reading
    return found


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Sums:
    """Sums over the frequencies of many lines, each fine one with its coarse one beside it.

    shape: loaded, opened (n_lines, n_steps, 2); noise (n_lines, n_steps, 4) and end
    (n_lines, n_stages, 4): flat, coarse flat, A-weighted, coarse A-weighted
    unit: V²
    """

    loaded: FloatArray
    opened: FloatArray
    noise: FloatArray
    end: FloatArray

    @staticmethod
    def of(batch: Batch, band: Grid, weights: FloatArray) -> _Sums:
        """Sum everything; `weights` (n_lines, n_freq, 2) are those of each line's spectrum."""
        points = len(band.hz)
        return _Sums(
            loaded=_summed(_mean_squares(batch.v_rms), weights[:, np.newaxis]),
            opened=_summed(_mean_squares(batch.open_v_rms), weights[:, np.newaxis]),
            noise=_summed(batch.noise_v2_per_hz[..., :points].swapaxes(0, 1), band.all_weights_hz),
            end=_summed(batch.end_noise_v2_per_hz[..., :points], band.all_weights_hz),
        )

    def agree(self) -> NDArray[np.bool_]:
        """Of which lines all fine sums agree with the coarse ones."""
        tables = (self.loaded, self.opened, self.noise, self.end.sum(axis=1, keepdims=True))
        agreed = np.ones(len(self.end), dtype=bool)
        for table in tables:
            fine, coarse = table[..., 0::2], table[..., 1::2]
            agreed &= (np.abs(fine - coarse) <= fine * _RATIO_TOLERANCE).all(axis=(1, 2))
        return agreed

    def powers(self, batch: Batch, row: int) -> Powers:
        """The fine sums of one line as plain numbers."""
        steps = batch.last_step[row][: len(batch.lines[row])]
        loaded, opened = self.loaded[row, :, 0].tolist(), self.opened[row, :, 0].tolist()
        noise, end = self.noise[row].tolist(), self.end[row, : len(steps)].tolist()
        return Powers(
            loaded_v2=tuple(None if at < 0 else loaded[at] for at in steps),
            open_v2=tuple(None if at < 0 else opened[at] for at in steps),
            noise_v2=tuple(None if at < 0 else noise[at][0] for at in steps),
            noise_a_v2=tuple(None if at < 0 else noise[at][2] for at in steps),
            end_noise_v2=tuple(row[0] for row in end),
            end_noise_a_v2=tuple(row[2] for row in end),
        )


def solve_on(
    lines: Sequence[Sequence[LadderStage]],
    octave_bands_db: Sequence[tuple[float, ...]],
    halvings: int,
) -> tuple[Batch, Grid, bool]:
    """Ladders solved on one grid, and whether it is fine enough for all of them.

    raises: InputError if the stages of one stand in an impossible order
    """
    band = grid(halvings)
    batch = solve_many(lines, band.hz)
    weights = np.stack([octave_weights(bands, band) for bands in octave_bands_db])
    is_fine = bool(_Sums.of(batch, band, weights).agree().all())
    return batch, band, is_fine or halvings >= MOST_HALVINGS


def _summed(values: FloatArray, weights: FloatArray) -> FloatArray:
    """Sums over frequency with each column of weights, one way whatever else is in the batch.

    A matrix product adds in an order that depends on the shape: a line would differ in its last digit by
    what it was solved together with.

    shape: values (…, n_freq), weights (…, n_freq, n_columns)
    """
    columns = [(values * weights[..., at]).sum(axis=-1) for at in range(weights.shape[-1])]
    return np.stack(columns, axis=-1)


def _mean_squares(volts: ComplexArray) -> FloatArray:
    """Lines first, for one product with the weights of each line."""
    return np.asarray((volts.real**2 + volts.imag**2).swapaxes(0, 1))


def read_at(stages: Sequence[LadderStage], hz: Sequence[float]) -> Reading:
    """Solve for sines: levels at the first of `hz`; the others follow on the frequency axis.

    raises: InputError if the stages stand in an impossible order
    """

    def weights_at(_: int, band: Grid) -> FloatArray:
        weights = np.zeros((len(band.hz) + len(hz), 2))
        weights[len(band.hz)] = 1.0  # a sine is where it is, on every grid
        return weights

    return _read_many([stages], tuple(hz), weights_at)[0]


def read_spectra(
    lines: Sequence[Sequence[LadderStage]], octave_bands_db: Sequence[tuple[float, ...]]
) -> list[Reading]:
    """Solve for broadband sources, each with its power by octave band, at its EMF or in the air.

    raises: InputError if the stages of one stand in an impossible order
    """
    known: dict[tuple[tuple[float, ...], int], FloatArray] = {}

    def weights_at(number: int, band: Grid) -> FloatArray:
        key = (octave_bands_db[number], len(band.hz))
        if key not in known:
            known[key] = octave_weights(octave_bands_db[number], band)
        return known[key]

    return _read_many(lines, (), weights_at)


def read_spectrum(stages: Sequence[LadderStage], octave_bands_db: Sequence[float]) -> Reading:
    """The same for one line."""
    return read_spectra([stages], [tuple(octave_bands_db)])[0]


OCTAVE_BANDS_HZ = (31.5, 63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16000.0)
"""Nominal mid-band frequencies, IEC 61260-1."""


def octave_weights(octave_bands_db: tuple[float, ...], band: Grid) -> FloatArray:
    """Share of a source's power on each grid frequency; within an octave it is even per octave.

    shape: octave_bands_db (10,), result (n_freq, 2): for fine and for coarse sums
    raises: InputError if there are not ten bands
    """
    if len(octave_bands_db) != len(OCTAVE_BANDS_HZ):
        raise InputError(
            "octave_bands_db", "must have ten values, 31.5 Hz to 16 kHz", octave_bands_db
        )
    power = 10.0 ** (np.asarray(octave_bands_db) / 10.0)
    weights: FloatArray = power[band.octave][:, None] * band.octave_shares / power.sum()
    weights.setflags(write=False)
    return weights
