"""The run sheet: no step of any sheet of any patch harms something or bangs in ears."""

from __future__ import annotations

import itertools
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.catalogue import Chain, ChainLine, add_chain, catalogue
from verve.core.power import (
    advice,
    between_sheet,
    budget,
    change_sheet,
    hazards,
    hazards_between,
    set_up_sheet,
    tear_down_sheet,
)
from verve.core.session import (
    Change,
    Session,
    Setup,
    add_double,
    apply_changes,
    controls_of,
    move_input,
    only_lines,
    replace_device,
    routes,
)

ENTRIES = catalogue()
CHAINS = [chain.id for chain in ENTRIES.chains]


OWN = {
    "valve_amplifier": ChainLine(
        suffix="",
        source="valve_amplifier_speaker_output",
        devices=("passive_di",),
        cables=("instrument_3", "balanced_5"),
        mode="microphone",
    ),
    "split": ChainLine(
        suffix="",
        source="voice_singing",
        devices=("condenser_large", "splitter"),
        cables=("balanced_5", "balanced_5"),
        mode="microphone",
    ),
    "output": ChainLine(
        suffix="",
        source="keyboard_output",
        devices=(),
        cables=("xlr_to_jack_3",),
        mode="microphone",
    ),
}
"""Ways that no chain of the catalogue has, and in which things can be harmed."""
CHAINS += list(OWN)


def patch_of(keys: list[str]) -> Setup:
    session = Session()
    for key in keys:
        if key in OWN:
            chain = Chain(id=key, name=key, line_name=key, says=key, lines=(OWN[key],))
        else:
            chain = ENTRIES.chain(key)
        session, _ = add_chain(session, ENTRIES, chain)
    return session.setup


@settings(max_examples=40)
@given(keys=st.lists(st.sampled_from(CHAINS), min_size=1, max_size=6))
def test_no_sheet_of_any_patch_passes_through_a_dangerous_state(keys: list[str]) -> None:
    setup = patch_of(keys)
    assert hazards(setup, set_up_sheet(setup)) == ()
    assert hazards(setup, tear_down_sheet(setup)) == ()
    for line in setup.lines:
        sheet = change_sheet(setup, line.id)
        assert sheet
        assert hazards(setup, sheet) == ()


@settings(max_examples=40)
@given(keys=st.lists(st.sampled_from(CHAINS), min_size=1, max_size=4), seed=st.integers(0, 99))
def test_a_shuffled_sheet_is_found_out_where_it_matters(keys: list[str], seed: int) -> None:
    setup = patch_of(keys)
    steps = list(set_up_sheet(setup))
    random.Random(seed).shuffle(steps)
    kinds = [step.kind for step in steps]
    found = {hazard.step for hazard in hazards(setup, steps)}
    for at, step in enumerate(steps):
        if step.kind == "plug" and "phantom_on" in kinds[:at]:
            on = {s.subject for s in steps[:at] if s.kind == "phantom_on"}
            lines = [
                line
                for line in setup.lines
                if any(key in step_switches(setup, line.id) for key in on)
                and step.subject in step_links(setup, line.id)
            ]
            if lines:
                assert step.key in found


@settings(max_examples=40)
@given(
    keys=st.lists(st.sampled_from(CHAINS), min_size=1, max_size=5),
    switches=st.lists(st.booleans(), min_size=8, max_size=8),
)
def test_wherever_phantom_power_is_on_now_nothing_is_plugged_under_it(
    keys: list[str], switches: list[bool]
) -> None:
    setup = patch_of(keys)
    found = [
        control
        for device in setup.devices
        for control in controls_of(setup, device.id)
        if control.name == "phantom"
    ]
    changes = tuple(
        Change(owner=c.owner, channel=c.channel, name=c.name, value=on)
        for c, on in zip(found, itertools.cycle(switches), strict=False)
    )
    setup = apply_changes(Session(setup=setup), changes).setup
    for sheet in (set_up_sheet(setup), tear_down_sheet(setup)):
        assert hazards(setup, sheet) == ()
    on = {s.subject for s in tear_down_sheet(setup) if s.kind == "phantom_off"}
    assert on == {s.subject for s in set_up_sheet(setup) if s.kind == "phantom_off"}
    for line in setup.lines:
        assert hazards(setup, change_sheet(setup, line.id)) == ()


def step_links(setup: Setup, line_id: str) -> set[str]:
    return {s.subject for s in change_sheet(setup, line_id) if s.kind == "plug"}


