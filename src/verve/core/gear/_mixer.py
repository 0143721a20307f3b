"""A small mixer: channels that meet on buses."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Final, Literal

from pydantic import Field as Limited

from verve.core.gear._fields import (
    GAIN_SAYS,
    NAME,
    OUTPUT_PHANTOM,
    level_field,
    noise_field,
    ohms_field,
)
from verve.core.kind import (
    FADER_MIN_DB,
    NOTHING_SET,
    Control,
    DeviceFigures,
    Field,
    Frozen,
    Level,
    Mode,
    NotNegative,
    Passage,
    PhantomNeed,
    Plug,
    Positive,
    Reader,
    Row,
    Settings,
    SheetForm,
    control_value,
    fader_control,
    gain_control,
    low_cut_control,
    numbers_of,
    phantom_channel,
    phantom_control,
    range_control,
)
from verve.core.words import Fact, ohm_text

if TYPE_CHECKING:
    from verve.core.stages import Stage

_BUS_INPUT_OHM = 10_000.0
"""Typical resistance a channel's fader drives inside a mixer."""
_HARD_OVER = 0.995
"""A pan this far over is meant as hard over; what it leaves on the other side is inaudible."""
LEFT, RIGHT = "main.left", "main.right"


class MixerChannelFigures(Frozen):
    """One channel of a mixer; with `is_microphone` it has a microphone preamp, before which a cable with XLR
    comes in. Channels with one `phantom_switch` get phantom power together. `ein_least_dbu` is the input noise
    at its lowest trim, where it is known.
    """

    name: str
    input_impedance_ohm: Positive
    trim_min_db: float
    trim_max_db: float
    ein_dbu: float | None = None
    ein_least_dbu: float | None = None
    ein_source_ohm: NotNegative = 150.0
    max_input_dbu: float | None = None
    high_pass_hz: Positive | None = None
    is_microphone: bool = False
    phantom_switch: str | None = None


def pan_gain_db(pan: float, side: str) -> float:
    """Gain of a constant-power pan law to one side; the centre is 3.01 dB down on both.

    range: pan −1 (left) to 1 (right)
    source: derivation, cos and sin of a quarter turn
    """
    import math

    angle = (pan + 1.0) * math.pi / 4.0
    kept = math.cos(angle) if side == "left" else math.sin(angle)
    return 20.0 * math.log10(kept) if kept > 1e-3 else FADER_MIN_DB


