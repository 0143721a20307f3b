"""Decibels, volts, pascals, weightings, thermal noise: the only place that knows their constants."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Final, TypeAlias

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray: TypeAlias = NDArray[np.float64]
    ComplexArray: TypeAlias = NDArray[np.complex128]
    IntArray: TypeAlias = NDArray[np.int64]
else:
    # The names of array types are for the checker alone, and loading them takes longer than NumPy's core.
    FloatArray = ComplexArray = IntArray = np.ndarray

BOLTZMANN_J_PER_K: Final = 1.380649e-23
"""Exact, SI 2019; typed here so that nothing of scipy loads before the first paint (a test compares)."""
TEMPERATURE_K: Final = 293.15
"""Room temperature, 20 °C."""
DBU_REFERENCE_V_RMS: Final = math.sqrt(0.6)
"""0 dBu: the voltage that gives 1 mW in 600 Ω."""
_DBU_REFERENCE_V2: Final = DBU_REFERENCE_V_RMS**2
REFERENCE_PRESSURE_PA_RMS: Final = 20e-6
"""0 dB SPL, ISO 1683."""
SPEED_OF_SOUND_M_PER_S: Final = 343.0
"""Dry air at 20 °C."""
BAND_LOW_HZ: Final = 20.0
BAND_HIGH_HZ: Final = 20_000.0
BAND_HZ: Final = BAND_HIGH_HZ - BAND_LOW_HZ
METRES_PER_FOOT: Final = 0.3048


def ratio_to_db(ratio: float) -> float | None:
    """20·log10 of an amplitude ratio; 10:1 is 20 dB. None where the ratio is 0 (no finite level)."""
    return 20.0 * math.log10(ratio) if ratio > 0.0 else None


def power_to_db(power: float) -> float | None:
    """10·log10 of a power ratio; 10:1 is 10 dB. None where the power is 0."""
    return 10.0 * math.log10(power) if power > 0.0 else None


def to_thousandth(level_db: float | None) -> float | None:
    """A level as a take keeps it: nobody hears a thousandth of a decibel, and a file of takes is half as long."""
    return None if level_db is None else round(level_db, 3)


def db_to_ratio(level_db: float) -> float:
    """Amplitude ratio of a level difference; 20 dB is 10:1."""
    return float(10.0 ** (level_db / 20.0))


def dbu_to_v_rms(level_dbu: float) -> float:
    """RMS volts of a level in dBu; 0 dBu is 0.7746 V."""
    return DBU_REFERENCE_V_RMS * db_to_ratio(level_dbu)


def v_rms_to_dbu(voltage_v_rms: float) -> float | None:
    """Level in dBu of RMS volts; None for no voltage."""
    return ratio_to_db(voltage_v_rms / DBU_REFERENCE_V_RMS)


def v2_to_dbu(power_v2: float) -> float | None:
    """Level in dBu of a mean square voltage in V²; None for none."""
    return 10.0 * math.log10(power_v2 / _DBU_REFERENCE_V2) if power_v2 > 0.0 else None


def dbu_to_dbv(level_dbu: float) -> float:
    """The same voltage re 1 V RMS; 0 dBu is −2.22 dBV."""
    return level_dbu + 20.0 * math.log10(DBU_REFERENCE_V_RMS)


def spl_to_pa_rms(level_db_spl: float) -> float:
    """RMS pascals of a sound pressure level; 93.98 dB SPL is 1 Pa."""
    return REFERENCE_PRESSURE_PA_RMS * db_to_ratio(level_db_spl)


def thermal_noise_v2_per_hz(resistance_ohm: FloatArray | float) -> FloatArray | float:
    """Noise density of a resistor's EMF, one-sided.

    unit: V²/Hz
    source: Nyquist 1928, 4·k·T·R
    """
    return 4.0 * BOLTZMANN_J_PER_K * TEMPERATURE_K * resistance_ohm


def thermal_noise_a2_per_hz(conductance_s: FloatArray | float) -> FloatArray | float:
    """Noise density of a resistor's short-circuit current, one-sided.

    unit: A²/Hz
    source: Nyquist 1928, 4·k·T·G
    """
    return 4.0 * BOLTZMANN_J_PER_K * TEMPERATURE_K * conductance_s


def a_weighting_power(hz: FloatArray) -> FloatArray:
    """A-weighting as a power factor, 1 at 1 kHz.

    shape: as `hz`
    source: IEC 61672-1:2013, E.4.2 and E.6 (pole frequencies rounded as printed)
    """

    def magnitude(f2: FloatArray) -> FloatArray:
        low, mid_low, mid_high, high = (f * f for f in (20.598997, 107.65265, 737.86223, 12194.217))
        bottom = (f2 + low) * np.sqrt((f2 + mid_low) * (f2 + mid_high)) * (f2 + high)
        return np.asarray(high * f2 * f2 / bottom)

    at_1_khz = magnitude(np.array([1e6]))[0]
    return np.asarray((magnitude(np.square(hz)) / at_1_khz) ** 2)
