"""Gear and sources by their data-sheet figures; each copy in a session stands on its own."""

from collections.abc import Iterable, Mapping
from itertools import pairwise
from typing import Annotated, Literal, TypeGuard, TypeVar

from pydantic import BaseModel, ConfigDict, Field, model_validator

from verve.core.errors import InputError

Origin = Literal["data_sheet", "typical", "measured", "assumed", "yours"]
"""Where a figure comes from; `typical` is the catalogue's."""
Mode = Literal["microphone", "line", "instrument"]
PhantomNeed = Literal["needs", "tolerates", "never"]
"""What a device does with phantom power that arrives at its output."""
Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]
Share = Annotated[float, Field(ge=0, le=1)]
Bands = Annotated[tuple[float, ...], Field(min_length=10, max_length=10)]

Pattern = Literal["omni", "wide_cardioid", "cardioid", "supercardioid", "figure_eight"]
"""How a microphone hears around itself; the physics is in `verve.core.line`."""

Plug = Literal["xlr", "jack_6", "jack_3", "phono"]
"""What a cable ends in: three pins, a 6.3 mm jack, a 3.5 mm jack, a phono plug."""
HostPlug = Literal["usb_a", "usb_c"]
"""What an interface's cable ends in at the computer, and what sockets a computer has."""

FLAT_BANDS_DB = (0.0,) * 10


class Frozen(BaseModel):
    """A frozen part of the document: strict types, no unknown keys, finite numbers only."""

    model_config = ConfigDict(
        frozen=True, strict=True, extra="forbid", allow_inf_nan=False, defer_build=True
    )


class _Figures(Frozen):
    """`wordings` keeps figures as their data sheet words them, by the name of the figure."""

    entry: str = ""
    origin: Origin = "typical"
    origins: Mapping[str, Origin] = {}
    wordings: Mapping[str, str] = {}

    def origin_of(self, figure: str) -> Origin:
        """Where one figure comes from: its own origin, else that of the whole."""
        return self.origins.get(figure, self.origin)


class MicrophoneFigures(_Figures):
    """A microphone. `phantom` says what 48 V does to it.

    Without a `pattern` direction and nearness are left out. Responses are by octave, 31.5 Hz to
    16 kHz: its own on its axis, what its presence switch adds, what a foam over it takes.
    """

    kind: Literal["microphone"] = "microphone"
    principle: Literal["moving_coil", "ribbon", "condenser"]
    sensitivity_mv_per_pa: Positive
    output_impedance_ohm: Positive
    self_noise_dba: float | None = None
    max_spl_db: float | None = None
    pads_db: tuple[Positive, ...] = ()
    high_pass_hz: Positive | None = None
    phantom: PhantomNeed = "tolerates"
    phantom_current_ma: NotNegative = 0.0
    phantom_least_v: Positive | None = None
    pattern: Pattern | None = None
    addressed_from: Literal["end", "side"] = "end"
    response_db: Bands = FLAT_BANDS_DB
    presence_db: Bands | None = None
    foam_db: Bands | None = None


class PreampFigures(_Figures):
    """An amplifier between two cables; an inline preamp has one gain and lives on phantom power."""

    kind: Literal["preamp"] = "preamp"
    input_impedance_ohm: Positive
    output_impedance_ohm: Positive
    gain_min_db: float
    gain_max_db: float
    ein_dbu: float | None = None
    ein_source_ohm: NotNegative = 150.0
    max_input_dbu: float | None = None
    max_output_dbu: float | None = None
    phantom: PhantomNeed = "needs"
    phantom_current_ma: NotNegative = 0.0
    phantom_least_v: Positive | None = None
    passes_phantom: bool = False
    gain_step_db: NotNegative = 0.0


class PedalFigures(_Figures):
    """An effect between instrument and DI box or amplifier; `gain` is how far its knob raises the level.

    `phantom`: what its output does with phantom power; one that says nothing must not get it (typical).
    """

    kind: Literal["pedal"] = "pedal"
    input_impedance_ohm: Positive
    input_capacitance_f: NotNegative = 0.0
    output_impedance_ohm: Positive
    gain_min_db: float
    gain_max_db: float
    ein_dbu: float | None = None
    max_output_dbu: float | None = None
    phantom: PhantomNeed = "never"


class PassiveDiFigures(_Figures):
    """A transformer box; `turns_ratio` is primary to secondary, 12 lowers to a twelfth."""

    kind: Literal["passive_di"] = "passive_di"
    turns_ratio: Positive
    primary_resistance_ohm: NotNegative
    secondary_resistance_ohm: NotNegative
    primary_inductance_h: Positive
    pads_db: tuple[Positive, ...] = ()
    phantom: PhantomNeed = "tolerates"


