"""What people say: levels, hours of a knob, distances by the body, lamps; read from plain text."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.gain import FIRST_HOUR, HOURS

What = Literal["level", "lamp", "hour", "gain", "distance", "buffer", "pad"]
_NUMBERS: Final = {
    "a": 1.0, "an": 1.0, "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "seven": 7.0,
    "eight": 8.0, "nine": 9.0, "ten": 10.0, "eleven": 11.0, "twelve": 12.0, "half": 0.5,
}  # fmt: skip
BODY_M: Final = {
    "fist": 0.10, "span": 0.20, "hand": 0.09, "finger": 0.02, "thumb": 0.025, "arm": 0.65, "foot": 0.3048,
    "feet": 0.3048, "inch": 0.0254, "palm": 0.09, "step": 0.75,
}  # fmt: skip
"""By the body, in metres; typical. A foot and an inch are exact."""
_EXACT = {"foot", "feet", "inch"}
LAMPS_DBFS: Final = {
    "green": -40.0,
    "yellow": -12.0,
    "amber": -12.0,
    "orange": -12.0,
    "red": -1.0,
    "clip": -0.5,
}
"""Where lamps of inputs come on, in dBFS of a peak; typical."""
_WORD = "|".join(_NUMBERS)
_COUNT = rf"(?P<count>\d+(?:[.,]\d+)?|{_WORD})"


@dataclass(frozen=True, slots=True, kw_only=True)
class Phrase:
    """What was understood: a level in dBFS, an hour 7 to 17, a gain in dB, a distance in metres, a count of frames.

    `said` is the words it was read from; `is_typical` that a figure of it is.
    """

    what: What
    value: float
    said: str
    average: bool | None = None
    """Of a level: as an average, or as peaks; None where it is not said."""
    is_typical: bool = False
    lamp: str = ""


def understood(text: str) -> Phrase | None:
    """The first thing in a text that is known; None for nothing."""
    plain = text.casefold().replace("−", "-").replace("–", "-").replace("’", "'").strip()
    for reader in (_buffer, _lamp, _distance, _hour, _pad, _gain, _level):
        found = reader(plain)
        if found is not None:
            return found
    return None


def _number(text: str) -> float:
    return _NUMBERS[text] if text in _NUMBERS else float(text.replace(",", "."))


def _buffer(text: str) -> Phrase | None:
    found = re.search(
        r"(?P<count>\d{2,4})\s*(samples|frames)|buffer\D{0,12}(?P<other>\d{2,4})\b", text
    )
    if found is None:
        return None
    count = float(found["count"] or found["other"])
    return Phrase(what="buffer", value=count, said=found[0]) if 16 <= count <= 8192 else None


def _lamp(text: str) -> Phrase | None:
    found = re.search(rf"\b({'|'.join(LAMPS_DBFS)})\b", text)
    if found is None or not re.search(
        r"lamp|light|led|touch|just|never|below|in the|flash|blink|meter", text
    ):
        return None
    name = found[1]
    below = 3.0 if re.search(r"\b(never|below|under|not|before)\b", text) else 0.0
    return Phrase(
        what="lamp", value=LAMPS_DBFS[name] - below, said=name, is_typical=True, lamp=name
    )


def _distance(text: str) -> Phrase | None:
    metric = re.search(r"(\d+(?:[.,]\d+)?)\s*(mm|cm|centimet\w+|m\b|met(?:er|re)s?)", text)
    if metric is not None:
        unit = metric[2]
        scale = 0.001 if unit == "mm" else 0.01 if unit.startswith("c") else 1.0
        return Phrase(what="distance", value=_number(metric[1]) * scale, said=metric[0])
    body = re.search(
        rf"(?:{_COUNT}\s*)?(?P<part>hand'?s?\s*span|span|fist|finger|thumb|palm|inch|foot|feet|step|arm|hand)(?:e?s|'s)?\b",
        text,
    )
    if body is None:
        return None
    part = "span" if body["part"].endswith("span") else body["part"]
    count = _number(body["count"]) if body["count"] else 1.0
    return Phrase(
        what="distance",
        value=count * BODY_M[part],
        said=body[0].strip(),
        is_typical=part not in _EXACT,
    )


def _on_the_dial(hour: float) -> float | None:
    """An hour as the knob goes: from 7 over noon to 5, which is 17."""
    hour = hour % 12.0
    hour = hour if hour >= FIRST_HOUR else hour + 12.0
    return hour if FIRST_HOUR <= hour <= FIRST_HOUR + HOURS else None


def _hour(text: str) -> Phrase | None:
    patterns = (
        (rf"half past {_COUNT}", 0.5), (rf"quarter past {_COUNT}", 0.25), (rf"quarter to {_COUNT}", -0.25),
        (rf"half {_COUNT}\b", 0.5), (rf"{_COUNT}\s*o'?\s*clock", 0.0),
    )  # fmt: skip
    for pattern, more in patterns:
        found = re.search(pattern, text)
        if found is not None:
            hour = _on_the_dial(_number(found["count"]) + more)
            return None if hour is None else Phrase(what="hour", value=hour, said=found[0])
    clock = re.search(r"\b(\d{1,2}):(\d{2})\b", text)
    if clock is not None:
        hour = _on_the_dial(float(clock[1]) + float(clock[2]) / 60.0)
        return None if hour is None else Phrase(what="hour", value=hour, said=clock[0])
    shares = (
        (r"\b(all the way|fully|full)\s*(up|open)\b", 1.0), (r"\ball the way down\b", 0.0),
        (r"three[- ]quarters", 0.75), (r"\b(half[- ]?way|in the middle|straight up|noon)\b", 0.5),
    )  # fmt: skip
    for pattern, share in shares:
        found = re.search(pattern, text)
        if found is not None:
            return Phrase(what="hour", value=FIRST_HOUR + HOURS * share, said=found[0])
    return None


def _pad(text: str) -> Phrase | None:
    found = re.search(r"\bpad\b\s*(in|on|out|off)?", text)
    if found is None:
        return None
    return Phrase(what="pad", value=0.0 if found[1] in {"out", "off"} else 1.0, said=found[0])


def _gain(text: str) -> Phrase | None:
    found = re.search(
        r"([+-]?\d+(?:[.,]\d+)?)\s*(?:db)?\s*(?:of\s*)?gain|gain\D{0,12}?([+-]?\d+(?:[.,]\d+)?)",
        text,
    )
    if found is None:
        return None
    return Phrase(what="gain", value=_number(found[1] or found[2]), said=found[0])


def _level(text: str) -> Phrase | None:
    found = re.search(r"([+-]?)\s*(\d+(?:[.,]\d+)?)", text)
    if found is None or _number(found[2]) > 80.0:
        return None
    average = True if re.search(r"average|rms|mean|around", text) else None
    average = False if re.search(r"peak", text) else average
    # What people say of a digital meter is below full scale, with the minus or without.
    return Phrase(what="level", value=-_number(found[2]), said=found[0].strip(), average=average)
