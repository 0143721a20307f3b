"""From a route through gear and cables to the stages that the physics computes."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from verve.core.line import (
    OCTAVE_CENTRES_HZ,
    Amplifier,
    Cable,
    Converter,
    LineSource,
    Microphone,
    Pickup,
    Piezo,
    ResistivePad,
    Sound,
    Stage,
    Transformer,
    broadband_change_db,
    diffuse_response_db,
    effective_distance_m,
    pattern_response_db,
    sum_bands_db,
)
from verve.core.session import (
    FADER_MIN_DB,
    NOTHING_SET,
    AcousticFigures,
    ActiveDiFigures,
    Control,
    Hop,
    InterfaceFigures,
    LineOutputFigures,
    MicrophoneFigures,
    MixerFigures,
    PassiveDiFigures,
    PedalFigures,
    PickupFigures,
    PiezoFigures,
    PreampFigures,
    Route,
    Setup,
    Source,
    SplitterFigures,
    mode_figures,
    playing_range,
)
from verve.core.units import BAND_HZ, dbu_to_v_rms, thermal_noise_v2_per_hz, v2_to_dbu

_PAD_BOX_OHM = 47_000.0
"""Typical input resistance of the pad built into a passive box."""
_BUS_INPUT_OHM = 10_000.0
"""Typical resistance a channel's fader drives inside a mixer."""
_DEAFEST_DB = -60.0
"""Where a pattern hears nothing at all, real ones still hear about so much."""
_QUIETEST_VOLUME = 1e-3
"""An electronic output's volume at zero still leaks about so much of its level."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One stage with what it stands for: which owner, and its role there."""

    stage: Stage
    owner: str
    role: str
    hop: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Colour:
    """What the air and a microphone's own response make of a source before it is a voltage.

    `change_db` is how they change its level over all; `octave_bands_db` are the bands behind them.
    """

    octave_bands_db: tuple[float, ...]
    change_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StagedLine:
    """A route with its stages, the source playing its hardest."""

    route: Route
    parts: tuple[Part, ...]
    colour: Colour
    _places: dict[tuple[str, str], int] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        places: dict[tuple[str, str], int] = {}
        for index, part in enumerate(self.parts):
            places.setdefault((part.owner, part.role), index)
        object.__setattr__(self, "_places", places)

    @property
    def stages(self) -> tuple[Stage, ...]:
        """The stages alone, for the physics."""
        return tuple(part.stage for part in self.parts)

    def index(self, owner: str, role: str) -> int | None:
        """Where a stage stands; None if it does not."""
        return self._places.get((owner, role))


def _value(controls: Mapping[str, Control], name: str, otherwise: float) -> float:
    control = controls.get(name)
    return float(control.value) if control and isinstance(control.value, int | float) else otherwise


def microphone_response_db(hop: Hop) -> tuple[float, ...]:
    """Response of a microphone where it stands and as it is switched, by octave.

    range: −60 dB at the least, where a pattern hears nothing
    """
    figures, controls = hop.capsule, hop.controls
    assert figures is not None
    responses = [figures.response_db]
    for name, there in (("presence", figures.presence_db), ("foam", figures.foam_db)):
        if there is not None and controls[name].value:
            responses.append(there)
    if figures.pattern is not None:
        distance_m, angle_deg = (
            _value(controls, "distance_m", 1.0),
            _value(controls, "angle_deg", 0.0),
        )
        responses.append(
            tuple(
                max(_DEAFEST_DB, found) if found is not None else _DEAFEST_DB
                for found in (
                    pattern_response_db(
                        figures.pattern, hz=hz, distance_m=distance_m, angle_deg=angle_deg
                    )
                    for hz in OCTAVE_CENTRES_HZ
                )
            )
        )
    return sum_bands_db(*responses)


def _colour(route: Route) -> Colour:
    bands_db = route.source.figures.octave_bands_db
    if route.hops[0].capsule is None:
        return Colour(octave_bands_db=bands_db, change_db=0.0)
    response_db = microphone_response_db(route.hops[0])
    if not any(response_db):
        return Colour(octave_bands_db=bands_db, change_db=0.0)
    return Colour(
        octave_bands_db=sum_bands_db(bands_db, response_db),
        change_db=broadband_change_db(bands_db, response_db),
    )


