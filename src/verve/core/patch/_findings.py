"""What can be wrong with how things are connected and switched."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from verve.core.chain import LineState
from verve.core.findings import Fact, Finding, Remedy
from verve.core.session import (
    ActiveDiFigures,
    Change,
    Control,
    Hop,
    LineOutputFigures,
    MicrophoneFigures,
    MixerFigures,
    PassiveDiFigures,
    PedalFigures,
    PickupFigures,
    PiezoFigures,
    PreampFigures,
    SplitterFigures,
    current_mode,
    device_controls,
    input_figures,
    mode_figures,
    source_controls,
)
from verve.core.units import db_to_ratio

_HIGH_IMPEDANCE_OHM = 300_000.0
_UNITY_DB = 0.5
_FULL = 0.98


def _change(control: Control, value: float | str) -> Change:
    return Change(owner=control.owner, channel=control.channel, name=control.name, value=value)


def _incomplete(state: LineState) -> Finding:
    route = state.route
    last = route.hops[-1].device.name
    mismatch = state.staged is None
    if mismatch:
        cost = "Nothing can be computed or recorded: a sound needs a microphone, a signal a cable."
    else:
        cost = f"Nothing is recorded: the line ends at {last}."
    return Finding(
        rule="not_connected",
        severity="stop",
        step="patch",
        line=state.line.id,
        title=f"{state.line.name} does not reach the recorder",
        brief="not connected",
        cost=cost,
        advice=f"Connect {last} to a free input, or remove the line.",
    )


def _edge_hz(state: LineState, *, upwards: bool) -> float | None:
    """Where the response into this input has first fallen 3 dB below 1 kHz, going up or down from
    there; None if nowhere in the band."""
    assert state.reading is not None
    assert state.staged is not None
    hz = state.reading.band.hz
    reference = int(np.abs(hz - 1000.0).argmin())
    junction = state.reading.junction(len(state.staged.parts) - 1)
    magnitude = np.abs(junction.v_rms)
    fallen = magnitude < magnitude[reference] * db_to_ratio(-3.0)
    way = slice(reference, None) if upwards else slice(reference, None, -1)
    there = np.flatnonzero(fallen[way])
    return float(hz[way][there[0]]) if len(there) else None


def _loaded(state: LineState) -> Finding | None:
    """A pickup or piezo straight into an input that is too low for it."""
    recorder = state.route.recorder
    figures = state.route.source.figures
    if recorder is None or state.reading is None or len(state.route.hops) != 1:
        return None
    if not isinstance(figures, PickupFigures | PiezoFigures):
        return None
    mode = mode_figures(recorder.device, recorder.in_port)
    if mode.input_impedance_ohm >= _HIGH_IMPEDANCE_OHM:
        return None
    loss_db = state.reading.loss_db(0) or 0.0
    treble, bass = _edge_hz(state, upwards=True), _edge_hz(state, upwards=False)
    if isinstance(figures, PiezoFigures):
        tone = f"thin: nothing below {bass:.0f} Hz" if bass and bass > 40 else "quiet"
    else:
        tone = f"dull: treble gone above {treble / 1000.0:.1f} kHz" if treble else "quiet and flat"
    control = recorder.controls.get("mode")
    remedy = None
    advice = "Put a DI box between, or take an instrument input."
    if control is not None and "instrument" in control.choices:
        remedy = Remedy(
            label="Switch to instrument input", changes=(_change(control, "instrument"),)
        )
        advice = f"Switch {recorder.device.name}, input {recorder.in_port[3:]}, to instrument."
    return Finding(
        rule="pickup_loaded",
        severity="mend",
        step="patch",
        line=state.line.id,
        title=f"{state.line.name} is loaded by the wrong kind of input",
        brief=tone.split(":")[0] + ": loaded by the input",
        cost=f"It sounds {tone}, and {loss_db:.0f} dB are lost.",
        advice=advice,
        remedy=remedy,
        size_db=loss_db,
        facts=(
            Fact(
                label="Input impedance",
                text=f"{mode.input_impedance_ohm / 1000.0:g} kΩ",
                origin=recorder.device.figures.origin,
            ),
            Fact(
                label="Lost to loading",
                text=f"{loss_db:.1f} dB",
                origin="computed",
                how="open-circuit level less loaded level, over the instrument’s spectrum",
            ),
        ),
    )


def _level_class(hop: Hop | None, state: LineState) -> str:
    """What kind of level arrives behind a hop: microphone or line."""
    if hop is None:
        is_line = isinstance(state.route.source.figures, LineOutputFigures)
        return "line" if is_line else "instrument"
    figures = hop.device.figures
    if isinstance(figures, PedalFigures):
        return "instrument"
    if isinstance(
        figures, MicrophoneFigures | PassiveDiFigures | ActiveDiFigures | SplitterFigures
    ):
        return "microphone"
    if isinstance(figures, PreampFigures):
        is_inline = figures.gain_min_db == figures.gain_max_db
        return "microphone" if is_inline else "line"
    return "line"


def _wrong_mode(state: LineState) -> Finding | None:
    """Microphone level in a line input, or line level in a microphone input."""
    recorder = state.route.recorder
    if recorder is None:
        return None
    if recorder.capsule is not None:
        return None
    before = state.hops_before_recorder()
    arrives = _level_class(before[-1] if before else None, state)
    mode = current_mode(recorder.device, recorder.in_port)
    if arrives == mode or arrives == "instrument" or (arrives == "line" and mode == "instrument"):
        return None
    modes = input_figures(recorder.device, recorder.in_port).modes
    control = recorder.controls.get("mode")
    remedy = None
    if arrives in modes and control is not None:
        remedy = Remedy(label=f"Switch to {arrives} input", changes=(_change(control, arrives),))
    if arrives == "line":
        cost = "The input is far too sensitive: it clips, or sits at the very end of its knob."
    else:
        cost = "The input is far too insensitive: the take is quiet, and hisses when raised."
    where = f"{recorder.device.name}, input {recorder.in_port[3:]},"
    return Finding(
        rule="wrong_mode",
        severity="mend",
        step="patch",
        line=state.line.id,
        title=f"{state.line.name} brings {arrives} level into a {mode} input",
        brief=f"{arrives} level into {mode} input",
        cost=cost,
        advice=f"Switch {where} to {arrives}." if remedy else f"Move it to a {arrives} input.",
        remedy=remedy,
    )


def _volume_down(state: LineState) -> Finding | None:
    source = state.route.source
    for control in source_controls(source):
        if control.name == "volume_position" and float(control.value or 0.0) < _FULL:
            return Finding(
                rule="volume_down",
                severity="stop" if not control.value else "mend",
                step="patch",
                line=state.line.id,
                title=f"{source.name}: its own volume is not full up",
                brief="instrument volume down",
                cost="Level is thrown away before the first cable; every later noise weighs more.",
                advice="Turn the instrument full up and take the gain back instead.",
                remedy=Remedy(label="Turn it full up", changes=(_change(control, 1.0),)),
                facts=(
                    Fact(label="Volume", text=f"{float(control.value or 0):.0%}", origin="set"),
                ),
            )
    return None


def _faders(state: LineState) -> list[Finding]:
    found = []
    for hop in state.route.hops:
        if not isinstance(hop.device.figures, MixerFigures):
            continue
        for control in device_controls(hop.device):
            off_db = float(control.value or 0.0) if control.name == "fader_db" else 0.0
            if control.channel in {hop.in_port, "main"} and abs(off_db) > _UNITY_DB:
                found.append(
                    Finding(
                        rule="fader_off_unity",
                        severity="know",
                        step="stage",
                        line=state.line.id,
                        title=f"{hop.device.name}: {control.said} is off unity",
                        brief=f"{control.said} off unity",
                        cost="Level is lost or won at the wrong place; the trim should do the work.",
                        advice=f"Put the {control.said} to 0 dB and set the trim.",
                        remedy=Remedy(label="Put it to 0 dB", changes=(_change(control, 0.0),)),
                        size_db=abs(off_db),
                    )
                )
    return found


def _preamp_behind_mixer(state: LineState) -> Finding | None:
    if not any(isinstance(hop.device.figures, MixerFigures) for hop in state.route.hops):
        return None
    gain = state.recorder_controls().get("gain_db")
    trim = state.level_control()
    if gain is None or trim is None or float(gain.value or 0.0) <= gain.minimum + _UNITY_DB:
        return None
    surplus_db = float(gain.value or 0.0) - gain.minimum
    new_trim_db = trim.clamped(float(trim.value or 0.0) + surplus_db)
    changes = (_change(gain, gain.minimum), _change(trim, new_trim_db))
    return Finding(
        rule="preamp_behind_mixer",
        severity="mend",
        step="stage",
        line=state.line.id,
        title=f"{state.line.name}: two preamps do one job",
        brief="two preamps in a row",
        cost=f"{surplus_db:.0f} dB are won behind the mixer, with the mixer’s noise.",
        advice="Keep the interface at its lowest and let the mixer’s trim do the work.",
        remedy=Remedy(label="Move the gain to the mixer", changes=changes),
        size_db=surplus_db,
    )


def _shared_inputs(states: Sequence[LineState]) -> list[Finding]:
    seen: dict[str, LineState] = {}
    found = []
    for state in states:
        recorder = state.route.recorder
        if recorder is None:
            continue
        key = f"{recorder.device.id}:{recorder.in_port}"
        if key in seen:
            other = seen[key].line
            found.append(
                Finding(
                    rule="input_shared",
                    severity="mend",
                    step="patch",
                    line=state.line.id,
                    also_lines=(other.id,),
                    title=f"{state.line.name} and {other.name} end in one input",
                    brief=f"mixed with {other.name}",
                    cost="They are recorded as one and can never be balanced apart.",
                    advice="Pan them apart, or give one of them an input of its own.",
                )
            )
        seen.setdefault(key, state)
    return found


_LOWEST_BASS_HZ = 50.0
"""A piezo whose bass ends above this sounds thin on most instruments (typical)."""


def _bass_thin(state: LineState) -> Finding | None:
    """A piezo and the resistance it looks into are a low cut: its corner may lie within the music."""
    figures = state.route.source.figures
    if not isinstance(figures, PiezoFigures) or state.reading is None:
        return None
    junction = state.reading.junction(0)
    hz = state.reading.band.hz
    at = int(np.abs(hz - 100.0).argmin())
    load = np.broadcast_to(np.asarray(junction.load_admittance_s), hz.shape)[at]
    conductance = float(load.real)
    capacitance = figures.capacitance_f + float(load.imag) / (2.0 * math.pi * float(hz[at]))
    corner_hz = conductance / (2.0 * math.pi * capacitance)
    if corner_hz <= _LOWEST_BASS_HZ:
        return None
    resistance = 1.0 / conductance
    return Finding(
        rule="bass_thin",
        severity="know",
        step="patch",
        line=state.line.id,
        title=f"{state.line.name} loses its bass below {corner_hz:.0f} Hz",
        brief=f"bass ends at {corner_hz:.0f} Hz",
        cost="A piezo into too small a resistance is a low cut; nothing later brings it back well.",
        advice="A DI box made for piezo pickups, with 10 MΩ or so, keeps the bass.",
        size_db=corner_hz / _LOWEST_BASS_HZ,
        facts=(
            Fact(
                label="Bass ends",
                text=f"{corner_hz:.0f} Hz",
                origin="computed",
                how=f"1 ÷ 2πRC with {resistance / 1e6:.2g} MΩ and {capacitance * 1e9:.2g} nF, the cable "
                "included; −3 dB of a low cut of first order",
            ),
        ),
    )


_CLOCK_PPM = 50.0
"""How far the clocks of two separate devices may differ (typical of crystals)."""


def _recorders(states: Sequence[LineState]) -> list[Finding]:
    """Lines that end in separate devices: one recording takes one of them, and their clocks differ."""
    by_device: dict[str, list[LineState]] = {}
    for state in states:
        if state.route.recorder is not None:
            by_device.setdefault(state.route.recorder.device.id, []).append(state)
    if len(by_device) < 2:
        return []
    hops = [group[0].route.recorder for group in by_device.values()]
    names = [hop.device.name for hop in hops if hop is not None]
    others = [state.line.id for group in list(by_device.values())[1:] for state in group]
    drift_ms = _CLOCK_PPM * 1e-6 * 60_000.0
    return [
        Finding(
            rule="separate_recorders",
            severity="know",
            step="patch",
            line=others[0],
            also_lines=tuple(others[1:]),
            title=f"{len(names)} devices record at once: {', '.join(names)}",
            brief="on another recorder",
            cost=f"Most recorders take one device at a time. With clocks of their own they also part by "
            f"about {drift_ms:.0f} ms a minute.",
            advice="Bring all lines of one pass into one device, or record them one after the other.",
            facts=(
                Fact(
                    label="Clocks part by",
                    text=f"{drift_ms:.0f} ms a minute",
                    origin="typical",
                    how=f"{_CLOCK_PPM:g} millionths of 60 s, as two crystals typically differ",
                ),
            ),
        )
    ]


@lru_cache(maxsize=1024)
def _of_line(state: LineState) -> tuple[Finding, ...]:
    """What is wrong with one line by itself."""
    if not state.route.is_complete or state.staged is None:
        return (_incomplete(state),)
    loaded = _loaded(state)
    maybe = [
        loaded,
        None if loaded else _wrong_mode(state),
        _volume_down(state),
        _preamp_behind_mixer(state),
        None if loaded else _bass_thin(state),
        *_faders(state),
    ]
    return tuple(finding for finding in maybe if finding is not None)


def findings(states: Sequence[LineState]) -> list[Finding]:
    """Everything about connections and switches."""
    found = [finding for state in states for finding in _of_line(state)]
    whole = [s for s in states if s.route.is_complete]
    return found + _shared_inputs(whole) + _recorders(whole)
