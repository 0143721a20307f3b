"""Rows of a data sheet that several kinds of gear have: noise, pads, gain, phantom power, and their doubts."""

from __future__ import annotations

from verve.core.kind import PhantomNeed, Reader, Row
from verve.core.quantities._noise import NoiseUnderstood, noise
from verve.core.quantities._quantities import (
    gain_range,
    least_volts,
    milliamperes,
    pads,
    plain,
    si_text,
)
from verve.core.units import BAND_HZ, thermal_noise_v2_per_hz, v2_to_dbu


def read_noise(
    reader: Reader, key: str, figure: str, *, otherwise: float | None, because: str
) -> tuple[float | None, float]:
    """EIN and its source resistance; the assumed figure where none is stated."""

    def how(label: str, text: str) -> NoiseUnderstood:
        return noise(label, text)

    found = reader.take(key, how)
    if found is None:
        if key not in reader.rows:
            reader.assume(key, figure, because)
        return otherwise, 150.0
    reader.wordings[figure] = reader.text(key)
    reader.rows[key] = Row(said=found.said, how=found.how, assumed=found.assumed)
    return found.ein_dbu, found.source_ohm


def read_pads(reader: Reader, key: str, figure: str) -> tuple[float, ...]:
    """Pads; none where nothing is stated."""
    found = reader.take(key, pads)
    if found is None:
        if key not in reader.rows:
            reader.assume(key, "", "none")
        return ()
    reader.wordings[figure] = reader.text(key)
    said = ", ".join(f"−{plain(value)} dB" for value in found) or "none"
    reader.rows[key] = Row(said=said)
    return found


def read_gain(
    reader: Reader, key: str, figure: str, *, lowest_db: float | None, because: str
) -> tuple[float, float] | None:
    """Lowest and highest gain. A bare width starts at `lowest_db`, and `because` says whence that is."""
    found = reader.take(key, gain_range)
    if found is None:
        return None
    reader.wordings[figure] = reader.text(key)
    if found.low_db is not None:
        reader.rows[key] = Row(said=found.said)
        return found.low_db, found.high_db
    low = 0.0 if lowest_db is None else lowest_db
    low_said, high_said = plain(low), plain(low + found.high_db)
    reader.rows[key] = Row(said=f"{low_said} to {high_said} dB", assumed=because)
    reader.origins[f"{figure}.lowest"] = "assumed"
    return low, low + found.high_db


def output_phantom(reader: Reader) -> PhantomNeed:
    """What phantom power does to an output; one whose sheet says nothing must not get it."""
    return read_phantom(reader, "never", "must not get it, to be safe")


def read_phantom(reader: Reader, otherwise: PhantomNeed, because: str) -> PhantomNeed:
    """What the sheet says of phantom power; the assumed answer where it says nothing."""
    chosen = reader.choice("phantom")
    for need in ("needs", "tolerates", "never"):
        if chosen == need:
            return need
    reader.assume("phantom", "phantom", because)
    return otherwise


def read_current(reader: Reader, otherwise: float) -> float:
    """What is drawn from phantom power, in mA."""
    because = f"{otherwise:g} mA, typical" if otherwise else "none"
    figure = "phantom_current_ma"
    found = reader.read("current", milliamperes, figure, otherwise=otherwise, because=because)
    return otherwise if found is None else found


def read_least(reader: Reader, *, is_needed: bool) -> float | None:
    """The least phantom voltage it works with."""
    because = "30 V is taken for enough, typical" if is_needed else "none: it lives without"
    return reader.read("least", least_volts, "phantom_least_v", because=because, above=0.0)


def quietest_ein_dbu(source_ohm: float) -> float | None:
    """What the source resistance alone makes; no amplifier measured with it is quieter.

    source: Nyquist 1928, 4kTR over 20 Hz to 20 kHz
    """
    return v2_to_dbu(float(thermal_noise_v2_per_hz(source_ohm)) * BAND_HZ)


def check_noise(reader: Reader, key: str, ein_dbu: float | None, source_ohm: float) -> None:
    """Doubt an input noise that nothing can have."""
    if ein_dbu is None:
        return
    limit = quietest_ein_dbu(source_ohm)
    if limit is not None and ein_dbu < limit - 0.05:
        reader.doubt(
            key,
            f"{source_ohm:g} Ω alone make {plain(limit)} dBu: nothing measured with them is quieter. "
            "Is it A-weighted, or measured with a shorted input?",
        )
    elif ein_dbu > -60.0:
        reader.doubt(key, "louder than the hiss of any working input; is the sign right?")


def check_impedance(reader: Reader, key: str, ohm: float, low: float, high: float, of: str) -> None:
    """Doubt an impedance that such gear does not have."""
    if not low <= ohm <= high:
        reader.doubt(key, f"{of} lies between {si_text(low, 'Ω')} and {si_text(high, 'Ω')}")
