"""What can be wrong with how things are connected and switched."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from verve.core.findings import Finding
from verve.core.kind import Control, Level, Mode, ModeFigures
from verve.core.network import LineState, Network, devices_in_need, leg_to
from verve.core.patch import _words as words
from verve.core.session import Change, source_controls
from verve.core.units import db_to_ratio
from verve.core.words import Fact, db_text, fill, number, ohm_text, percent_text, two_digits

_HIGH_IMPEDANCE_OHM = 300_000.0
_FULL = 0.98


def _change(control: Control, value: float | str) -> Change:
    return Change(owner=control.owner, channel=control.channel, name=control.name, value=value)


def _incomplete(state: LineState) -> Finding:
    route = state.route
    if not route.has_source:
        said = words.NOT_FED
    elif state.staged is None:
        said = words.NOT_FITTING
    else:
        said = words.NOT_REACHING
    return Finding(
        rule="not_connected",
        severity="stop",
        line=state.line.id,
        words=said,
        places={
            "line": state.line.name,
            "first": route.steps[0].name,
            "last": route.steps[-1].name,
        },
    )


def _edge_hz(state: LineState, *, upwards: bool) -> float | None:
    """Where the response into this input has first fallen 3 dB below 1 kHz, going up or down from
    there; None if nowhere in the band."""
    assert state.reading is not None
    assert state.staged is not None
    hz = state.reading.band.hz
    reference = state.reading.band.index_of(1000.0)
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
    if recorder is None or state.reading is None or len(state.route.steps) != 1:
        return None
    mode = recorder.mode_figures
    if not figures.needs_high_impedance or mode is None:
        return None
    if mode.input_impedance_ohm >= _HIGH_IMPEDANCE_OHM:
        return None
    loss_db = state.reading.loss_db(0) or 0.0
    treble, bass = _edge_hz(state, upwards=True), _edge_hz(state, upwards=False)
    if figures.fades_in_bass:
        how, edge_hz = ("thin", bass) if bass is not None and bass > 40 else ("quiet", None)
    else:
        how, edge_hz = ("dull", treble) if treble else ("flat", None)
    said, edits = words.LOADED[how], None
    control = recorder.controls.get("mode")
    if control is not None and "instrument" in control.choices:
        edits = (_change(control, "instrument"),)
        said = said.but(advice=words.SWITCH_TO_INSTRUMENT)
    return Finding(
        rule="pickup_loaded",
        severity="mend",
        line=state.line.id,
        words=said,
        places={
            "line": state.line.name,
            "place": recorder.place,
            "loss_db": loss_db,
            "edge_hz": edge_hz or 0.0,
            "edge_khz": (edge_hz or 0.0) / 1000.0,
        },
        edits=edits,
        size_db=loss_db,
        facts=(
            Fact(
                label=words.INPUT_IMPEDANCE,
                text=ohm_text(mode.input_impedance_ohm),
                origin=recorder.figures.origin,
            ),
            Fact(
                label=words.LOST_TO_LOADING,
                text=db_text(loss_db, 1),
                origin="computed",
                how=words.LOST_TO_LOADING_HOW,
            ),
        ),
    )


_LINE_FROM_DBU = -24.0
"""Hardest peaks above this are line level, below it microphone level (typical)."""
_INSTRUMENT_FROM_OHM = 5_000.0
"""A source of more than this at 1 kHz wants a high impedance (typical)."""
_LOUDSPEAKER_FROM_DBU, _LOUDSPEAKER_TO_OHM = 24.0, 50.0
"""More than line outputs give, from next to no impedance: what drives a loudspeaker (typical)."""
_USABLE_DBFS = (-20.0, -3.0)
"""Where the hardest peak must be able to arrive for an input to be of use."""


def arriving_level(state: LineState) -> Level | None:
    """At which level a line arrives at its recorder, by its voltage and impedance; None for no signal."""
    levels, staged, recorder = state.levels, state.staged, state.route.recorder
    if levels is None or staged is None or recorder is None or state.reading is None:
        return None
    entry = staged.index(recorder.owner, "input")
    if entry is None:
        return None
    at = max(0, entry - 1)
    while at > 0 and staged.parts[at].role == "cable":
        at -= 1
    opened = levels.open_peak_dbu[at]
    if opened is None:
        return None
    impedance = np.asarray(state.reading.junction(at).source_impedance_ohm)
    if impedance.ndim:
        impedance = impedance[state.reading.band.index_of(1000.0)]
    ohm = abs(complex(impedance))
    if opened >= _LOUDSPEAKER_FROM_DBU and ohm <= _LOUDSPEAKER_TO_OHM:
        return "loudspeaker"
    if ohm >= _INSTRUMENT_FROM_OHM:
        return "instrument"
    # A preamp before it that is turned down yet gives line level all the same, once it is up.
    more_db = sum(
        gain.maximum - float(gain.value or 0.0)
        for step in state.steps_before_recorder()
        if (gain := step.controls.get("gain_db")) is not None
    )
    return "line" if opened + more_db >= _LINE_FROM_DBU else "microphone"


def _can_take(mode: ModeFigures, pads_db: Sequence[float], at_0_db_dbfs: float) -> bool:
    """Whether an input in a mode can bring a peak, which arrives so high with no gain, where it is of use."""
    low, high = _USABLE_DBFS
    lowest = mode.gain_min_db - max(pads_db, default=0.0)
    return at_0_db_dbfs + lowest <= high and at_0_db_dbfs + mode.gain_max_db >= low


def _wrong_mode(state: LineState) -> Finding | None:
    """Microphone level in a line input, or line level that a microphone input cannot take."""
    recorder, arrives, peak = state.route.recorder, arriving_level(state), state.peak_dbfs
    if recorder is None or recorder.capsule is not None or peak is None:
        return None
    mode, gain = recorder.mode, recorder.controls.get("gain_db")
    modes = recorder.figures.modes(recorder.in_port)
    if mode is None or gain is None or arrives not in {"microphone", "line"} or arrives == mode:
        return None
    pad = recorder.controls.get("pad_db")
    pads_db = recorder.figures.pads_at(recorder.in_port)
    no_gain = peak - float(gain.value or 0.0) + (0.0 if pad is None else float(pad.value or 0.0))
    if arrives == "line" and (
        mode == "instrument"
        or any(
            leg_to(state.route, step.owner) is state.route for step in devices_in_need(state.route)
        )
        or _can_take(modes[mode], pads_db, no_gain)
    ):
        return None
    fitting: Mode = "line" if arrives == "line" else "microphone"
    if mode == "instrument" and _can_take(modes[mode], pads_db, no_gain):
        return None
    control = recorder.controls.get("mode")
    said = words.WRONG_MODE_TOO_LOUD if arrives == "line" else words.WRONG_MODE_TOO_QUIET
    edits = None
    if fitting in modes and control is not None:
        edits = (_change(control, fitting),)
    else:
        said = said.but(advice=words.MOVE_TO_FITTING)
    return Finding(
        rule="wrong_mode",
        severity="mend",
        line=state.line.id,
        words=said,
        places={
            "line": state.line.name,
            "place": recorder.place,
            "arrives": arrives,
            "mode": mode,
            "fitting": fitting,
        },
        edits=edits,
    )


def _volume_down(state: LineState) -> Finding | None:
    source = state.route.source
    for control in source_controls(source):
        if control.name == "volume_position" and float(control.value or 0.0) < _FULL:
            return Finding(
                rule="volume_down",
                severity="stop" if not control.value else "mend",
                line=state.line.id,
                words=words.VOLUME_DOWN,
                places={"source": source.name},
                edits=(_change(control, 1.0),),
                facts=(
                    Fact(
                        label=words.VOLUME,
                        text=percent_text(float(control.value or 0.0)),
                        origin="set",
                    ),
                ),
            )
    return None


def _shared_inputs(states: Sequence[LineState]) -> list[Finding]:
    seen: dict[str, LineState] = {}
    found = []
    for state in states:
        recorder = state.route.recorder
        if recorder is None:
            continue
        key = recorder.link.end
        if key in seen:
            other = seen[key].line
            found.append(
                Finding(
                    rule="input_shared",
                    severity="mend",
                    line=state.line.id,
                    also_lines=(other.id,),
                    words=words.INPUT_SHARED,
                    places={"line": state.line.name, "other": other.name},
                )
            )
        seen.setdefault(key, state)
    return found


_LOWEST_BASS_HZ = 50.0
"""A piezo whose bass ends above this sounds thin on most instruments (typical)."""


def _bass_thin(state: LineState) -> Finding | None:
    """A piezo and the resistance it looks into are a low cut: its corner may lie within the music."""
    own_f = state.route.source.figures.capacitance_of_source_f()
    if own_f is None or state.reading is None:
        return None
    junction = state.reading.junction(0)
    hz = state.reading.band.hz
    at = state.reading.band.index_of(100.0)
    load = np.broadcast_to(np.asarray(junction.load_admittance_s), hz.shape)[at]
    conductance = float(load.real)
    capacitance = own_f + float(load.imag) / (2.0 * math.pi * float(hz[at]))
    corner_hz = conductance / (2.0 * math.pi * capacitance)
    if corner_hz <= _LOWEST_BASS_HZ:
        return None
    resistance = 1.0 / conductance
    return Finding(
        rule="bass_thin",
        severity="know",
        line=state.line.id,
        words=words.BASS_THIN,
        places={"line": state.line.name, "corner_hz": corner_hz},
        size_db=corner_hz / _LOWEST_BASS_HZ,
        facts=(
            Fact(
                label=words.BASS_ENDS,
                text=f"{number(corner_hz, 0)} Hz",
                origin="computed",
                how=fill(
                    words.BASS_ENDS_HOW,
                    resistance_mohm=two_digits(resistance / 1e6),
                    capacitance_nf=two_digits(capacitance * 1e9),
                ),
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
            by_device.setdefault(state.route.recorder.owner, []).append(state)
    if len(by_device) < 2:
        return []
    steps = [group[0].route.recorder for group in by_device.values()]
    names = [step.name for step in steps if step is not None]
    others = [state.line.id for group in list(by_device.values())[1:] for state in group]
    drift_ms = _CLOCK_PPM * 1e-6 * 60_000.0
    return [
        Finding(
            rule="separate_recorders",
            severity="know",
            line=others[0],
            also_lines=tuple(others[1:]),
            words=words.SEPARATE_RECORDERS,
            places={"count": len(names), "names": ", ".join(names), "drift_ms": drift_ms},
            facts=(
                Fact(
                    label=words.CLOCKS_PART,
                    text=fill(words.CLOCKS_PART_TEXT, drift_ms=drift_ms),
                    origin="typical",
                    how=fill(words.CLOCKS_PART_HOW, clock_ppm=_CLOCK_PPM),
                ),
            ),
        )
    ]


def _of_line(state: LineState) -> tuple[Finding, ...]:
    """What is wrong with one line by itself."""
    if not state.route.is_complete or state.staged is None:
        return (_incomplete(state),)
    loaded = _loaded(state)
    maybe = [
        loaded,
        None if loaded else _wrong_mode(state),
        _volume_down(state),
        None if loaded else _bass_thin(state),
    ]
    return tuple(finding for finding in maybe if finding is not None)


def _circle(state: LineState, names: Sequence[str]) -> Finding:
    """A signal that comes back to where it came from: what it becomes is nobody's to say."""
    return Finding(
        rule="feedback",
        severity="stop",
        line=state.line.id,
        words=words.FEEDBACK,
        places={"line": state.line.name, "through": tuple(names)},
    )


def feedback(network: Network) -> list[Finding]:
    """Lines that are on a circle, or hear one."""
    if not network.circling:
        return []
    owners = {owner for circle in network.circles for owner, _ in circle}
    found = []
    for state in network.lines:
        if state.line.id in network.circling:
            steps = [step for other in network.lines for step in other.route.steps]
            names = dict.fromkeys(step.name for step in steps if step.owner in owners)
            found.append(_circle(state, tuple(names)))
    return found


def findings(states: Sequence[LineState], circling: frozenset[str] = frozenset()) -> list[Finding]:
    """Everything about connections and switches; lines that go round in circles are told of by `feedback`."""
    found = [
        finding
        for state in states
        if state.line.id not in circling
        for finding in state.once("patch", lambda state=state: _of_line(state))  # type: ignore[misc]
    ]
    whole = [s for s in states if s.route.is_complete]
    return found + _shared_inputs(whole) + _recorders(whole)
