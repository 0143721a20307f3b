"""Why the settings that were found are the best there are: what binds, whose noise remains, the ways out."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.chain import LineState, line_states
from verve.core.findings import level_text
from verve.core.line import Sound
from verve.core.session import (
    Change,
    MicrophoneFigures,
    Session,
    apply_changes,
    controls_of,
    exchange_device,
    routes,
    set_control,
    set_room,
    set_school,
)
from verve.core.stage._optimum import Optimum, all_changes, optimum
from verve.core.stage._schools import SCHOOLS

LEAST_DISTANCE_M: Mapping[str, float] = {"voice": 0.07, "other": 0.15}
"""Nearer than this a microphone gets in the way, or hears breath and fingers (typical)."""
_QUIETER_ROOM_DB = 6.0
_LEAVE_DB = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WayOn:
    """Something else that would lower the noise or reach the aim, with its computed effect.

    unit: dB; positive `snr_db` is further above the noise
    """

    label: str
    snr_db: float
    reaches_aim: bool
    changes: tuple[Change, ...] = ()

    def sentence(self, *, is_reached: bool) -> str:
        """It with its effect; `is_reached` is whether the aim is reached without it."""
        effect = []
        if abs(self.snr_db) >= 1.0:
            way = "further from" if self.snr_db > 0.0 else "nearer to"
            effect.append(f"{abs(self.snr_db):.0f} dB {way} the noise")
        if self.reaches_aim and not is_reached:
            effect.append("the aim is reached")
        return f"{self.label}: {', '.join(effect)}." if effect else f"{self.label}."


@dataclass(frozen=True, slots=True, kw_only=True)
class Certificate:
    """What can be said of the settings of one line."""

    line: str
    name: str
    best: Optimum
    why_not_louder: str
    why_not_quieter: str
    noise: str
    raised: str
    ways_on: tuple[WayOn, ...]


def _state(session: Session, line_id: str) -> LineState | None:
    states = line_states(routes(session.setup), session.setup)
    return next((state for state in states if state.line.id == line_id), None)


def _why_not_louder(best: Optimum) -> str:
    binds = best.binds
    target = best.target
    if best.peak_dbfs > target.highest_dbfs + 0.05:
        over = best.peak_dbfs - target.aim_dbfs
        return f"Even with every gain at its lowest and every pad in it arrives {over:.0f} dB above the aim."
    if binds is not None and best.peak_dbfs < target.lowest_dbfs - 0.05:
        return (
            f"{binds.stage} is the ceiling: it has {binds.room_db:.1f} dB of room left at the hardest "
            "playing, and gain before it would clip there."
        )
    if best.peak_dbfs < target.lowest_dbfs - 0.05:
        return "Every gain on the way is at its end."
    aim = level_text(target.aim_dbfs, "dBFS", 0)
    room = f"; {binds.stage} has {binds.room_db:.1f} dB left" if binds is not None else ""
    return (
        f"The hardest playing is at the aim of {aim}: a harder phrase needs what is above it{room}."
    )


def _why_not_quieter(state: LineState) -> str:
    assert state.levels is not None
    converter = state.levels.noise_shares[-1]
    if converter < 0.005:
        return "Quieter would not clip less, and the whole take would have to be raised by as much."
    return (
        f"The recorder’s own hiss is {converter:.0%} of the noise already; quieter it would be more, "
        "and raising the take brings it up."
    )


def _raised(best: Optimum) -> str:
    """How a take with the settings of now sounds once it is raised to the aim.

    source: derivation, raising moves level and noise dB for dB
    """
    peak, noise = best.peak_before_dbfs, best.noise_before_dbfs_a
    if peak is None or noise is None:
        return ""
    up = best.target.aim_dbfs - peak
    if up <= 0.5:
        return ""
    then = noise + up
    worse = then - best.noise_dbfs_a
    said = f"As it is set now, raised afterwards by {up:.0f} dB, its noise is {level_text(then, 'dBFS A', 0)}"
    if worse < 1.0:
        return f"{said}: no more than with these settings. Nothing is gained by turning up."
    return f"{said}: {worse:.0f} dB more than a take made so."


def _settled(session: Session, line_id: str) -> tuple[Session, Optimum] | None:
    found = optimum(session, (line_id,))
    if not found:
        return None
    return apply_changes(session, found[0].changes), found[0]


def _snr(best: Optimum) -> float:
    return best.peak_dbfs - best.noise_dbfs_a


def _tried(
    session: Session, line_id: str, label: str, now: Optimum, changes: tuple[Change, ...] = ()
) -> WayOn | None:
    settled = _settled(session, line_id)
    if settled is None:
        return None
    gained = _snr(settled[1]) - _snr(now)
    if gained < 1.0 and settled[1].reaches_aim <= now.reaches_aim:
        return None
    return WayOn(label=label, snr_db=gained, reaches_aim=settled[1].reaches_aim, changes=changes)


def _softer(session: Session, state: LineState, now: Optimum, over_db: float) -> list[WayOn | None]:
    """What makes a line arrive lower where no gain or pad can: more distance, less from the instrument."""
    found: list[WayOn | None] = []
    distance = state.route.hops[0].controls.get("distance_m")
    if distance is not None:
        # A little more than the law of distance asks for: a source has a size.
        far = distance.clamped(float(distance.value or 0.0) * 10.0 ** ((over_db + 1.0) / 20.0))
        change = Change(
            owner=distance.owner, channel=distance.channel, name="distance_m", value=far
        )
        label = f"Go back, to {far * 100:.0f} cm"
        found.append(_tried(set_control(session, change), state.line.id, label, now, (change,)))
    source = state.route.source
    for control in controls_of(session.setup, source.id):
        if control.name == "volume_position":
            value = round(float(control.value or 1.0) * 10.0 ** (-(over_db + 1.0) / 20.0), 2)
            change = Change(
                owner=control.owner, channel=control.channel, name=control.name, value=value
            )
            label = f"Turn {source.name} down to {value:.0%}"
            found.append(_tried(set_control(session, change), state.line.id, label, now, (change,)))
    return found


def _other_microphones(session: Session, state: LineState, now: Optimum) -> list[WayOn | None]:
    """Microphones of the kit that stand unused, in the place of this line's."""
    hop = state.route.hops[0]
    if not isinstance(hop.device.figures, MicrophoneFigures):
        return []
    used: dict[str, int] = {}
    for device in session.setup.devices:
        if device.kit_item is not None:
            used[device.kit_item] = used.get(device.kit_item, 0) + 1
    found = []
    for item in session.kit:
        is_free = isinstance(item.device, MicrophoneFigures) and item.quantity > used.get(
            item.id, 0
        )
        if not is_free or item.device is None or item.device == hop.device.figures:
            continue
        changed = exchange_device(session, hop.device.id, item.device, item.name)
        label = f"{item.name} from your kit instead"
        found.append(_tried(changed, state.line.id, label, now))
    return found


