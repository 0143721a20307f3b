"""What can be set: a knob, switch or position with its range, and how the kinds of gear make theirs."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from verve.core.kind._base import FADER_MIN_DB, ChannelSettings, Settings

ControlValue = float | bool | str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One thing that can be set. Its `value` is what holds now, the default filled in."""

    owner: str
    channel: str
    name: str
    label: str
    kind: Literal["range", "choice", "switch"]
    value: ControlValue
    effect: str
    unit: str = ""
    minimum: float = 0.0
    maximum: float = 0.0
    step: float = 1.0
    choices: tuple[ControlValue, ...] = ()
    is_dial: bool = False
    gain_step_db: float = 0.0
    dial: tuple[tuple[float, float], ...] | None = None
    is_dial_learned: bool = False
    """Whether takes have taught its dial; one that is not learned is that of a sheet."""
    hour: float | None = None
    """Where somebody says that the knob stands."""
    is_locked: bool = False

    @property
    def said(self) -> str:
        """The label in the middle of a sentence; units keep their capitals: "phantom 48 V"."""
        return self.label[:1].lower() + self.label[1:]

    @property
    def is_level(self) -> bool:
        """Whether it is a gain that a hand sets the level with."""
        return self.name == "gain_db"

    def accepts(self, value: ControlValue) -> bool:
        """Whether the gear has such a position."""
        if self.kind == "switch":
            return isinstance(value, bool)
        if self.kind == "choice":
            return value in self.choices
        if isinstance(value, bool) or not isinstance(value, int | float):
            return False
        return self.minimum - 1e-9 <= value <= self.maximum + 1e-9

    def clamped(self, value: float) -> float:
        """The nearest value in range."""
        return min(max(value, self.minimum), self.maximum)

    def rule(self) -> str:
        """What it accepts, in words."""
        if self.kind == "switch":
            return "must be on or off"
        if self.kind == "choice":
            names = ", ".join("none" if c is None else str(c) for c in self.choices)
            return f"must be one of {names}"
        return f"must be {self.minimum:g} to {self.maximum:g} {self.unit}".rstrip()


def phantom_channel(switch: str) -> str:
    """The channel under which a phantom switch keeps its position."""
    return f"phantom.{switch}"


def phantom_control(owner: str, switch: str, *, is_on: bool) -> Control:
    """The switch that gives phantom power, at whatever gives it."""
    return Control(
        owner=owner,
        channel=phantom_channel(switch),
        name="phantom",
        label="Phantom 48 V",
        kind="switch",
        value=is_on,
        effect="Powers condensers, active boxes and inline preamps; turn monitors down first",
    )


def range_control(
    owner: str,
    channel: str,
    name: str,
    label: str,
    effect: str,
    *,
    low: float,
    high: float,
    now: float | None,
    default: float,
    unit: str = "",
    step: float = 1.0,
) -> Control:
    """A position between two ends; what is set beyond them counts as the nearer end."""
    value = default if now is None else now
    return Control(
        owner=owner,
        channel=channel,
        name=name,
        label=label,
        kind="range",
        effect=effect,
        minimum=low,
        maximum=high,
        value=min(max(value, low), high),
        unit=unit,
        step=step,
    )


def gain_control(
    owner: str,
    channel: str,
    label: str,
    effect: str,
    *,
    low_db: float,
    high_db: float,
    now_db: float | None,
    step_db: float = 0.0,
    dial: tuple[tuple[float, float], ...] | None = None,
) -> Control:
    """A gain knob, lowest unless set."""
    now_db = low_db if now_db is None else now_db
    return Control(
        owner=owner,
        channel=channel,
        name="gain_db",
        label=label,
        kind="range",
        effect=effect,
        minimum=low_db,
        maximum=high_db,
        value=min(max(now_db, low_db), high_db),
        unit="dB",
        is_dial=True,
        dial=dial,
        gain_step_db=step_db,
    )


def pad_controls(
    owner: str, channel: str, pads_db: tuple[float, ...], now_db: float | None
) -> list[Control]:
    """The pad of a channel; none where it has none."""
    if not pads_db:
        return []
    effect = "Lowers the signal before the electronics behind it, and raises what they bear"
    pad = Control(
        owner=owner,
        channel=channel,
        name="pad_db",
        label="Pad",
        kind="choice",
        choices=(0.0, *pads_db),
        value=now_db or 0.0,
        unit="dB",
        effect=effect,
    )
    return [pad]


def switch_control(
    owner: str, channel: str, name: str, label: str, effect: str, now: ChannelSettings
) -> Control:
    """A switch, off unless set."""
    return Control(
        owner=owner,
        channel=channel,
        name=name,
        label=label,
        kind="switch",
        value=bool(getattr(now, name)),
        effect=effect,
    )


def low_cut_control(owner: str, channel: str, corner_hz: float, now: ChannelSettings) -> Control:
    """A low cut with a fixed corner."""
    effect = "Takes away rumble, plosives and proximity effect; the level changes, check it again"
    return switch_control(owner, channel, "high_pass", f"Low cut {corner_hz:g} Hz", effect, now)


def driven_control(owner: str, channel: str, now: ChannelSettings) -> Control:
    """Whether distortion here is wanted."""
    effect = "Distortion is wanted here: nothing is said against it, and what follows is set for it"
    return switch_control(owner, channel, "driven", "Distortion is meant", effect, now)


def fader_control(
    owner: str, channel: str, label: str, now_db: float | None, highest_db: float
) -> Control:
    """A fader, at unity unless set."""
    effect = "Best near 0: below it loses level that a later stage must win back"
    return range_control(
        owner, channel, "fader_db", label, effect,
        low=FADER_MIN_DB, high=highest_db, now=now_db, default=0.0, unit="dB",
    )  # fmt: skip


def marked(controls: Iterable[Control], settings: Settings) -> tuple[Control, ...]:
    """The same controls, those marked that are locked, and gain knobs with what is known of them."""
    told = {
        channel: now
        for channel, now in settings.items()
        if now.kept or now.dial is not None or now.hour is not None
    }
    if not told:
        return tuple(controls)
    found = []
    for one in controls:
        now = told.get(one.channel)
        if now is not None and one.name in now.kept:
            one = replace(one, is_locked=True)
        if now is not None and one.is_dial and not (now.dial is None and now.hour is None):
            is_learned = now.dial is not None
            dial = now.dial if is_learned else one.dial
            one = replace(one, dial=dial, is_dial_learned=is_learned, hour=now.hour)
        found.append(one)
    return tuple(found)


def control_value(controls: Mapping[str, Control], name: str, otherwise: float) -> float:
    """The number a control of a channel stands at; `otherwise` where there is none."""
    control = controls.get(name)
    return float(control.value) if control and isinstance(control.value, int | float) else otherwise