def step_switches(setup: Setup, line_id: str) -> set[str]:
    return {s.subject for s in change_sheet(setup, line_id) if s.kind == "phantom_on"}


def kinds(steps: tuple[object, ...]) -> list[str]:
    return [step.kind for step in steps]  # type: ignore[attr-defined]


def test_the_order_of_setting_up(mended: Session) -> None:
    order = kinds(set_up_sheet(mended.setup))
    assert order[0] == "monitors_down"
    assert order[-1] == "monitors_up"
    last_plug = max(i for i, k in enumerate(order) if k == "plug")
    assert last_plug < order.index("power_on") < order.index("phantom_on")
    last_wait = max(i for i, k in enumerate(order) if k == "wait")
    assert order.index("phantom_on") < last_wait < order.index("gain_up")
    # What is on now goes off first.
    assert order.index("phantom_off") < order.index("wait") < order.index("plug")


def test_every_cable_is_plugged_once_and_every_step_says_why(mended: Session) -> None:
    steps = set_up_sheet(mended.setup)
    plugs = [step.subject for step in steps if step.kind == "plug"]
    cables = [link.id for link in mended.setup.links if link.cable is not None]
    assert sorted(plugs) == sorted(cables)
    assert all(step.words.endswith(".") and step.reason.endswith(".") for step in steps)
    assert len({step.key for step in steps}) == len(steps)


def test_one_microphone_is_changed_with_what_shares_its_switch(mended: Session) -> None:
    steps = change_sheet(mended.setup, "harp_left")
    order = kinds(steps)
    assert order.index("gain_down") < order.index("phantom_off") < order.index("unplug")
    assert order.index("unplug") < order.index("plug") < order.index("phantom_on")
    assert change_sheet(mended.setup, "nothing") == ()


def test_what_must_not_get_phantom_power_is_never_switched_on(mended: Session) -> None:
    figures = ENTRIES.devices["ribbon"].figures
    setup = replace_device(mended, "harp_mic_left", figures, "Ribbon").setup
    switches = [s.subject for s in set_up_sheet(setup) if s.kind == "phantom_on"]
    assert "interface:2" not in switches


@pytest.mark.parametrize(
    ("first", "says"),
    [("phantom_on", "bangs"), ("monitors_up", "Now: Monitors and headphones all the way down")],
)
def test_ticking_out_of_order_is_told_what_to_do_now(
    mended: Session, first: str, says: str
) -> None:
    steps = set_up_sheet(mended.setup)
    assert advice(mended.setup, steps, ()).startswith("Now: Monitors")
    gains_up = [s.key for s in steps if s.kind == "gain_up"]
    early = next(s.key for s in steps if s.kind == first)
    said = advice(mended.setup, steps, [*gains_up, early])
    assert says in said


def test_at_the_end_there_is_nothing_left_to_do(mended: Session) -> None:
    steps = set_up_sheet(mended.setup)
    assert advice(mended.setup, steps, [step.key for step in steps]) == ""


def test_the_budget_names_who_draws_what(mended: Session) -> None:
    found = budget(mended.setup)
    names = [name for name, _, _ in found]
    assert "Inline preamp" in names
    currents = [ma for _, _, ma in found]
    assert currents == sorted(currents, reverse=True)
    assert budget(Setup()) == ()


def test_a_valve_amplifier_is_loaded_before_it_comes_on_and_off_before_a_plug_moves() -> None:
    setup = patch_of(["valve_amplifier"])
    order = [(s.kind, s.subject) for s in set_up_sheet(setup)]
    amplifier = setup.sources[0].id
    assert order.index(("load", amplifier)) < order.index(("power_on", amplifier))
    last_plug = max(n for n, (kind, _) in enumerate(order) if kind == "plug")
    assert last_plug < order.index(("power_on", amplifier))
    down = [(s.kind, s.subject) for s in tear_down_sheet(setup)]
    first_unplug = min(n for n, (kind, _) in enumerate(down) if kind == "unplug")
    assert down.index(("power_off", amplifier)) < first_unplug


def test_a_valve_amplifier_without_load_or_with_a_moving_plug_is_found_out() -> None:
    setup = patch_of(["valve_amplifier"])
    steps = list(set_up_sheet(setup))
    without = [s for s in steps if s.kind != "load"]
    words = [h.words for h in hazards(setup, without)]
    assert any("without its load" in w for w in words)
    on = next(s for s in steps if s.kind == "power_on" and s.subject == setup.sources[0].id)
    early = [on, *(s for s in steps if s is not on)]
    assert any("loudspeaker output can destroy" in h.words for h in hazards(setup, early))


