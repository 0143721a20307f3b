"""The stages of a line as values in data-sheet terms.

These are exactly the stages of a validation file (docs/validation.md says what each key means); a
session's gear is turned into them, so application and `verve verify` compute with the same code.
"""

from dataclasses import dataclass
from math import isfinite
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BeforeValidator, Field

from verve.core.errors import InputError

Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]
Share = Annotated[float, Field(ge=0, le=1)]


def _integral_float_to_int(value: object) -> object:
    """24.0 in a JSON file is the whole number 24; 24.5 stays what it is and is refused."""
    return int(value) if isinstance(value, float) and value.is_integer() else value


Count = Annotated[int, BeforeValidator(_integral_float_to_int), Field(ge=1, le=64)]
"""Orders of filters and bits: more of either there is not, and each takes time."""

# Plain values: thousands are made while a gain is dragged. What comes from a file is checked by a
# pydantic adapter that reads the same annotations (verify/_cases.py).


class _Strict:
    """How an adapter reads a stage: strict types, no unknown keys, finite numbers only."""

    __slots__ = ()

    def __post_init__(self) -> None:
        """raises: InputError naming a figure that is no finite number"""
        for name in self.__dataclass_fields__:  # type: ignore[attr-defined]
            value = getattr(self, name)
            if value.__class__ is float and not isfinite(value):
                raise InputError(name, "must be a finite number", value)

    __pydantic_config__: ClassVar[dict[str, Any]] = {
        "strict": True,
        "extra": "forbid",
        "allow_inf_nan": False,
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class Sound(_Strict):
    """A sound source: its peak level at the reference distance falls with the inverse of distance.

    `room_noise_dba` is the room's own noise at the microphone: flat over the band, or "room", as even as in
    real rooms up to 31.5 Hz and falling by 8.01 dB per octave from there, as a density.
    """

    stage: Literal["sound"] = "sound"
    peak_spl_db: float
    reference_distance_m: Positive = 1.0
    distance_m: Positive = 1.0
    room_noise_dba: float | None = None
    room_noise_curve: Literal["flat", "room"] = "flat"


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardSound(Sound):
    """A sound with what its microphone makes of the room around it: by octave, 31.5 Hz to 16 kHz.

    No stage of a validation file: those have microphones without a response.
    """

    room_response_db: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Microphone(_Strict):
    """A microphone by its open-circuit sensitivity.

    With `self_noise_dba` the whole electrical noise is flat and has that A-weighted equivalent
    sound level; without, it is the thermal noise of the output impedance alone (passive).
    """

    stage: Literal["microphone"] = "microphone"
    sensitivity_mv_per_pa: NotNegative
    output_impedance_ohm: NotNegative
    self_noise_dba: float | None = None
    max_spl_db: float | None = None
    pad_db: float = 0.0
    high_pass_hz: Positive | None = None
    high_pass_order: Count = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Pickup(_Strict):
    """A magnetic pickup: EMF (its peak) behind R and L; across the coil C and the tone branch; volume pot."""

    stage: Literal["pickup"] = "pickup"
    peak_emf_v: NotNegative
    dc_resistance_ohm: NotNegative
    inductance_h: NotNegative
    capacitance_f: NotNegative = 0.0
    tone_pot_ohm: NotNegative | None = None
    tone_capacitor_f: NotNegative | None = None
    tone_position: Share = 1.0
    volume_pot_ohm: Positive | None = None
    volume_position: Share = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Piezo(_Strict):
    """A piezo pickup: EMF (its peak) behind a capacitance."""

    stage: Literal["piezo"] = "piezo"
    peak_emf_v: NotNegative
    capacitance_f: Positive


@dataclass(frozen=True, slots=True, kw_only=True)
class LineSource(_Strict):
    """An electronic output: open-circuit peak level; `noise_dbu` is its whole open-circuit noise."""

    stage: Literal["line_source"] = "line_source"
    peak_dbu: float
    output_impedance_ohm: NotNegative
    noise_dbu: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Cable(_Strict):
    """A cable: the whole loop resistance in series, then the whole capacitance across."""

    stage: Literal["cable"] = "cable"
    length_m: NotNegative
    capacitance_f_per_m: NotNegative
    resistance_ohm_per_m: NotNegative = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ResistivePad(_Strict):
    """A pad: series, then shunt resistance."""

    stage: Literal["resistive_pad"] = "resistive_pad"
    series_ohm: NotNegative
    shunt_ohm: Positive


@dataclass(frozen=True, slots=True, kw_only=True)
class Transformer(_Strict):
    """A transformer; `turns_ratio` is primary to secondary: 10 lowers the voltage to a tenth."""

    stage: Literal["transformer"] = "transformer"
    turns_ratio: Positive
    primary_resistance_ohm: NotNegative = 0.0
    secondary_resistance_ohm: NotNegative = 0.0
    primary_inductance_h: Positive | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Amplifier(_Strict):
    """Any active stage: inline preamp, active DI box, mixer channel, preamp.

    `gain_db` runs from the input terminals to the unloaded output. `ein_dbu` is the input-referred
    noise with a source of `ein_source_ohm`, that source's thermal noise included.
    """

    stage: Literal["amplifier"] = "amplifier"
    input_impedance_ohm: Positive
    input_capacitance_f: NotNegative = 0.0
    gain_db: float = 0.0
    output_impedance_ohm: NotNegative = 0.0
    ein_dbu: float | None = None
    ein_source_ohm: NotNegative = 150.0
    current_noise_a_per_rthz: NotNegative = 0.0
    max_input_dbu: float | None = None
    max_output_dbu: float | None = None
    high_pass_hz: Positive | None = None
    high_pass_order: Count = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Converter(_Strict):
    """The converter: `full_scale_dbu` at its terminals is 0 dBFS."""

    stage: Literal["converter"] = "converter"
    full_scale_dbu: float
    input_impedance_ohm: Positive = 10_000.0
    dynamic_range_dba: float | None = None
    bit_depth: Count = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class DitheredConverter(Converter):
    """A converter whose samples are rounded with triangular dither at a rate: what an application records.

    No stage of a validation file: those have ideal quantisation, spread over the band.
    """

    dither_rate_hz: Positive


Source = Sound | Pickup | Piezo | LineSource
Passive = Cable | ResistivePad | Transformer
Stage = Annotated[
    Sound
    | Microphone
    | Pickup
    | Piezo
    | LineSource
    | Cable
    | ResistivePad
    | Transformer
    | Amplifier
    | Converter,
    Field(discriminator="stage"),
]
SOURCES = (Sound, Pickup, Piezo, LineSource)


def padded_ein_dbu(ein_dbu: float | None, source_ohm: float, pad_db: float) -> float | None:
    """EIN of an amplifier behind a pad, referred to the pad's input: its own part rises by the pad.

    source: derivation, (EIN² − 4kTRs·B)·p² + 4kTRs·B
    """
    if ein_dbu is None or pad_db == 0.0:
        return ein_dbu
    from verve.core.units import BAND_HZ, dbu_to_v_rms, thermal_noise_v2_per_hz, v2_to_dbu

    thermal = float(thermal_noise_v2_per_hz(source_ohm)) * BAND_HZ
    own = max(0.0, dbu_to_v_rms(ein_dbu) ** 2 - thermal)
    return v2_to_dbu(own * 10.0 ** (pad_db / 10.0) + thermal)


def noise_behind_gain_dbu(
    ein_dbu: float | None, ein_least_dbu: float | None, gain_min_db: float
) -> float | None:
    """What an amplifier adds behind its gain, from its input noise at most and at least gain; None if not known.

    What arises behind the gain weighs the more at the input the less gain there is before it.

    source: derivation, EIN(G)² = e² + n²/G², so n² = (EIN(Gmin)² − e²)·Gmin²
    """
    if ein_dbu is None or ein_least_dbu is None or ein_least_dbu <= ein_dbu:
        return None
    from verve.core.units import dbu_to_v_rms, v2_to_dbu

    more_v2 = dbu_to_v_rms(ein_least_dbu) ** 2 - dbu_to_v_rms(ein_dbu) ** 2
    return v2_to_dbu(more_v2 * 10.0 ** (gain_min_db / 10.0))


def raised_dbu(limit: float | None, by_db: float) -> float | None:
    """A ceiling that a pad before it raises; None stays none."""
    return None if limit is None else limit + by_db
