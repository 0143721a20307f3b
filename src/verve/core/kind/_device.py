"""What every kind of device is asked. A kind of gear is one module in `verve.core.gear`; the rest asks it here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar, Literal, Protocol, TypeGuard

from pydantic import GetCoreSchemaHandler, model_validator
from pydantic_core import CoreSchema, core_schema

from verve.core.kind._base import (
    NOTHING_SET,
    Figures,
    Frozen,
    HostPlug,
    Mode,
    NotNegative,
    Pattern,
    PhantomNeed,
    Plug,
    Positive,
    Settings,
    check_dial,
)
from verve.core.kind._control import Control, marked, phantom_channel
from verve.core.kind._sheet import SheetForm
from verve.core.words import Fact, Origin, level_text

if TYPE_CHECKING:
    from verve.core.stages import Stage

Use = Literal[
    "microphone", "inline_preamp", "preamp", "di_box", "effect", "splitter", "transformer", "mixer",
    "recorder", "listening",
]  # fmt: skip
"""What a device is good for on the way of a signal."""
Level = Literal["microphone", "instrument", "line", "loudspeaker"]

PLUG_WORDS: Mapping[Plug, str] = {
    "xlr": "XLR",
    "jack_6": "6.3 mm jack",
    "jack_3": "3.5 mm jack",
    "phono": "phono",
}
NEED_WORDS: Mapping[PhantomNeed, str] = {
    "needs": "needs phantom power",
    "tolerates": "phantom power not needed, harmless",
    "never": "must not get phantom power",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Port:
    """One socket of a box: what fits, whether it is balanced, which levels it is for, which way it goes."""

    name: str
    is_input: bool
    plugs: tuple[Plug, ...]
    is_balanced: bool
    levels: tuple[Level, ...]

    def words(self) -> str:
        """The socket as one reads it off the box: "XLR or 6.3 mm jack; microphone, line level"."""
        fits = " or ".join(PLUG_WORDS[plug] for plug in self.plugs) or "sound"
        kind = "balanced" if self.is_balanced else "unbalanced"
        return f"{fits}, {kind}; {', '.join(self.levels)} level"


@dataclass(frozen=True, slots=True, kw_only=True)
class PhantomDraw:
    """What phantom power that arrives at an output does there, and what is drawn from it."""

    need: PhantomNeed
    current_ma: float = 0.0
    least_v: float | None = None


class Passage(Protocol):
    """How a signal passes a device: the ports, what is set there, and the controls of that channel."""

    @property
    def owner(self) -> str:
        """Id of the device."""

    @property
    def in_port(self) -> str:
        """Where the signal comes in."""

    @property
    def out_port(self) -> str | None:
        """Where it goes out; None where it ends."""

    @property
    def settings(self) -> Settings:
        """What is set on the channels it passes."""

    @property
    def controls(self) -> Mapping[str, Control]:
        """The controls of its channel, by name."""


class Capsule(Protocol):
    """A microphone as the air meets it, a device of its own or built into one.

    Responses are by octave, 31.5 Hz to 16 kHz; None for what it does not have.
    """

    @property
    def principle(self) -> str:
        """How it turns sound into voltage."""

    @property
    def sensitivity_mv_per_pa(self) -> float:
        """Open circuit."""

    @property
    def pattern(self) -> Pattern | None:
        """How it hears around itself."""

    @property
    def addressed_from(self) -> str:
        """Which side is live, "end" or "side"."""

    @property
    def response_db(self) -> tuple[float, ...]:
        """Its own response on its axis."""

    @property
    def presence_db(self) -> tuple[float, ...] | None:
        """What its presence switch adds."""

    @property
    def foam_db(self) -> tuple[float, ...] | None:
        """What a foam over it takes."""

    @property
    def max_spl_db(self) -> float | None:
        """The loudest sound it bears without its pad."""

    def origin_of(self, figure: str) -> Origin:
        """Where one figure comes from."""

    @property
    def wordings(self) -> Mapping[str, str]:
        """Figures as the data sheet words them."""


class ModeFigures(Frozen):
    """One way into an input: its impedance, gain range, noise and ceiling at lowest gain.

    `ein_least_dbu` is the input noise at least gain, where it is known: it is higher than at most.
    `gain_step_db` is 0 for a knob without steps. `dial` is a measured table of its knob:
    (hour, gain_db), hours rising from 7 towards 17.
    """

    input_impedance_ohm: Positive
    input_capacitance_f: NotNegative = 0.0
    gain_min_db: float
    gain_max_db: float
    ein_dbu: float | None = None
    ein_least_dbu: float | None = None
    ein_source_ohm: NotNegative = 150.0
    current_noise_a_per_rthz: NotNegative = 0.0
    max_input_dbu: float | None = None
    gain_step_db: NotNegative = 0.0
    dial: tuple[tuple[float, float], ...] | None = None

    @model_validator(mode="after")
    def _dial_rises(self) -> ModeFigures:
        if self.dial is not None:
            check_dial(self.dial)
        return self


class DeviceFigures(Figures):
    """A kind of device by its data-sheet figures, and everything the rest of Verve asks of a kind.

    The defaults are those of a box with one input and one output that needs nothing and gives nothing.
    """

    kind: str

    title: ClassVar[str]
    """What the kind is called: "Active DI box"."""
    job: ClassVar[Use]
    """What it is good for; a kind of which some copies are good for something else overrides `use`."""
    group: ClassVar[str]
    """Kinds of one group can be replaced by each other."""
    is_between: ClassVar[bool] = False
    """Whether it can be put into the middle of a cable."""
    isolates: ClassVar[bool] = False
    """Whether a transformer in it parts the earths of what it joins."""
    is_furniture: ClassVar[bool] = False
    """Whether it stays in the session when the last signal through it is removed."""
    mains_rank: ClassVar[int | None] = None
    """Its turn when things are switched on, the sources first; None for what has no switch of its own."""
    sheet: ClassVar[SheetForm[Any] | None] = None
    search_words: ClassVar[tuple[str, ...]] = ()
    """What people call it when they look for it in the catalogue."""
    kinds: ClassVar[dict[str, type[DeviceFigures]]] = {}
    """Every kind by its name; a module of `verve.core.gear` that defines one puts it in."""

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        # What several kinds have in common is a class without a kind of its own.
        if isinstance(kind := cls.model_fields["kind"].default, str):
            DeviceFigures.kinds[kind] = cls

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """A field of this type takes any registered kind, told apart by its `kind`."""
        if cls is not DeviceFigures:
            return handler(source)
        choices = {name: handler.generate_schema(one) for name, one in DeviceFigures.kinds.items()}
        return core_schema.tagged_union_schema(choices, discriminator="kind")

    # ── ports ─────────────────────────────────────────────────────────────────────────────────
    def input_ports(self) -> tuple[str, ...]:
        """Names of the input ports."""
        return ("in",)

    def output_ports(self) -> tuple[str, ...]:
        """Names of the output ports; what goes to the computer needs none."""
        return ("out",)

    def outputs_reached(self, in_port: str, settings: Settings) -> tuple[str, ...]:
        """Outputs at which a signal on an input arrives, the louder first."""
        return self.output_ports()

    def port_name(self, port: str) -> str:
        """A port as one reads it off the box, "input 3"; empty where there is but one."""
        return ""

    def output_plug(self) -> Plug | None:
        """What an output takes; None where there is none."""
        return "xlr"

    def is_fragile(self) -> bool:
        """Whether a breath or a slip can break it."""
        return False

    def rank_at_mains(self) -> int | None:
        """Its place among what is switched on at the mains, the first lowest; None for what has no plug there."""
        return self.mains_rank

    def input_plug(self, mode: Mode | None = None) -> Plug | None:
        """What an input takes, in a mode; None where sound comes in."""
        return "jack_6"

    def plug_at(self, port: str, mode: Mode | None = None) -> Plug | None:
        """The same at one of its inputs, for a kind whose inputs are not alike."""
        return self.input_plug(mode)

    def input_levels(self, port: str) -> tuple[Level, ...]:
        """Levels an input is made for."""
        return ("instrument", "line")

    def output_level(self) -> Level:
        """The level its outputs usually give, as printed on the box."""
        return "microphone"

    def has_balanced_outputs(self) -> bool:
        """Whether its outputs are balanced."""
        return True

    def ports(self) -> tuple[Port, ...]:
        """Every socket, inputs first; sound and the computer have none."""
        found = []
        for name in self.input_ports():
            levels = self.input_levels(name)
            modes = tuple(self.modes(name)) or (None,)
            plugs = dict.fromkeys(
                plug for mode in modes if (plug := self.plug_at(name, mode)) is not None
            )
            if plugs:
                balanced = bool({"microphone", "line"} & set(levels))
                found.append(
                    Port(
                        name=name,
                        is_input=True,
                        plugs=tuple(plugs),
                        is_balanced=balanced,
                        levels=levels,
                    )
                )
        plug = self.output_plug()
        for name in self.output_ports() if plug is not None else ():
            assert plug is not None
            found.append(
                Port(
                    name=name,
                    is_input=False,
                    plugs=(plug,),
                    is_balanced=self.has_balanced_outputs(),
                    levels=(self.output_level(),),
                )
            )
        return tuple(found)

    # ── what it does with a signal ────────────────────────────────────────────────────────────
    def capsule(self, port: str) -> Capsule | None:
        """The microphone that sound meets at a port; None where a plug goes in."""
        return None

    @property
    def use(self) -> Use:
        """What this device is good for on the way of a signal."""
        return self.job

    @property
    def records(self) -> bool:
        """Whether a signal ends here, as numbers."""
        return self.use == "recorder"

    @property
    def mixes(self) -> bool:
        """Whether channels of it meet on a bus."""
        return self.use == "mixer"

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        """The stages a signal passes here, each with its role."""
        raise NotImplementedError(f"{self.kind}: what a signal passes is not said")

    def place_of(self, role: str, passage: Passage) -> str:
        """Which of its places a stage is: two signals with one place there meet."""
        return f"{passage.in_port}/{role}"

    # ── what can be set ───────────────────────────────────────────────────────────────────────
    def all_controls(self, owner: str, settings: Settings) -> list[Control]:
        """Everything that can be set on it."""
        found = [
            c for port in self.input_ports() for c in self.port_controls(owner, port, settings)
        ]
        # A switch that several inputs share is one control.
        return list({(c.channel, c.name): c for c in found}.values())

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        """What can be set on the channel behind an input, its phantom switch included."""
        return []

    def controls(self, owner: str, settings: Settings) -> tuple[Control, ...]:
        """Everything that can be set on it, what is locked marked so."""
        return marked(self.all_controls(owner, settings), settings)

    def passed_controls(self, owner: str, port: str, settings: Settings) -> Mapping[str, Control]:
        """The controls of the channel behind an input, by name."""
        return {c.name: c for c in marked(self.port_controls(owner, port, settings), settings)}

    def shared_controls(
        self,
        owner: str,
        out_port: str | None,
        settings: Settings,
    ) -> tuple[Control, ...]:
        """Controls behind the channel that a signal passes too: a group's fader, the main one."""
        return ()

    def channels_passed(self, in_port: str, out_port: str | None) -> tuple[str, ...]:
        """Channels whose settings say what a signal meets from one port to another."""
        switch = self.phantom_switch(in_port)
        found = [in_port, *(() if out_port is None else (out_port,))]
        return (*found, *(() if switch is None else (phantom_channel(switch),)))

    def channels_set(self) -> tuple[str, ...]:
        """Channels that are not ports and can be set: a main fader, phantom switches."""
        switches = {
            s for port in self.input_ports() if (s := self.phantom_switch(port)) is not None
        }
        return tuple(phantom_channel(switch) for switch in sorted(switches))

    def turned_together(self, channel: str, name: str) -> tuple[str, ...]:
        """Channels that one knob or switch sets: that one, and those it shares it with."""
        return (channel,)

    def pads_at(self, port: str) -> tuple[float, ...]:
        """Pads on the channel of a port."""
        return ()

    # ── inputs with modes ─────────────────────────────────────────────────────────────────────
    def modes(self, port: str) -> Mapping[Mode, ModeFigures]:
        """The ways an input can be switched; empty for what has no such switch."""
        return {}

    def mode(self, port: str, settings: Settings) -> Mode | None:
        """Which way an input is switched; the first it has unless set. None without modes."""
        modes = self.modes(port)
        chosen = settings.get(port, NOTHING_SET).mode
        if chosen is not None and chosen in modes:
            return chosen
        return next(iter(modes), None)

    def alike_key(self, port: str) -> str:
        """Equal for inputs that differ in nothing but their name and phantom switch."""
        return port

    def can_be_driven(self) -> bool:
        """Whether people drive it into distortion on purpose."""
        return False

    def is_driven(self, passage: Passage) -> bool:
        """Whether its distortion is no fault: what leaves it is held at its ceiling, and counts as that."""
        return False

    # ── phantom power ─────────────────────────────────────────────────────────────────────────
    def at_phantom(self, passage: Passage) -> PhantomDraw | None:
        """What phantom power does to it that arrives at its output; None where it has none."""
        return PhantomDraw(need=self.phantom_need())

    def phantom_need(self) -> PhantomNeed:
        """What phantom power does to it, as its data sheet says."""
        return "tolerates"

    def runs_without_phantom(self) -> bool:
        """Whether it has another supply, such as a battery."""
        return self.phantom_need() != "needs"

    def drawn_ma(self) -> float:
        """What it draws from phantom power that it needs."""
        return 0.0

    def lets_phantom_through(self, passage: Passage) -> bool:
        """Whether phantom power goes on from its output to its input."""
        return False

    def is_fed_elsewhere(self, passage: Passage) -> bool:
        """Whether what stands before it gets its phantom power from somebody else's desk."""
        return False

    def splits_off(self, passage: Passage) -> bool:
        """Whether this signal is a branch that its own input's phantom power does not go beyond."""
        return False

    def bears_loudspeaker_level(self, passage: Passage) -> bool:
        """Whether a loudspeaker output may be plugged in, as it is switched."""
        return False

    def phantom_switch(self, port: str) -> str | None:
        """Name of the switch that gives phantom power at an input; None where none does."""
        return None

    def has_phantom_on(self, port: str, settings: Settings) -> bool:
        """Whether the phantom switch of an input is on."""
        switch = self.phantom_switch(port)
        if switch is None:
            return False
        return bool(settings.get(phantom_channel(switch), NOTHING_SET).phantom)

    def phantom_supply_ma(self) -> float | None:
        """What its phantom supply gives in all; None where nothing is known."""
        return None

    # ── the computer ──────────────────────────────────────────────────────────────────────────
    def computer_plug(self) -> HostPlug | None:
        """What its cable ends in at the computer; None for what has none."""
        return None

    def is_powered_by_computer(self) -> bool:
        """Whether the computer feeds it."""
        return False

    def headphone_sockets(self) -> int:
        """How many headphones can be plugged into it."""
        return 0

    # ── what the rest of a line asks ─────────────────────────────────────────────────────────
    def lines_kept_apart(self) -> int:
        """How many signals can pass it without being mixed."""
        return 1

    def meter_zero_at(self, out_port: str | None) -> float | None:
        """The level (dBu) at one of its outputs at which its own meter shows 0; None without one."""
        return None

    def sends(self, passage: Passage) -> tuple[str, ...]:
        """Outputs on which the channel that a signal passes is heard, as its fader and pan are set."""
        return self.output_ports()

    def lamps(self, peak_dbfs: float) -> Fact | None:
        """What its lamps show at a recorded peak; None for what has none."""
        return None

    def controls_at(self, role: str, controls: Mapping[str, Control]) -> Mapping[str, Control]:
        """Of a channel's controls, those that act in one of its stages."""
        return {} if role in {"fader", "bus"} else controls

    # ── what people read ──────────────────────────────────────────────────────────────────────
    def says(self, passage: Passage) -> str:
        """What it is and does to this signal, in a line."""
        raise NotImplementedError(f"{self.kind}: what it is is not said")

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        """Every figure of it that counts where a signal passes it."""
        return ()

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        """A word or two beside its name in the corridor."""
        return ()

    def span_title(self, passage: Passage, role: str, name: str) -> str:
        """What one of its stages is called in the corridor; `name` is the device's."""
        return name

    def marks(self, role: str, stage: Stage) -> tuple[tuple[str, float], ...]:
        """Levels (dBu) at one of its stages at which something shows: a lamp, a meter."""
        return ()

    def stage_name(self, passage: Passage, role: str, name: str) -> str:
        """One of its stages in a sentence: "Mixer, channel"; `name` is the device's."""
        label = self.port_name(passage.in_port)
        return f"{name}, {label}" if label and role == "input" else name

    def settings_for(
        self,
        port: str,
        *,
        distance_m: float | None,
        use_battery: bool = False,
    ) -> dict[str, Any]:
        """What is set at a port when it is put into a session: where its microphone stands."""
        if self.capsule(port) is not None and distance_m is not None:
            return {"distance_m": distance_m}
        return {}

    # ── one figure as a fact ──────────────────────────────────────────────────────────────────
    def fact(self, figure: str, label: str, text: str, how: str = "") -> Fact:
        """One figure with its own origin and wording."""
        return figure_fact(self, figure, label, text, how)

    def ein_facts(
        self, figure: str, ein_dbu: float | None, source_ohm: float, *, at_least: bool = False
    ) -> tuple[Fact, ...]:
        """Its input noise as a fact; none where none is known."""
        if ein_dbu is None:
            return ()
        how = f"its own hiss as if at its input, with {source_ohm:g} Ω there, 20 Hz to 20 kHz"
        label = "Input noise, least gain" if at_least else "Input noise"
        return (self.fact(figure, label, level_text(ein_dbu, "dBu"), how),)

    def limit_facts(self, figure: str, label: str, value_dbu: float | None) -> tuple[Fact, ...]:
        """One of its ceilings as a fact; none where it has none."""
        if value_dbu is None:
            return ()
        text = level_text(value_dbu, "dBu")
        return (self.fact(figure, label, text, "peaks above it are cut off"),)


def wording(figures: Figures | Capsule, figure: str) -> str:
    """What the data sheet says of a figure, as the end of a sentence; empty where nothing is kept."""
    said = figures.wordings.get(figure)
    return f"; the data sheet says “{said}”" if said else ""


def figure_fact(figures: Figures, figure: str, label: str, text: str, how: str = "") -> Fact:
    """One figure of a sheet with its own origin and wording."""
    return Fact(
        label=label,
        text=text,
        origin=figures.origin_of(figure),
        how=(how + wording(figures, figure)).removeprefix("; "),
    )


def is_device_figures(figures: object) -> TypeGuard[DeviceFigures]:
    """Whether figures are a device's, not a source's."""
    return isinstance(figures, DeviceFigures)