class SplitterFigures(_Figures):
    """A splitter: one microphone for two desks. Its direct output is the microphone itself and lets phantom
    power through; the isolated one comes from a transformer (primary to secondary) and keeps it.

    `other_input_ohm` is what the other desk loads the microphone with.
    """

    kind: Literal["splitter"] = "splitter"
    turns_ratio: Positive = 1.0
    primary_resistance_ohm: NotNegative
    secondary_resistance_ohm: NotNegative
    primary_inductance_h: Positive
    other_input_ohm: Positive = 2400.0
    phantom: PhantomNeed = "tolerates"


class ActiveDiFigures(_Figures):
    """An active box: very high input impedance, lives on phantom power or on a battery."""

    kind: Literal["active_di"] = "active_di"
    input_impedance_ohm: Positive
    input_capacitance_f: NotNegative = 0.0
    output_impedance_ohm: Positive
    gain_db: float = 0.0
    ein_dbu: float | None = None
    current_noise_a_per_rthz: NotNegative = 0.0
    max_input_dbu: float | None = None
    pads_db: tuple[Positive, ...] = ()
    phantom: PhantomNeed = "needs"
    phantom_current_ma: NotNegative = 0.0
    phantom_least_v: Positive | None = None
    has_battery: bool = False


class ModeFigures(Frozen):
    """One way into an input: its impedance, gain range, noise and ceiling at lowest gain.

    `gain_step_db` is 0 for a knob without steps. `dial` is a measured table of its knob:
    (hour, gain_db), hours rising from 7 towards 17.
    """

    input_impedance_ohm: Positive
    input_capacitance_f: NotNegative = 0.0
    gain_min_db: float
    gain_max_db: float
    ein_dbu: float | None = None
    ein_source_ohm: NotNegative = 150.0
    current_noise_a_per_rthz: NotNegative = 0.0
    max_input_dbu: float | None = None
    gain_step_db: NotNegative = 0.0
    dial: tuple[tuple[float, float], ...] | None = None

    @model_validator(mode="after")
    def _dial_rises(self) -> "ModeFigures":
        if self.dial is not None:
            check_dial(self.dial)
        return self


class InputFigures(Frozen):
    """One input of an interface. Inputs with one `phantom_switch` or one `pad_switch` are switched
    together, those with one `gain_knob` are turned together.

    With a `capsule` it is a microphone that is its own recorder; pads and low cut are the input's.
    """

    name: str
    modes: Mapping[Mode, ModeFigures]
    pads_db: tuple[Positive, ...] = ()
    high_pass_hz: Positive | None = None
    phantom_switch: str | None = None
    gain_knob: str | None = None
    pad_switch: str | None = None
    capsule: MicrophoneFigures | None = None

    @model_validator(mode="after")
    def _capsule_has_no_switches_of_its_own(self) -> "InputFigures":
        if self.capsule is not None and (self.capsule.pads_db or self.capsule.high_pass_hz):
            raise InputError("capsule", "must leave pads_db and high_pass_hz to its input")
        return self


_Socket = TypeVar("_Socket", "InputFigures", "MixerChannelFigures")


def _named(sockets: Iterable[_Socket], port: str) -> _Socket:
    name = port[len("in.") :]
    for socket in sockets:
        if socket.name == name:
            return socket
    raise KeyError(port)


class InterfaceFigures(_Figures):
    """An interface: inputs with their preamps, and the converter behind them."""

    kind: Literal["interface"] = "interface"
    inputs: tuple[InputFigures, ...]
    full_scale_dbu: float
    dynamic_range_dba: float | None = None
    phantom_budget_ma: Positive | None = None
    host_plug: HostPlug = "usb_c"
    is_bus_powered: bool = False
    headphone_feeds: Annotated[int, Field(ge=0, le=16)] = 1
    signal_lamp_dbfs: float = -40.0
    clip_lamp_dbfs: float = -1.0

    def input_at(self, port: str) -> InputFigures:
        """The input behind a port, `in.` and its name.

        raises: KeyError if there is none
        """
        return _named(self.inputs, port)


class MixerChannelFigures(Frozen):
    """One channel of a mixer."""

    name: str
    input_impedance_ohm: Positive
    trim_min_db: float
    trim_max_db: float
    ein_dbu: float | None = None
    ein_source_ohm: NotNegative = 150.0
    max_input_dbu: float | None = None
    high_pass_hz: Positive | None = None


class MixerFigures(_Figures):
    """A small mixer with a stereo bus; the pan law is constant power, 0 dB hard over.

    `meter_zero_dbu` is the level at a main output where its own meter shows 0. With `direct_outs` every
    channel has an output of its own, behind its trim and before its fader; a channel can be sent to one of
    the `groups` instead of the main bus, each with a fader and an output of its own.
    """

    kind: Literal["mixer"] = "mixer"
    channels: tuple[MixerChannelFigures, ...]
    fader_max_db: float = 10.0
    bus_ein_dbu: float | None = None
    output_impedance_ohm: Positive
    max_output_dbu: float
    meter_zero_dbu: float = 4.0
    phantom: PhantomNeed = "never"
    direct_outs: bool = False
    groups: Annotated[int, Field(ge=0, le=8)] = 0

    def channel_at(self, port: str) -> MixerChannelFigures:
        """The channel behind a port, `in.` and its name.

        raises: KeyError if there is none
        """
        return _named(self.channels, port)


