"""Figures as people read them: signs, decimals, units, articles. The one place that formats."""

from __future__ import annotations

from collections.abc import Sequence

_MINUS = "−"


def number(value: float, decimals: int | None = None, *, sign: bool = False) -> str:
    """A number with a true minus; without `decimals` as short as it is exact, and never "−0"."""
    if decimals is None:
        text = f"{value:+g}" if sign else f"{value:g}"
    else:
        text = f"{value:+.{decimals}f}" if sign else f"{value:.{decimals}f}"
    if float(text) == 0.0:
        text = text.lstrip("+-")
    return text.replace("-", _MINUS)


def two_digits(value: float) -> float:
    """A figure to two significant digits, for what is not known better."""
    return float(f"{value:.2g}")


def level_text(value: float, unit: str, decimals: int = 1) -> str:
    """A level with sign, true minus and unit: "−7.8 dBFS"."""
    return f"{number(value, decimals, sign=True)} {unit}"


def db_text(value: float, decimals: int | None = None) -> str:
    """A difference in decibels without sign for gains of something: "6.5 dB"."""
    return f"{number(value, decimals)} dB"


def percent_text(share: float) -> str:
    """A share of one: "48%"."""
    return f"{number(share * 100.0, 0)}%"


def range_text(low: float, high: float, unit: str) -> str:
    """From lowest to highest: "−10 to 54 dB"; one value where both are one."""
    if low == high:
        return f"{number(low)} {unit}"
    return f"{number(low)} to {number(high)} {unit}"


def ohm_text(value: float) -> str:
    """An impedance with the prefix that fits."""
    if value >= 1e6:
        return f"{value / 1e6:g} MΩ"
    return f"{value / 1e3:g} kΩ" if value >= 1e3 else f"{value:g} Ω"


def article(word: str) -> str:
    """The word with its article: "an instrument input", "a line input"."""
    return f"{'an' if word[:1].lower() in 'aeiou' else 'a'} {word}"


def capital(words: str) -> str:
    """The same as the beginning of a sentence."""
    return words[:1].upper() + words[1:]


def plural(count: int, one: str, many: str = "") -> str:
    """A count with its noun: "1 input", "2 inputs"."""
    return f"{count} {one if count == 1 else many or one + 's'}"


def listed(names: Sequence[str]) -> str:
    """Names one after the other: "Voice", "Voice and Harp", "Voice, Harp and Viol"."""
    if len(names) < 2:
        return "".join(names)
    return ", ".join(names[:-1]) + " and " + names[-1]


def clock_list(names: Sequence[str], most: int, noun: str) -> str:
    """The same for few names; of many their count: "all 7 lines"."""
    return f"all {len(names)} {noun}" if len(names) > most else listed(names)


def short_name(name: str, most: int = 60) -> str:
    """A name cut at a readable length."""
    return name if len(name) <= most else name[: most - 1] + "…"
