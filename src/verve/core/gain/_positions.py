"""What a solver may set on a line, and the positions it has: steps, locks, shared knobs, pairs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from verve.core.engine import Engine, Remembered
from verve.core.kind import Control
from verve.core.network import LineState
from verve.core.session import RouteStep
from verve.core.units import FloatArray

STEP_DB = 0.5
"""How finely a knob without steps is set: no hand does it better."""
_FADER_STEP_DB = 1.0
_LOWEST_FADER_DB = -40.0
_GAIN_ROLES = frozenset({"preamp", "channel", "input"})


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Knob:
    """What a hand sets. Those with one `key` are set together: one for two channels, a bus, a pair."""

    control: Control
    key: str

    @property
    def now(self) -> float:
        """Where it stands."""
        return float(self.control.value or 0.0)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class GainKnob(_Knob):
    """A gain of one line that can be set: the stage it acts in, its positions."""

    at: int
    positions: FloatArray
    is_fader: bool = False


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Pad(_Knob):
    """A pad of one line with the positions it may take."""

    choices: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Settable:
    """All that may be set on one line."""

    line: str
    turns: tuple[GainKnob, ...]
    pads: tuple[Pad, ...]

    def keys(self) -> set[str]:
        """What a hand turns on it."""
        return {t.key for t in self.turns} | {p.key for p in self.pads}


def key_of(step: RouteStep, control: Control) -> str:
    """What one hand turns: the same for every channel that shares the knob or switch."""
    channel = min(step.figures.turned_together(control.channel, control.name))
    return f"{control.owner}/{channel}/{control.name}"


def steps_of(control: Control) -> FloatArray:
    """Every position of a gain, from its lowest, in its own steps or those of a hand."""
    step = control.gain_step_db or STEP_DB
    count = int(np.floor((control.maximum - control.minimum) / step + 1e-9)) + 1
    return np.asarray(control.minimum + step * np.arange(count), dtype=float)


def _accepts(control: Control, value: float) -> bool:
    if not control.accepts(value):
        return False
    if control.gain_step_db == 0.0:
        return True
    steps = (value - control.minimum) / control.gain_step_db
    return abs(steps - round(steps)) < 1e-6


def settable(
    state: LineState, frozen_keys: frozenset[str] = frozenset(), *, free_faders: bool = False
) -> Settable:
    """Gains, faders and pads of a line; what is kept, or is in `frozen_keys`, has one position.

    A fader belongs at unity; with `free_faders` those of channels may stand elsewhere.
    """
    return state.once(
        ("settable", frozen_keys, free_faders),
        lambda: _settable(state, frozen_keys, free_faders=free_faders),
    )


def gains_set(state: LineState) -> frozenset[tuple[str, str]]:
    """The gains of a line that the solver sets, by owner and channel; that of a pedal is part of the sound."""
    if state.staged is None:
        recorder = state.route.recorder
        return frozenset() if recorder is None else frozenset({(recorder.owner, recorder.in_port)})
    found = set()
    for number, step in enumerate(state.route.steps):
        gain = step.controls.get("gain_db")
        if gain is not None and _stage_at(state, number, _GAIN_ROLES) is not None:
            found.add((gain.owner, gain.channel))
    return frozenset(found)


def _settable(state: LineState, frozen_keys: frozenset[str], *, free_faders: bool) -> Settable:
    turns: list[GainKnob] = []
    pads: list[Pad] = []
    for number, step in enumerate(state.route.steps):
        pad = step.controls.get("pad_db")
        if pad is not None and len(pad.choices) > 1:
            key = key_of(step, pad)
            now = float(pad.value or 0.0)
            is_held = pad.is_locked or key in frozen_keys
            choices = (now,) if is_held else tuple(float(c or 0.0) for c in pad.choices)
            pads.append(Pad(control=pad, key=key, choices=choices))
        gain = step.controls.get("gain_db")
        at = _stage_at(state, number, _GAIN_ROLES)
        if gain is not None and at is not None:
            turns.append(_turn(step, gain, at, steps_of(gain), frozen_keys))
        if step.figures.mixes:
            turns += _faders(state, number, step, frozen_keys, are_free=free_faders)
    return Settable(line=state.line.id, turns=tuple(turns), pads=tuple(pads))


def _stage_at(state: LineState, step: int, roles: frozenset[str]) -> int | None:
    assert state.staged is not None
    for index, part in enumerate(state.staged.parts):
        if part.step_index == step and part.role in roles:
            return index
    return None


def _turn(
    step: RouteStep,
    control: Control,
    at: int,
    positions: FloatArray,
    frozen_keys: frozenset[str],
    *,
    is_fader: bool = False,
) -> GainKnob:
    key = key_of(step, control)
    if control.is_locked or key in frozen_keys:
        positions = np.array([float(control.value or 0.0)])
    return GainKnob(control=control, key=key, at=at, positions=positions, is_fader=is_fader)


def _faders(
    state: LineState, number: int, step: RouteStep, frozen_keys: frozenset[str], *, are_free: bool
) -> list[GainKnob]:
    unity = np.array([0.0])
    found = []
    fader, at = step.controls.get("fader_db"), _stage_at(state, number, frozenset({"fader"}))
    if fader is not None and at is not None:
        places = unity
        if are_free:
            places = np.arange(_LOWEST_FADER_DB, fader.maximum + 1e-9, _FADER_STEP_DB)
        found.append(_turn(step, fader, at, places, frozen_keys, is_fader=True))
    bus_at = _stage_at(state, number, frozenset({"bus"}))
    if bus_at is not None:
        for control in step.shared:
            if control.name == "fader_db":
                found.append(_turn(step, control, bus_at, unity, frozen_keys, is_fader=True))
    return found


def link_pairs(states: Sequence[LineState], found: Mapping[str, Settable]) -> dict[str, Settable]:
    """The same, both sides of every pair set alike where their gear has a position in common."""
    result = dict(found)
    pairs: dict[str, list[str]] = {}
    for state in states:
        if state.line.pair is not None and state.line.id in found:
            pairs.setdefault(state.line.pair, []).append(state.line.id)
    for sides in pairs.values():
        first = result[sides[0]]
        for other_id in sides[1:]:
            other = result[other_id]
            for turn, partner in _matching(first.turns, other.turns):
                common = _common((turn, partner))
                if common.size and turn.key != partner.key:
                    result = _joined(result, turn.key, partner.key, common)
            for pad, twin_pad in zip(first.pads, other.pads, strict=False):
                both = tuple(c for c in pad.choices if c in twin_pad.choices)
                is_alike = pad.control.name == twin_pad.control.name and bool(both)
                if is_alike and pad.key != twin_pad.key:
                    result = _joined_pads(result, pad.key, twin_pad.key, both)
    return result


def _matching(
    ours: Sequence[GainKnob], theirs: Sequence[GainKnob]
) -> list[tuple[GainKnob, GainKnob]]:
    """Gains of two lines that do the same work, from the recorder back."""
    return [
        (a, b)
        for a, b in zip(reversed(ours), reversed(theirs), strict=False)
        if a.control.name == b.control.name and a.is_fader == b.is_fader
    ]


def _common(turns: Sequence[GainKnob]) -> FloatArray:
    """Positions that all of them have; a kept one is asked of the others."""
    held = [t for t in turns if t.positions.size == 1]
    if held:
        value = float(held[0].positions[0])
        can = all(
            abs(float(t.positions[0]) - value) < 1e-6
            if t.positions.size == 1
            else _accepts(t.control, value)
            for t in turns
        )
        return np.array([value] if can else [], dtype=float)
    positions = np.round(turns[0].positions, 6)
    for turn in turns[1:]:
        positions = np.intersect1d(positions, np.round(turn.positions, 6))
    return positions


def _joined(
    found: Mapping[str, Settable], key: str, other: str, positions: FloatArray
) -> dict[str, Settable]:
    def changed(turn: GainKnob) -> GainKnob:
        if turn.key not in {key, other}:
            return turn
        return replace(turn, key=key, positions=positions)

    return {k: replace(s, turns=tuple(changed(t) for t in s.turns)) for k, s in found.items()}


def _joined_pads(
    found: Mapping[str, Settable], key: str, other: str, choices: tuple[float, ...]
) -> dict[str, Settable]:
    def changed(pad: Pad) -> Pad:
        return replace(pad, key=key, choices=choices) if pad.key in {key, other} else pad

    return {k: replace(s, pads=tuple(changed(p) for p in s.pads)) for k, s in found.items()}


def in_common(found: Mapping[str, Settable]) -> dict[str, Settable]:
    """The same, everything that one hand turns with the positions that all its channels have.

    Where they have none in common it stays where it is.
    """
    turns: dict[str, list[GainKnob]] = {}
    pads: dict[str, list[Pad]] = {}
    for item in found.values():
        for turn in item.turns:
            turns.setdefault(turn.key, []).append(turn)
        for pad in item.pads:
            pads.setdefault(pad.key, []).append(pad)
    places = {key: _common(own) for key, own in turns.items() if len(own) > 1}
    choices = {
        key: tuple(c for c in own[0].choices if all(c in pad.choices for pad in own))
        for key, own in pads.items()
    }

    def turned(turn: GainKnob) -> GainKnob:
        common = places.get(turn.key, turn.positions)
        return replace(turn, positions=common if common.size else np.array([turn.now]))

    def padded(pad: Pad) -> Pad:
        return replace(pad, choices=choices[pad.key] or (pad.now,))

    return {
        key: replace(
            item,
            turns=tuple(turned(t) for t in item.turns),
            pads=tuple(padded(p) for p in item.pads),
        )
        for key, item in found.items()
    }


def together_with(states: Sequence[LineState], engine: Engine) -> dict[str, tuple[LineState, ...]]:
    """By line, all lines that are set together with it, itself included: those with a knob in common, and
    both sides of a pair."""
    table: Remembered[dict[str, tuple[LineState, ...]]] = engine.table("together", 8)
    return table.get(tuple(states), lambda: _together(states))


def _together(states: Sequence[LineState]) -> dict[str, tuple[LineState, ...]]:
    group_of: dict[str, list[LineState]] = {}
    for state in states:
        keys = _keys_of(state)
        met = {id(g): g for key in keys if (g := group_of.get(key)) is not None}
        mine = [*(other for group in met.values() for other in group), state]
        for key in frozenset().union(*(_keys_of(one) for one in mine)) if met else keys:
            group_of[key] = mine
    order = {state.line.id: number for number, state in enumerate(states)}
    found: dict[str, tuple[LineState, ...]] = {}
    for state in states:
        if state.line.id not in found:
            own = next((group_of[key] for key in _keys_of(state)), [state])
            group = tuple(sorted(own, key=lambda one: order[one.line.id]))
            found |= {one.line.id: group for one in group}
    return found


def _keys_of(state: LineState) -> frozenset[str]:
    def make() -> frozenset[str]:
        pair = state.line.pair
        return frozenset(settable(state).keys()) | (
            frozenset() if pair is None else frozenset({f"pair of {pair}"})
        )

    return state.once("keys", make)


def groups_of(found: Mapping[str, Settable]) -> list[tuple[str, ...]]:
    """Lines that must be set together, since they have a knob in common; in the order they come."""
    groups: list[tuple[set[str], list[str]]] = []
    for line_id, item in found.items():
        keys, lines = item.keys(), [line_id]
        rest = []
        for other_keys, other_lines in groups:
            if keys & other_keys:
                keys, lines = keys | other_keys, other_lines + lines
            else:
                rest.append((other_keys, other_lines))
        groups = [*rest, (keys, lines)]
    return [tuple(lines) for _, lines in groups]
