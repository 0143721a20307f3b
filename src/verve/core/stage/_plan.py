"""The change that brings one line into its window: arithmetic on a solved line.

A gain moves everything behind it dB for dB and changes no impedance, so a plan needs no new
solution; tests hold the plan against a full computation of the changed session.
"""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.chain import LineState
from verve.core.session import Change, Control, Hop, MixerFigures
from verve.core.stage._dial import dial_words
from verve.core.stage._schools import Window

MARGIN_DB = 3.0
"""Headroom kept at every stage before the gain: the hardest playing is never quite the hardest."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Changes, what they are in words, and the hardest peak they lead to."""

    changes: tuple[Change, ...]
    words: str
    peak_dbfs: float


def _before_gain(state: LineState, control: Control) -> list[tuple[float, int]]:
    """(headroom, stage) of every limit that the level control cannot help."""
    assert state.levels is not None
    assert state.staged is not None
    role = "channel" if _is_mixer(state, control) else "input"
    gain_at = state.staged.index(control.owner, role)
    found = []
    for index, headroom in enumerate(state.levels.headroom_db):
        before = gain_at is None or index < gain_at or (index == gain_at and role == "input")
        if headroom is not None and before:
            found.append((headroom, index))
    return found


def _is_mixer(state: LineState, control: Control) -> bool:
    return any(
        hop.device.id == control.owner and isinstance(hop.device.figures, MixerFigures)
        for hop in state.route.hops
    )


def _lowering(hop: Hop, need_db: float) -> tuple[Change, float, str] | None:
    """One change on a device that lowers the signal there by at least `need_db`; not of what is kept."""
    controls = {name: control for name, control in hop.controls.items() if not control.is_kept}
    pad = controls.get("pad_db")
    if pad is not None:
        now = float(pad.value or 0.0)
        bigger = sorted(
            float(c) for c in pad.choices if isinstance(c, float) and c - now >= need_db
        )
        if bigger:
            change = Change(owner=pad.owner, channel=pad.channel, name=pad.name, value=bigger[0])
            return (
                change,
                bigger[0] - now,
                f"switch the {bigger[0]:g} dB pad of {hop.device.name} in",
            )
    gain = controls.get("gain_db")
    if gain is not None and float(gain.value or 0.0) - need_db >= gain.minimum:
        lower = float(gain.value or 0.0) - need_db
        change = Change(owner=gain.owner, channel=gain.channel, name=gain.name, value=lower)
        return change, need_db, f"turn {hop.device.name} down {need_db:.0f} dB"
    distance = controls.get("distance_m")
    if distance is not None:
        further = float(distance.value or 0.0) * 10.0 ** (need_db / 20.0)
        if further <= distance.maximum:
            change = Change(
                owner=distance.owner, channel=distance.channel, name=distance.name, value=further
            )
            return change, need_db, f"move {hop.device.name} back to {further * 100.0:.0f} cm"
    return None


def plan(state: LineState, target: Window) -> Plan | None:
    """How to bring a line to its aim without any stage clipping; None where no control reaches."""
    control = state.level_control()
    if control is None or state.levels is None or state.peak_dbfs is None or state.staged is None:
        return None
    if control.is_kept:
        return None
    changes: list[Change] = []
    words: list[str] = []
    lowered_db = 0.0
    tight = [item for item in _before_gain(state, control) if item[0] < 0.0]
    if tight:
        headroom, index = min(tight)
        hop_index = state.staged.parts[index].hop
        found = None
        for hop in reversed(state.route.hops[: (hop_index or 0) + 1]):
            if hop.device.id == control.owner and "pad_db" not in hop.controls:
                continue
            found = _lowering(hop, MARGIN_DB - headroom)
            if found is not None and found[0].name == "gain_db" and found[0].owner == control.owner:
                found = None
            if found is not None:
                break
        if found is None:
            return None
        changes.append(found[0])
        lowered_db = found[1]
        words.append(found[2])
    now_db = float(control.value or 0.0)
    wanted_db = now_db + target.aim_dbfs - (state.peak_dbfs - lowered_db)
    new_db = round(control.clamped(wanted_db) / 0.5) * 0.5
    new_db = control.clamped(new_db)
    moved_db = new_db - now_db
    if abs(moved_db) >= 0.05:
        changes.append(
            Change(owner=control.owner, channel=control.channel, name=control.name, value=new_db)
        )
        words.append(_turn(control, moved_db, new_db))
    if not changes:
        return None
    return Plan(
        changes=tuple(changes),
        words=", and ".join(words),
        peak_dbfs=state.peak_dbfs - lowered_db + moved_db,
    )


def _turn(control: Control, moved_db: float, new_db: float) -> str:
    name = "the trim" if control.label == "Trim" else "the preamp"
    way = "down" if moved_db < 0.0 else "up"
    words = f"turn {name} {way} {abs(moved_db):.1f}".removesuffix(".0") + " dB"
    return f"{words}, to about {dial_words(control, new_db)}" if control.is_dial else words
