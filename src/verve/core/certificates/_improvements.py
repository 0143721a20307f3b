"""What else would help a line, each way computed with its gains set anew."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from verve.core.certificates import _words as words
from verve.core.certificates._reasons import control_name, locked_controls
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.gain import TARGETS, Optimum, optimum
from verve.core.kind import Mode
from verve.core.network import LineState, devices_reached, is_alive, is_fed, legs, powered
from verve.core.session import (
    Change,
    KitItem,
    Route,
    Session,
    controls_of,
    free_inputs,
    insert_device,
    lock_control,
    move_input,
    replace_device,
    routes,
    set_control,
    set_line_level_target,
    set_room,
)
from verve.core.words import fill

LEAST_DISTANCE_M: Mapping[str, float] = {"voice": 0.07, "other": 0.15}
"""Nearer than this a microphone gets in the way, or hears breath and fingers (typical)."""
_QUIETER_ROOM_DB = 6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Improvement:
    """Something else that would lower the noise or reach the aim, with its computed effect.

    unit: dB; positive `snr_db` is further above the noise
    """

    label: str
    snr_db: float
    reaches_target: bool
    changes: tuple[Change, ...] = ()

    def sentence(self, *, is_reached: bool) -> str:
        """It with its effect; `is_reached` is whether the aim is reached without it."""
        effect = []
        if abs(self.snr_db) >= 1.0:
            way = words.FURTHER if self.snr_db > 0.0 else words.NEARER
            effect.append(fill(words.EFFECT, by_db=abs(self.snr_db), way=way))
        if self.reaches_target and not is_reached:
            effect.append(words.AIM_REACHED)
        return f"{self.label}: {', '.join(effect)}." if effect else f"{self.label}."


def _fed(session: Session, line_id: str) -> tuple[Session, bool] | None:
    """The session with the line alive, and whether a switch had to be thrown; None where none brings it."""
    route = _route(session, line_id)
    changed = powered(session, route)
    route = _route(changed, line_id)
    harmed = any(
        is_fed(leg) and any(fed.need == "never" for fed in devices_reached(leg))
        for leg in legs(route)
    )
    return None if harmed or not is_alive(route) else (changed, changed is not session)


def _route(session: Session, line_id: str) -> Route:
    return next(route for route in routes(session.setup) if route.line.id == line_id)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Asked:
    """The line that help is looked for: the session it is in, powered if it can be, and its settings.

    `lives` is whether it gets the power it needs; a line that does not asks no more of a way on.
    """

    session: Session
    state: LineState
    now: Optimum
    lives: bool
    engine: Engine

    def tried(
        self, session: Session, label: str, changes: tuple[Change, ...] = ()
    ) -> Improvement | None:
        """A changed session as a way on, powered and with its gains set anew; None where it is none."""
        line_id = self.state.line.id
        fed = _fed(session, line_id)
        if fed is None and self.lives:
            return None
        if fed is not None:
            session, is_switched = fed
            label += words.WITH_PHANTOM if is_switched else ""
        found = optimum(session, (line_id,), engine=self.engine)
        if not found:
            return None
        (best,) = found
        gained = best.snr_db - self.now.snr_db
        if gained < 1.0 and best.reaches_target <= self.now.reaches_target:
            return None
        return Improvement(
            label=label, snr_db=gained, reaches_target=best.reaches_target, changes=changes
        )


def _softer(asked: _Asked, over_db: float) -> list[Improvement | None]:
    """What makes a line arrive lower where no gain or pad can: more distance, less from the instrument."""
    session, state = asked.session, asked.state
    found: list[Improvement | None] = []
    distance = state.route.steps[0].controls.get("distance_m")
    if distance is not None:
        # A little more than the law of distance asks for: a source has a size.
        far = distance.clamped(float(distance.value or 0.0) * 10.0 ** ((over_db + 1.0) / 20.0))
        change = Change(
            owner=distance.owner, channel=distance.channel, name="distance_m", value=far
        )
        label = fill(words.GO_BACK, distance_cm=far * 100)
        found.append(asked.tried(set_control(session, change), label, (change,)))
    source = state.route.source
    for control in controls_of(session.setup, source.id):
        if control.name == "volume_position":
            value = round(float(control.value or 1.0) * 10.0 ** (-(over_db + 1.0) / 20.0), 2)
            change = Change(
                owner=control.owner, channel=control.channel, name=control.name, value=value
            )
            label = fill(words.TURN_SOURCE_DOWN, source=source.name, position=value)
            found.append(asked.tried(set_control(session, change), label, (change,)))
    return found


def _unused(session: Session) -> list[KitItem]:
    """Devices of the kit of which one at least stands about."""
    used: dict[str, int] = {}
    for device in session.setup.devices:
        if device.kit_item is not None:
            used[device.kit_item] = used.get(device.kit_item, 0) + 1
    return [
        item
        for item in session.kit
        if item.device is not None and item.quantity > used.get(item.id, 0)
    ]


def _other_gear(asked: _Asked) -> list[Improvement | None]:
    """Microphones and interfaces of the kit that stand unused, in the place of this line's."""
    session, state = asked.session, asked.state
    places = [state.route.steps[0], state.route.recorder]
    found: list[Improvement | None] = []
    for item in _unused(session):
        assert item.device is not None
        for step in places:
            if step is None or step.figures.use != item.device.use:
                continue
            if not (item.device.records or item.device.use == "microphone"):
                continue
            if item.device == step.figures:
                continue
            try:
                changed = replace_device(session, step.owner, item.device, item.name)
            except EditError:
                # Too few sockets for what is plugged in: no way on.
                continue
            label = fill(words.KIT_INSTEAD, item=item.name, device=step.name)
            found.append(asked.tried(changed, label))
    return found


