"""A line in words, stage by stage: what it is, where it goes, what can be set on it."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.chain import LineState
from verve.core.session import (
    ActiveDiFigures,
    CableFigures,
    Control,
    Device,
    Hop,
    InterfaceFigures,
    MicrophoneFigures,
    MixerFigures,
    PassiveDiFigures,
    PedalFigures,
    PreampFigures,
    Setup,
    SplitterFigures,
    controls_of,
    mode_figures,
)

_PRINCIPLES = {"moving_coil": "moving coil", "ribbon": "ribbon", "condenser": "condenser"}
_NEEDS = {
    "needs": "needs phantom power",
    "tolerates": "needs no phantom power and bears it",
    "never": "must not get phantom power",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class StageText:
    """One stage for a person: a source, a cable or a device."""

    owner: str
    role: str
    name: str
    says: str
    is_cable: bool = False
    controls: tuple[Control, ...] = ()


def _ohm(value: float) -> str:
    if value >= 1e6:
        return f"{value / 1e6:g} MΩ"
    return f"{value / 1e3:g} kΩ" if value >= 1e3 else f"{value:g} Ω"


def cable_text(cable: CableFigures) -> str:
    """A cable's kind and length."""
    return f"{'Balanced' if cable.balanced else 'Unbalanced'} cable, {cable.length_m:g} m"


def _device_says(device: Device, hop: Hop) -> str:
    figures = device.figures
    if isinstance(figures, MicrophoneFigures):
        level = f"{figures.sensitivity_mv_per_pa:g} mV/Pa, {_ohm(figures.output_impedance_ohm)}"
        return f"{_PRINCIPLES[figures.principle]}, {level}; {_NEEDS[figures.phantom]}"
    if isinstance(figures, PedalFigures):
        drive = f"{figures.gain_min_db:g} to {figures.gain_max_db:g} dB".replace("-", "−")
        return f"pedal, input {_ohm(figures.input_impedance_ohm)}, {drive}"
    if isinstance(figures, PreampFigures):
        gain = (
            f"fixed gain of {figures.gain_min_db:g} dB"
            if figures.gain_min_db == figures.gain_max_db
            else f"{figures.gain_min_db:g} to {figures.gain_max_db:g} dB"
        )
        return f"{gain}; {_NEEDS[figures.phantom]}" + (
            "" if figures.passes_phantom else " and keeps it from the microphone"
        )
    if isinstance(figures, PassiveDiFigures):
        return f"transformer {figures.turns_ratio:g} : 1; {_NEEDS[figures.phantom]}"
    if isinstance(figures, SplitterFigures):
        keeps = "keeps" if hop.out_port == "isolated" else "lets through"
        return (
            f"{hop.out_port or 'no'} output, {keeps} phantom power; another desk hangs on the other"
        )
    if isinstance(figures, ActiveDiFigures):
        return f"input {_ohm(figures.input_impedance_ohm)}; {_NEEDS[figures.phantom]}"
    if isinstance(figures, MixerFigures):
        return f"channel {hop.in_port[3:]} to {(hop.out_port or 'nowhere').replace('.', ' ')}"
    assert isinstance(figures, InterfaceFigures)
    if hop.capsule is not None:
        level = f"{hop.capsule.sensitivity_mv_per_pa:g} mV/Pa"
        return (
            f"{_PRINCIPLES[hop.capsule.principle]}, {level}; its own recorder, needs no other box"
        )
    mode = mode_figures(device, hop.in_port)
    return (
        f"input {_ohm(mode.input_impedance_ohm)}, gain {mode.gain_min_db:g} to "
        f"{mode.gain_max_db:g} dB, full scale at {figures.full_scale_dbu:+g} dBu"
    ).replace("-", "−")


def _device_text(hop: Hop, setup: Setup) -> StageText:
    device = hop.device
    controls = tuple(hop.controls.values())
    if isinstance(device.figures, MixerFigures):
        controls += tuple(c for c in controls_of(setup, device.id) if c.channel == "main")
    name = device.name
    if isinstance(device.figures, InterfaceFigures | MixerFigures):
        name = f"{device.name}, {'input' if hop.out_port is None else 'channel'} {hop.in_port[3:]}"
    return StageText(
        owner=device.id,
        role=hop.in_port,
        name=name,
        says=_device_says(device, hop),
        controls=controls,
    )


def stage_texts(state: LineState, setup: Setup) -> tuple[StageText, ...]:
    """The stages of a line from source to recorder, cables between them."""
    source = state.route.source
    performer = next((p.name for p in setup.performers if p.id == source.performer), "")
    playing = state.playing
    unit = {"acoustic": "dB SPL", "line_output": "dBu"}.get(source.figures.kind, "dBV")
    says = f"peaks {playing.softest_db:g} to {playing.hardest_db:g} {unit}".replace("-", "−")
    if source.figures.kind == "acoustic":
        says += " at 1 m"
    found = [
        StageText(
            owner=source.id,
            role="source",
            name=source.name,
            says=f"{performer}: {says}" if performer and performer != source.name else says,
            controls=controls_of(setup, source.id),
        )
    ]
    for hop in state.route.hops:
        if hop.cable is not None:
            found.append(
                StageText(
                    owner=hop.link.id,
                    role="cable",
                    name=cable_text(hop.cable),
                    says=f"{hop.cable.capacitance_f_per_m * hop.cable.length_m * 1e12:.0f} pF",
                    is_cable=True,
                )
            )
        found.append(_device_text(hop, setup))
    return tuple(found)
