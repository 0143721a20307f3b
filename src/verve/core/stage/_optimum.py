"""Setting every gain, pad and trim for the hardest playing: all positions are compared, the best is taken.

A gain moves everything behind it dB for dB and changes no impedance. So a line is solved once for every
combination of its pads, and all positions of all its gains follow by adding decibels: the whole set of
positions, to half a decibel or to the steps the gear has, is looked at, and the choice is the best there
is. Tests compare with assessing every position by itself.

Order of aims: room at every stage; the aim of the school from below; the least A-weighted noise; pads
out; the fewest changes from now.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from verve.core.chain import LineState, bus_levels, line_states
from verve.core.line import Amplifier, Microphone, Sound, sound_at_microphone_db
from verve.core.session import (
    Change,
    Control,
    InterfaceFigures,
    MixerFigures,
    Session,
    Setup,
    apply_changes,
    control_text,
    input_figures,
    routes,
)
from verve.core.stage._dial import dial_words
from verve.core.stage._findings import windows_of
from verve.core.stage._plan import MARGIN_DB
from verve.core.stage._schools import Window
from verve.core.units import FloatArray

STEP_DB = 0.5
"""How finely a knob without steps is set: no hand does it better."""
_EQUAL_PEAK_DB = 0.5
_EQUAL_NOISE_DB = 0.05
_MOST_PADS = 16
_MOST_POSITIONS = 400_000
"""Of one line with one combination of its pads: about a tenth of a second."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """A ceiling on the way with the room that is left to it at the hardest playing."""

    stage: str
    index: int
    room_db: float
    before_gain: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Optimum:
    """The best settings of one line: what changes, and what it gives.

    unit: dBFS for peak and noise (A-weighted); `peak_before` and `noise_before` are those of now.
    `binds` is the ceiling that keeps more gain out, None where none does.
    """

    line: str
    changes: tuple[Change, ...]
    words: tuple[str, ...]
    peak_dbfs: float
    noise_dbfs_a: float
    peak_before_dbfs: float | None
    noise_before_dbfs_a: float | None
    target: Window
    limits: tuple[Limit, ...]
    reaches_aim: bool

    @property
    def binds(self) -> Limit | None:
        """The tightest ceiling, if it leaves no more than the margin."""
        tight = [limit for limit in self.limits if limit.room_db < MARGIN_DB + _EQUAL_PEAK_DB]
        return min(tight, key=lambda limit: limit.room_db, default=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Variable:
    """A gain that can be turned: its control, the stage it acts in, and its positions."""

    control: Control
    at: int
    positions: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class _Base:
    """A line with one combination of its pads, solved with the gains of now."""

    state: LineState
    pads: tuple[Change, ...]
    variables: tuple[_Variable, ...]


def _pad_controls(state: LineState) -> list[Control]:
    return [
        hop.controls["pad_db"]
        for hop in state.route.hops
        if "pad_db" in hop.controls and len(hop.controls["pad_db"].choices) > 1
    ]


def _pad_choices(state: LineState) -> list[tuple[Change, ...]]:
    """Every combination of a line's pads, those of now first."""
    controls = _pad_controls(state)
    found = []
    for values in itertools.product(*(control.choices for control in controls)):
        found.append(
            tuple(
                Change(owner=c.owner, channel=c.channel, name=c.name, value=value)
                for c, value in zip(controls, values, strict=True)
            )
        )
    found.sort(
        key=lambda pads: sum(p.value != c.value for p, c in zip(pads, controls, strict=True))
    )
    return found[:_MOST_PADS]


def _step_db(state: LineState, control: Control) -> float:
    for hop in state.route.hops:
        if hop.device.id == control.owner:
            return control.gain_step_db or STEP_DB
    return STEP_DB


def _variables(state: LineState) -> tuple[_Variable, ...]:
    assert state.staged is not None
    found = []
    for number, hop in enumerate(state.route.hops):
        control = hop.controls.get("gain_db")
        if control is None or hop.device.figures.kind == "pedal":
            continue
        at = next(
            (
                index
                for index, part in enumerate(state.staged.parts)
                if part.hop == number and part.role in {"preamp", "channel", "input"}
            ),
            None,
        )
        if at is None:
            continue
        step = _step_db(state, control)
        found.append(_Variable(control=control, at=at, positions=_positions(control, step)))
    # Three gains and more in a row: coarser, all of them, before it takes long. No line has so many for
    # half a decibel to matter.
    while math.prod(v.positions.size for v in found) > _MOST_POSITIONS:
        found = [replace(v, positions=_thinned(v)) for v in found]
    return tuple(found)


