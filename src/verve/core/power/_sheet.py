"""The run sheet: the order in which a patch is set up, changed and taken down without harm or bang.

The order is found by rule and checked by a model of states (`hazards`), which tests let walk through the
sheets of random patches.
"""

from __future__ import annotations

from collections.abc import Sequence

from verve.core.kind import control_text
from verve.core.network import devices_reached
from verve.core.power._states import (
    WAIT_S,
    Kind,
    RunStep,
    amplifier_of,
    complete_routes,
    facts_of,
)
from verve.core.session import Route, Setup


def _step(kind: Kind, subject: str, words: str, reason: str, extra: str = "") -> RunStep:
    return RunStep(
        key=f"{kind}:{subject}{extra}", kind=kind, subject=subject, words=words, reason=reason
    )


def _monitors(*, up: bool) -> RunStep:
    if up:
        return _step(
            "monitors_up",
            "monitors",
            "Monitors and headphones up again, slowly.",
            "Last of all: until now anything could have banged.",
        )
    return _step(
        "monitors_down",
        "monitors",
        "Monitors and headphones all the way down; headphones off the ears.",
        "Plugs and phantom power bang; no ear and no loudspeaker should hear it.",
    )


def _plug_words(route: Route, number: int, *, out: bool) -> str:
    hop = route.hops[number]
    start = route.source.name
    if number > 0:
        before = route.hops[number - 1]
        start = before.name
        if before.out_port not in {None, "out"}:
            start += f", {(before.out_port or '').replace('.', ' ')}"
    end = hop.name
    if hop.port_name:
        end += f", {hop.in_port.removeprefix('in.')}"
    return f"Unplug {start} from {end}." if out else f"Plug {start} into {end}."


def _places(found: Sequence[Route]) -> list[RunStep]:
    steps = []
    for route in found:
        distance = route.hops[0].controls.get("distance_m")
        if distance is not None:
            at = control_text(distance, distance.value)
            name = route.hops[0].name
            words = f"Put {name} before {route.source.name}, at {at}."
            steps.append(_step("place", route.line.id, words, "Distance is level, room and bass."))
    return steps


def _plugs(found: Sequence[Route], *, out: bool = False) -> list[RunStep]:
    steps: dict[str, RunStep] = {}
    for route in found:
        for number, hop in enumerate(route.hops):
            if hop.cable is None or hop.link.id in steps:
                continue
            words = _plug_words(route, number, out=out)
            reason = (
                "Nothing is up and no phantom power is on: a plug harms nothing now."
                if not out
                else "Phantom power is off and has fallen."
            )
            kind: Kind = "unplug" if out else "plug"
            steps[hop.link.id] = _step(kind, hop.link.id, words, reason)
    ordered = list(steps.values())
    return ordered[::-1] if out else ordered


def _boxes(setup: Setup, found: Sequence[Route]) -> list[tuple[str, str]]:
    used = {hop.owner for route in found for hop in route.hops}
    boxes = [d for d in setup.devices if d.id in used and d.figures.mains_rank is not None]
    # What is nearer to the sources comes up first, so that nothing bangs into what is on already.
    boxes.sort(key=lambda d: d.figures.mains_rank or 0)
    return [(d.id, d.name) for d in boxes]


def _amplifiers(found: Sequence[Route], *, on: bool) -> list[RunStep]:
    """Amplifiers that lines begin at: loaded before they come on, off before anything is unplugged."""
    amplifiers = {route.source.id: route.source.name for route in found if amplifier_of(route)}
    steps = []
    for key, name in amplifiers.items():
        if on:
            words = f"See that the loudspeaker is plugged into {name}."
            reason = "A valve amplifier without its load can be destroyed within seconds."
            steps.append(_step("load", key, words, reason))
        word = "on" if on else "off"
        reason = (
            "Everything is plugged; it bangs into nothing that is up."
            if on
            else "Loudspeaker level is live until it is off; let it cool before it is carried."
        )
        kind: Kind = "power_on" if on else "power_off"
        steps.append(_step(kind, key, f"Switch {name} {word}.", reason))
    return steps


