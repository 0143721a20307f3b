"""An interface: inputs with their preamps, and the converter behind them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Final, Literal

from pydantic import Field as Limited
from pydantic import model_validator

from verve.core.errors import InputError
from verve.core.gear._microphone import (
    PRINCIPLE_WORDS,
    MicrophoneFigures,
    capsule_controls,
    capsule_notes,
)
from verve.core.kind import (
    NOTHING_SET,
    Capsule,
    Control,
    DeviceFigures,
    Frozen,
    FrozenMap,
    HostPlug,
    Level,
    Mode,
    ModeFigures,
    Passage,
    PhantomDraw,
    PhantomNeed,
    Plug,
    Positive,
    Settings,
    control_value,
    gain_control,
    low_cut_control,
    pad_controls,
    phantom_control,
)
from verve.core.words import Fact, level_text, number, ohm_text, range_text

if TYPE_CHECKING:
    from verve.core.stages import Stage

Extra = Literal["effect_recorded", "tone_extra"]
"""Switches that change what is recorded for good: an effect of the interface's own, a lift of the treble."""
_EXTRAS: Final[Mapping[Extra, tuple[str, str]]] = {
    "effect_recorded": (
        "Effect recorded",
        "Puts the interface’s effect into the recording; off: it is only heard",
    ),
    "tone_extra": (
        "Tone extra",
        "Lifts the treble for good; off for recording, since software can do it later",
    ),
}
MODES: Final[tuple[Mode, ...]] = ("microphone", "line", "instrument")
_OF_THE_CAPSULE = frozenset({"distance_m", "angle_deg", "presence", "foam"})


class InputFigures(Frozen):
    """One input of an interface. Inputs with one `phantom_switch` or one `pad_switch` are switched
    together, those with one `gain_knob` are turned together.

    With a `capsule` it is a microphone that is its own recorder; pads and low cut are the input's.
    """

    name: str
    modes: Annotated[FrozenMap[Mode, ModeFigures], Limited(min_length=1)]
    pads_db: tuple[Positive, ...] = ()
    high_pass_hz: Positive | None = None
    phantom_switch: str | None = None
    gain_knob: str | None = None
    pad_switch: str | None = None
    capsule: MicrophoneFigures | None = None
    extras: tuple[Extra, ...] = ()

    @model_validator(mode="after")
    def _capsule_has_no_switches_of_its_own(self) -> InputFigures:
        if self.capsule is not None and (self.capsule.pads_db or self.capsule.high_pass_hz):
            raise InputError("capsule", "must leave pads_db and high_pass_hz to its input")
        return self