class MixerFigures(DeviceFigures):
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
    groups: Annotated[int, Limited(ge=0, le=8)] = 0
    phantom_budget_ma: Positive | None = None

    title = "Mixer"
    job = "mixer"
    group = "mixer"
    is_furniture = True
    mains_rank = 10
    search_words = ("desk", "console", "mixing desk")

    # ── ports ─────────────────────────────────────────────────────────────────────────────────
    def channel_at(self, port: str) -> MixerChannelFigures:
        """The channel behind a port, `in.` and its name.

        raises: KeyError if there is none
        """
        name = port.removeprefix("in.")
        for item in self.channels:
            if item.name == name:
                return item
        raise KeyError(port)

    def input_ports(self) -> tuple[str, ...]:
        return tuple(f"in.{item.name}" for item in self.channels)

    def output_ports(self) -> tuple[str, ...]:
        own = tuple(f"direct.{c.name}" for c in self.channels) if self.direct_outs else ()
        return (LEFT, RIGHT, *own, *(f"group.{n}" for n in range(1, self.groups + 1)))

    def outputs_reached(self, in_port: str, settings: Settings) -> tuple[str, ...]:
        # What is plugged into a channel's own output is meant for that channel alone.
        own = (f"direct.{in_port.removeprefix('in.')}",) if self.direct_outs else ()
        return (*own, *self._buses(in_port, settings))

    def _buses(self, in_port: str, settings: Settings) -> tuple[str, ...]:
        group = self._group_of(in_port, settings)
        if group is not None:
            return (f"group.{group}",)
        pan = settings.get(in_port, NOTHING_SET).pan or 0.0
        if pan <= -_HARD_OVER:
            return (LEFT,)
        if pan >= _HARD_OVER:
            return (RIGHT,)
        return (LEFT, RIGHT) if pan <= 0.0 else (RIGHT, LEFT)

    def _group_of(self, port: str, settings: Settings) -> str | None:
        """The group a channel is sent to; None for the main bus, or where it has no such group."""
        chosen = settings.get(port, NOTHING_SET).group
        return None if chosen is None or int(chosen) > self.groups else chosen

    def lines_kept_apart(self) -> int:
        return len(self.channels) if self.direct_outs else 2

    def port_name(self, port: str) -> str:
        return f"channel {port.removeprefix('in.')}"

    def output_plug(self) -> Plug | None:
        return "jack_6"

    def plug_at(self, port: str, mode: Mode | None = None) -> Plug | None:
        return "xlr" if self.channel_at(port).is_microphone else "jack_6"

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return ("microphone", "line") if self.channel_at(port).is_microphone else ("line",)

    def output_level(self) -> Level:
        return "line"

    # ── what can be set ───────────────────────────────────────────────────────────────────────
    def all_controls(self, owner: str, settings: Settings) -> list[Control]:
        found = [
            c for port in self.input_ports() for c in self.port_controls(owner, port, settings)
        ]
        for port in (*(f"group.{n}" for n in range(1, self.groups + 1)), "main"):
            found += self._bus_faders(owner, port, settings)
        return found

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        item, now = self.channel_at(port), settings.get(port, NOTHING_SET)
        found = [
            gain_control(
                owner, port, "Trim",
                "The channel's own gain, first in the mixer; this one does the work",
                low_db=item.trim_min_db, high_db=item.trim_max_db, now_db=now.gain_db,
            ),
            fader_control(owner, port, "Fader", now.fader_db, self.fader_max_db),
            range_control(
                owner, port, "pan", "Pan",
                "−1 sends it to the left output alone, 1 to the right alone",
                low=-1.0, high=1.0, now=now.pan, default=0.0, step=0.1,
            ),
        ]  # fmt: skip
        if item.high_pass_hz is not None:
            found.append(low_cut_control(owner, port, item.high_pass_hz, now))
        if item.phantom_switch is not None:
            is_on = self.has_phantom_on(port, settings)
            found.append(phantom_control(owner, item.phantom_switch, is_on=is_on))
        if self.groups:
            names = tuple(str(n) for n in range(1, self.groups + 1))
            found.append(
                Control(
                    owner=owner,
                    channel=port,
                    name="group",
                    label="Sent to",
                    kind="choice",
                    choices=(None, *names),
                    value=self._group_of(port, settings),
                    effect="The main bus, or a group with a fader and an output of its own",
                )
            )
        return found

    def _bus_faders(self, owner: str, channel: str, settings: Settings) -> list[Control]:
        label = "Main fader"
        if channel.startswith("group."):
            label = f"Group {channel.removeprefix('group.')} fader"
        now = settings.get(channel, NOTHING_SET).fader_db
        return [fader_control(owner, channel, label, now, self.fader_max_db)]

    def shared_controls(
        self, owner: str, out_port: str | None, settings: Settings
    ) -> tuple[Control, ...]:
        if out_port is None or out_port.startswith("direct."):
            return ()
        return tuple(self._bus_faders(owner, self._bus_channel(out_port), settings))

    @staticmethod
    def _bus_channel(out_port: str) -> str:
        return out_port if out_port.startswith("group.") else "main"

    def channels_passed(self, in_port: str, out_port: str | None) -> tuple[str, ...]:
        switch = self.phantom_switch(in_port)
        own = (in_port, *(() if switch is None else (phantom_channel(switch),)))
        if out_port is None or out_port.startswith("direct."):
            return own
        return (*own, self._bus_channel(out_port))

    def channels_set(self) -> tuple[str, ...]:
        groups = (f"group.{n}" for n in range(1, self.groups + 1))
        return ("main", *groups, *super().channels_set())

    # ── what it does with a signal ────────────────────────────────────────────────────────────
    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Amplifier, noise_behind_gain_dbu

        item, controls = self.channel_at(passage.in_port), passage.controls
        out = passage.out_port or ""
        cut = controls.get("high_pass")
        channel = Amplifier(
            input_impedance_ohm=item.input_impedance_ohm,
            gain_db=control_value(controls, "gain_db", item.trim_min_db),
            ein_dbu=item.ein_dbu,
            ein_source_ohm=item.ein_source_ohm,
            max_input_dbu=item.max_input_dbu,
            max_output_dbu=self.max_output_dbu,
            high_pass_hz=item.high_pass_hz if cut is not None and cut.value else None,
        )
        behind_dbu = noise_behind_gain_dbu(item.ein_dbu, item.ein_least_dbu, item.trim_min_db)
        if out.startswith("direct."):
            own = Amplifier(
                input_impedance_ohm=_BUS_INPUT_OHM,
                ein_dbu=behind_dbu,
                ein_source_ohm=0.0,
                output_impedance_ohm=self.output_impedance_ohm,
                max_output_dbu=self.max_output_dbu,
            )
            return [("channel", channel), ("direct", own)]
        # A group is one output: pan has no say in it, its own fader takes the place of the main one.
        across_db = 0.0
        if not out.startswith("group."):
            side = "right" if out == RIGHT else "left"
            across_db = pan_gain_db(control_value(controls, "pan", 0.0), side)
        main = passage.settings.get(self._bus_channel(out), NOTHING_SET).fader_db or 0.0
        fader_db = control_value(controls, "fader_db", 0.0)
        fader = Amplifier(
            input_impedance_ohm=_BUS_INPUT_OHM,
            gain_db=fader_db + across_db,
            ein_dbu=behind_dbu,
            ein_source_ohm=0.0,
            max_output_dbu=self.max_output_dbu,
        )
        bus = Amplifier(
            input_impedance_ohm=_BUS_INPUT_OHM,
            gain_db=main,
            output_impedance_ohm=self.output_impedance_ohm,
            ein_dbu=self.bus_ein_dbu,
            max_output_dbu=self.max_output_dbu,
        )
        return [("channel", channel), ("fader", fader), ("bus", bus)]

    def place_of(self, role: str, passage: Passage) -> str:
        if role == "bus":
            return f"{passage.out_port}/bus"
        return f"{passage.in_port}/{role}" + (f"/{passage.out_port}" if role == "fader" else "")

    def meter_zero_at(self, out_port: str | None) -> float | None:
        return self.meter_zero_dbu if out_port in {LEFT, RIGHT} else None

    def sends(self, passage: Passage) -> tuple[str, ...]:
        controls = passage.controls
        if control_value(controls, "fader_db", 0.0) <= FADER_MIN_DB:
            return ()
        pan = control_value(controls, "pan", 0.0)
        return tuple(
            port
            for port in self._buses(passage.in_port, passage.settings)
            if port.startswith("group.")
            or pan_gain_db(pan, "right" if port == RIGHT else "left") > FADER_MIN_DB
        )

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def phantom_switch(self, port: str) -> str | None:
        return self.channel_at(port).phantom_switch

    def phantom_supply_ma(self) -> float | None:
        return self.phantom_budget_ma

    # ── what people read ──────────────────────────────────────────────────────────────────────
    def says(self, passage: Passage) -> str:
        to = (passage.out_port or "nowhere").replace(".", " ")
        return f"channel {passage.in_port.removeprefix('in.')} to {to}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        item = self.channel_at(passage.in_port)
        return (
            self.fact(
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(item.input_impedance_ohm),
                "what its channel loads the line with",
            ),
            *self.ein_facts("ein_dbu", item.ein_dbu, item.ein_source_ohm),
            *self.limit_facts("max_input_dbu", "Maximum input level", item.max_input_dbu),
            *self.limit_facts("max_output_dbu", "Maximum output level", self.max_output_dbu),
        )

    def span_title(self, passage: Passage, role: str, name: str) -> str:
        if role in {"fader", "bus"}:
            return "Mixer main"
        return f"Mixer {passage.in_port.removeprefix('in.')}"

    def marks(self, role: str, stage: Stage) -> tuple[tuple[str, float], ...]:
        return (("its meter at 0", self.meter_zero_dbu),) if role == "bus" else ()

    def stage_name(self, passage: Passage, role: str, name: str) -> str:
        return f"{name}, {role}"


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    Field(key="channels", label="Channels", example="1-4", says="their numbers", is_needed=True),
    Field(key="gain", label="Trim", example="−10 to 20 dB", says=GAIN_SAYS, is_needed=True),
    ohms_field("impedance", "Input impedance", "10 kΩ"),
    noise_field("−98 dBu"),
    level_field("max_input", "Maximum input level", "+22 dBu"),
    Field(
        key="bus_noise",
        label="Noise of the mix",
        example="−92 dBu",
        says="at the main output, faders closed",
    ),
    ohms_field("output_impedance", "Output impedance", "120 Ω"),
    level_field("max_output", "Maximum output level", "+21 dBu"),
    level_field("meter_zero", "Its meter shows 0 at", "+4 dBu"),
    OUTPUT_PHANTOM,
)