def _source_part(source: Source, setup: Setup, route: Route, colour: Colour) -> Part:
    figures, settings = source.figures, source.settings
    hardest_db = playing_range(figures).hardest_db
    volume = 1.0 if settings.volume_position is None else settings.volume_position
    tone = 1.0 if settings.tone_position is None else settings.tone_position
    stage: Stage
    if isinstance(figures, AcousticFigures):
        distance_m = _value(route.hops[0].controls, "distance_m", 1.0)
        microphone = route.hops[0].capsule
        room_dba = setup.room.noise_dba
        if microphone is not None and microphone.pattern is not None:
            room_dba += diffuse_response_db(microphone.pattern)
        stage = Sound(
            # The microphone's colour is counted into the level here, and into its ceiling there.
            peak_spl_db=hardest_db + colour.change_db,
            reference_distance_m=effective_distance_m(
                figures.reference_distance_m, figures.extent_m
            ),
            distance_m=effective_distance_m(distance_m, figures.extent_m),
            room_noise_dba=room_dba,
        )
    elif isinstance(figures, PickupFigures):
        stage = Pickup(
            peak_emf_v=10.0 ** (hardest_db / 20.0),
            dc_resistance_ohm=figures.dc_resistance_ohm,
            inductance_h=figures.inductance_h,
            capacitance_f=figures.capacitance_f,
            tone_pot_ohm=figures.tone_pot_ohm,
            tone_capacitor_f=figures.tone_capacitor_f,
            tone_position=tone,
            volume_pot_ohm=figures.volume_pot_ohm,
            volume_position=volume,
        )
    elif isinstance(figures, PiezoFigures):
        stage = Piezo(peak_emf_v=10.0 ** (hardest_db / 20.0), capacitance_f=figures.capacitance_f)
    else:
        assert isinstance(figures, LineOutputFigures)
        stage = LineSource(
            peak_dbu=hardest_db + 20.0 * math.log10(max(volume, _QUIETEST_VOLUME)),
            output_impedance_ohm=figures.output_impedance_ohm,
            noise_dbu=figures.noise_dbu,
        )
    return Part(stage=stage, owner=source.id, role="source", hop=None)


def padded_ein_dbu(ein_dbu: float | None, source_ohm: float, pad_db: float) -> float | None:
    """EIN of an amplifier behind a pad, referred to the pad's input: its own part rises by the pad.

    source: derivation, (EIN² − 4kTRs·B)·p² + 4kTRs·B
    """
    if ein_dbu is None or pad_db == 0.0:
        return ein_dbu
    thermal = float(thermal_noise_v2_per_hz(source_ohm)) * BAND_HZ
    own = max(0.0, dbu_to_v_rms(ein_dbu) ** 2 - thermal)
    return v2_to_dbu(own * 10.0 ** (pad_db / 10.0) + thermal)


def _raised(limit_dbu: float | None, pad_db: float) -> float | None:
    return None if limit_dbu is None else limit_dbu + pad_db


def _microphone(hop: Hop, colour: Colour) -> list[tuple[str, Stage]]:
    figures = hop.capsule
    assert figures is not None
    # What pads and cuts a microphone built into a recorder is its input's.
    is_whole = isinstance(hop.device.figures, MicrophoneFigures)
    controls = hop.controls if is_whole else {}
    cut = controls.get("high_pass")
    stage = Microphone(
        sensitivity_mv_per_pa=figures.sensitivity_mv_per_pa,
        output_impedance_ohm=figures.output_impedance_ohm,
        self_noise_dba=figures.self_noise_dba,
        max_spl_db=_raised(figures.max_spl_db, colour.change_db),
        pad_db=_value(controls, "pad_db", 0.0),
        high_pass_hz=figures.high_pass_hz if cut is not None and cut.value else None,
    )
    return [("microphone", stage)]


def _preamp(hop: Hop, _: Setup) -> list[tuple[str, Stage]]:
    figures = hop.device.figures
    assert isinstance(figures, PreampFigures)
    stage = Amplifier(
        input_impedance_ohm=figures.input_impedance_ohm,
        gain_db=_value(hop.controls, "gain_db", figures.gain_min_db),
        output_impedance_ohm=figures.output_impedance_ohm,
        ein_dbu=figures.ein_dbu,
        ein_source_ohm=figures.ein_source_ohm,
        max_input_dbu=figures.max_input_dbu,
        max_output_dbu=figures.max_output_dbu,
    )
    return [("preamp", stage)]