class InterfaceFigures(DeviceFigures):
    """An interface: inputs with their preamps, and the converter behind them."""

    kind: Literal["interface"] = "interface"
    inputs: tuple[InputFigures, ...]
    full_scale_dbu: float
    dynamic_range_dba: float | None = None
    phantom_budget_ma: Positive | None = None
    host_plug: HostPlug = "usb_c"
    is_bus_powered: bool = False
    headphone_feeds: Annotated[int, Limited(ge=0, le=16)] = 1
    signal_lamp_dbfs: float = -40.0
    clip_lamp_dbfs: float = -1.0

    title = "Interface"
    job = "recorder"
    group = "interface"
    is_furniture = True
    mains_rank = 20
    search_words = ("audio interface", "sound card", "converter", "recorder", "usb")

    # ── ports ─────────────────────────────────────────────────────────────────────────────────
    def input_at(self, port: str) -> InputFigures:
        """The input behind a port, `in.` and its name.

        raises: KeyError if there is none
        """
        name = port.removeprefix("in.")
        for item in self.inputs:
            if item.name == name:
                return item
        raise KeyError(port)

    def input_ports(self) -> tuple[str, ...]:
        return tuple(f"in.{item.name}" for item in self.inputs)

    def output_ports(self) -> tuple[str, ...]:
        return ()

    def port_name(self, port: str) -> str:
        return f"input {port.removeprefix('in.')}"

    def output_plug(self) -> Plug | None:
        return None

    def input_plug(self, mode: Mode | None = None) -> Plug | None:
        return "xlr" if mode == "microphone" else "jack_6"

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return tuple(self.input_at(port).modes)

    def capsule(self, port: str) -> Capsule | None:
        name = port.removeprefix("in.")
        return next((i.capsule for i in self.inputs if i.name == name), None)

    def modes(self, port: str) -> Mapping[Mode, ModeFigures]:
        return self.input_at(port).modes

    # ── what can be set ───────────────────────────────────────────────────────────────────────
    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        item = self.input_at(port)
        found = (
            [] if item.capsule is None else capsule_controls(item.capsule, owner, port, settings)
        )
        now = settings.get(port, NOTHING_SET)
        mode_name = self.mode(port, settings)
        assert mode_name is not None
        mode = item.modes[mode_name]
        if len(item.modes) > 1:
            found.append(
                Control(
                    owner=owner,
                    channel=port,
                    name="mode",
                    label="Input mode",
                    kind="choice",
                    choices=tuple(item.modes),
                    value=mode_name,
                    effect="What the input expects: its impedance, its gain range and its ceiling",
                )
            )
        effect = "Raises the signal and the noise in front of it; too much clips the converter"
        found.append(
            gain_control(
                owner, port, "Gain", effect,
                low_db=mode.gain_min_db, high_db=mode.gain_max_db, now_db=now.gain_db,
                step_db=mode.gain_step_db, dial=mode.dial,
            )
        )  # fmt: skip
        found += pad_controls(owner, port, item.pads_db, now.pad_db)
        if item.high_pass_hz is not None:
            found.append(low_cut_control(owner, port, item.high_pass_hz, now))
        if item.phantom_switch is not None:
            is_on = self.has_phantom_on(port, settings)
            found.append(phantom_control(owner, item.phantom_switch, is_on=is_on))
        found += [
            Control(
                owner=owner,
                channel=port,
                name=name,
                label=_EXTRAS[name][0],
                kind="switch",
                value=bool(getattr(now, name)),
                effect=_EXTRAS[name][1],
            )
            for name in item.extras
        ]
        return found

    def turned_together(self, channel: str, name: str) -> tuple[str, ...]:
        shared = {"gain_db": "gain_knob", "pad_db": "pad_switch"}.get(name)
        if shared is None:
            return (channel,)
        knobs = {f"in.{item.name}": getattr(item, shared) for item in self.inputs}
        knob = knobs.get(channel)
        if knob is None:
            return (channel,)
        return tuple(other for other, own in knobs.items() if own == knob)

    def pads_at(self, port: str) -> tuple[float, ...]:
        return self.input_at(port).pads_db

    # ── what it does with a signal ────────────────────────────────────────────────────────────
    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Amplifier, Converter, padded_ein_dbu, raised_dbu

        item = self.input_at(passage.in_port)
        mode_name = self.mode(passage.in_port, passage.settings)
        assert mode_name is not None
        mode = item.modes[mode_name]
        controls = passage.controls
        pad_db = control_value(controls, "pad_db", 0.0)
        cut = controls.get("high_pass")
        preamp = Amplifier(
            input_impedance_ohm=mode.input_impedance_ohm,
            input_capacitance_f=mode.input_capacitance_f,
            gain_db=control_value(controls, "gain_db", mode.gain_min_db) - pad_db,
            ein_dbu=padded_ein_dbu(mode.ein_dbu, mode.ein_source_ohm, pad_db),
            ein_source_ohm=mode.ein_source_ohm,
            current_noise_a_per_rthz=mode.current_noise_a_per_rthz,
            max_input_dbu=raised_dbu(mode.max_input_dbu, pad_db),
            high_pass_hz=item.high_pass_hz if cut is not None and cut.value else None,
        )
        converter = Converter(
            full_scale_dbu=self.full_scale_dbu,
            dynamic_range_dba=self._range_behind_dba(mode),
            bit_depth=bit_depth,
        )
        found: list[tuple[str, Stage]] = []
        if item.capsule is not None:
            # Pads and cuts of a microphone that is its own recorder are its input's.
            found.append(("microphone", item.capsule.capsule_stage({})))
        return [*found, ("input", preamp), ("converter", converter)]

    def _range_behind_dba(self, mode: ModeFigures) -> float | None:
        """Full scale to all that hisses behind the gain: the converter, and what the preamp adds there."""
        from verve.core.line import flat_noise_a_share
        from verve.core.stages import noise_behind_gain_dbu

        behind = noise_behind_gain_dbu(mode.ein_dbu, mode.ein_least_dbu, mode.gain_min_db)
        if behind is None:
            return self.dynamic_range_dba
        # The input noise at least gain has the converter's in it already: the larger of both is all there is.
        range_dba = self.full_scale_dbu - behind - 10.0 * math.log10(flat_noise_a_share())
        known = self.dynamic_range_dba
        return range_dba if known is None else min(known, range_dba)

    def alike_key(self, port: str) -> str:
        return repr(self.input_at(port).model_copy(update={"name": "", "phantom_switch": None}))

    # ── phantom power, and the computer ───────────────────────────────────────────────────────
    def at_phantom(self, passage: Passage) -> PhantomDraw | None:
        return None

    def phantom_need(self) -> PhantomNeed:
        return "tolerates"

    def phantom_switch(self, port: str) -> str | None:
        return self.input_at(port).phantom_switch

    def phantom_supply_ma(self) -> float | None:
        return self.phantom_budget_ma

    def computer_plug(self) -> HostPlug | None:
        return self.host_plug

    def is_powered_by_computer(self) -> bool:
        return self.is_bus_powered

    def headphone_sockets(self) -> int:
        return self.headphone_feeds

    # ── what people read ──────────────────────────────────────────────────────────────────────
    def says(self, passage: Passage) -> str:
        item = self.input_at(passage.in_port)
        if item.capsule is not None:
            level = f"{item.capsule.sensitivity_mv_per_pa:g} mV/Pa"
            kind = PRINCIPLE_WORDS[item.capsule.principle]
            return f"{kind}, {level}; its own interface, needs no other box"
        mode = self._mode_figures(passage)
        gain = range_text(mode.gain_min_db, mode.gain_max_db, "dB")
        full = level_text(self.full_scale_dbu, "dBu", 0)
        if self.full_scale_dbu != round(self.full_scale_dbu):
            full = f"{number(self.full_scale_dbu, sign=True)} dBu"
        return f"input {ohm_text(mode.input_impedance_ohm)}, gain {gain}, full scale at {full}"

    def _mode_figures(self, passage: Passage) -> ModeFigures:
        mode = self.mode(passage.in_port, passage.settings)
        assert mode is not None
        return self.input_at(passage.in_port).modes[mode]

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        item = self.input_at(passage.in_port)
        own = () if item.capsule is None else item.capsule.capsule_facts()
        mode = self._mode_figures(passage)
        control = passage.controls.get("mode")
        prefix = f"{control.value if control is not None else 'microphone'}."
        found = [
            self.fact(
                f"{prefix}input_impedance_ohm",
                "Input impedance",
                ohm_text(mode.input_impedance_ohm),
                "what it loads the line with",
            ),
            self.fact(
                f"{prefix}gain_db",
                "Gain range",
                range_text(mode.gain_min_db, mode.gain_max_db, "dB"),
                "from input to converter",
            ),
            *self.ein_facts(f"{prefix}ein_dbu", mode.ein_dbu, mode.ein_source_ohm),
            *self.ein_facts(
                f"{prefix}ein_least_dbu", mode.ein_least_dbu, mode.ein_source_ohm, at_least=True
            ),
            *self.limit_facts(f"{prefix}max_input_dbu", "Maximum input level", mode.max_input_dbu),
            self.fact(
                "full_scale_dbu",
                "Full scale",
                level_text(self.full_scale_dbu, "dBu"),
                "the level at the converter that is 0 dBFS",
            ),
        ]
        if self.dynamic_range_dba is not None:
            text = f"{self.dynamic_range_dba:g} dBA"
            how = "from full scale down to the converter’s own noise, A-weighted"
            found.append(self.fact("dynamic_range_dba", "Dynamic range", text, how))
        return (*own, *found)

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        capsule = self.capsule(passage.in_port)
        if role == "microphone" and capsule is not None:
            return capsule_notes(capsule, passage)
        if role == "converter":
            return ()
        return (str(self.mode(passage.in_port, passage.settings)),)

    def span_title(self, passage: Passage, role: str, name: str) -> str:
        if role == "converter":
            return "Converter"
        if role == "input":
            return f"Input {passage.in_port.removeprefix('in.')}"
        return name

    def stage_name(self, passage: Passage, role: str, name: str) -> str:
        if role == "converter":
            return "the converter"
        return super().stage_name(passage, role, name)

    def marks(self, role: str, stage: Stage) -> tuple[tuple[str, float], ...]:
        if role != "converter":
            return ()
        full = self.full_scale_dbu
        return (
            ("clip lamp", full + self.clip_lamp_dbfs),
            ("signal lamp", full + self.signal_lamp_dbfs),
        )

    def lamps(self, peak_dbfs: float) -> Fact | None:
        if peak_dbfs >= self.clip_lamp_dbfs:
            text = "both lit"
        elif peak_dbfs >= self.signal_lamp_dbfs:
            text = "signal lit, clip dark"
        else:
            text = "both dark"
        return Fact(
            label="Lamps of the interface",
            text=text,
            origin=self.origin_of("clip_lamp_dbfs"),
            how=f"signal from {level_text(self.signal_lamp_dbfs, 'dBFS', 0)}, clip from "
            f"{level_text(self.clip_lamp_dbfs, 'dBFS', 0)}",
        )

    def controls_at(self, role: str, controls: Mapping[str, Control]) -> Mapping[str, Control]:
        # A microphone that is its own recorder: where it stands is the capsule's, the rest its input's.
        if role == "converter":
            return {}
        at_capsule = role == "microphone"
        return {n: c for n, c in controls.items() if (n in _OF_THE_CAPSULE) == at_capsule}
