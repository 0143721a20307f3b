"""The run sheet: the order in which a patch is set up, changed and taken down without harm or bang.

The order is found by rule and checked by a model of states (`hazards`), which tests let walk through the
sheets of random patches.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence

from verve.core.engine import Engine
from verve.core.kind import control_text
from verve.core.network import devices_reached, legs, supplier_of
from verve.core.power import _words as words
from verve.core.power._states import (
    WAIT_S,
    Kind,
    RunStep,
    amplifier_of,
    complete_routes,
    facts_of,
)
from verve.core.session import Route, Setup, cue_of, listeners
from verve.core.words import Place, fill, listed

_FEW = 3
"""So many lines are named in a step, the rest counted."""


def _step(
    kind: Kind, subject: str, said: tuple[str, str], *, extra: str = "", **places: Place
) -> RunStep:
    what, reason = (fill(template, places) for template in said)
    return RunStep(
        key=f"{kind}:{subject}{extra}", kind=kind, subject=subject, words=what, reason=reason
    )


def _monitors_down() -> RunStep:
    return _step("monitors_down", "monitors", words.MONITORS_DOWN)


def _monitors_up(found: Sequence[Route]) -> RunStep:
    """Last of all; loudspeakers stay down where something is open that hears them."""
    open_ones = [route.line.name for route in found if route.source.figures.hears_loudspeakers()]
    if not open_ones:
        return _step("monitors_up", "monitors", words.MONITORS_UP)
    few = open_ones[:_FEW]
    more = len(open_ones) - len(few)
    names = listed([*few, fill(words.MORE, count=more)] if more else few)
    return _step("monitors_up", "monitors", words.MONITORS_UP_OPEN, lines=names)


def _listening(setup: Setup) -> list[RunStep]:
    """What everybody is to hear, of whom somebody has said it: set while the monitors are still down."""
    names, said = dict(listeners(setup)), {one.who for one in setup.monitoring.cues}
    found = []
    for who, name in names.items():
        if who not in said:
            continue
        cue = cue_of(setup, who)
        if cue.worn == "nothing" or not cue.ways:
            continue
        switches = [words.DIRECT_ON if "direct" in cue.ways else words.DIRECT_OFF]
        switches.append(words.SOFTWARE_ON if "software" in cue.ways else words.SOFTWARE_OFF)
        if cue.effects != "printed":
            switches.append(words.DRY)
        found.append(_step("listen", who, words.LISTEN, who=name, switches=listed(switches)))
    return found


def _ends(route: Route, number: int) -> tuple[str, str]:
    """Where the cable before a step begins and where it ends, as a person finds them."""
    step = route.steps[number]
    start = route.source.name
    if number > 0:
        before = route.steps[number - 1]
        start = before.name
        if before.out_port not in {None, "out"}:
            port = (before.out_port or "").replace(".", " ")
            start = fill(words.END_OF_CABLE, device=start, port=port)
    end = step.name
    if step.port_name:
        port = step.in_port.removeprefix("in.")
        end = fill(words.END_OF_CABLE, device=end, port=port)
    return start, end


def _places(found: Sequence[Route]) -> list[RunStep]:
    return [
        _step(
            "place",
            route.line.id,
            words.PLACE,
            device=route.steps[0].name,
            source=route.source.name,
            at=control_text(distance, distance.value),
        )
        for route in found
        if (distance := route.steps[0].controls.get("distance_m")) is not None
    ]


def _plugs(
    found: Sequence[Route], *, out: bool = False, left: Collection[str] = ()
) -> list[RunStep]:
    """Each cable once; those of `left` stay as they are."""
    steps: dict[str, RunStep] = {}
    kind: Kind = "unplug" if out else "plug"
    said = words.UNPLUG if out else words.PLUG
    for route in found:
        for number, step in enumerate(route.steps):
            if step.cable is None or step.link.id in {*steps, *left}:
                continue
            start, end = _ends(route, number)
            steps[step.link.id] = _step(kind, step.link.id, said, start=start, end=end)
    ordered = list(steps.values())
    return ordered[::-1] if out else ordered


def _boxes(setup: Setup, found: Sequence[Route]) -> list[tuple[str, str]]:
    used = {step.owner for route in found for step in route.steps}
    boxes = [d for d in setup.devices if d.id in used and d.figures.rank_at_mains() is not None]
    # What is nearer to the sources comes up first, so that nothing bangs into what is on already.
    boxes.sort(key=lambda d: d.figures.rank_at_mains() or 0)
    return [(d.id, d.name) for d in boxes]


def _amplifiers(found: Sequence[Route], *, on: bool) -> list[RunStep]:
    """Amplifiers that lines begin at: loaded before they come on, off before anything is unplugged."""
    amplifiers = {route.source.id: route.source.name for route in found if amplifier_of(route)}
    steps = []
    for key, name in amplifiers.items():
        if on:
            steps.append(_step("load", key, words.LOAD, device=name))
        kind: Kind = "power_on" if on else "power_off"
        said = words.SWITCH_AMPLIFIER_ON if on else words.SWITCH_AMPLIFIER_OFF
        steps.append(_step(kind, key, said, device=name))
    return steps


def _phantom(setup: Setup, switches: Sequence[str], *, on: bool) -> list[RunStep]:
    names = {d.id: d.name for d in setup.devices}
    kind: Kind = "phantom_on" if on else "phantom_off"
    said = words.PHANTOM_ON if on else words.PHANTOM_OFF
    steps = []
    for key in switches:
        device, _, switch = key.partition(":")
        steps.append(_step(kind, key, said, device=names[device], switch=switch))
    if steps:
        said = words.WAIT_ON if on else words.WAIT_OFF
        extra = "on" if on else "off"
        steps.append(_step("wait", ",".join(switches), said, extra=extra, wait_s=WAIT_S))
    return steps


def _gains(found: Sequence[Route], *, up: bool) -> list[RunStep]:
    steps = []
    for route in found:
        controls = [
            c
            for step in route.steps
            if step.figures.rank_at_mains() is not None
            and (c := step.controls.get("gain_db")) is not None
        ]
        gains = ", ".join(f"{c.said} {control_text(c, c.value)}" for c in controls)
        kind: Kind = "gain_up" if up else "gain_down"
        said = words.GAIN_UP if up else words.GAIN_DOWN
        steps.append(_step(kind, route.line.id, said, line=route.line.name, gains=gains))
    return steps


def set_up_sheet(setup: Setup, engine: Engine | None = None) -> tuple[RunStep, ...]:
    """From nothing plugged to ready: what is on off first, connections, phantom, wait, gains, monitors.

    Empty for a patch without a whole line.
    """
    found = complete_routes(setup, engine)
    if not found:
        return ()
    facts = facts_of(setup, found)
    safe = [key for key in sorted(facts.needs) if key not in facts.harmed]
    return (
        _monitors_down(),
        *_gains(found, up=False),
        *_phantom(setup, sorted(facts.on), on=False),
        *_places(found),
        *_plugs(found),
        *_amplifiers(found, on=True),
        *(
            _step("power_on", key, words.SWITCH_ON, device=name)
            for key, name in _boxes(setup, found)
        ),
        *_phantom(setup, safe, on=True),
        *_gains(found, up=True),
        *_listening(setup),
        _monitors_up(found),
    )


def tear_down_sheet(setup: Setup, engine: Engine | None = None) -> tuple[RunStep, ...]:
    """From ready to nothing plugged: gain down, phantom off, wait, unplug; empty without a whole line."""
    found = complete_routes(setup, engine)
    if not found:
        return ()
    facts = facts_of(setup, found)
    return (
        _monitors_down(),
        *_gains(found, up=False),
        # Also where nothing needs it: the next one to plug in here may be harmed by it.
        *_phantom(setup, sorted(facts.on), on=False),
        *_amplifiers(found, on=False),
        *(
            _step("power_off", key, words.SWITCH_OFF, device=name)
            for key, name in reversed(_boxes(setup, found))
        ),
        *_plugs(found, out=True),
    )


def change_sheet(setup: Setup, line_id: str, engine: Engine | None = None) -> tuple[RunStep, ...]:
    """One microphone or instrument exchanged in mid-session; empty for an unknown line.

    Lines that share its phantom switch go down with it: their power goes too. Cables that other lines pass as
    well stay plugged. What must not have phantom power, and has it, loses it on this occasion.
    """
    found = complete_routes(setup, engine)
    facts = facts_of(setup, found)
    one = next((route for route in found if route.line.id == line_id), None)
    if one is None:
        return ()
    keys = facts.switch.get(line_id, ())
    wanted = [key for key in keys if key in facts.needs and key not in facts.harmed]
    on = [key for key in keys if key in facts.on]
    on += [key for key in sorted(facts.on & set(facts.harmed)) if key not in on]
    shared = {line for key in {*wanted, *on} for line in facts.lines_of_switch(key)} or {line_id}
    shared |= {line for link in facts.links[line_id] for line in facts.lines_of_link(link)}
    theirs = {
        link
        for link in facts.links[line_id]
        if any(line != line_id for line in facts.lines_of_link(link))
    }
    together = [route for route in found if route.line.id in shared]
    return (
        _monitors_down(),
        *_gains(together, up=False),
        *_phantom(setup, on, on=False),
        *_amplifiers([one], on=False),
        *_plugs([one], out=True, left=theirs),
        *_places([one]),
        *_plugs([one], left=theirs),
        *_amplifiers([one], on=True),
        *_phantom(setup, wanted, on=True),
        *_gains(together, up=True),
        _monitors_up(found),
    )


def between_sheet(before: Setup, after: Setup, engine: Engine | None = None) -> tuple[RunStep, ...]:
    """From one layer, ready, to another: only what has to move is touched, and cables stay plugged where they can.

    Empty where nothing is to be done. A patch of which nothing is whole is set up from the start.
    """
    old, new = complete_routes(before, engine), complete_routes(after, engine)
    if not new:
        return ()
    if not old:
        return set_up_sheet(after, engine)
    was, will = facts_of(before, old), facts_of(after, new)
    had, has = _cables(old), _cables(new)
    fresh = {place: link for place, link in has.items() if place not in had}
    taken = {end for place in fresh for end in place}
    pulled = {place: link for place, link in had.items() if taken & set(place)}
    touched = {*fresh.values(), *pulled.values()}
    leaving = [r for r in old if pulled.keys() & _cables([r]).keys()]
    coming = [r for r in new if fresh.keys() & _cables([r]).keys()]
    switches = {key for r in leaving for key in was.switch.get(r.line.id, ())}
    switches |= {key for r in coming for key in will.switch.get(r.line.id, ())}
    switches |= {key for key in was.on if key in will.harmed}
    off = sorted(switches & was.on)
    on = sorted(will.needs - set(will.harmed) - (was.on - set(off)))
    lines = {line for key in (*off, *on) for line in was.lines_of_switch(key)}
    lines |= {route.line.id for route in leaving}
    lowered = [route for route in old if route.line.id in lines]
    raised = [
        r
        for r in new
        if r in coming or _is_turned(r, old) or set(on) & set(will.switch.get(r.line.id, ()))
    ]
    powered = {key for key, _ in _boxes(before, old)}
    other = [(key, name) for key, name in _boxes(after, new) if key not in powered]
    moved = _places([route for route in new if _is_moved(route, old)])
    keep_up = {r.source.id for r in old if amplifier_of(r)}
    new_amplifiers = [
        r for r in coming if r.source.id not in keep_up or r.source.id in _started(leaving)
    ]
    steps = (
        *_gains(lowered, up=False),
        *_phantom(before, off, on=False),
        *_amplifiers(leaving, on=False),
        *_plugs(old, out=True, left={link for link in had.values() if link not in pulled.values()}),
        *moved,
        *_plugs(new, left={link for link in has.values() if link not in fresh.values()}),
        *_amplifiers(new_amplifiers, on=True),
        *(_step("power_on", key, words.SWITCH_ON, device=name) for key, name in other),
        *_phantom(after, on, on=True),
        *_gains(raised, up=True),
    )
    arms = _arms(old, new)
    if not touched and not off and not on and not other:
        return (*steps, *arms)
    return (_monitors_down(), *steps, *arms, _monitors_up(new))


def _cables(found: Sequence[Route]) -> dict[tuple[str, str], str]:
    """Cables by where they are plugged."""
    return {
        (step.link.start, step.link.end): step.link.id
        for route in found
        for step in route.steps
        if step.cable is not None
    }


def _started(found: Sequence[Route]) -> set[str]:
    return {route.source.id for route in found}


def _same(route: Route, old: Sequence[Route]) -> Route | None:
    """What went through the same pieces before, if anything did."""
    own = [(step.owner, step.in_port) for step in route.steps]
    return next((r for r in old if [(s.owner, s.in_port) for s in r.steps] == own), None)


def _is_moved(route: Route, old: Sequence[Route]) -> bool:
    """Whether its microphone has to stand elsewhere, or before somebody else."""
    before = _same(route, old)
    if before is None or before.source.id != route.source.id:
        return True
    own, then = (r.steps[0].controls.get("distance_m") for r in (route, before))
    return own is not None and then is not None and own.value != then.value


def _is_turned(route: Route, old: Sequence[Route]) -> bool:
    """Whether any gain of it is another one than there was on the same way."""
    before = _same(route, old)
    if before is None:
        return True
    return any(
        (own := step.controls.get("gain_db")) is not None
        and (then := was.controls.get("gain_db")) is not None
        and own.value != then.value
        for step, was in zip(route.steps, before.steps, strict=True)
    )


def _arms(old: Sequence[Route], new: Sequence[Route]) -> list[RunStep]:
    """Signals that take over an input: the one before is recorded no more."""
    ends = {(r.recorder.owner, r.recorder.in_port): r.line for r in old if r.recorder is not None}
    found = []
    for route in new:
        if route.recorder is None or any(r.line.id == route.line.id for r in old):
            continue
        before = ends.get((route.recorder.owner, route.recorder.in_port))
        armed, key = route.line.name, route.line.id
        found.append(
            _step("arm", key, words.ARM_ALONE, armed=armed)
            if before is None
            else _step("arm", key, words.ARM, armed=armed, disarmed=before.name)
        )
    return found


def budget(
    setup: Setup, recorder: str | None = None, engine: Engine | None = None
) -> tuple[tuple[str, str, float], ...]:
    """What draws phantom current: device, line and milliamperes, the largest first.

    `recorder` is the id of one interface, mixer or preamp that gives it; None for all.
    """
    found: dict[str, tuple[str, str, float]] = {}
    for route in complete_routes(setup, engine):
        for leg in legs(route):
            supplier = supplier_of(leg)
            if recorder is not None and (supplier is None or supplier.owner != recorder):
                continue
            for fed in devices_reached(leg):
                if fed.need == "needs" and fed.current_ma > 0.0:
                    found[fed.owner] = (fed.name, route.line.name, fed.current_ma)
    return tuple(sorted(found.values(), key=lambda item: -item[2]))
