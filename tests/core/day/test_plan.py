"""All layers of a day patched together: as few cables plugged anew as there can be, and nothing lost."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.connections.builders import is_allowed, kit, part
from tests.core.session.test_edits import take_of
from verve.core.assess import assess
from verve.core.connections import NoSuggestion, Problem, problem_of
from verve.core.day import (
    DayPlan,
    DayProblem,
    Option,
    Plug,
    day_replugs,
    layer_options,
    plan_day,
    replugs,
    roots_of,
    solve_day,
    stay,
)
from verve.core.demo import demo_session
from verve.core.errors import CancelledError
from verve.core.session import (
    Brief,
    Pass,
    Session,
    add_double,
    add_take,
    fix_line,
    known_lines,
    patch_of,
    patched_layers,
    routes,
    turn_to_layer,
)

PARTS = (
    part("voice_singing", name="Voice"),
    part("acoustic_guitar", name="Guitar"),
    part("cello", name="Cello"),
    part("piezo_bridge", name="Bridge"),
    part("keyboard_output", name="Keys"),
)


def day_of(layers: Sequence[Sequence[str]], counts: Mapping[str, int]) -> Session:
    """A session whose layers have these parts, and nothing patched yet."""
    passes = tuple(
        Pass(id=f"layer_{n}", name=f"Layer {n}", parts=tuple(own)) for n, own in enumerate(layers)
    )
    return Session(brief=Brief(parts=PARTS, passes=passes), kit=kit(dict(counts)))


SMALL = {
    "moving_coil": 1, "condenser_small": 1, "passive_di": 1, "interface_two": 1,
    "balanced_5": 3, "instrument_3": 3,
}  # fmt: skip


def planned(session: Session, layer: str = "", *, anew: bool = False) -> DayPlan:
    found = plan_day(session, layer, anew=anew)
    assert isinstance(found, DayPlan), found
    return found


def combinations(
    problem: Problem, options: Mapping[str, list[Option]]
) -> Iterator[tuple[Option, ...]]:
    """Every choice of one layer that keeps the rules, with the fewest flaws there are."""
    allowed = []
    for chosen in itertools.product(*(options[s.id] for s in problem.signals)):
        pieces = [piece for option in chosen for piece in option.pieces]
        ports = [option.place.port for option in chosen]
        if len(set(pieces)) < len(pieces) or len(set(ports)) < len(ports):
            continue
        if is_allowed(problem, [option.rated for option in chosen]):
            allowed.append(chosen)
    least = min((sum(o.rated.flaws for o in one) for one in allowed), default=0)
    yield from (one for one in allowed if sum(o.rated.flaws for o in one) <= least)


def fewest(day: DayProblem) -> int | None:
    """The fewest cables plugged anew, by trying every choice of every layer in turn."""
    best = None
    problems = [layer for layer in day.layers if isinstance(layer, Problem)]
    for recorder in problems[0].stock.recorders:
        options = layer_options(day, recorder)
        if options is None:
            continue
        reached: dict[frozenset[Plug], int] = {frozenset(): 0}
        for number, (problem, own) in enumerate(zip(problems, options, strict=True)):
            wanted = {
                frozenset(plug for option in one for plug in option.plugs)
                for one in combinations(problem, own)
            }
            then: dict[frozenset[Plug], int] = {}
            for plugged, count in reached.items():
                for needs in wanted:
                    fresh = needs - plugged
                    now = stay(plugged, fresh) | needs
                    total = count + (len(fresh) if number else 0)
                    then[now] = min(total, then.get(now, total))
            reached = then
        if reached and (best is None or min(reached.values()) < best):
            best = min(reached.values())
    return best


KEYS = [one.id for one in PARTS]


@settings(max_examples=12)
@given(
    layers=st.lists(
        st.lists(st.sampled_from(KEYS), min_size=1, max_size=2, unique=True), min_size=2, max_size=4
    ),
    condensers=st.integers(1, 2),
)
def test_two_inputs_and_four_layers_need_no_more_plugging_than_trying_everything(
    layers: list[list[str]], condensers: int
) -> None:
    session = day_of(layers, SMALL | {"condenser_small": condensers})
    problems = tuple(problem_of(session, one, with_more=False) for one in session.brief.passes)
    day = DayProblem(layers=problems, roots=roots_of(session))
    found = solve_day(day)
    best = fewest(day)
    assert (found is None) == (best is None)
    if found is None:
        return
    assert found.gap == 0
    assert found.replugs == best
    plan = plan_day(session)
    if isinstance(plan, DayPlan):
        # What is built counts as what was solved.
        assert sum(plan.replugs[1:]) == found.replugs


def test_a_shared_microphone_stays_where_it_is() -> None:
    plan = planned(day_of([["guitar", "voice"], ["voice"], ["guitar"], ["cello", "voice"]], SMALL))
    assert sum(plan.replugs[1:]) == 0
    assert patched_layers(plan.session) == plan.layers
    for key in plan.layers:
        setup = patch_of(plan.session, key)
        assert setup is not None
        assert all(route.is_complete for route in routes(setup))


def test_every_piece_has_one_name_and_every_signal_a_line_of_its_own_all_day() -> None:
    plan = planned(day_of([["guitar", "voice"], ["bridge", "voice"], ["keys"]], SMALL))
    devices: dict[str, set[str]] = {}
    lines: list[str] = []
    for key in plan.layers:
        setup = patch_of(plan.session, key)
        assert setup is not None
        lines += [line.id for line in setup.lines]
        for device in setup.devices:
            devices.setdefault(device.kit_item or "", set()).add(device.id)
    assert len(set(lines)) == len(lines)
    assert all(len(ids) <= SMALL[kind] for kind, ids in devices.items())


def test_no_cable_is_in_two_places_at_once() -> None:
    layers = [["guitar", "voice"], ["bridge", "keys"], ["guitar", "bridge"], ["voice", "keys"]]
    plan = planned(day_of(layers, SMALL))
    for key in plan.layers:
        setup = patch_of(plan.session, key)
        assert setup is not None
        used = [link.kit_item for link in setup.links if link.kit_item is not None]
        assert all(used.count(item) <= SMALL[item] for item in used)


def test_a_later_layer_neither_deletes_nor_avoids_an_earlier_one() -> None:
    session = demo_session()
    session = session.model_copy(update={"kit": (*session.kit, *kit({"moving_coil": 1}))})
    first = session.setup
    plan = planned(session, "finale")
    assert patch_of(plan.session, "evening").links == first.links  # type: ignore[union-attr]
    back = turn_to_layer(plan.session, "evening").setup
    assert (back.lines, back.links, back.sources) == (first.lines, first.links, first.sources)
    assert [dict(s.controls) for r in routes(back) for s in r.steps] == [
        dict(s.controls) for r in routes(first) for s in r.steps
    ]
    finale = plan.session.setup
    # Five of six parts are connected already, and stay so; the drum is what is plugged.
    old = {(link.start, link.end) for link in first.links if link.cable is not None}
    new = {(link.start, link.end) for link in finale.links if link.cable is not None}
    assert len(new - old) == plan.replugs[1]
    assert {r.line.name for r in routes(finale) if r.is_complete} >= {"Voice", "Frame drum"}
    # Whoever sits at the same microphone has the same name in both.
    assert {d.id for d in finale.devices} >= {"voice_mic", "interface"}


def test_a_double_stays_on_its_chain_when_the_day_is_planned_anew() -> None:
    session = add_double(planned(day_of([["voice"], ["guitar"]], SMALL)).session, "voice_line")
    line = session.setup.lines[0].id
    again = planned(session, anew=True)
    assert sum(again.replugs[1:]) <= 1
    assert line in known_lines(again.session)
    assert again.replugs == tuple(day_replugs(again.session)[key] for key in again.layers)


def test_what_is_locked_or_recorded_is_not_patched_anew() -> None:
    session = planned(day_of([["voice"], ["guitar"]], SMALL)).session
    locked = fix_line(session, session.setup.lines[0].id, is_fixed=True)
    assert planned(locked, anew=True).session.setup == locked.setup
    take = take_of(session).model_copy(update={"layer": "layer_0"})
    recorded = add_take(session, take)
    assert planned(recorded, anew=True).session.setup.links == session.setup.links


def test_what_the_kit_lacks_is_told_of_the_layer() -> None:
    found = plan_day(
        day_of([["voice"], ["guitar", "cello"]], {"moving_coil": 1, "interface_two": 1})
    )
    assert isinstance(found, NoSuggestion)
    assert "Layer 1 needs what the kit does not have" in found.why
    assert isinstance(plan_day(Session()), NoSuggestion)


def test_planning_can_be_called_off() -> None:
    with pytest.raises(CancelledError):
        plan_day(day_of([["voice"], ["guitar"]], SMALL), is_cancelled=lambda: True)


def test_what_is_pulled_counts_when_it_is_needed_again() -> None:
    one, two = ("a:out", "i:1"), ("b:out", "i:1")
    assert replugs([[one], [two], [one], [one]]) == (1, 1, 1, 0)
    assert replugs([[one], [("b:out", "i:2")], [one]]) == (1, 1, 0)


def test_every_layer_of_a_plan_is_patched_well() -> None:
    plan = planned(day_of([["guitar", "voice"], ["bridge", "keys"]], SMALL))
    for key in plan.layers:
        turned = turn_to_layer(plan.session, key)
        stops = [f.rule for f in assess(turned).findings if f.severity in {"harm", "stop"}]
        assert stops == []
