"""The run sheet's model of states: where a row of steps could harm something or bang in ears."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, assert_never

from verve.core.engine import Engine
from verve.core.kind import SourceFigures
from verve.core.network import devices_reached, is_used, legs, supplier_of, switch_of
from verve.core.power import _words as words
from verve.core.session import Route, Setup, routes
from verve.core.words import Place, fill

WAIT_S = 10
"""How long a phantom supply needs to rise or to fall with what hangs on it (typical)."""
Kind = Literal[
    "monitors_down", "monitors_up", "listen", "gain_down", "gain_up", "plug", "unplug", "power_on",
    "power_off", "phantom_on", "phantom_off", "wait", "place", "load", "arm",
]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class RunStep:
    """One thing to do, with its reason. `subject` is a line, link, switch or device."""

    key: str
    kind: Kind
    subject: str
    words: str
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Hazard:
    """What could go wrong at a step: harm to gear, or a bang in ears."""

    step: str
    words: str
    instead: str


@dataclass(slots=True)
class _World:
    """What is on, plugged and turned up at one moment."""

    monitors_up: bool
    plugged: set[str] = field(default_factory=set)
    powered: set[str] = field(default_factory=set)
    phantom: set[str] = field(default_factory=set)
    settling: set[str] = field(default_factory=set)
    loud: set[str] = field(default_factory=set)
    loaded: set[str] = field(default_factory=set)


@dataclass(frozen=True, slots=True, kw_only=True)
class PatchFacts:
    """What a patch says about its parts: which line has which links, boxes, switches and recorder.

    `on` are the phantom switches that are on now, whether anything needs them or not.
    """

    links: Mapping[str, tuple[str, ...]]
    passes: Mapping[str, tuple[str, ...]]
    switch: Mapping[str, tuple[str, ...]]
    needs: frozenset[str]
    harmed: Mapping[str, str]
    recorder: Mapping[str, str]
    amplifier: Mapping[str, str]
    valves: frozenset[str]
    on: frozenset[str]

    def lines_of_switch(self, switch: str) -> tuple[str, ...]:
        """Lines that a phantom switch feeds."""
        return tuple(line for line, own in self.switch.items() if switch in own)

    def lines_of_link(self, link: str) -> tuple[str, ...]:
        """Lines that pass a cable."""
        return tuple(line for line, own in self.links.items() if link in own)


def _key_of_switch(route: Route) -> str | None:
    supplier, name = supplier_of(route), switch_of(route)
    if name is None or supplier is None:
        return None
    return f"{supplier.owner}:{name}"


def _switched_on(setup: Setup) -> set[str]:
    """Every phantom switch that is on, of inputs that nothing is plugged into too."""
    return {
        f"{device.id}:{name}"
        for device in setup.devices
        for port in device.figures.input_ports()
        if (name := device.figures.phantom_switch(port)) is not None
        and device.figures.has_phantom_on(port, device.settings)
    }


def facts_of(setup: Setup, found: Sequence[Route]) -> PatchFacts:
    """What the ways of a patch say about its cables, switches and needs."""
    switch: dict[str, tuple[str, ...]] = {}
    needs, harmed = set(), {}
    for route in found:
        for leg in legs(route):
            key = _key_of_switch(leg)
            if key is None:
                continue
            switch[route.line.id] = (*switch.get(route.line.id, ()), key)
            if is_used(leg):
                needs.add(key)
            for fed in devices_reached(leg):
                if fed.need == "never":
                    harmed[key] = fed.name
    amplifiers = {r.line.id: r.source.id for r in found if amplifier_of(r) is not None}
    return PatchFacts(
        links={r.line.id: tuple(h.link.id for h in r.steps if h.cable is not None) for r in found},
        passes={r.line.id: tuple(step.owner for step in r.steps) for r in found},
        switch=switch,
        needs=frozenset(needs),
        harmed=harmed,
        recorder={r.line.id: r.recorder.owner for r in found if r.recorder is not None},
        amplifier=amplifiers,
        valves=frozenset(
            r.source.id
            for r in found
            if (own := amplifier_of(r)) is not None and own.is_valve_output()
        ),
        on=frozenset(_switched_on(setup)),
    )


def amplifier_of(route: Route) -> SourceFigures | None:
    """The figures of the amplifier that drives a loudspeaker at the beginning of a line; None for others."""
    figures = route.source.figures
    return figures if figures.is_amplifier_output() else None


def complete_routes(setup: Setup, engine: Engine | None = None) -> list[Route]:
    """The ways of all lines that end in a recorder."""
    return [route for route in routes(setup, engine) if route.is_complete]


def _start(facts: PatchFacts, steps: Sequence[RunStep]) -> _World:
    """How the world stands before a sheet: with nothing plugged before a set-up, else ready.

    Phantom power is where it is switched on now, not where the patch needs it.
    """
    # What is taken down or changed was ready: something is unplugged, or switched off.
    if all(step.kind not in {"unplug", "power_off"} for step in steps):
        return _World(monitors_up=True, phantom=set(facts.on))
    return _World(
        monitors_up=True,
        plugged={link for own in facts.links.values() for link in own},
        powered=set(facts.recorder.values()) | set(facts.amplifier.values()),
        loaded=set(facts.amplifier.values()),
        phantom=set(facts.on),
        loud=set(facts.links),
    )


def hazards(setup: Setup, steps: Sequence[RunStep]) -> tuple[Hazard, ...]:
    """Where a row of steps passes through a state in which something can be harmed or a bang reaches ears."""
    facts = facts_of(setup, complete_routes(setup))
    return _hazards(facts, _start(facts, steps), steps)


def hazards_between(before: Setup, after: Setup, steps: Sequence[RunStep]) -> tuple[Hazard, ...]:
    """The same for steps that lead from one patch, plugged and turned up, to another one."""
    old = facts_of(before, complete_routes(before))
    new = facts_of(after, complete_routes(after))
    gone = {step.subject for step in steps if step.kind == "unplug"}
    left = {
        key
        for key in old.harmed
        if any(not gone & set(old.links[x]) for x in old.lines_of_switch(key))
    }
    # What has been unplugged before a switch is thrown is not harmed by it; the other patch sees the order.
    old = replace(old, harmed={key: name for key, name in old.harmed.items() if key in left})
    powered = set(old.recorder.values()) | set(old.amplifier.values())
    ready = _World(
        monitors_up=True,
        plugged={link for own in old.links.values() for link in own},
        powered=powered,
        loaded=set(old.amplifier.values()),
        phantom=set(old.on),
        loud=set(old.links),
    )
    # The patch to come meets what is on and plugged now; of it nothing is turned up yet.
    coming = replace(
        ready,
        plugged=set(ready.plugged),
        powered=set(powered),
        loaded=set(ready.loaded),
        phantom=set(old.on),
        loud=set(),
        settling=set(),
    )
    return (*_hazards(old, ready, steps), *_hazards(new, coming, steps))


def _hazards(facts: PatchFacts, world: _World, steps: Sequence[RunStep]) -> tuple[Hazard, ...]:
    found: list[Hazard] = []
    for step in steps:
        found += _judge(step, world, facts)
        _take(step, world)
    return tuple(found)


def _heard(world: _World, lines: Sequence[str]) -> bool:
    return world.monitors_up and any(line in world.loud for line in lines)


def _judge(step: RunStep, world: _World, facts: PatchFacts) -> list[Hazard]:
    found = []
    if step.kind in {"plug", "unplug"}:
        lines = facts.lines_of_link(step.subject)
        live = [
            key
            for line in lines
            for key in facts.switch.get(line, ())
            if key in world.phantom or key in world.settling
        ]
        if live:
            found.append(_hazard(step, words.LIVE_PHANTOM))
        if _heard(world, lines):
            found.append(_hazard(step, words.PLUG_BANGS))
        live_amplifiers = {facts.amplifier.get(line) for line in lines} & world.powered
        if live_amplifiers:
            found.append(_hazard(step, words.LIVE_AMPLIFIER))
    if step.kind == "power_on" and step.subject in facts.valves - world.loaded:
        found.append(_hazard(step, words.UNLOADED))
    if step.kind in {"phantom_on", "phantom_off"}:
        lines = facts.lines_of_switch(step.subject)
        if step.kind == "phantom_on" and step.subject in facts.harmed:
            found.append(_hazard(step, words.HARMED, device=facts.harmed[step.subject]))
        if _heard(world, lines):
            found.append(_hazard(step, words.SWITCH_BANGS))
    if step.kind == "gain_up" and world.settling & set(facts.switch.get(step.subject, ())):
        found.append(_hazard(step, words.STILL_RISING, wait_s=WAIT_S))
    if step.kind in {"power_on", "power_off"}:
        # A mixer or preamp bangs as well as a recorder.
        on_it = [line for line, boxes in facts.passes.items() if step.subject in boxes]
        on_it += [line for line, source in facts.amplifier.items() if source == step.subject]
        if _heard(world, on_it):
            found.append(_hazard(step, words.MAINS_BANG))
    return found


def _hazard(step: RunStep, said: tuple[str, str], **places: Place) -> Hazard:
    what, instead = (fill(template, places) for template in said)
    return Hazard(step=step.key, words=what, instead=instead)


def _take(step: RunStep, world: _World) -> None:
    match step.kind:
        case "monitors_up" | "monitors_down":
            world.monitors_up = step.kind == "monitors_up"
        case "gain_up":
            world.loud.add(step.subject)
        case "gain_down":
            world.loud.discard(step.subject)
        case "load":
            world.loaded.add(step.subject)
        case "plug":
            world.plugged.add(step.subject)
        case "unplug":
            world.plugged.discard(step.subject)
        case "power_on":
            world.powered.add(step.subject)
        case "power_off":
            world.powered.discard(step.subject)
        case "phantom_on":
            world.phantom.add(step.subject)
            world.settling.add(step.subject)
        case "phantom_off":
            world.phantom.discard(step.subject)
            world.settling.add(step.subject)
        case "wait":
            world.settling.difference_update(step.subject.split(","))
        case "place" | "listen" | "arm":
            pass  # a stand that moves, a switch of a monitor: nothing of what is on, plugged or up
        case other:
            assert_never(other)


def next_hazards(
    setup: Setup, sheet: Sequence[RunStep], done: Sequence[RunStep], step: RunStep
) -> tuple[Hazard, ...]:
    """What could be harmed, or bang, if this step of a set-up or tear-down sheet came next, after those done."""
    facts = facts_of(setup, complete_routes(setup))
    world = _start(facts, sheet)
    for one in done:
        _take(one, world)
    return tuple(_judge(step, world, facts))


def ends_alike(setup: Setup, sheet: Sequence[RunStep], steps: Sequence[RunStep]) -> bool:
    """Whether another order of the steps of a sheet ends as the sheet itself does: on, plugged and up alike."""
    facts = facts_of(setup, complete_routes(setup))
    ends = []
    for order in (sheet, steps):
        world = _start(facts, sheet)
        for step in order:
            _take(step, world)
        ends.append(world)
    return ends[0] == ends[1]


def advice(
    setup: Setup, steps: Sequence[RunStep], ticked: Sequence[str], engine: Engine | None = None
) -> str:
    """What to do now, after these steps (by key, in the order they were ticked); empty at the end.

    Where one was ticked too early it says what that could have done, and what to do about it.
    """
    by_key = {step.key: step for step in steps}
    done = [by_key[key] for key in ticked if key in by_key]
    # Only the start of the whole sheet tells how the world stood before it.
    facts = facts_of(setup, complete_routes(setup, engine))
    world = _start(facts, steps)
    last = ""
    for step in done:
        for hazard in _judge(step, world, facts):
            last = fill(words.HAZARD, words=hazard.words, instead=hazard.instead)
        _take(step, world)
    missing = [step for step in steps if step.key not in set(ticked)]
    if not missing:
        return last
    ahead = [step for step in missing if done and steps.index(step) < steps.index(done[-1])]
    now = (ahead or missing)[0]
    said = fill(words.NOW, words=now.words, reason=now.reason)
    if last and ahead:
        return f"{last} {said}"
    return said
