"""Controls as people write and say them: one way out, one way in."""

from __future__ import annotations

import re
from typing import Final

from verve.core.errors import InputError
from verve.core.kind._control import Control, ControlValue

_NUMBER = re.compile(r"([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(.*)")
_WORDS: Final = {
    "pan": {
        "left": -1.0,
        "hard left": -1.0,
        "centre": 0.0,
        "center": 0.0,
        "right": 1.0,
        "hard right": 1.0,
    },
    "volume_position": {"full up": 1.0, "full": 1.0, "off": 0.0},
    "tone_position": {"full up": 1.0, "full": 1.0, "off": 0.0},
}


def _metres(unit: str) -> float | None:
    """Length of a unit; None for one that is no length."""
    # Imported here: the units load NumPy, which the window does not need to appear.
    from verve.core.units import METRES_PER_FOOT

    lengths = {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": METRES_PER_FOOT, "in": METRES_PER_FOOT / 12}
    return lengths.get(unit)


def control_text(control: Control, value: object) -> str:
    """A control's position as a person says it: "+34 dB", "on", "12 cm"."""
    if isinstance(value, bool):
        return "on" if value else "off"
    if control.name == "group":
        return "main" if value is None else f"group {value}"
    if value is None:
        return "none"
    if control.name == "distance_m" and isinstance(value, float):
        return f"{value * 100.0:.0f} cm"
    if control.name in {"volume_position", "tone_position"} and isinstance(value, float):
        return "full up" if value >= 0.995 else f"{value:.0%}"
    if control.name == "angle_deg" and isinstance(value, float):
        return f"{value:.0f}°"
    if control.name == "pan" and isinstance(value, float):
        return _pan_text(value)
    if control.name == "pad_db":
        return f"−{value:g} dB" if value else "out"
    if isinstance(value, float):
        said = f"{value:+.1f}".replace("-", "−").removesuffix(".0")
        return f"{'0' if said in {'+0', '−0'} else said} {control.unit}"
    return str(value)


def _pan_text(pan: float) -> str:
    if abs(pan) < 0.05:
        return "centre"
    side = "left" if pan < 0 else "right"
    return f"hard {side}" if abs(pan) > 0.99 else f"{abs(pan):.0%} {side}"


def parse_control(control: Control, text: str) -> ControlValue:
    """The value a person typed for a range: "+34", "34 dB", "12 cm", "80 %", "hard left".

    raises: InputError naming the control, with its range
    """
    said = " ".join(text.replace("−", "-").strip().lower().split())
    words = _WORDS.get(control.name, {})
    if said in words:
        return words[said]
    found = _NUMBER.fullmatch(said)
    if found is None:
        raise InputError(control.label, control.rule(), text)
    value, unit = float(found[1].replace(",", ".")), found[2]
    value = _in_unit(control, value, unit, text)
    if not control.accepts(value):
        raise InputError(control.label, control.rule(), text)
    return value


def _in_unit(control: Control, value: float, unit: str, text: str) -> float:
    if control.name == "distance_m":
        if unit == "":
            # A bare number above the range in metres can only be centimetres.
            return value if value <= control.maximum else value * 0.01
        metres = _metres(unit)
        if metres is not None:
            return value * metres
    elif control.name in {"volume_position", "tone_position"}:
        if unit == "%" or (unit == "" and value > 1.0):
            return value / 100.0
        if unit == "":
            return value
    elif control.name == "pan":
        sign = {"": 1.0, "% left": -0.01, "% right": 0.01, "left": -0.01, "right": 0.01}.get(unit)
        if sign is not None:
            return value * sign
    elif control.name == "angle_deg":
        if unit in {"", "°", "deg", "degrees"}:
            return value
    elif unit in {"", control.unit.lower()}:
        return value
    raise InputError(control.label, f"must be in {control.unit or 'plain numbers'}", text)
