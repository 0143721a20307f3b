"""What can be set: every knob, switch and position of sources and devices, with its range."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from verve.core.session._gear import (
    AcousticFigures,
    ActiveDiFigures,
    InputFigures,
    InterfaceFigures,
    LineOutputFigures,
    MicrophoneFigures,
    MixerChannelFigures,
    MixerFigures,
    Mode,
    ModeFigures,
    PassiveDiFigures,
    PedalFigures,
    PickupFigures,
    PiezoFigures,
    PreampFigures,
    SplitterFigures,
)
from verve.core.session._models import NOTHING_SET, ChannelSettings, Device, Source

ControlValue = float | bool | str | None
DEFAULT_DISTANCE_M = 0.3
"""A span and a half: where a microphone without a stated place is assumed to stand."""
FADER_MIN_DB = -60.0
"""A fader this low is as good as closed."""


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
    is_kept: bool = False

    @property
    def said(self) -> str:
        """The label in the middle of a sentence; units keep their capitals: "phantom 48 V"."""
        return self.label[:1].lower() + self.label[1:]

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


_SHARED = {"gain_db": "gain_knob", "pad_db": "pad_switch"}


def turned_together(device: Device, channel: str, name: str) -> tuple[str, ...]:
    """Channels of a device that one knob or switch sets: that one, and those it shares it with."""
    if name not in _SHARED or not isinstance(device.figures, InterfaceFigures):
        return (channel,)
    knobs = {f"in.{item.name}": getattr(item, _SHARED[name]) for item in device.figures.inputs}
    knob = knobs.get(channel)
    if knob is None:
        return (channel,)
    return tuple(other for other, own in knobs.items() if own == knob)


def input_figures(device: Device, port: str) -> InputFigures:
    """The figures of an interface's input by its port name."""
    assert isinstance(device.figures, InterfaceFigures)
    return device.figures.input_at(port)


def current_mode(device: Device, port: str) -> Mode:
    """Which way into an interface input is switched on; the first it has unless set."""
    return _mode_of(input_figures(device, port), device.settings.get(port, NOTHING_SET))


def _mode_of(item: InputFigures, settings: ChannelSettings) -> Mode:
    if settings.mode is not None and settings.mode in item.modes:
        return settings.mode
    return next(iter(item.modes))


def mode_figures(device: Device, port: str) -> ModeFigures:
    """The figures of the mode an interface input is in."""
    return input_figures(device, port).modes[current_mode(device, port)]


def is_phantom_on(device: Device, port: str) -> bool:
    """Whether an interface input gives phantom power."""
    return _switch_is_on(device, input_figures(device, port))


def _switch_is_on(device: Device, item: InputFigures) -> bool:
    if item.phantom_switch is None:
        return False
    return bool(device.settings.get(phantom_channel(item.phantom_switch), NOTHING_SET).phantom)


def _range(low: float, high: float, now: float | None, default: float) -> dict[str, float]:
    value = default if now is None else now
    return {"minimum": low, "maximum": high, "value": min(max(value, low), high)}


def _pad(owner: str, channel: str, pads_db: tuple[float, ...], now: float | None) -> list[Control]:
    if not pads_db:
        return []
    return [
        Control(
            owner=owner,
            channel=channel,
            name="pad_db",
            label="Pad",
            kind="choice",
            choices=(0.0, *pads_db),
            value=now or 0.0,
            unit="dB",
            effect="Lowers the signal before the electronics behind it, and raises what they bear",
        )
    ]


def _input_controls(device: Device, item: InputFigures) -> list[Control]:
    port = f"in.{item.name}"
    found = _microphone_controls(device, item.capsule, port) if item.capsule else []
    now = device.settings.get(port, NOTHING_SET)
    mode_name = _mode_of(item, now)
    mode = item.modes[mode_name]
    if len(item.modes) > 1:
        found.append(
            Control(
                owner=device.id,
                channel=port,
                name="mode",
                label="Input mode",
                kind="choice",
                choices=tuple(item.modes),
                value=mode_name,
                effect="What the socket expects: its impedance, its gain range and its ceiling",
            )
        )
    found.append(
        Control(
            owner=device.id,
            channel=port,
            name="gain_db",
            label="Gain",
            kind="range",
            unit="dB",
            step=1.0,
            is_dial=True,
            dial=mode.dial,
            gain_step_db=mode.gain_step_db,
            effect="Raises the signal and the noise in front of it; too much clips the converter",
            **_range(mode.gain_min_db, mode.gain_max_db, now.gain_db, mode.gain_min_db),  # type: ignore[arg-type]
        )
    )
    found += _pad(device.id, port, item.pads_db, now.pad_db)
    if item.high_pass_hz is not None:
        found.append(_low_cut(device.id, port, item.high_pass_hz, now.high_pass))
    if item.phantom_switch is not None:
        found.append(
            Control(
                owner=device.id,
                channel=phantom_channel(item.phantom_switch),
                name="phantom",
                label="Phantom 48 V",
                kind="switch",
                value=_switch_is_on(device, item),
                effect="Powers condensers, active boxes and inline preamps; turn monitors down first",
            )
        )
    return found


