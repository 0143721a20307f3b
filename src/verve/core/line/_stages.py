"""The stages of a line as values in data-sheet terms.

These are exactly the stages of a validation file (docs/validation.md says what each key means); a
session's gear is turned into them, so application and `verve verify` compute with the same code.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]
Share = Annotated[float, Field(ge=0, le=1)]


def _integral_float_to_int(value: object) -> object:
    """24.0 in a JSON file is the whole number 24; 24.5 stays what it is and is refused."""
    return int(value) if isinstance(value, float) and value.is_integer() else value


Count = Annotated[int, BeforeValidator(_integral_float_to_int), Field(ge=1)]


class _Stage(BaseModel):
    model_config = ConfigDict(frozen=True, strict=True, extra="forbid", allow_inf_nan=False)

    def __init__(self, **data: Any) -> None:
        # The kind is said by the class; in a file it is said by the key `stage`.
        data.setdefault("stage", type(self).model_fields["stage"].default)
        super().__init__(**data)


class Sound(_Stage):
    """A sound source: its peak level at the reference distance falls with the inverse of distance.

    `room_noise_dba` is the room's own noise at the microphone, taken as flat over the band.
    """

    stage: Literal["sound"] = "sound"
    peak_spl_db: float
    reference_distance_m: Positive = 1.0
    distance_m: Positive = 1.0
    room_noise_dba: float | None = None


class Microphone(_Stage):
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


class Pickup(_Stage):
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


class Piezo(_Stage):
    """A piezo pickup: EMF (its peak) behind a capacitance."""

    stage: Literal["piezo"] = "piezo"
    peak_emf_v: NotNegative
    capacitance_f: Positive


class LineSource(_Stage):
    """An electronic output: open-circuit peak level; `noise_dbu` is its whole open-circuit noise."""

    stage: Literal["line_source"] = "line_source"
    peak_dbu: float
    output_impedance_ohm: NotNegative
    noise_dbu: float | None = None


class Cable(_Stage):
    """A cable: the whole loop resistance in series, then the whole capacitance across."""

    stage: Literal["cable"] = "cable"
    length_m: NotNegative
    capacitance_f_per_m: NotNegative
    resistance_ohm_per_m: NotNegative = 0.0


class ResistivePad(_Stage):
    """A pad: series, then shunt resistance."""

    stage: Literal["resistive_pad"] = "resistive_pad"
    series_ohm: NotNegative
    shunt_ohm: Positive


class Transformer(_Stage):
    """A transformer; `turns_ratio` is primary to secondary: 10 lowers the voltage to a tenth."""

    stage: Literal["transformer"] = "transformer"
    turns_ratio: Positive
    primary_resistance_ohm: NotNegative = 0.0
    secondary_resistance_ohm: NotNegative = 0.0
    primary_inductance_h: Positive | None = None


class Amplifier(_Stage):
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


class Converter(_Stage):
    """The converter: `full_scale_dbu` at its terminals is 0 dBFS."""

    stage: Literal["converter"] = "converter"
    full_scale_dbu: float
    input_impedance_ohm: Positive = 10_000.0
    dynamic_range_dba: float | None = None
    bit_depth: Count = 24


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