def _phantom(setup: Setup, switches: Sequence[str], *, on: bool) -> list[RunStep]:
    names = {d.id: d.name for d in setup.devices}
    steps = []
    for key in switches:
        device, _, switch = key.partition(":")
        words = f"Phantom power {'on' if on else 'off'} at {names[device]}, {switch}."
        reason = (
            "Every cable is in: from here on nothing on this switch is plugged or unplugged."
            if on
            else "Before anything on this switch is unplugged."
        )
        steps.append(_step("phantom_on" if on else "phantom_off", key, words, reason))
    if steps:
        said = "it has risen" if on else "it has fallen"
        subject = ",".join(switches)
        words = f"Wait {WAIT_S} seconds, until {said}."
        steps.append(
            _step(
                "wait", subject, words, "What hangs on it settles meanwhile.", "on" if on else "off"
            )
        )
    return steps


def _gains(found: Sequence[Route], *, up: bool) -> list[RunStep]:
    steps = []
    for route in found:
        controls = [
            c
            for hop in route.hops
            if hop.figures.is_furniture and (c := hop.controls.get("gain_db")) is not None
        ]
        said = ", ".join(f"{c.said} {control_text(c, c.value)}" for c in controls)
        if up:
            words = f"{route.line.name}: up to {said}."
            reason = "While the player plays the hardest of this song."
        else:
            words = f"{route.line.name}: gain all the way down."
            reason = "What is about to be plugged or switched would come through it."
        steps.append(_step("gain_up" if up else "gain_down", route.line.id, words, reason))
    return steps


def set_up_sheet(setup: Setup) -> tuple[RunStep, ...]:
    """From nothing plugged to ready: connections first, monitors down, phantom, wait, gains, monitors.

    Empty for a patch without a whole line.
    """
    found = complete_routes(setup)
    if not found:
        return ()
    facts = facts_of(found)
    safe = [key for key in sorted(facts.needs) if key not in facts.harmed]
    return (
        _monitors(up=False),
        *_gains(found, up=False),
        *_places(found),
        *_plugs(found),
        *_amplifiers(found, on=True),
        *(
            _step("power_on", key, f"Switch {name} on.", "From the sources to the monitors.")
            for key, name in _boxes(setup, found)
        ),
        *_phantom(setup, safe, on=True),
        *_gains(found, up=True),
        _monitors(up=True),
    )


def tear_down_sheet(setup: Setup) -> tuple[RunStep, ...]:
    """From ready to nothing plugged: gain down, phantom off, wait, unplug; empty without a whole line."""
    found = complete_routes(setup)
    if not found:
        return ()
    facts = facts_of(found)
    on = [key for key in sorted(facts.needs) if key not in facts.harmed]
    return (
        _monitors(up=False),
        *_gains(found, up=False),
        *_phantom(setup, on, on=False),
        *_amplifiers(found, on=False),
        *(
            _step("power_off", key, f"Switch {name} off.", "From the monitors to the sources.")
            for key, name in reversed(_boxes(setup, found))
        ),
        *_plugs(found, out=True),
    )


def change_sheet(setup: Setup, line_id: str) -> tuple[RunStep, ...]:
    """One microphone or instrument exchanged in mid-session; empty for an unknown line.

    Lines that share its phantom switch go down with it: their power goes too.
    """
    found = complete_routes(setup)
    facts = facts_of(found)
    one = next((route for route in found if route.line.id == line_id), None)
    if one is None:
        return ()
    key = facts.switch.get(line_id)
    is_on = key is not None and key in facts.needs and key not in facts.harmed
    shared = set(facts.lines_of_switch(key)) if is_on and key is not None else {line_id}
    shared |= {line for link in facts.links[line_id] for line in facts.lines_of_link(link)}
    together = [route for route in found if route.line.id in shared]
    switches = [key] if is_on and key is not None else []
    return (
        _monitors(up=False),
        *_gains(together, up=False),
        *_phantom(setup, switches, on=False),
        *_amplifiers([one], on=False),
        *_plugs([one], out=True),
        *_places([one]),
        *_plugs([one]),
        *_amplifiers([one], on=True),
        *_phantom(setup, switches, on=True),
        *_gains(together, up=True),
        _monitors(up=True),
    )


def budget(setup: Setup, recorder: str | None = None) -> tuple[tuple[str, str, float], ...]:
    """What draws phantom current: device, line and milliamperes, the largest first.

    `recorder` is the id of one interface; None for all.
    """
    found: dict[str, tuple[str, str, float]] = {}
    for route in complete_routes(setup):
        if recorder is not None and (route.recorder is None or route.recorder.owner != recorder):
            continue
        for fed in devices_reached(route):
            if fed.need == "needs" and fed.current_ma > 0.0:
                found[fed.owner] = (fed.name, route.line.name, fed.current_ma)
    return tuple(sorted(found.values(), key=lambda item: -item[2]))