def _low_cut(owner: str, channel: str, corner_hz: float, now: bool | None) -> Control:
    return Control(
        owner=owner,
        channel=channel,
        name="high_pass",
        label=f"Low cut {corner_hz:g} Hz",
        kind="switch",
        value=bool(now),
        effect="Takes away rumble, plosives and nearness; the level changes, check it again",
    )


def _mixer_channel_controls(
    device: Device, item: MixerChannelFigures, fader_max_db: float
) -> list[Control]:
    port = f"in.{item.name}"
    now = device.settings.get(port, NOTHING_SET)
    low, high = item.trim_min_db, item.trim_max_db
    found = [
        Control(
            owner=device.id,
            channel=port,
            name="gain_db",
            label="Trim",
            kind="range",
            unit="dB",
            is_dial=True,
            effect="The channel's own gain, first in the mixer; this one does the work",
            **_range(low, high, now.gain_db, low),  # type: ignore[arg-type]
        ),
        _fader(device.id, port, "Fader", now.fader_db, fader_max_db),
        Control(
            owner=device.id,
            channel=port,
            name="pan",
            label="Pan",
            kind="range",
            step=0.1,
            effect="−1 sends it to the left output alone, 1 to the right alone",
            **_range(-1.0, 1.0, now.pan, 0.0),  # type: ignore[arg-type]
        ),
    ]
    if item.high_pass_hz is not None:
        found.append(_low_cut(device.id, port, item.high_pass_hz, now.high_pass))
    if isinstance(device.figures, MixerFigures) and device.figures.groups:
        found.append(_sent_to(device, port, device.figures.groups))
    return found


def group_of(device: Device, port: str) -> str | None:
    """The group a mixer's channel is sent to; None for the main bus, or where it has no such group."""
    figures = device.figures
    chosen = device.settings.get(port, NOTHING_SET).group
    if not isinstance(figures, MixerFigures) or chosen is None or int(chosen) > figures.groups:
        return None
    return chosen


def _sent_to(device: Device, port: str, groups: int) -> Control:
    names = tuple(str(number) for number in range(1, groups + 1))
    return Control(
        owner=device.id,
        channel=port,
        name="group",
        label="Sent to",
        kind="choice",
        choices=(None, *names),
        value=group_of(device, port),
        effect="The main bus, or a group with a fader and an output of its own",
    )


def _fader(owner: str, channel: str, label: str, now: float | None, top: float) -> Control:
    return Control(
        owner=owner,
        channel=channel,
        name="fader_db",
        label=label,
        kind="range",
        unit="dB",
        effect="Best near 0: below it throws away level that a later stage must win back",
        **_range(FADER_MIN_DB, top, now, 0.0),  # type: ignore[arg-type]
    )


def _microphone_controls(device: Device, figures: MicrophoneFigures, port: str) -> list[Control]:
    now = device.settings.get(port, NOTHING_SET)
    found = [
        Control(
            owner=device.id,
            channel=port,
            name="distance_m",
            label="Distance",
            kind="range",
            unit="m",
            step=0.01,
            effect="Half as far is 6 dB louder, with less room and more bass",
            **_range(0.02, 10.0, now.distance_m, DEFAULT_DISTANCE_M),  # type: ignore[arg-type]
        )
    ]
    found += _pad(device.id, port, figures.pads_db, now.pad_db)
    if figures.high_pass_hz is not None:
        found.append(_low_cut(device.id, port, figures.high_pass_hz, now.high_pass))
    if figures.pattern is not None:
        found.append(
            Control(
                owner=device.id,
                channel=port,
                name="angle_deg",
                label="Turned away",
                kind="range",
                unit="°",
                step=5.0,
                effect="Off its axis it hears less, and with other bass; 0 is straight at it",
                **_range(0.0, 180.0, now.angle_deg, 0.0),  # type: ignore[arg-type]
            )
        )
    for name, there, label, effect in (
        ("presence", figures.presence_db, "Presence", "Lifts the upper middle; check the level"),
        ("foam", figures.foam_db, "Foam", "Softens blasts of air and takes some treble"),
    ):
        if there is not None:
            found.append(_switch(device.id, port, name, label, effect, now))
    return found


def _switch(
    owner: str, channel: str, name: str, label: str, effect: str, now: ChannelSettings
) -> Control:
    return Control(
        owner=owner,
        channel=channel,
        name=name,
        label=label,
        kind="switch",
        value=bool(getattr(now, name)),
        effect=effect,
    )


