"""Days of several layers: planned, and walked from each to each in a second model of states."""

from __future__ import annotations

import itertools
import random
from collections.abc import Sequence

from prove.report import Tally
from prove.second_model import SecondModel
from prove.sheets import whole
from verve.core.catalogue import catalogue
from verve.core.connections import NoSuggestion
from verve.core.day import plan_day
from verve.core.power import RunStep, between_sheet
from verve.core.session import Brief, KitItem, Part, Pass, Session, Setup, add_double, patch_of

_SOURCES = (
    "voice_singing", "voice_speaking", "acoustic_guitar", "cello", "flute", "piezo_bridge",
    "single_coil", "keyboard_output", "synth_output", "harp",
)  # fmt: skip
_GEAR = (
    "moving_coil", "moving_coil_low", "ribbon", "condenser_small", "condenser_large",
    "inline_preamp", "passive_di", "active_di", "small_mixer",
)  # fmt: skip
_INTERFACES = ("interface_two", "interface_four", "interface_eight")
_CABLES = ("balanced_5", "balanced_10", "instrument_3", "line_3")


def _part(key: str, number: int) -> Part:
    entry = catalogue().sources[key]
    is_air = entry.figures.is_acoustic
    return Part.model_validate(
        {
            "id": f"part_{number}",
            "name": f"{entry.name} {number}",
            "performer": f"Player {number % 3}",
            "sound": entry.figures if is_air else None,
            "plug": None if is_air else entry.figures,
            "capture": "microphone" if is_air else "plug",
        }
    )


def day_of(number: int) -> Session:
    """A day with a few layers, made from its number alone."""
    rng = random.Random(number)
    entries = catalogue()
    parts = tuple(_part(rng.choice(_SOURCES), n) for n in range(rng.randint(2, 5)))
    passes = tuple(
        Pass(
            id=f"layer_{n}",
            name=f"Layer {n}",
            parts=tuple(rng.sample([p.id for p in parts], rng.randint(1, 2))),
        )
        for n in range(rng.randint(2, 4))
    )
    kit = [
        KitItem(
            id=key, name=entries.devices[key].name, quantity=1, device=entries.devices[key].figures
        )
        for key in (rng.choice(_INTERFACES), *rng.sample(_GEAR, 5))
    ]
    kit += [
        KitItem(id=key, name=key, quantity=rng.randint(1, 4), cable=entries.cables[key].figures)
        for key in _CABLES
    ]
    return Session(brief=Brief(parts=parts, passes=passes), kit=tuple(kit))


def between(before: Setup, after: Setup) -> list[str]:
    """What is wrong with going from one layer, ready, to another one: each patch looks at what it knows of."""
    steps = between_sheet(before, after)
    old, new = SecondModel(before).all_up(), SecondModel(after)
    new.plugged = {link.id for link in after.links if link.id in old.plugged or link.cable is None}
    new.mains, new.loaded, new.volts = set(old.mains), set(old.loaded), set(old.volts)
    ended = [_walk_known(model, steps) for model in (old, new)]
    said = [sentence for model in ended for sentence in model.said]
    said += [f"ends with 48 V on {o}" for o in new.harmed()]
    if left := whole(after) - new.plugged:
        said.append(f"not plugged at the end: {sorted(left)}")
    ends = {link.end for link in after.links}
    crossing = [
        link.id
        for link in before.links
        if link.id in old.plugged and link.cable is not None and link.end in ends
        and all(other.id != link.id for other in after.links)
    ]  # fmt: skip
    said += [f"two cables in one socket: {key}" for key in crossing]
    return said


def _walk_known(model: SecondModel, steps: Sequence[RunStep]) -> SecondModel:
    """The steps of which a patch knows the cable or the signal; mains, switches and monitors are everybody's."""
    links = {link.id for link in model.setup.links}
    lines = {line.id for line in model.setup.lines}
    for step in steps:
        own = {"plug": links, "unplug": links, "gain_up": lines, "gain_down": lines}.get(step.kind)
        if own is None or step.subject in own:
            model.do(step)
    return model


def days_walked(count: int, first: int) -> Tally:
    """The run sheets between all layers of planned days, forwards and back."""
    tally = Tally("run sheets between layers, in a second model of states")
    for number in range(first, first + count):
        session = day_of(number)
        plan = plan_day(session)
        if isinstance(plan, NoSuggestion):
            tally.note("not to be patched")
            continue
        done = plan.session
        if number % 2 and done.setup.lines:
            done = add_double(done, done.setup.lines[0].id)
        setups = [patch_of(done, one.id) for one in done.brief.passes]
        for start, end in itertools.permutations(range(len(setups)), 2):
            before, after = setups[start], setups[end]
            assert before is not None
            assert after is not None
            if said := between(before, after):
                tally.fault(f"day {number}, layer {start + 1} to {end + 1}: {said[0]}")
            else:
                tally.note("between layers")
    return tally