def _make(reader: Reader) -> MixerFigures | None:
    from verve.core.quantities import level_dbu, ohms, output_phantom, read_gain, read_noise

    numbers = reader.take("channels", numbers_of)
    if numbers is not None:
        reader.rows["channels"] = Row(said=f"{len(numbers)} channels")
        if not numbers:
            reader.refuse("channels", "a mixer needs a channel")
    gain = read_gain(reader, "gain", "trim_db", lowest_db=None, because="from 0 dB")
    impedance = reader.read(
        "impedance",
        ohms,
        "input_impedance_ohm",
        otherwise=10_000.0,
        because="10 kΩ, typical",
        above=0.0,
    )
    ein, source_ohm = read_noise(
        reader, "noise", "ein_dbu", otherwise=-98.0, because="−98 dBu, typical"
    )
    ceiling = reader.read(
        "max_input", level_dbu, "max_input_dbu", otherwise=22.0, because="+22 dBu, typical"
    )
    bus, _ = read_noise(
        reader, "bus_noise", "bus_ein_dbu", otherwise=-92.0, because="−92 dBu, typical"
    )
    leaves = reader.read(
        "output_impedance",
        ohms,
        "output_impedance_ohm",
        otherwise=120.0,
        because="120 Ω, typical",
        above=0.0,
    )
    top = reader.read(
        "max_output", level_dbu, "max_output_dbu", otherwise=20.0, because="+20 dBu, typical"
    )
    zero = reader.read(
        "meter_zero", level_dbu, "meter_zero_dbu", otherwise=4.0, because="+4 dBu, typical"
    )
    phantom = output_phantom(reader)
    if not numbers or gain is None or None in (impedance, leaves, top, zero):
        return None
    assert impedance is not None
    assert leaves is not None
    assert top is not None
    assert zero is not None
    return MixerFigures(
        channels=tuple(
            MixerChannelFigures(
                name=str(item),
                input_impedance_ohm=impedance,
                trim_min_db=gain[0],
                trim_max_db=gain[1],
                ein_dbu=ein,
                ein_source_ohm=source_ohm,
                max_input_dbu=ceiling,
            )
            for item in numbers
        ),
        bus_ein_dbu=bus,
        output_impedance_ohm=leaves,
        max_output_dbu=top,
        meter_zero_dbu=zero,
        phantom=phantom,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _doubts(reader: Reader, figures: MixerFigures) -> None:
    from verve.core.quantities import check_noise

    for item in figures.channels:
        check_noise(reader, "noise", item.ein_dbu, item.ein_source_ohm)
    if not 6.0 <= figures.max_output_dbu <= 30.0:
        reader.doubt("max_output", "mixers give at most +10 to +28 dBu")


MixerFigures.sheet = SheetForm(
    kind="mixer", title="Mixer", fields=_FIELDS, make=_make, doubts=_doubts
)