def _positions(control: Control, step_db: float) -> FloatArray:
    count = math.floor((control.maximum - control.minimum) / step_db + 1e-9) + 1
    return np.asarray(control.minimum + step_db * np.arange(count), dtype=float)


def _thinned(variable: _Variable) -> FloatArray:
    """Every second position, the lowest and where it stands now among them."""
    now = float(variable.control.value or 0.0)
    return np.unique(np.append(variable.positions[::2], now))


def _limits(state: LineState) -> list[tuple[int, bool, float]]:
    """Every ceiling of a line: stage, whether it stands before the stage's own gain, room now."""
    assert state.staged is not None
    assert state.levels is not None
    levels = state.levels
    found: list[tuple[int, bool, float]] = []
    first = state.staged.parts[0].stage
    for index, part in enumerate(state.staged.parts):
        stage = part.stage
        if isinstance(stage, Microphone) and stage.max_spl_db is not None:
            assert isinstance(first, Sound)
            room = stage.max_spl_db + stage.pad_db - sound_at_microphone_db(first)
            found.append((index, True, room))
        elif isinstance(stage, Amplifier):
            before, after = levels.peak_dbu[index - 1], levels.open_peak_dbu[index]
            if stage.max_input_dbu is not None and before is not None:
                found.append((index, True, stage.max_input_dbu - before))
            if stage.max_output_dbu is not None and after is not None:
                found.append((index, False, stage.max_output_dbu - after))
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class _Grid:
    """All positions of a base's gains at once: peak, noise and least room of each.

    shape: (n_positions,) each; moves (n_variables, n_positions)
    """

    base: _Base
    moves: FloatArray
    peak_dbfs: FloatArray
    noise_dbfs: FloatArray
    room_db: FloatArray


def _grid(base: _Base) -> _Grid:
    state = base.state
    assert state.levels is not None
    assert state.reading is not None
    assert state.levels.peak_dbfs is not None
    axes = [v.positions for v in base.variables]
    mesh = [axis.ravel() for axis in np.meshgrid(*axes, indexing="ij")] if axes else []
    size = len(mesh[0]) if mesh else 1
    moves = np.array(
        [m - float(v.control.value or 0.0) for m, v in zip(mesh, base.variables, strict=True)]
    ).reshape(len(mesh), size)
    places = np.array([v.at for v in base.variables])

    def behind(index: int, *, own: bool) -> FloatArray:
        """How far everything behind a stage's input (or its output) has moved."""
        chosen = places <= index if own else places < index
        return np.asarray(moves[chosen].sum(axis=0))

    peak = state.levels.peak_dbfs + moves.sum(axis=0)
    room = np.full(size, np.inf)
    for index, before_gain, now in _limits(state):
        room = np.minimum(room, now - behind(index, own=not before_gain))
    powers = state.reading.powers.end_noise_a_v2
    total_now = sum(powers)
    noise = np.full(size, powers[-1])
    for index, power in enumerate(powers[:-1]):
        after = np.asarray(moves[places >= index].sum(axis=0))
        noise = noise + power * 10.0 ** (after / 10.0)
    noise_now = state.levels.noise_dbfs_a if state.levels.noise_dbfs_a is not None else -200.0
    level = noise_now + 10.0 * np.log10(noise / total_now) if total_now > 0.0 else noise * 0 - 200.0
    return _Grid(base=base, moves=moves, peak_dbfs=peak, noise_dbfs=np.asarray(level), room_db=room)


def _best(grids: Sequence[_Grid], aim_dbfs: float) -> tuple[_Grid, int]:
    """The best position of all, by the order of aims."""
    room = np.concatenate([g.room_db for g in grids])
    peak = np.concatenate([g.peak_dbfs for g in grids])
    noise = np.concatenate([g.noise_dbfs for g in grids])
    pads = np.concatenate([np.full(g.peak_dbfs.size, _pads_in(g.base)) for g in grids])
    moved = np.concatenate([(np.abs(g.moves) > 1e-9).sum(axis=0) for g in grids])
    turned = np.concatenate([np.abs(g.moves).sum(axis=0) for g in grids])
    ok = room >= MARGIN_DB - 1e-9
    if not ok.any():
        # No position leaves the margin everywhere: then as much room as there can be.
        ok = room >= room.max() - _EQUAL_PEAK_DB
    below = ok & (peak <= aim_dbfs + 1e-9)
    if below.any():
        ok = below & (peak >= peak[below].max() - _EQUAL_PEAK_DB)
    else:
        # Even the lowest position is above the aim: as little above as there can be.
        ok = ok & (peak <= peak[ok].min() + 1e-9)
    # Among equal peaks what counts is how far the playing stands above the noise.
    snr = np.where(ok, peak - noise, -np.inf)
    ok = ok & (snr >= snr.max() - _EQUAL_NOISE_DB)
    order = np.lexsort((turned, moved, -peak, pads, ~ok))
    at = int(order[0])
    for grid in grids:
        if at < grid.peak_dbfs.size:
            return grid, at
        at -= grid.peak_dbfs.size
    raise AssertionError("the order holds every position")


