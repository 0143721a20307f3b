"""What may be otherwise than the session says: controls elsewhere, broken cables, a track on another input.

One list for everybody who asks why a signal is off: a measured deviation, and who practises to find a fault.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.causes import _words as words
from verve.core.causes._usual import Candidate, controls_on, setting
from verve.core.engine import Engine
from verve.core.kind import Control, ControlValue
from verve.core.network import LineState, line_states
from verve.core.session import Change, RouteStep, Session
from verve.core.words import fill

LIKELY, POSSIBLE, RARE = 2, 1, 0
PRIOR: Final[Mapping[int, float]] = {3: 8.0, LIKELY: 4.0, POSSIBLE: 1.5, RARE: 0.5}
"""How often a mistake of each weight is the one, against the others; typical. 3: the session itself says so."""
_FORGOTTEN = {"phantom", "volume_position", "fader_db", "battery"}
HALF_CABLE_DB: Final = -6.0
"""What is left of a balanced signal with one of its two wires. source: half the voltage"""
Kind = Literal["control", "cable", "half_cable", "other_input", "no_input"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Slip:
    """One thing that may be otherwise: what it is, and how usual a mistake.

    `change` is how a control stands then; `other` is the signal whose input the track records; `place` tells of two
    that are as usual which comes first. `is_forgotten` is what a look finds.
    """

    kind: Kind
    candidate: Candidate
    weight: int
    place: int
    change: Change | None = None
    other: str = ""
    is_forgotten: bool = False


def elsewhere(control: Control) -> Iterator[ControlValue]:
    """Other positions a control may be in without anybody having told the session."""
    if control.kind == "switch":
        yield not control.value
    elif control.kind == "choice":
        yield from (choice for choice in control.choices if choice != control.value)
    elif control.name in {"volume_position", "tone_position"}:
        yield from (0.1, 0.5, 1.0)
    elif control.name == "fader_db":
        yield from (control.minimum, -20.0, -10.0, 0.0)
    elif control.name == "gain_db":
        value = float(control.value or 0.0)
        yield from (control.clamped(value + by) for by in (-20.0, -10.0, -6.0, 6.0, 10.0, 20.0))
    elif control.name == "distance_m":
        value = float(control.value or 0.0)
        yield from (control.clamped(value * by) for by in (0.5, 2.0, 4.0))
    elif control.name == "angle_deg":
        yield from (90.0, 180.0)
    elif control.name == "pan":
        yield 0.0


def slips_of(session: Session, state: LineState, engine: Engine) -> Iterator[Slip]:
    """Everything that may be otherwise on a signal path, from the source on; the track last."""
    for name, control in controls_on(state):
        is_forgotten = control.name in _FORGOTTEN
        for value in elsewhere(control):
            if value == control.value:
                continue
            yield Slip(
                kind="control",
                candidate=setting(name, control, value, words.MIGHT_BE, words.TEST_TRUTH),
                weight=LIKELY if is_forgotten else RARE,
                place=0 if is_forgotten else 3,
                change=Change(
                    owner=control.owner, channel=control.channel, name=control.name, value=value
                ),
                is_forgotten=is_forgotten,
            )
    for step in state.route.steps:
        if step.link.cable is None:
            continue
        yield _broken(step, words.BROKEN_CABLE, "cable")
        if step.link.cable.balanced:
            yield _broken(step, words.HALF_CABLE, "half_cable")
    yield from _other_inputs(session, state, engine)


def _broken(step: RouteStep, says: str, kind: Kind) -> Slip:
    candidate = Candidate(
        owner=step.owner,
        link=step.link.id,
        says=fill(says, where=step.name),
        test=fill(words.TEST_CABLE, where=step.name),
        put=lambda same, _: same,
    )
    return Slip(kind=kind, candidate=candidate, weight=POSSIBLE, place=2)


def _other_inputs(session: Session, state: LineState, engine: Engine) -> Iterator[Slip]:
    """The track listens to another input: to another signal, or to nothing where inputs are left."""
    recorder = state.route.recorder
    if recorder is None:
        return
    taken = {recorder.in_port}
    for other in line_states(session.setup, engine):
        there = other.route.recorder
        if there is None or there.owner != recorder.owner or there.in_port in taken:
            continue
        taken.add(there.in_port)
        yield _track(recorder, words.WRONG_INPUT, there.in_port, "other_input", other.line.id)
    if len(taken) < len(recorder.figures.input_ports()):
        yield _track(recorder, words.NO_INPUT, "", "no_input", "")


def _track(recorder: RouteStep, says: str, port: str, kind: Kind, other: str) -> Slip:
    own, there = (f"{recorder.name}, {p.removeprefix('in.')}" for p in (recorder.in_port, port))
    candidate = Candidate(
        owner="recorder",
        value=port.removeprefix("in."),
        usual=recorder.in_port.removeprefix("in."),
        says=fill(says, other=there, own=own),
        test=fill(words.TEST_TRACK, own=own),
        put=lambda same, _: same,
    )
    return Slip(kind=kind, candidate=candidate, weight=LIKELY, place=1, other=other)