def _marked(
    controls: Iterable[Control], settings: Mapping[str, ChannelSettings]
) -> tuple[Control, ...]:
    """The same controls, those marked that are kept as they are."""
    kept = {(channel, name) for channel, now in settings.items() for name in now.kept}
    if not kept:
        return tuple(controls)
    return tuple(replace(c, is_kept=True) if (c.channel, c.name) in kept else c for c in controls)


def device_controls(device: Device) -> tuple[Control, ...]:
    """Everything that can be set on a device."""
    return _marked(_device_controls(device), device.settings)


def _device_controls(device: Device) -> tuple[Control, ...]:
    figures = device.figures
    now = device.settings.get("in", NOTHING_SET)
    if isinstance(figures, InterfaceFigures):
        found = [control for item in figures.inputs for control in _input_controls(device, item)]
        # A shared phantom switch is one control, however many inputs it feeds.
        return tuple({(c.channel, c.name): c for c in found}.values())
    if isinstance(figures, MixerFigures):
        top = figures.fader_max_db
        found = [c for item in figures.channels for c in _mixer_channel_controls(device, item, top)]
        main = device.settings.get("main", NOTHING_SET)
        for number in range(1, figures.groups + 1):
            now = device.settings.get(f"group.{number}", NOTHING_SET)
            said = f"Group {number} fader"
            found.append(_fader(device.id, f"group.{number}", said, now.fader_db, top))
        return (*found, _fader(device.id, "main", "Main fader", main.fader_db, top))
    if isinstance(figures, MicrophoneFigures):
        return tuple(_microphone_controls(device, figures, "capsule"))
    if isinstance(figures, PreampFigures | PedalFigures):
        if figures.gain_min_db == figures.gain_max_db:
            return ()
        low, high = figures.gain_min_db, figures.gain_max_db
        return (
            Control(
                owner=device.id,
                channel="in",
                name="gain_db",
                label="Gain",
                kind="range",
                unit="dB",
                is_dial=True,
                effect="Raises the signal before the next box",
                gain_step_db=figures.gain_step_db if isinstance(figures, PreampFigures) else 0.0,
                **_range(low, high, now.gain_db, low),  # type: ignore[arg-type]
            ),
        )
    if isinstance(figures, SplitterFigures):
        says = (
            "The desk on the direct output feeds the microphone; its own switch is there, not here"
        )
        return (_switch(device.id, "in", "fed_there", "Other desk gives phantom power", says, now),)
    assert isinstance(figures, PassiveDiFigures | ActiveDiFigures)
    found = _pad(device.id, "in", figures.pads_db, now.pad_db)
    if isinstance(figures, ActiveDiFigures) and figures.has_battery:
        says = "Runs the box without phantom power; take it out when the box is not used"
        found.append(_switch(device.id, "in", "battery", "Battery", says, now))
    return tuple(found)


def channel_controls(device: Device, port: str) -> dict[str, Control]:
    """What can be set on the channel behind one input port, by name; its phantom switch included."""
    figures = device.figures
    if isinstance(figures, InterfaceFigures):
        found = _input_controls(device, input_figures(device, port))
    elif isinstance(figures, MixerFigures):
        item = figures.channel_at(port)
        found = _mixer_channel_controls(device, item, figures.fader_max_db)
    else:
        return {control.name: control for control in device_controls(device)}
    return {control.name: control for control in _marked(found, device.settings)}


def source_controls(source: Source) -> tuple[Control, ...]:
    """What can be set on an instrument itself."""
    figures, now = source.figures, source.settings
    has_volume = (isinstance(figures, PickupFigures) and figures.volume_pot_ohm is not None) or (
        isinstance(figures, LineOutputFigures) and figures.has_volume
    )
    has_tone = (
        isinstance(figures, PickupFigures)
        and figures.tone_pot_ohm is not None
        and figures.tone_capacitor_f is not None
    )
    assert isinstance(figures, AcousticFigures | PickupFigures | PiezoFigures | LineOutputFigures)
    names = [("volume_position", "Instrument volume", "Full up gives the best distance from noise")]
    names += [("tone_position", "Instrument tone", "Turned down it takes away treble")]
    wanted = [has_volume, has_tone]
    found = [
        Control(
            owner=source.id,
            channel="out",
            name=name,
            label=label,
            kind="range",
            step=0.05,
            effect=effect,
            **_range(0.0, 1.0, getattr(now, name), 1.0),  # type: ignore[arg-type]
        )
        for (name, label, effect), there in zip(names, wanted, strict=True)
        if there
    ]
    if isinstance(figures, LineOutputFigures) and figures.drives_loudspeaker:
        found.append(
            Control(
                owner=source.id,
                channel="out",
                name="load",
                label="Loudspeaker connected",
                kind="switch",
                value=now.load is not False,
                effect="A valve amplifier can be destroyed within seconds without its load",
            )
        )
    return _marked(found, {"out": now})