def _pads_in(base: _Base) -> int:
    return sum(bool(pad.value) for pad in base.pads)


def _bases(session: Session, states: Sequence[LineState]) -> dict[str, list[_Base]]:
    """Every line with every combination of its pads, solved together: the first of all, the second …"""
    choices = {state.line.id: _pad_choices(state) for state in states}
    most = max((len(c) for c in choices.values()), default=0)
    found: dict[str, list[_Base]] = {state.line.id: [] for state in states}
    for number in range(most):
        changed = session
        for pads in choices.values():
            if number < len(pads):
                changed = apply_changes(changed, pads[number])
        wanted = [key for key, pads in choices.items() if number < len(pads)]
        setup: Setup = changed.setup
        for state in line_states(routes(setup), setup):
            if state.line.id in wanted and state.levels is not None:
                if state.levels.peak_dbfs is None or state.reading is None:
                    continue
                chosen = choices[state.line.id][number]
                base = _Base(state=state, pads=chosen, variables=_variables(state))
                found[state.line.id].append(base)
    return found


def _shares(states: Sequence[LineState]) -> Mapping[str, float]:
    """How far below the aim each line goes so that all lines of one bus together reach it.

    source: derivation, n equal independent signals are 10·log₁₀(n) above one
    """
    found: dict[str, float] = {}
    for bus in bus_levels(states):
        if len(bus.lines) > 1 and bus.recorder_dbfs is not None:
            for line_id in bus.lines:
                found[line_id] = max(found.get(line_id, 0.0), 10.0 * math.log10(len(bus.lines)))
    return found


def optimum(session: Session, lines: Sequence[str] | None = None) -> tuple[Optimum, ...]:
    """The best settings of all lines, or of some; lines that are kept, dead or incomplete are left out.

    Both sides of a pair get equal gains: those of the side that is louder.
    """
    setup = session.setup
    states = [
        state
        for state in line_states(routes(setup), setup)
        if (lines is None or state.line.id in lines)
        and not state.line.is_fixed
        and state.levels is not None
        and state.levels.peak_dbfs is not None
        and state.route.is_complete
    ]
    shares = _shares(states)
    bases = _bases(session, states)
    found: dict[str, Optimum] = {}
    for state in states:
        target = windows_of([state], setup)[state.line.id]
        aim = target.aim_dbfs - shares.get(state.line.id, 0.0)
        grids = [_grid(base) for base in bases[state.line.id]]
        if grids:
            grid, at = _best(grids, aim)
            found[state.line.id] = _told(state, grid, at, target, aim)
    return tuple(_paired(states, found))


def _told(state: LineState, grid: _Grid, at: int, target: Window, aim: float) -> Optimum:
    base = grid.base
    changes: list[Change] = []
    words: list[str] = []
    now = {(c.owner, c.channel): c for c in _pad_controls(state)}
    for pad in base.pads:
        control = now[pad.owner, pad.channel]
        if pad.value != control.value:
            changes.append(pad)
            words.append(f"pad {control_text(control, pad.value)}")
    for variable, move in zip(base.variables, grid.moves[:, at], strict=True):
        if abs(move) > 1e-9:
            value = round(float(variable.control.value or 0.0) + float(move), 6)
            c = variable.control
            changes.append(Change(owner=c.owner, channel=c.channel, name=c.name, value=value))
            hour = f", about {dial_words(c, value)}" if c.is_dial else ""
            words.append(f"{c.said} {control_text(c, value)}{hour}")
    peak = float(grid.peak_dbfs[at])
    before = state.levels
    assert before is not None
    return Optimum(
        line=state.line.id,
        changes=tuple(changes),
        words=tuple(words),
        peak_dbfs=peak,
        noise_dbfs_a=float(grid.noise_dbfs[at]),
        peak_before_dbfs=before.peak_dbfs,
        noise_before_dbfs_a=before.noise_dbfs_a,
        target=target,
        limits=_limits_at(grid, at),
        reaches_aim=target.lowest_dbfs - 0.05 <= peak - (aim - target.aim_dbfs)
        and peak <= target.highest_dbfs + 0.05,
    )


