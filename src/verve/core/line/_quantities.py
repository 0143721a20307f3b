"""What a solved line means in decibels: levels, losses, headroom, noise and whose it is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.errors import InputError
from verve.core.line._grid import COARSEST_POINTS, Grid, grid
from verve.core.line._solve import Junction, Solution, solve
from verve.core.line._stages import Amplifier, Converter, Microphone, Sound, Stage
from verve.core.units import (
    DBU_REFERENCE_V_RMS,
    FloatArray,
    power_to_db,
    ratio_to_db,
    v_rms_to_dbu,
)

FINEST_POINTS = 12_289
NOISE_TOLERANCE_DB = 0.003
"""Grid and every-other-point grid must agree so well; the error itself is then far smaller."""
_EQUAL_DB = 1e-9
"""Two headrooms closer than this are equal: they differ by rounding alone."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """A line solved on a grid fine enough for its noise, with levels for one spectrum.

    `weights` says how the source's power is spread over the frequencies (sum 1); one frequency
    alone is a sine. The first `len(band.hz)` frequencies are the grid's.
    """

    solution: Solution
    band: Grid
    weights: FloatArray

    # ── levels ────────────────────────────────────────────────────────────────────────────────
    def _effective_v_rms(self, spectrum: object) -> float:
        power = np.abs(np.asarray(spectrum)) ** 2
        return math.sqrt(float(np.sum(self.weights * power)))

    def junction(self, at: int) -> Junction:
        """raises: InputError behind a sound, where there is no wire yet."""
        found = self.solution.junctions[at]
        if found is None:
            raise InputError(f"at {at}", "has no junction, a sound is not a voltage")
        return found

    def peak_dbu(self, at: int) -> float | None:
        """Peak level behind stage `at`; None for no signal."""
        return v_rms_to_dbu(self._effective_v_rms(self.junction(at).v_rms))

    def open_peak_dbu(self, at: int) -> float | None:
        """Peak level of stage `at` with nothing behind it."""
        return v_rms_to_dbu(self._effective_v_rms(self.junction(at).open_v_rms))

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
        margins = self.limits_db(at)
        return min(margins) if margins else None

    def first_to_clip(self) -> int | None:
        """Position of the stage with the least headroom, the earliest of equals."""
        found: tuple[float, int] | None = None
        for at in range(len(self.solution.stages)):
            headroom = self.headroom_db(at)
            if headroom is not None and (found is None or headroom < found[0] - _EQUAL_DB):
                found = (headroom, at)
        return None if found is None else found[1]

    # ── noise ─────────────────────────────────────────────────────────────────────────────────
    def _over_band(self, density: object, weights: FloatArray) -> float:
        values = np.broadcast_to(np.asarray(density), self.solution.hz.shape)
        return float(values[: len(weights)] @ weights)

    def noise_dbu(self, at: int) -> float | None:
        """Noise behind stage `at` over the band, unweighted; at a converter what arrives."""
        power = self._over_band(self.junction(at).noise_v2_per_hz, self.band.weights_hz)
        return power_to_db(power / DBU_REFERENCE_V_RMS**2)

    def noise_dba(self, at: int) -> float | None:
        """The same A-weighted, still in dBu."""
        power = self._over_band(self.junction(at).noise_v2_per_hz, self.band.a_weights_hz)
        return power_to_db(power / DBU_REFERENCE_V_RMS**2)

    def noise_dbfs(self) -> float | None:
        """Noise in the recording, the converter's own included, unweighted."""
        return self._end_noise_dbfs(self.band.weights_hz)

    def noise_dbfs_a(self) -> float | None:
        """The same A-weighted."""
        return self._end_noise_dbfs(self.band.a_weights_hz)

    def _end_noise_dbfs(self, weights: FloatArray) -> float | None:
        full_scale = self.converter().full_scale_dbu
        power = self._over_band(self.solution.end_noise_v2_per_hz.sum(axis=0), weights)
        level = power_to_db(power / DBU_REFERENCE_V_RMS**2)
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
        by_stage = (
            self.solution.end_noise_v2_per_hz[:, : len(self.band.hz)] @ self.band.a_weights_hz
        )
        total = float(by_stage.sum())
        return tuple(float(p) / total for p in by_stage) if total > 0.0 else None


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


def _is_fine_enough(solution: Solution, band: Grid) -> bool:
    """Whether grid and nested grid agree on the noise of every junction and of the end."""
    densities = [solution.end_noise_v2_per_hz.sum(axis=0)]
    densities += [
        np.broadcast_to(np.asarray(junction.noise_v2_per_hz), solution.hz.shape)
        for junction in solution.junctions
        if junction is not None
    ]
    table = np.stack(densities)[:, : len(band.hz)]
    for fine, nested in (
        (band.weights_hz, band.nested_weights_hz),
        (band.a_weights_hz, band.nested_a_weights_hz),
    ):
        whole, half = table @ fine, table @ nested
        tolerance = whole * (10.0 ** (NOISE_TOLERANCE_DB / 10.0) - 1.0)
        if np.any(np.abs(whole - half) > tolerance):
            return False
    return True


def read_at(stages: Sequence[Stage], hz: Sequence[float]) -> Reading:
    """Solve for sines: levels at the first of `hz`; the others follow on the frequency axis.

    raises: InputError if the stages stand in an impossible order
    """
    points = COARSEST_POINTS
    while True:
        band = grid(points)
        solution = solve(stages, np.concatenate([band.hz, np.asarray(hz, dtype=float)]))
        if points >= FINEST_POINTS or _is_fine_enough(solution, band):
            break
        points = 2 * points - 1
    weights = np.zeros(len(solution.hz))
    weights[len(band.hz)] = 1.0
    return Reading(solution=solution, band=band, weights=weights)


def read_spectrum(stages: Sequence[Stage], octave_bands_db: Sequence[float]) -> Reading:
    """Solve for a broadband source: its power by octave band, at its EMF or in the air.

    raises: InputError if the stages stand in an impossible order
    """
    points = COARSEST_POINTS
    while True:
        band = grid(points)
        solution = solve(stages, band.hz)
        if points >= FINEST_POINTS or _is_fine_enough(solution, band):
            break
        points = 2 * points - 1
    weights = octave_weights(tuple(octave_bands_db), points)
    return Reading(solution=solution, band=band, weights=weights)


OCTAVE_BANDS_HZ = (31.5, 63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16000.0)
"""Nominal mid-band frequencies, IEC 61260-1."""
_weights_cache: dict[tuple[tuple[float, ...], int], FloatArray] = {}


def octave_weights(octave_bands_db: tuple[float, ...], points: int) -> FloatArray:
    """Share of a source's power on each grid frequency; within an octave it is even per octave.

    shape: octave_bands_db (10,), result (points,)
    raises: InputError if there are not ten bands
    """
    if len(octave_bands_db) != len(OCTAVE_BANDS_HZ):
        raise InputError(
            "octave_bands_db", "must have ten values, 31.5 Hz to 16 kHz", octave_bands_db
        )
    key = (octave_bands_db, points)
    if key not in _weights_cache:
        octave = np.round(np.log2(grid(points).hz / 1000.0)).astype(int) + 5
        octave = np.clip(octave, 0, 9)
        power = 10.0 ** (np.asarray(octave_bands_db) / 10.0)
        members = np.bincount(octave, minlength=10)
        weights = power[octave] / members[octave]
        weights = weights / weights.sum()
        weights.setflags(write=False)
        _weights_cache[key] = weights
    return _weights_cache[key]