def test_a_sheet_says_which_output_of_a_splitter_is_plugged() -> None:
    words = [step.words for step in set_up_sheet(patch_of(["split"]))]
    assert any("splitter, isolated into" in said for said in words)
    assert any(said.endswith("into Microphone splitter.") for said in words)


@settings(max_examples=30)
@given(keys=st.lists(st.sampled_from(CHAINS), min_size=1, max_size=5))
def test_loudspeakers_stay_down_while_anything_hears_them(keys: list[str]) -> None:
    """A microphone, and a pickup in a hollow body too."""
    setup = patch_of(keys)
    hears = [
        line.name
        for line, source in zip(setup.lines, setup.sources, strict=False)
        if source.figures.hears_loudspeakers()
    ]
    sheets = [set_up_sheet(setup), *(change_sheet(setup, line.id) for line in setup.lines)]
    assert ("loudspeakers stay down" in sheets[0][-1].words) == any(
        source.figures.hears_loudspeakers() for source in setup.sources
    )
    for sheet in sheets[1:]:
        assert sheet[-1].words == sheets[0][-1].words, "what others have open counts too"
    if len(hears) == 1:
        assert hears[0] in sheets[0][-1].words


def test_a_pickup_in_a_hollow_body_hears_loudspeakers() -> None:
    sources = ENTRIES.sources
    hollow = ("piezo_bridge", "piezo_with_preamp", "soundhole_coil", "contact_disc")
    assert all(sources[key].figures.hears_loudspeakers() for key in hollow)
    solid = ("single_coil", "bass_pickup", "keyboard_output", "active_bass")
    assert not any(sources[key].figures.hears_loudspeakers() for key in solid)


def turned(setup: Setup, by: int) -> Setup:
    """The same signals, each going into the recorder's input of another one."""
    recorders = {d.id for d in setup.devices if d.figures.records}
    ends = [link for link in setup.links if link.end.split(":")[0] in recorders]
    moved = {
        link.id: link.model_copy(
            update={"end": ends[(n + by) % len(ends)].end, "id": f"x_{link.id}"}
        )
        for n, link in enumerate(ends)
    }
    return setup.model_copy(
        update={
            "links": tuple(moved.get(link.id, link) for link in setup.links),
            "lines": tuple(
                line.model_copy(
                    update={
                        "id": f"other_{line.id}",
                        "first_link": f"x_{line.first_link}"
                        if line.first_link in moved
                        else line.first_link,
                    }
                )
                for line in setup.lines
            ),
        }
    )


@settings(max_examples=40)
@given(
    keys=st.lists(st.sampled_from(CHAINS), min_size=2, max_size=5),
    by=st.integers(0, 3),
    left=st.integers(1, 5),
)
def test_from_one_layer_to_another_nothing_dangerous_is_passed(
    keys: list[str], by: int, left: int
) -> None:
    setup = patch_of(keys)
    before = only_lines(setup, {line.id for line in setup.lines[:left]})
    after = turned(setup, by)
    for start, end in ((before, after), (after, before), (before, setup), (setup, before)):
        sheet = between_sheet(start, end)
        assert hazards_between(start, end, sheet) == ()
        plugged = {s.subject for s in sheet if s.kind == "plug"}
        had = {(k.start, k.end) for k in start.links}
        wanted = {
            step.link.id
            for route in routes(end)
            if route.is_complete
            for step in route.steps
            if step.cable is not None and (step.link.start, step.link.end) not in had
        }
        if any(route.is_complete for route in routes(start)):
            assert plugged >= wanted


def test_a_double_needs_nothing_but_another_armed_track(mended: Session) -> None:
    doubled = add_double(mended, "voice")
    (step,) = between_sheet(mended.setup, doubled.setup)
    assert step.kind == "arm"
    assert step.words == "Arm Voice double; Voice is recorded no more"


def test_only_what_moves_is_touched_between_layers(mended: Session) -> None:
    doubled = add_double(mended, "voice")
    changed = move_input(doubled, doubled.setup.lines[0].id, "in.5", "microphone")
    sheet = between_sheet(mended.setup, changed.setup)
    kinds = [step.kind for step in sheet]
    assert kinds.count("plug") == kinds.count("unplug") == 1
    assert kinds[0] == "monitors_down"
    assert kinds[-1] == "monitors_up"
    assert kinds.index("gain_down") < kinds.index("unplug") < kinds.index("plug")