DeviceFigures = Annotated[
    MicrophoneFigures
    | PreampFigures
    | PedalFigures
    | PassiveDiFigures
    | SplitterFigures
    | ActiveDiFigures
    | InterfaceFigures
    | MixerFigures,
    Field(discriminator="kind"),
]


class CableFigures(_Figures):
    """A cable by length and data per metre."""

    length_m: Positive
    capacitance_f_per_m: NotNegative
    resistance_ohm_per_m: NotNegative = 0.0
    balanced: bool = False
    plugs: tuple[Plug, Plug] | None = None


class PlayingRange(Frozen):
    """Peak levels from softest to hardest playing, in the unit of the source, as dB."""

    softest_db: float
    typical_db: float
    hardest_db: float


class _SourceFigures(_Figures):
    player: Literal["voice", "plucked", "bowed", "struck", "keys"]
    octave_bands_db: Bands = FLAT_BANDS_DB
    crest_db: Positive = 14.0
    plug: Plug = "jack_6"


class AcousticFigures(_SourceFigures):
    """Sound in the air: peak levels in dB SPL at `reference_distance_m`.

    `extent_m` is about half the size of what sounds: nearer than that the level hardly rises.
    """

    kind: Literal["acoustic"] = "acoustic"
    peak_spl: PlayingRange
    reference_distance_m: Positive = 1.0
    extent_m: NotNegative = 0.0


class PickupFigures(_SourceFigures):
    """A magnetic pickup in an instrument: peak EMF as dB re 1 V, and its circuit."""

    kind: Literal["pickup"] = "pickup"
    peak_emf_dbv: PlayingRange
    dc_resistance_ohm: NotNegative
    inductance_h: NotNegative
    capacitance_f: NotNegative = 0.0
    tone_pot_ohm: Positive | None = None
    tone_capacitor_f: Positive | None = None
    volume_pot_ohm: Positive | None = None


class PiezoFigures(_SourceFigures):
    """A piezo pickup without preamp: peak EMF as dB re 1 V, and its capacitance."""

    kind: Literal["piezo"] = "piezo"
    peak_emf_dbv: PlayingRange
    capacitance_f: Positive


class LineOutputFigures(_SourceFigures):
    """An electronic output: peak levels in dBu.

    An amplifier that `drives_loudspeaker` may be one with valves, which must not run without its load.
    """

    kind: Literal["line_output"] = "line_output"
    peak_dbu: PlayingRange
    output_impedance_ohm: Positive
    noise_dbu: float | None = None
    has_volume: bool = True
    drives_loudspeaker: bool = False
    has_valves: bool = False
    phantom: PhantomNeed = "never"


SourceFigures = Annotated[
    AcousticFigures | PickupFigures | PiezoFigures | LineOutputFigures,
    Field(discriminator="kind"),
]


def capsule_of(figures: DeviceFigures, in_port: str) -> MicrophoneFigures | None:
    """The microphone that sound meets at a port: the device itself or one built into an input."""
    if isinstance(figures, MicrophoneFigures):
        return figures
    if isinstance(figures, InterfaceFigures):
        name = in_port.removeprefix("in.")
        return next((i.capsule for i in figures.inputs if i.name == name), None)
    return None


def is_device_figures(figures: object) -> TypeGuard[DeviceFigures]:
    """Whether figures are a device's, not a source's."""
    return isinstance(
        figures,
        MicrophoneFigures
        | PreampFigures
        | PedalFigures
        | PassiveDiFigures
        | SplitterFigures
        | ActiveDiFigures
        | InterfaceFigures
        | MixerFigures,
    )


def check_dial(dial: tuple[tuple[float, float], ...]) -> None:
    """raises: InputError unless hours and gains both rise, from two points on"""
    if len(dial) < 2:
        raise InputError("dial", "must have at least two points")
    for (hour, gain_db), (next_hour, next_gain_db) in pairwise(dial):
        if next_hour <= hour or next_gain_db <= gain_db:
            rule = "must rise in hour and gain from point to point"
            raise InputError("dial", rule, (next_hour, next_gain_db))


def playing_range(figures: SourceFigures) -> PlayingRange:
    """The peak levels of a source, in its own unit."""
    if isinstance(figures, AcousticFigures):
        return figures.peak_spl
    if isinstance(figures, LineOutputFigures):
        return figures.peak_dbu
    return figures.peak_emf_dbv