def ways_on(session: Session, state: LineState, now: Optimum) -> tuple[WayOn, ...]:
    """What else would help this line, each computed with its gains set anew, the most first."""
    line_id = state.line.id
    found: list[WayOn | None] = []
    first = state.route.hops[0]
    distance = first.controls.get("distance_m")
    over = now.peak_dbfs - now.target.highest_dbfs
    if distance is not None and over <= 0.05:
        is_voice = state.route.source.figures.player == "voice"
        least = LEAST_DISTANCE_M["voice" if is_voice else "other"]
        near = max(least, float(distance.value or 0.0) / 2.0)
        if near < float(distance.value or 0.0) - 0.005:
            change = Change(
                owner=distance.owner, channel=distance.channel, name="distance_m", value=near
            )
            label = f"Go closer, to {near * 100:.0f} cm"
            found.append(_tried(set_control(session, change), line_id, label, now, (change,)))
        room = session.setup.room
        quieter = room.model_copy(update={"noise_dba": room.noise_dba - _QUIETER_ROOM_DB})
        label = f"A room {_QUIETER_ROOM_DB:.0f} dB quieter: fans and fridges off, windows shut"
        found.append(_tried(set_room(session, quieter), line_id, label, now))
    found += _other_microphones(session, state, now)
    if over > 0.05:
        found += _softer(session, state, now, over)
    if not now.reaches_aim:
        for key, school in SCHOOLS.items():
            if key not in {session.setup.school, "own", "meter"}:
                changed = set_school(session, key)
                settled = _settled(changed, line_id)
                if settled is not None and settled[1].reaches_aim:
                    found.append(
                        WayOn(label=f"Another aim: {school.name}", snr_db=0.0, reaches_aim=True)
                    )
                    break
    ranked = sorted(
        (w for w in found if w is not None), key=lambda w: (not w.reaches_aim, -w.snr_db)
    )
    return tuple(ranked)


def certificates(session: Session) -> tuple[Certificate, ...]:
    """The best settings of every line with what can be said of them."""
    best = optimum(session)
    after = apply_changes(session, all_changes(best))
    found = []
    for one in best:
        state = _state(after, one.line)
        if state is None or state.levels is None:
            continue
        on = ways_on(after, state, one)
        found.append(
            Certificate(
                line=one.line,
                name=state.line.name,
                best=one,
                why_not_louder=_why_not_louder(one),
                why_not_quieter=_why_not_quieter(state),
                noise=noise_sentence(state),
                raised=_raised(one),
                ways_on=on,
            )
        )
    return tuple(found)


def noise_sentence(state: LineState) -> str:
    """Whose the noise is that remains, and whether anything is to be done about it."""
    assert state.levels is not None
    room = state.levels.noise_shares[0] if state.staged and len(state.staged.parts) > 1 else 0.0
    is_air = state.staged is not None and state.staged.parts[1].role == "microphone"
    parts = _noise_of(state)
    if not parts:
        return "No noise is known of."
    if is_air and room > 0.5:
        rest = 1.0 - room
        above = 99.0 if rest <= 0.0 else _ratio_db(room, rest)
        tail = " Leave it: no other gear would be heard." if above > _LEAVE_DB else ""
        return f"The room is {above:.0f} dB above everything else that hisses.{tail}"
    name, share = parts[0]
    return f"{name} is {share:.0%} of the noise that remains."


def _noise_of(state: LineState) -> list[tuple[str, float]]:
    """Stages by their share of the noise, the largest first."""
    assert state.staged is not None
    assert state.levels is not None
    names = {hop.device.id: hop.device.name for hop in state.route.hops}
    found: dict[str, float] = {}
    for part, share in zip(state.staged.parts, state.levels.noise_shares, strict=True):
        name = names.get(part.owner, state.route.source.name)
        if part.role == "cable":
            name = "The cables"
        elif isinstance(part.stage, Sound):
            name = "The room"
        found[name] = found.get(name, 0.0) + share
    return sorted(found.items(), key=lambda item: -item[1])


def _ratio_db(over: float, under: float) -> float:
    return 10.0 * math.log10(over / under)
