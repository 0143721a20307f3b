"""Hunts are fair: whoever sees only what the person sees finds every fault, in bounded time, in twenty sessions."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

import pytest
from prove.sessions import session_of

from verve.core.catalogue import add_chain, catalogue
from verve.core.causes import slips_of
from verve.core.demo import demo_session
from verve.core.engine import Engine
from verve.core.gain import with_best_gains
from verve.core.hunt import (
    KINDS,
    Case,
    Trial,
    actions_of,
    cases_of,
    classes_of,
    looked_at,
    outcome,
    searcher_of,
    signs_of,
)
from verve.core.session import Change, Session, apply_changes, change_cue, listeners

_SESSIONS = 20
_BOUND_S = 600.0


def _has_battery(figures: object) -> bool:
    return bool(getattr(figures, "has_battery", False))


def _with_battery() -> Session:
    """A pickup through an active box on its battery, heard through the software alone."""
    devices = catalogue().devices
    chain = next(
        chain
        for chain in catalogue().chains
        if any(_has_battery(devices[key].figures) for line in chain.lines for key in line.devices)
    )
    session, _ = add_chain(Session(), catalogue(), chain)
    device = next(d for d in session.setup.devices if _has_battery(d.figures))
    on = Change(owner=device.id, channel="in", name="battery", value=True)
    session = apply_changes(session, (on,))
    for who, _ in listeners(session.setup):
        session = change_cue(session, who, {"ways": ("software",)})
    return with_best_gains(session, session)


@cache
def cases() -> tuple[Case, ...]:
    """One signal of each of twenty sessions, and of some more that have what is seldom."""
    found = [next(cases_of(demo_session(), Engine())), *_of_battery()]
    number = 0
    while len(found) < _SESSIONS + 1:
        number += 1
        found += list(cases_of(session_of(number), Engine()))[:1]
    return tuple(found)


@cache
def trials_of(number: int) -> tuple[Trial, ...]:
    """What every action shows for every fault of a case."""
    case = cases()[number]
    worlds = [case.world((fault,)) for fault in case.faults]
    return tuple(
        Trial(
            key=one.key,
            seconds=one.seconds,
            outcomes=tuple(outcome(world, one) for world in worlds),
        )
        for one in actions_of(case)
    )


def _of_battery() -> Iterator[Case]:
    yield from list(cases_of(_with_battery(), Engine()))[:1]


def test_an_ideal_searcher_names_every_fault_or_its_class_in_bounded_time() -> None:
    hidden = 0
    for case in cases():
        actions = actions_of(case)
        worlds = [case.world((fault,)) for fault in case.faults]
        searcher = searcher_of(worlds, actions)
        at_once: dict[tuple[object, ...], list[int]] = {}
        for number, world in enumerate(worlds):
            at_once.setdefault(signs_of(world).at_once, []).append(number)
        for group in at_once.values():
            for number in group:
                left: tuple[int, ...] = tuple(group)
                spent_s = 0.0
                for trial in searcher.path(left, number):
                    left = searcher.after(left, trial, number)
                    spent_s += trial.seconds
                hidden += 1
                assert number in left
                assert {case.faults[one].title for one in left} == {case.faults[number].title}, (
                    case.name
                )
                assert spent_s <= _BOUND_S
    assert hidden > 400


def test_each_fault_has_a_look_or_swap_that_tells_it_from_nothing_wrong() -> None:
    for number, case in enumerate(cases()):
        right = case.world(())
        hands_on = {one.key for one in actions_of(case) if one.kind != "listen"}
        usual = {one.key: outcome(right, one) for one in actions_of(case)}
        rows = [one for one in trials_of(number) if one.key in hands_on]
        for at, fault in enumerate(case.faults):
            assert any(one.outcomes[at] != usual[one.key] for one in rows), fault.key


def test_what_no_look_or_swap_tells_apart_has_one_name() -> None:
    for number, case in enumerate(cases()):
        for group in classes_of(trials_of(number), range(len(case.faults))):
            assert len({case.faults[one].title for one in group}) == 1


def test_nearly_every_mistake_of_the_deck_can_be_met_in_these_sessions() -> None:
    met = {fault.kind for case in cases() for fault in case.faults}
    assert len(KINDS) >= 40
    # Rare gear has these: a foam or presence switch that matters, a pad that is needed.
    assert set(KINDS) - met <= {
        "presence",
        "pad_out",
        "foam",
        "pan_middle",
        "phones_loud",
        "tone_down",
    }


def test_controls_cables_and_inputs_are_those_of_the_diagnosis() -> None:
    for case in cases()[:8]:
        slips = {slip.change for slip in slips_of(case.session, case.state, case.engine)}
        of_controls = [change for fault in case.faults for change in fault.changes]
        assert of_controls
        assert set(of_controls) <= slips


def test_a_fault_shows_where_the_deck_says_that_it_is_seen() -> None:
    for case in cases():
        right = case.world(())
        for fault in case.faults:
            for place, row, said in fault.seen:
                rows = dict(looked_at(right, place))
                assert row in rows, (fault.key, place)
                assert dict(looked_at(case.world((fault,)), place))[row] == said != rows[row]


@pytest.mark.parametrize("key", sorted(KINDS))
def test_a_mistake_says_what_it_costs_and_how_it_is_mended(key: str) -> None:
    kind = KINDS[key]
    assert kind.costs.endswith(".")
    assert kind.mend
    assert kind.seconds > 0.0
    assert kind.prior > 0.0
