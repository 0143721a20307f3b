"""Run sheets of sessions as people leave them, walked through in a second model of states."""

from __future__ import annotations

from collections.abc import Sequence

from prove.report import Tally
from prove.second_model import SecondModel
from prove.sessions import session_of
from verve.core.assess import assess
from verve.core.power import RunStep, change_sheet, set_up_sheet, tear_down_sheet
from verve.core.session import Setup, routes


def _walk(model: SecondModel, steps: Sequence[RunStep]) -> SecondModel:
    for step in steps:
        model.do(step)
    return model


def whole(setup: Setup) -> set[str]:
    """Every cable of signals that arrive."""
    return {
        step.link.id
        for route in routes(setup)
        if route.is_complete
        for step in route.steps
        if step.cable is not None
    }


def _set_up(setup: Setup, told: set[str]) -> list[str]:
    """What is wrong with a set-up: dangers on the way, or not ready at its end."""
    model = SecondModel(setup)
    # What plays by itself in the air is not plugged.
    model.plugged = {link.id for link in setup.links if link.cable is None}
    end = _walk(model, set_up_sheet(setup))
    said = [*end.said, *(f"ends with 48 V on {o}" for o in end.harmed())]
    if left := whole(setup) - end.plugged:
        said.append(f"not plugged at the end: {sorted(left)}")
    if not end.ears:
        said.append("the monitors stay down")
    said += [f"ends without its 48 V, and unsaid: {o}" for o in end.unfed() if o not in told]
    return said


def _tear_down(setup: Setup) -> list[str]:
    end = _walk(SecondModel(setup).all_up(), tear_down_sheet(setup))
    said = [*end.said, *(f"ends with 48 V on {o}" for o in end.harmed())]
    if end.volts:
        said.append(f"48 V left on: {sorted(end.volts)}")
    if left := whole(setup) & end.plugged:
        said.append(f"still plugged: {sorted(left)}")
    return said


def _change(setup: Setup, line: str) -> list[str]:
    steps = change_sheet(setup, line)
    end = _walk(SecondModel(setup).all_up(), steps)
    others = {
        step.link.id
        for route in routes(setup)
        if route.line.id != line and route.is_complete
        for step in route.steps
    }
    unplugged = {step.subject for step in steps if step.kind == "unplug"}
    said = [*end.said, *(f"ends with 48 V on {o}" for o in end.harmed())]
    if theirs := unplugged & others:
        said.append(f"unplugs what others use: {sorted(theirs)}")
    if left := whole(setup) - end.plugged:
        said.append(f"not plugged at the end: {sorted(left)}")
    return said


def walked(count: int, first: int) -> Tally:
    """Set up, change of each line, and taking down, of so many sessions."""
    tally = Tally("run sheets, in a second model of states")
    for number in range(first, first + count):
        session = session_of(number)
        setup = session.setup
        complete = [route.line.id for route in routes(setup) if route.is_complete]
        if not complete:
            continue
        found = assess(session).findings
        told = {
            owner for f in found if f.rule.startswith(_SAY_SO) for owner in _owners(setup, f.line)
        }
        sheets = [("set up", _set_up(setup, told)), ("tear down", _tear_down(setup))]
        sheets += [(f"change {line}", _change(setup, line)) for line in complete]
        for name, said in sheets:
            if said:
                tally.fault(f"session {number}, {name}: {said[0]}")
            else:
                tally.note(name.split(" ")[0])
    return tally


_SAY_SO = ("phantom_", "wrong_mode")


def _owners(setup: Setup, line: str | None) -> set[str]:
    return {step.owner for route in routes(setup) if route.line.id == line for step in route.steps}
