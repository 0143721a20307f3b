"""What all gear has in common: frozen figures with their origins, plugs, levels, what can be set."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise
from typing import Annotated, Any, Generic, Literal, NoReturn, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from verve.core.errors import InputError
from verve.core.words import Origin

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
FADER_MIN_DB = -60.0
"""A fader this low is as good as closed."""
PAD_BOX_OHM = 47_000.0
"""Typical input resistance of the pad built into a passive box."""

_Key = TypeVar("_Key")
_Value = TypeVar("_Value")


class FrozenDict(dict[_Key, _Value], Generic[_Key, _Value]):
    """A mapping inside a frozen value: it cannot be changed either."""

    def _refuse(self, *_: object, **__: object) -> NoReturn:
        raise TypeError("this mapping belongs to a frozen value; make a new one")

    __setitem__ = __delitem__ = __ior__ = _refuse
    clear = pop = popitem = setdefault = update = _refuse

    def __copy__(self) -> FrozenDict[_Key, _Value]:
        return self

    def __deepcopy__(self, memo: dict[int, Any]) -> FrozenDict[_Key, _Value]:
        from copy import deepcopy

        return FrozenDict({deepcopy(k, memo): deepcopy(v, memo) for k, v in self.items()})

    def __reduce__(self) -> tuple[Any, ...]:
        return (FrozenDict, (dict(self),))


FrozenMap = Annotated[Mapping[_Key, _Value], AfterValidator(FrozenDict)]
"""The type of a field that holds a mapping."""


class Frozen(BaseModel):
    """A frozen part of the document: strict types, no unknown keys, finite numbers only."""

    model_config = ConfigDict(
        frozen=True, strict=True, extra="forbid", allow_inf_nan=False, defer_build=True
    )


class Figures(Frozen):
    """`wordings` keeps figures as their data sheet words them, by the name of the figure."""

    entry: str = ""
    origin: Origin = "typical"
    origins: FrozenMap[str, Origin] = Field(default_factory=FrozenDict)
    wordings: FrozenMap[str, str] = Field(default_factory=FrozenDict)

    def origin_of(self, figure: str) -> Origin:
        """Where one figure comes from: its own origin, else that of the whole."""
        return self.origins.get(figure, self.origin)


class CableFigures(Figures):
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


class ChannelSettings(Frozen):
    """What is set on one channel of a device or source; None is the gear's own default.

    `hour` is where somebody says that the gain knob stands, 7 to 17, noon is 12; `dial` is what takes have taught
    of it, hours and gains in dB. `kept` names the controls that are locked: whatever sets gains by itself leaves them
    alone; a hand may turn them.
    """

    gain_db: float | None = None
    pad_db: NotNegative | None = None
    phantom: bool | None = None
    high_pass: bool | None = None
    mode: Mode | None = None
    fader_db: float | None = None
    pan: Annotated[float, Field(ge=-1, le=1)] | None = None
    distance_m: Positive | None = None
    volume_position: Share | None = None
    tone_position: Share | None = None
    presence: bool | None = None
    foam: bool | None = None
    angle_deg: Annotated[float, Field(ge=0, le=180)] | None = None
    battery: bool | None = None
    load: bool | None = None
    fed_there: bool | None = None
    driven: bool | None = None
    effect_recorded: bool | None = None
    tone_extra: bool | None = None
    group: Annotated[str, Field(pattern=r"^[1-8]$")] | None = None
    hour: Annotated[float, Field(ge=7, le=17)] | None = None
    dial: tuple[tuple[float, float], ...] | None = None
    kept: tuple[str, ...] = ()


NOTHING_SET = ChannelSettings()
"""Every setting at the gear's own default; shared, since it is frozen and asked for all the time."""

Settings = Mapping[str, ChannelSettings]
"""What is set on a device, by channel."""


def check_dial(dial: tuple[tuple[float, float], ...]) -> None:
    """raises: InputError unless hours and gains both rise, from two points on"""
    if len(dial) < 2:
        raise InputError("dial", "must have at least two points")
    for (hour, gain_db), (next_hour, next_gain_db) in pairwise(dial):
        if next_hour <= hour or next_gain_db <= gain_db:
            rule = "must rise in hour and gain from point to point"
            raise InputError("dial", rule, (next_hour, next_gain_db))
