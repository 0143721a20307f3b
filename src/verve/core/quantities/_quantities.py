"""Single figures as data sheets word them, read into the units Verve computes in."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from verve.core.errors import InputError
from verve.core.kind import Understood, check_dial
from verve.core.units import (
    db_to_ratio,
    dbu_to_v_rms,
    v_rms_to_dbu,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class RangeUnderstood:
    """A gain range; `low_db` is None where only its width was given."""

    low_db: float | None
    high_db: float
    said: str
    assumed: str = ""


NUMBER: Final = r"[+-]?(?:\d{1,9}(?:\.\d{0,12})?|\.\d{1,12})"
_MOST_DB = 400.0
"""Beyond this no level or ratio is meant; it also keeps powers of ten in bounds."""
_PREFIXES: Final[Mapping[str, float]] = {
    "p": 1e-12,
    "n": 1e-9,
    "µ": 1e-6,
    "u": 1e-6,
    "m": 1e-3,
    "": 1.0,
    "k": 1e3,
    "M": 1e6,
}
DBV_TO_DBU: Final = -20.0 * math.log10(dbu_to_v_rms(0.0))


def tidy(text: str) -> str:
    """One way of writing: true minus, multiplication sign and decimal comma made plain."""
    plain = text.replace("−", "-").replace("\u2013", "-").replace("μ", "µ").replace("\u2126", "Ω")
    plain = re.sub(r"(\d),(\d)", r"\1.\2", plain)
    return " ".join(plain.split())


def plain(value: float, decimals: int = 1) -> str:
    """A number with true minus and without idle zeros."""
    return f"{value:.{decimals}f}".rstrip("0").rstrip(".").replace("-", "−") or "0"


def amount(label: str, text: str) -> float | None:
    """A number of something as typed, in the unit its field names; None for nothing.

    A single point or comma is the decimal mark, whatever stands behind it: "15.625" is fifteen and a half;
    only with both is the first one between thousands.

    raises: InputError for anything else, or below zero
    """
    said = re.sub(r"[\s\u00a0\u202f']", "", text)
    if not said:
        return None
    if "," in said and "." in said:
        between = "," if said.index(",") < said.index(".") else "."
        said = said.replace(between, "")
    said = said.replace(",", ".")
    if re.fullmatch(r"\d{1,12}(?:\.\d{0,9})?", said) is None:
        raise InputError(label, "must be a number from 0, like 16 or 15.6", text)
    return float(said)


def si_text(value: float, unit: str) -> str:
    """A value with the prefix that fits: "4.7 kΩ", "80 pF"."""
    if value == 0.0:
        return f"0 {unit}"
    for prefix in ("M", "k", "", "m", "µ", "n", "p"):
        size = _PREFIXES[prefix]
        if abs(value) >= 0.9995 * size:
            return f"{value / size:.4g} {prefix}{unit}"
    return f"{value:.3g} {unit}"


def refused(label: str, rule: str, text: str) -> InputError:
    """The error of a figure that breaks a rule."""
    return InputError(label, rule, text)


def db_value(label: str, text: str, number: str) -> float:
    """The dB of a matched number.

    raises: InputError beyond what any level can be
    """
    value = float(number)
    if abs(value) > _MOST_DB:
        raise refused(label, f"must be within {_MOST_DB:g} dB of 0", text)
    return value


def sensitivity(label: str, text: str) -> Understood:
    """Open-circuit sensitivity in mV/Pa from mV/Pa, V/Pa, dBV/Pa, dB re 1 V/Pa or dB re 1 V/µbar.

    source: definition; 1 µbar = 0.1 Pa, so that 0 dB re 1 V/µbar is 20 dB re 1 V/Pa
    raises: InputError for anything else, among it a bare dB, which has two meanings 20 dB apart
    """
    said = re.sub(
        r",? ?(?:\bat|@) ?1 ?k(?:hz)?\b|±.*|\((?!\s*(?:0 ?dB|re|1 ?V))[^)]*\)",
        "",
        tidy(text),
        flags=re.I,
    ).strip()
    found = re.fullmatch(rf"({NUMBER}) ?(m|µ)?V ?/ ?Pa", said)
    if found:
        value = float(found[1]) * _PREFIXES[found[2] or ""] * 1e3
        return _sensitivity(label, text, value, "")
    found = re.fullmatch(rf"({NUMBER}) ?dB(.*)", said, flags=re.I)
    if found is None:
        raise refused(label, "must be like 2 mV/Pa, −54 dBV/Pa or −74 dB re 1 V/µbar", text)
    level = db_value(label, text, found[1])
    reference = re.sub(r"\s|[().,=:]", "", found[2])
    reference = re.sub(r"^(?:rel|ref?|0dB)+|^1(?=V)", "", reference, flags=re.I)
    reference = re.sub(r"^1(?=V)", "", reference)
    if reference in {"V/Pa", "V/1Pa"}:
        value = 1e3 * db_to_ratio(level)
        return _sensitivity(label, text, value, f"10^({plain(level)} ÷ 20) V/Pa")
    if reference in {"V/µbar", "V/ubar", "V/microbar", "V/µb"}:
        value = 1e3 * db_to_ratio(level + 20.0)
        how = f"1 V/µbar is 10 V/Pa: 10^(({plain(level)} + 20) ÷ 20) V/Pa"
        return _sensitivity(label, text, value, how)
    raise refused(
        label, "must say what its dB are relative to: dBV/Pa, dB re 1 V/Pa or dB re 1 V/µbar", text
    )


def _sensitivity(label: str, text: str, value: float, how: str) -> Understood:
    if value <= 0.0:
        raise refused(label, "must be greater than 0", text)
    return Understood(value=value, said=f"{value:.4g} mV/Pa", how=how)


def level_dbu(label: str, text: str) -> Understood:
    """A voltage level in dBu from dBu, dBV, V RMS (or bare V, mV), V peak or V peak to peak."""
    said = tidy(text)
    found = re.fullmatch(rf"({NUMBER}) ?dB ?([uUvVmM])\b.*", said)
    if found:
        value, unit = db_value(label, text, found[1]), found[2].lower()
        if unit == "m":
            return Understood(
                value=value,
                said=f"{plain(value)} dBu",
                assumed="dBm taken as dBu, which it is at 600 Ω",
            )
        if unit == "u":
            return Understood(value=value, said=f"{plain(value)} dBu")
        in_dbu = value + DBV_TO_DBU
        how = f"0 dBV is {plain(DBV_TO_DBU, 2)} dBu"
        return Understood(value=in_dbu, said=f"{plain(in_dbu)} dBu", how=how)
    found = re.fullmatch(rf"({NUMBER}) ?(m|µ)?V ?([\w\- ]*)", said)
    if found is None:
        raise refused(label, "must be a level like +9 dBu, 6 dBV, 2 V RMS or 5.6 V pp", text)
    volts = float(found[1]) * _PREFIXES[found[2] or ""]
    kind = re.sub(r"[\s\-]", "", found[3].lower())
    divide = {"": 1.0, "rms": 1.0, "eff": 1.0, "pp": 2.0 * math.sqrt(2.0), "ptp": 2.0 * 2.0**0.5}
    divide |= {"p": math.sqrt(2.0), "peak": math.sqrt(2.0), "pk": math.sqrt(2.0)}
    divide |= {"peaktopeak": 2.0 * math.sqrt(2.0)}
    if kind not in divide:
        raise refused(label, "must be V RMS, V peak or V pp", text)
    level = v_rms_to_dbu(volts / divide[kind]) if volts > 0.0 else None
    if level is None:
        raise refused(label, "must be greater than 0 V", text)
    return Understood(
        value=level,
        said=f"{plain(level)} dBu",
        how=f"20·log₁₀({volts / divide[kind]:.4g} V RMS ÷ 0.775 V)",
        assumed="taken as RMS volts of a sine" if kind == "" else "",
    )


def decibels(label: str, text: str) -> Understood:
    """A bare ratio or level in dB, whatever stands behind the unit."""
    found = re.match(rf"({NUMBER}) ?(?:dB.*)?$", tidy(text), re.I)
    if found is None:
        raise refused(label, "must be a number of dB", text)
    value = db_value(label, text, found[1])
    return Understood(value=value, said=f"{plain(value)} dB")


def spl(label: str, text: str) -> Understood:
    """A sound pressure level; for what distortion does not change the figure and stays in the wording."""
    found = re.match(rf"({NUMBER}) ?(?:dB.*)?$", tidy(text), re.I)
    if found is None:
        raise refused(label, "must be like 130 dB SPL", text)
    value = db_value(label, text, found[1])
    return Understood(value=value, said=f"{plain(value)} dB SPL")


def gain_range(label: str, text: str) -> RangeUnderstood:
    """A gain range from its ends ("10 to 65 dB", "0…60 dB") or its width ("56 dB range")."""
    said = tidy(text)
    found = re.fullmatch(
        rf"({NUMBER}) ?(?:dB)? ?(?:to|…|\.\.\.?|-|/|,|;|and|up to) ?({NUMBER}) ?(?:dB)?",
        said,
        re.I,
    )
    if found:
        low, high = db_value(label, text, found[1]), db_value(label, text, found[2])
        if high < low:
            low, high = high, low
        return RangeUnderstood(low_db=low, high_db=high, said=f"{plain(low)} to {plain(high)} dB")
    found = re.fullmatch(rf"(fixed:? ?)?({NUMBER}) ?dB ?(fixed)?", said, re.I)
    if found and (found[1] or found[3]):
        value = db_value(label, text, found[2])
        return RangeUnderstood(low_db=value, high_db=value, said=f"fixed at {plain(value)} dB")
    found = re.fullmatch(rf"(?:range:? ?(?:of )?)?({NUMBER}) ?dB ?(?:range)?", said, re.I)
    if found is None:
        raise refused(label, "must be like 10 to 65 dB, 56 dB range or 25 dB fixed", text)
    width = db_value(label, text, found[1])
    if width < 0.0:
        raise refused(label, "must be a range from low to high, or its width", text)
    return RangeUnderstood(low_db=None, high_db=width, said=f"{plain(width)} dB wide")


def _with_prefix(units: str, unit: str, example: str) -> Callable[[str, str], Understood]:
    pattern = re.compile(rf"({NUMBER}) ?([pnµumkM]?) ?(?:{units})?")
    inner = re.compile(r"(\d+)([kKMRpnµ])(\d+)")

    def read(label: str, text: str) -> Understood:
        said = re.sub(r"\b(kilo|meg)\b", lambda m: m[1][0], tidy(text))
        said = re.sub(r"K(?=$|\s|Ω|o)", "k", said)
        short = inner.match(said)
        if short:
            # A prefix in the place of the point, as on drawings: 4k7 is 4.7 k.
            mark = "" if short[2] == "R" else short[2].lower() if short[2] == "K" else short[2]
            said = f"{short[1]}.{short[3]} {mark}{said[short.end() :]}"
        found = pattern.fullmatch(said)
        if found is None:
            raise refused(label, f"must be like {example}", text)
        value = float(found[1]) * _PREFIXES[found[2]]
        if value < 0.0:
            raise refused(label, "must be at least 0", text)
        return Understood(value=value, said=si_text(value, unit))

    return read


ohms = _with_prefix(r"Ω|[Oo]hms?", "Ω", "200 Ω, 1.5 kΩ or 1 M")
farads = _with_prefix(r"F", "F", "100 pF")
henries = _with_prefix(r"H", "H", "3.5 H")
hertz = _with_prefix(r"Hz(?:,? .*)?", "Hz", "80 Hz")
amperes = _with_prefix(r"A", "A", "4 mA")


_SUPPLY = re.compile(
    rf"(?:P?)({NUMBER}) ?V?(?: ?(?:±|\+/-) ?({NUMBER}) ?(V|%)?| ?(?:to|…|-|–|\.\.) ?({NUMBER}) ?V)?"
)


def milliamperes(label: str, text: str) -> Understood:
    """A current, in mA.

    raises: InputError if it is none
    """
    found = amperes(label, text)
    return Understood(value=found.value * 1e3, said=found.said)


def least_volts(label: str, text: str) -> Understood:
    """The lowest supply something works with: "44 V", "48 V ±4 V", "48 V ±10 %", "11 to 52 V"."""
    found = _SUPPLY.fullmatch(tidy(text))
    if found is None:
        raise refused(label, "must be like 44 V, 48 V ±4 V or 11 to 52 V", text)
    value = float(found[1])
    if found[2] is not None:
        share = float(found[2])
        value -= value * share / 100.0 if found[3] == "%" else share
    elif found[4] is not None:
        value = min(value, float(found[4]))
    if not 0.0 < value <= _HIGHEST_SUPPLY_V:
        raise refused(label, f"must be above 0 and at most {_HIGHEST_SUPPLY_V:g} V", text)
    return Understood(value=value, said=f"{value:.4g} V at least")


def ratio(label: str, text: str) -> Understood:
    """A turns ratio, primary to secondary: "12:1", "12"."""
    found = re.fullmatch(rf"({NUMBER}) ?(?:: ?({NUMBER}))?", tidy(text))
    if found is None or float(found[1]) <= 0.0 or float(found[2] or 1.0) <= 0.0:
        raise refused(label, "must be a ratio like 12:1", text)
    value = float(found[1]) / float(found[2] or 1.0)
    return Understood(value=value, said=f"{value:.4g} : 1")


_HIGHEST_SUPPLY_V = 60.0
OCTAVES_HZ: Final = (31.5, 63.0, 125.0, 250.0, 500.0, 1e3, 2e3, 4e3, 8e3, 16e3)
_RESPONSE_POINT = re.compile(rf"({NUMBER}) ?(k?)(?:Hz)? ?[:= ] ?({NUMBER}) ?(?:dB)?", re.I)


def response(label: str, text: str) -> tuple[float, ...]:
    """A response by octave, 31.5 Hz to 16 kHz, from points read off a curve: "63 Hz −5, 1k 0, 4k +3".

    Between points it is read straight over the octaves; beyond the ends it stays as at the end.
    """
    said = tidy(text)
    if said.lower() in {"", "flat"}:
        return (0.0,) * len(OCTAVES_HZ)
    points: dict[float, float] = {}
    for item in re.split(r"[,;]", said):
        found = _RESPONSE_POINT.fullmatch(item.strip())
        if found is None:
            raise refused(label, "must be points like 63 Hz −5, 1 kHz 0, 4 kHz +3", text)
        hz = float(found[1]) * (1e3 if found[2] else 1.0)
        if hz <= 0.0 or abs(float(found[3])) > 60.0:
            raise refused(label, "must have frequencies above 0 and levels within 60 dB", item)
        points[hz] = float(found[3])
    rising = sorted(points)
    at = np.interp(np.log(OCTAVES_HZ), np.log(rising), [points[hz] for hz in rising])
    return tuple(round(float(value), 6) for value in at)


_DIAL_POINT = re.compile(
    rf"(half past )?(\d{{1,2}}(?:\.\d+)?) ?(?:h|o.?clock)? ?[:=]? ?({NUMBER}) ?(?:dB)?", re.I
)


def dial(label: str, text: str) -> tuple[tuple[float, float], ...]:
    """A measured knob as (hour, gain_db): "7: 0 dB, 12: 30 dB, half past 2: 45 dB, 5: 60 dB".

    Hours from 1 to 6 are those of the afternoon, as a knob goes from 7 over noon to 5.

    raises: InputError unless there are two points or more, hours and gains both rising
    """
    points = []
    for item in re.split(r"[,;]", tidy(text)):
        found = _DIAL_POINT.fullmatch(item.strip())
        if found is None:
            raise refused(label, "must be points like 7: 0 dB, 12: 30 dB, 5: 60 dB", text)
        hour = float(found[2]) + (0.5 if found[1] else 0.0)
        points.append((hour + 12.0 if hour < 7.0 else hour, db_value(label, text, found[3])))
    try:
        check_dial(tuple(points))
    except InputError as error:
        raise refused(label, error.rule, text) from None
    return tuple(points)


def pads(label: str, text: str) -> tuple[float, ...]:
    """Pads in dB, smallest first: "−10, −20 dB"; none for "none" or "0"."""
    said = re.sub(r"dB", "", tidy(text), flags=re.I).strip().lower()
    if said in {"", "none", "no", "0"}:
        return ()
    found = []
    for item in re.split(r"[,;/]| and ", said):
        if re.fullmatch(NUMBER, item.strip()) is None:
            raise refused(label, "must be like −10 dB or −10, −20 dB", text)
        if float(item) != 0.0:
            found.append(abs(float(item)))
    return tuple(sorted(set(found)))