def _inline_preamps(asked: _Asked) -> list[Improvement | None]:
    """Inline preamps of the kit that stand unused, between the microphone and what it is plugged into."""
    session, state = asked.session, asked.state
    first = state.route.steps[0]
    if first.figures.use != "microphone" or len(state.route.steps) < 2:
        return []
    found: list[Improvement | None] = []
    for item in _unused(session):
        figures = item.device
        if figures is None or figures.use != "inline_preamp":
            continue
        link = state.route.steps[1].link
        changed = insert_device(session, link.id, figures, item.name)
        label = fill(words.KIT_BEHIND, item=item.name, device=first.name)
        found.append(asked.tried(changed, label))
    return found


def _fitting_modes(state: LineState) -> frozenset[Mode]:
    """Kinds of input that what stands before the recorder is made for."""
    boxes = state.steps_before_recorder()
    if not boxes:
        return frozenset({"instrument", "line"})
    level = boxes[-1].figures.output_level()
    return frozenset({"line"} if level == "line" else {"microphone"})


def _other_inputs(asked: _Asked) -> list[Improvement | None]:
    """Free sockets of the same recorder and its own in another mode: one of each kind."""
    session, state = asked.session, asked.state
    recorder = state.route.recorder
    if recorder is None or recorder.capsule is not None:
        return []
    found: list[Improvement | None] = []
    figures_of = recorder.figures.modes
    seen = [recorder.mode_figures]
    free = [port for device, port in free_inputs(session.setup) if device.id == recorder.owner]
    for port in (recorder.in_port, *free):
        for mode in sorted(_fitting_modes(state) & set(figures_of(port))):
            figures = figures_of(port)[mode]
            if figures in seen or recorder.figures.capsule(port) is not None:
                continue
            seen.append(figures)
            changed = move_input(session, state.line.id, port, mode)
            label = fill(
                words.OTHER_INPUT,
                input=recorder.figures.port_name(port),
                recorder=recorder.name,
                mode=mode,
            )
            found.append(asked.tried(changed, label))
    return found


def _let_go(asked: _Asked) -> list[Improvement | None]:
    """What is kept, free again."""
    session, state = asked.session, asked.state
    kept = locked_controls(state)
    if not kept:
        return []
    for _, control in kept:
        session = lock_control(
            session, control.owner, control.channel, control.name, is_locked=False
        )
    label = fill(words.UNLOCK, controls=", ".join((control_name(step, c) for step, c in kept)))
    return [asked.tried(session, label)]


def improvements_of(
    session: Session, state: LineState, now: Optimum, engine: Engine | None = None
) -> tuple[Improvement, ...]:
    """What else would help this line, each computed with its gains set anew, the most first."""
    line_id = state.line.id
    fed = _fed(session, line_id)
    if fed is not None:
        session = fed[0]
    asked = _Asked(
        session=session, state=state, now=now, lives=fed is not None, engine=engine or Engine()
    )
    found: list[Improvement | None] = []
    first = state.route.steps[0]
    distance = first.controls.get("distance_m")
    if distance is not None and not now.is_above:
        is_voice = state.route.source.figures.player == "voice"
        least = LEAST_DISTANCE_M["voice" if is_voice else "other"]
        near = max(least, float(distance.value or 0.0) / 2.0)
        if near < float(distance.value or 0.0) - 0.005:
            change = Change(
                owner=distance.owner, channel=distance.channel, name="distance_m", value=near
            )
            label = fill(words.GO_CLOSER, distance_cm=near * 100)
            found.append(asked.tried(set_control(session, change), label, (change,)))
        room = session.setup.room
        quieter = room.model_copy(update={"noise_dba": room.noise_dba - _QUIETER_ROOM_DB})
        label = fill(words.QUIETER_ROOM, by_db=_QUIETER_ROOM_DB)
        found.append(asked.tried(set_room(session, quieter), label))
    for more in (_other_gear, _inline_preamps, _other_inputs, _let_go):
        found += more(asked)
    if now.is_above:
        over_db = now.with_others_dbfs - now.target.highest_dbfs
        found += _softer(asked, over_db)
    if not now.reaches_target:
        for key, level_target in TARGETS.items():
            if key in {state.line.level_target or session.setup.level_target, "own", "meter"}:
                continue
            changed = set_line_level_target(session, line_id, key)
            way = asked.tried(changed, fill(words.OTHER_TARGET, target=level_target.name))
            if way is not None and way.reaches_target:
                found.append(replace(way, snr_db=0.0))
                break
    ranked = sorted(
        (w for w in found if w is not None), key=lambda w: (not w.reaches_target, -w.snr_db)
    )
    return tuple(ranked)