def _pedal(hop: Hop, _: Setup) -> list[tuple[str, Stage]]:
    figures = hop.device.figures
    assert isinstance(figures, PedalFigures)
    stage = Amplifier(
        input_impedance_ohm=figures.input_impedance_ohm,
        input_capacitance_f=figures.input_capacitance_f,
        gain_db=_value(hop.controls, "gain_db", figures.gain_min_db),
        output_impedance_ohm=figures.output_impedance_ohm,
        ein_dbu=figures.ein_dbu,
        max_output_dbu=figures.max_output_dbu,
    )
    return [("box", stage)]


def _passive_di(hop: Hop, _: Setup) -> list[tuple[str, Stage]]:
    figures = hop.device.figures
    assert isinstance(figures, PassiveDiFigures)
    pad_db = _value(hop.controls, "pad_db", 0.0)
    transformer = Transformer(
        turns_ratio=figures.turns_ratio,
        primary_resistance_ohm=figures.primary_resistance_ohm,
        secondary_resistance_ohm=figures.secondary_resistance_ohm,
        primary_inductance_h=figures.primary_inductance_h,
    )
    if pad_db == 0.0:
        return [("box", transformer)]
    kept = 10.0 ** (-pad_db / 20.0)
    pad = ResistivePad(series_ohm=_PAD_BOX_OHM * (1.0 - kept), shunt_ohm=_PAD_BOX_OHM * kept)
    return [("pad", pad), ("box", transformer)]


def _splitter(hop: Hop, _: Setup) -> list[tuple[str, Stage]]:
    figures = hop.device.figures
    assert isinstance(figures, SplitterFigures)
    # The other desk's input lies across the microphone, whichever output is this line's.
    other = ResistivePad(series_ohm=0.0, shunt_ohm=figures.other_input_ohm)
    if hop.out_port != "isolated":
        return [("box", other)]
    transformer = Transformer(
        turns_ratio=figures.turns_ratio,
        primary_resistance_ohm=figures.primary_resistance_ohm,
        secondary_resistance_ohm=figures.secondary_resistance_ohm,
        primary_inductance_h=figures.primary_inductance_h,
    )
    return [("pad", other), ("box", transformer)]


def _active_di(hop: Hop, _: Setup) -> list[tuple[str, Stage]]:
    figures = hop.device.figures
    assert isinstance(figures, ActiveDiFigures)
    pad_db = _value(hop.controls, "pad_db", 0.0)
    stage = Amplifier(
        input_impedance_ohm=figures.input_impedance_ohm,
        input_capacitance_f=figures.input_capacitance_f,
        gain_db=figures.gain_db - pad_db,
        output_impedance_ohm=figures.output_impedance_ohm,
        ein_dbu=padded_ein_dbu(figures.ein_dbu, 150.0, pad_db),
        current_noise_a_per_rthz=figures.current_noise_a_per_rthz,
        max_input_dbu=_raised(figures.max_input_dbu, pad_db),
    )
    return [("box", stage)]


def _interface(hop: Hop, setup: Setup) -> list[tuple[str, Stage]]:
    figures = hop.device.figures
    assert isinstance(figures, InterfaceFigures)
    mode = mode_figures(hop.device, hop.in_port)
    item = figures.input_at(hop.in_port)
    controls = hop.controls
    pad_db = _value(controls, "pad_db", 0.0)
    cut = controls.get("high_pass")
    preamp = Amplifier(
        input_impedance_ohm=mode.input_impedance_ohm,
        input_capacitance_f=mode.input_capacitance_f,
        gain_db=_value(controls, "gain_db", mode.gain_min_db) - pad_db,
        ein_dbu=padded_ein_dbu(mode.ein_dbu, mode.ein_source_ohm, pad_db),
        ein_source_ohm=mode.ein_source_ohm,
        current_noise_a_per_rthz=mode.current_noise_a_per_rthz,
        max_input_dbu=_raised(mode.max_input_dbu, pad_db),
        high_pass_hz=item.high_pass_hz if cut is not None and cut.value else None,
    )
    converter = Converter(
        full_scale_dbu=figures.full_scale_dbu,
        dynamic_range_dba=figures.dynamic_range_dba,
        bit_depth=setup.audio.bit_depth,
    )
    return [("input", preamp), ("converter", converter)]