def _limits_at(grid: _Grid, at: int) -> tuple[Limit, ...]:
    state = grid.base.state
    assert state.staged is not None
    places = [v.at for v in grid.base.variables]
    found = []
    for index, before_gain, now in _limits(state):
        moved = sum(
            float(grid.moves[k, at])
            for k, place in enumerate(places)
            if (place < index if before_gain else place <= index)
        )
        part = state.staged.parts[index]
        name = state.route.source.name
        if part.hop is not None:
            hop = state.route.hops[part.hop]
            name = hop.device.name
            if part.role == "input":
                name = f"{name}, input {hop.in_port.removeprefix('in.')}"
            elif isinstance(hop.device.figures, MixerFigures):
                name = f"{name}, {part.role}"
        found.append(
            Limit(
                stage=name,
                index=index,
                room_db=now - moved,
                before_gain=not any(place < index for place in places),
            )
        )
    return tuple(sorted(found, key=lambda limit: limit.room_db))


def _paired(states: Sequence[LineState], found: Mapping[str, Optimum]) -> list[Optimum]:
    """Both sides of a pair, and lines on one knob, with the gain of the one that asks for least."""
    groups: dict[str, list[LineState]] = {}
    for state in states:
        if state.line.id not in found:
            continue
        if state.line.pair is not None:
            groups.setdefault(f"pair {state.line.pair}", []).append(state)
        knob = _knob_of(state)
        if knob is not None:
            groups.setdefault(f"knob {knob}", []).append(state)
    result = dict(found)
    for sides in groups.values():
        if len(sides) < 2:
            continue
        values = []
        for side in sides:
            control = side.level_control()
            change = _change_of(result[side.line.id], control)
            now = 0.0 if control is None else float(control.value or 0.0)
            values.append(now if change is None else change)
        lower = min(values)
        for side, value in zip(sides, values, strict=True):
            if value - lower > 1e-9:
                result[side.line.id] = _lowered(side, result[side.line.id], lower, value - lower)
    return [result[state.line.id] for state in states if state.line.id in result]


def _knob_of(state: LineState) -> str | None:
    """The shared knob that sets a line's level; None for one of its own."""
    recorder, control = state.route.recorder, state.level_control()
    if recorder is None or control is None or control.owner != recorder.device.id:
        return None
    if not isinstance(recorder.device.figures, InterfaceFigures):
        return None
    knob = input_figures(recorder.device, recorder.in_port).gain_knob
    return None if knob is None else f"{recorder.device.id}/{knob}"


def _change_of(best: Optimum, control: Control | None) -> float | None:
    if control is None:
        return None
    for change in best.changes:
        if (change.owner, change.channel, change.name) == (
            control.owner,
            control.channel,
            control.name,
        ):
            return float(change.value or 0.0)
    return None


def _lowered(side: LineState, best: Optimum, value: float, by_db: float) -> Optimum:
    control = side.level_control()
    assert control is not None
    key = (control.owner, control.channel, control.name)
    changes = tuple(c for c in best.changes if (c.owner, c.channel, c.name) != key)
    if abs(value - float(control.value or 0.0)) > 1e-9:
        change = Change(
            owner=control.owner, channel=control.channel, name=control.name, value=value
        )
        changes = (*changes, change)
    words = f"{control.said} {control_text(control, value)}, as its pair"
    return Optimum(
        line=best.line,
        changes=changes,
        words=(*(w for w in best.words if not w.startswith(control.said)), words),
        peak_dbfs=best.peak_dbfs - by_db,
        noise_dbfs_a=best.noise_dbfs_a,
        peak_before_dbfs=best.peak_before_dbfs,
        noise_before_dbfs_a=best.noise_before_dbfs_a,
        target=best.target,
        limits=best.limits,
        reaches_aim=best.reaches_aim,
    )


def all_changes(found: Sequence[Optimum]) -> tuple[Change, ...]:
    """Every change of several lines, each control once."""
    by_key = {(c.owner, c.channel, c.name): c for best in found for c in best.changes}
    return tuple(by_key.values())
