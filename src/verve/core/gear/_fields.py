"""Fields that the data sheets of several kinds share."""

from __future__ import annotations

from typing import Final

from verve.core.kind import Field

OHM_SAYS: Final = "as printed: 200 Ω, 1.5 kΩ, 1 MΩ"
NOISE_SAYS: Final = (
    "in dBu, dBV, µV or nV/√Hz, weighted or not; say the source resistance and the bandwidth if the "
    "sheet does"
)
LEVEL_SAYS: Final = "as dBu, dBV, volts RMS or volts peak to peak"
GAIN_SAYS: Final = "from lowest to highest, the width of the range, or a fixed gain"
PHANTOM: Final = (
    ("", "not stated"),
    ("needs", "needs 48 V"),
    ("tolerates", "not needed, harmless"),
    ("never", "must not get it"),
)
NAME: Final = Field(
    key="name",
    label="Name",
    example="My dynamic microphone",
    says="what you call it",
    is_needed=True,
)
GAIN: Final = Field(key="gain", label="Gain", example="10 to 65 dB", says=GAIN_SAYS, is_needed=True)
OUTPUT_PHANTOM: Final = Field(
    key="phantom",
    label="Phantom into it",
    choices=PHANTOM[:1] + PHANTOM[2:],
    says="what 48 V does to its output, should it be plugged into a microphone input",
)
CURRENT: Final = Field(
    key="current", label="Current drawn", example="4 mA", says="from phantom power"
)
LEAST: Final = Field(
    key="least",
    label="Least phantom voltage",
    example="44 V",
    says="the lowest it works with, as in 48 V ±4 V or 11 to 52 V",
)
PRIMARY: Final = Field(
    key="primary", label="Primary resistance", example="900 Ω", says="of the winding"
)
SECONDARY: Final = Field(
    key="secondary", label="Secondary resistance", example="15 Ω", says="of the winding"
)


def ohms_field(key: str, label: str, example: str, *, is_needed: bool = False) -> Field:
    """An impedance."""
    return Field(key=key, label=label, example=example, says=OHM_SAYS, is_needed=is_needed)


def level_field(key: str, label: str, example: str, says: str = LEVEL_SAYS) -> Field:
    """A level."""
    return Field(key=key, label=label, example=example, says=says)


def noise_field(example: str, key: str = "noise", label: str = "Input noise") -> Field:
    """An input noise."""
    return Field(key=key, label=label, example=example, says=NOISE_SAYS)