def pan_gain_db(pan: float, side: str) -> float:
    """Gain of a constant-power pan law to one side; the centre is 3.01 dB down on both.

    range: pan −1 (left) to 1 (right)
    source: derivation, cos and sin of a quarter turn
    """
    angle = (pan + 1.0) * math.pi / 4.0
    kept = math.cos(angle) if side == "left" else math.sin(angle)
    return 20.0 * math.log10(kept) if kept > 1e-3 else FADER_MIN_DB


def _mixer(hop: Hop, _: Setup) -> list[tuple[str, Stage]]:
    figures = hop.device.figures
    assert isinstance(figures, MixerFigures)
    item = figures.channel_at(hop.in_port)
    controls = hop.controls
    main = hop.device.settings.get("main", NOTHING_SET).fader_db or 0.0
    side = "right" if hop.out_port == "main.right" else "left"
    fader_db = _value(controls, "fader_db", 0.0)
    across_db = pan_gain_db(_value(controls, "pan", 0.0), side)
    if (hop.out_port or "").startswith("group."):
        # A group is one output: pan has no say in it, its own fader takes the place of the main one.
        main = hop.device.settings.get(str(hop.out_port), NOTHING_SET).fader_db or 0.0
        across_db = 0.0
    cut = controls.get("high_pass")
    is_direct = (hop.out_port or "").startswith("direct.")
    channel = Amplifier(
        input_impedance_ohm=item.input_impedance_ohm,
        output_impedance_ohm=figures.output_impedance_ohm if is_direct else 0.0,
        gain_db=_value(controls, "gain_db", item.trim_min_db),
        ein_dbu=item.ein_dbu,
        ein_source_ohm=item.ein_source_ohm,
        max_input_dbu=item.max_input_dbu,
        max_output_dbu=figures.max_output_dbu,
        high_pass_hz=item.high_pass_hz if cut is not None and cut.value else None,
    )
    if is_direct:
        return [("channel", channel)]
    fader = Amplifier(
        input_impedance_ohm=_BUS_INPUT_OHM,
        gain_db=fader_db + across_db,
        max_output_dbu=figures.max_output_dbu,
    )
    bus = Amplifier(
        input_impedance_ohm=_BUS_INPUT_OHM,
        gain_db=main,
        output_impedance_ohm=figures.output_impedance_ohm,
        ein_dbu=figures.bus_ein_dbu,
        max_output_dbu=figures.max_output_dbu,
    )
    return [("channel", channel), ("fader", fader), ("bus", bus)]


_MAKERS: dict[str, Callable[[Hop, Setup], list[tuple[str, Stage]]]] = {
    "preamp": _preamp,
    "pedal": _pedal,
    "passive_di": _passive_di,
    "splitter": _splitter,
    "active_di": _active_di,
    "interface": _interface,
    "mixer": _mixer,
}


def stage_line(route: Route, setup: Setup) -> StagedLine:
    """All stages of a route, cables included, with the source at its hardest."""
    colour = _colour(route)
    parts = [_source_part(route.source, setup, route, colour)]
    for index, hop in enumerate(route.hops):
        if hop.cable is not None:
            cable = Cable(
                length_m=hop.cable.length_m,
                capacitance_f_per_m=hop.cable.capacitance_f_per_m,
                resistance_ohm_per_m=hop.cable.resistance_ohm_per_m,
            )
            parts.append(Part(stage=cable, owner=hop.link.id, role="cable", hop=index))
        made = _microphone(hop, colour) if hop.capsule is not None else []
        if not isinstance(hop.device.figures, MicrophoneFigures):
            made += _MAKERS[hop.device.figures.kind](hop, setup)
        for role, stage in made:
            parts.append(Part(stage=stage, owner=hop.device.id, role=role, hop=index))
    return StagedLine(route=route, parts=tuple(parts), colour=colour)


def is_physical(route: Route) -> bool:
    """Whether a route can be computed: sound must meet a microphone, and only sound may."""
    meets_microphone = route.hops[0].capsule is not None
    return meets_microphone == isinstance(route.source.figures, AcousticFigures) and not any(
        hop.capsule is not None for hop in route.hops[1:]
    )
