"""Noise as data sheets state it, turned into unweighted input noise over 20 Hz to 20 kHz."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import numpy as np

from verve.core.kind import Understood
from verve.core.quantities._quantities import (
    DBV_TO_DBU,
    NUMBER,
    db_value,
    plain,
    refused,
    tidy,
)
from verve.core.units import (
    BAND_HIGH_HZ,
    BAND_HZ,
    BAND_LOW_HZ,
    a_weighting_power,
    v2_to_dbu,
    v_rms_to_dbu,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class NoiseUnderstood:
    """An equivalent input noise: over 20 Hz to 20 kHz, unweighted, with its source resistance."""

    ein_dbu: float
    source_ohm: float
    said: str
    how: str
    assumed: str


def white_to_a_db(low_hz: float = BAND_LOW_HZ, high_hz: float = BAND_HIGH_HZ) -> float:
    """A-weighted level of white noise less its unweighted level in a band.

    source: IEC 61672-1 weighting, summed over the band (Simpson on 4,000 octave-spaced points)
    """
    hz = np.geomspace(low_hz, high_hz, 4001)
    powers = a_weighting_power(hz) * hz
    weights = np.ones(hz.size)
    weights[1:-1:2], weights[2:-1:2] = 4.0, 2.0
    step = math.log(high_hz / low_hz) / (hz.size - 1)
    weighted = float(np.sum(weights * powers)) * step / 3.0
    return 10.0 * math.log10(weighted / (high_hz - low_hz))


_BAND = re.compile(rf"({NUMBER}) ?(k?)Hz ?(?:-|to|…|\.\.\.?) ?({NUMBER}) ?(k?)Hz", re.I)
_BAND_SHORT = re.compile(rf"({NUMBER}) ?(?:-|to|…) ?({NUMBER}) ?(k?)Hz", re.I)
_SINGLE_BAND = re.compile(rf"({NUMBER}) ?kHz", re.I)


def _band_hz(said: str) -> tuple[float, float] | None:
    found = _BAND.search(said)
    if found:
        low = float(found[1]) * (1e3 if found[2] else 1.0)
        return low, float(found[3]) * (1e3 if found[4] else 1.0)
    found = _BAND_SHORT.search(said)
    if found:
        low, high = float(found[1]), float(found[2]) * (1e3 if found[3] else 1.0)
        return (low * 1e3 if found[3] and low < 1.0 else low), high
    found = _SINGLE_BAND.search(said)
    return (BAND_LOW_HZ, BAND_LOW_HZ + float(found[1]) * 1e3) if found else None


_SOURCE = re.compile(rf"({NUMBER}) ?(k?) ?(?:Ω|ohms?\b|R\b)", re.I)


def noise(label: str, text: str, usual_source_ohm: float = 150.0) -> NoiseUnderstood:
    """Equivalent input noise from dBu, dBV, µV or nV/√Hz, weighted or not, at its source and bandwidth.

    A density is flat over the band; a density without a source resistance is the amplifier's alone
    (0 Ω). A-weighted and other bandwidths are turned into unweighted 20 Hz to 20 kHz as for white
    noise, which an amplifier's is.

    source: derivation, EIN² = e²·B; IEC 61672-1 for the A-weighting of white noise
    """
    said = tidy(text)
    found = re.match(
        rf"({NUMBER}) ?(dB ?u|dB ?v|n ?V ?/ ?(?:√ ?Hz|rt ?Hz|sqrt ?\(? ?Hz ?\)?)|µV|uV)",
        said,
        re.I,
    )
    if found is None:
        raise refused(label, "must be a noise like −128 dBu A, −130 dBV or 4 nV/√Hz", text)
    value, rest = float(found[1]), said[found.end() :]
    unit = found[2].lower().replace(" ", "")
    if unit.startswith("db"):
        value = db_value(label, text, found[1])
    source = _SOURCE.search(rest)
    is_short = re.search(r"short", rest, re.I) is not None
    assumed: list[str] = []
    how: list[str] = []
    if source is not None:
        source_ohm = float(source[1]) * (1e3 if source[2].lower() == "k" else 1.0)
    elif is_short or unit.startswith("nv"):
        source_ohm = 0.0
        if not is_short:
            assumed.append("the amplifier’s own, as with a shorted input")
    else:
        source_ohm = usual_source_ohm
        assumed.append(f"measured with {usual_source_ohm:g} Ω")
    if unit.startswith("nv"):
        if value <= 0.0:
            raise refused(label, "must be greater than 0", text)
        level = v2_to_dbu((value * 1e-9) ** 2 * BAND_HZ)
        how.append(f"{value:g} nV × √{BAND_HZ:g} Hz")
    else:
        level, how_level, assumed_level = _noise_level(label, value, unit, rest, source)
        how += how_level
        assumed += assumed_level
    assert level is not None
    tail = f" at {source_ohm:g} Ω" if source_ohm else " with a shorted input"
    return NoiseUnderstood(
        ein_dbu=level,
        source_ohm=source_ohm,
        said=f"{plain(level)} dBu{tail}, unweighted",
        how="; ".join(how),
        assumed="; ".join(assumed),
    )


def _noise_level(
    label: str, value: float, unit: str, rest: str, source: re.Match[str] | None
) -> tuple[float, list[str], list[str]]:
    how: list[str] = []
    assumed: list[str] = []
    if unit in {"µv", "uv"}:
        level = v_rms_to_dbu(value * 1e-6)
        if level is None:
            raise refused(label, "must be greater than 0", f"{value:g}")
    else:
        level = value + (DBV_TO_DBU if unit == "dbv" else 0.0)
        if unit == "dbv":
            how.append(f"0 dBV is {plain(DBV_TO_DBU, 2)} dBu")
    without_source = rest if source is None else rest.replace(source[0], "")
    band = _band_hz(without_source)
    is_weighted = re.search(r"(^|[\s(,;-])A\b|A-?(weighted|wtd)|IEC", without_source) is not None
    if is_weighted:
        share_db = white_to_a_db()
        how.append(f"A-weighted white noise is {plain(-share_db)} dB below unweighted")
        return level - share_db, how, assumed
    if re.search(r"weighted|unw|lin|flat", without_source, re.I) is None:
        assumed.append("unweighted")
    if band is not None:
        low_hz, high_hz = band
        if high_hz <= low_hz:
            raise refused(label, "must have a bandwidth that rises", rest)
        how.append(
            f"from {low_hz:g} to {high_hz:g} Hz: 10·log₁₀({BAND_HZ:g} ÷ {high_hz - low_hz:g})"
        )
        level += 10.0 * math.log10(BAND_HZ / (high_hz - low_hz))
    else:
        assumed.append("20 Hz to 20 kHz")
    return level, how, assumed


def self_noise(label: str, text: str) -> Understood:
    """Equivalent noise level of a microphone in dBA, or from its signal to noise at 94 dB SPL."""
    said = tidy(text)
    found = re.match(rf"({NUMBER}) ?dB", said, re.I)
    if found is None:
        raise refused(label, "must be like 16 dBA, or 78 dB signal to noise at 94 dB SPL", text)
    value = db_value(label, text, found[1])
    if re.search(r"s ?/ ?n|snr|signal|re 94|at 94|re 1 ?pa", said, re.I):
        level = 94.0 - value
        return Understood(
            value=level, said=f"{plain(level)} dBA", how=f"94 dB SPL − {plain(value)} dB"
        )
    if re.search(r"ccir|itu|468", said, re.I):
        raise refused(
            label, "must be A-weighted; a quasi-peak figure cannot be turned into it exactly", text
        )
    says_a = re.search(r"dB ?-?\(?A\)?|A-?weighted", said) is not None
    return Understood(
        value=value, said=f"{plain(value)} dBA", assumed="" if says_a else "A-weighted"
    )


def dynamic_range(label: str, text: str) -> Understood:
    """A converter's dynamic range, A-weighted; an unweighted one is turned as for white noise."""
    said = tidy(text)
    found = re.match(rf"({NUMBER}) ?dB", said, re.I)
    if found is None:
        raise refused(label, "must be like 110 dBA or 107 dB unweighted", text)
    value = abs(db_value(label, text, found[1]))
    if re.search(r"unw|lin|flat", said, re.I):
        share_db = -white_to_a_db()
        how = f"A-weighted white noise is {plain(share_db)} dB below unweighted"
        return Understood(value=value + share_db, said=f"{plain(value + share_db)} dBA", how=how)
    says_a = re.search(r"dB ?-?\(?A\)?|A-?weighted", said) is not None
    return Understood(
        value=value, said=f"{plain(value)} dBA", assumed="" if says_a else "A-weighted"
    )
