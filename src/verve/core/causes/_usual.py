"""Usual positions: where a hand leaves a control that nothing speaks against."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from verve.core.causes import _words as words
from verve.core.gain import gains_set
from verve.core.kind import CableFigures, Control, ControlValue, FrozenDict, control_text
from verve.core.network import LineState, devices_in_need, leg_to, supplier_of
from verve.core.session import (
    Change,
    Route,
    Session,
    apply_changes,
    device_controls,
    source_controls,
    with_setup,
)
from verve.core.words import fill

_AT_REST: dict[str, ControlValue] = {
    "fader_db": 0.0,
    "volume_position": 1.0,
    "tone_position": 1.0,
    "angle_deg": 0.0,
    "high_pass": False,
    "presence": False,
    "foam": False,
    "battery": True,
    "load": True,
}
_NEAR = 3.0
"""A distance within this factor of the usual one is chosen, not a slip."""
_LONG_M = {True: 20.0, False: 6.0}
_SHORT_M = {True: 5.0, False: 3.0}
"""By balanced or not: a cable longer than the first is looked at, the second is usual (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """One thing off its usual position, and how it is put back (or away) in a session."""

    owner: str
    channel: str = ""
    control: str = ""
    link: str = ""
    value: object = None
    usual: object = None
    says: str
    test: str
    deed: str = ""
    put: Callable[[Session, bool], Session]
    """With True as usual, with False as it is."""
    change: Change | None = None
    """What puts it back, where one control does."""

    @property
    def is_gain(self) -> bool:
        """Whether it is a gain: what the rest needs decides where it belongs."""
        return self.control == "gain_db"


def _pan(control: Control, route: Route, session: Session) -> ControlValue:
    """Towards the output that the line takes; both sides of a pair apart, all else in the middle or there."""
    apart = _side_of_pair(control, route, session)
    if apart is not None:
        return control.value if float(control.value or 0.0) * apart > 0.0 else apart
    step = next((s for s in route.steps if s.owner == control.owner), None)
    out = "" if step is None else step.out_port or ""
    side = -1.0 if out.endswith("left") else 1.0 if out.endswith("right") else 0.0
    value = float(control.value or 0.0)
    # What reaches the output is no slip.
    return control.value if value * side >= 0.0 else side


def _side_of_pair(control: Control, route: Route, session: Session) -> float | None:
    """Which side of a mixer one side of a pair belongs to: the first left, the second right; None for no pair there.

    Where it goes now says nothing: panned to the other side it arrives on the other one's track.
    """
    if route.line.pair is None:
        return None
    pair = [line for line in session.setup.lines if line.pair == route.line.pair]
    ends = {link.start for link in session.setup.links}
    both = {f"{control.owner}:main.left", f"{control.owner}:main.right"}
    if len(pair) != 2 or not both <= ends:
        return None
    return -1.0 if pair[0].id == route.line.id else 1.0


def usual_value(control: Control, state: LineState, session: Session) -> ControlValue:
    """Where a control usually stands; where it is, if nothing is usual."""
    route = state.route
    if control.name in _AT_REST:
        value = _AT_REST[control.name]
        return control.clamped(float(value or 0.0)) if control.kind == "range" else value
    if control.name == "pad_db":
        return control.choices[0] if control.choices else control.value
    if control.name == "pan":
        return _pan(control, route, session)
    if control.name == "phantom":
        return True if _feeds(control.owner, route) else control.value
    if control.name == "mode":
        return _mode(control, state)
    if control.name == "distance_m":
        return _distance(control, session)
    if control.name == "gain_db" and _is_behind_a_mixer(control, state):
        return control.minimum
    if control.name == "gain_db" and not is_solved(control, state):
        return _at_first(control, session)
    return control.value


def _feeds(owner: str, route: Route) -> bool:
    """Whether anything on a line would need phantom power from this device."""
    feeders = (supplier_of(leg_to(route, step.owner)) for step in devices_in_need(route))
    return any(step is not None and step.owner == owner for step in feeders)


def _mode(control: Control, state: LineState) -> ControlValue:
    """What the last box before the input gives, or the source itself; what needs 48 V wants a microphone input."""
    before = state.route.steps[:-1]
    wanted: tuple[object, ...] = ()
    if _feeds(control.owner, state.route):
        wanted = ("microphone",)
    elif before:
        wanted = (before[-1].figures.output_level(),)
    elif state.route.has_source:
        wanted = state.route.source.figures.direct_modes
    fitting = [choice for choice in wanted if choice in control.choices]
    return control.value if not fitting or control.value in fitting else fitting[0]


def _at_first(control: Control, session: Session) -> ControlValue:
    """Where the gear itself has a control before anybody has set it."""
    device = next((d for d in session.setup.devices if d.id == control.owner), None)
    if device is None:
        return control.value
    plain = device.model_copy(update={"settings": FrozenDict()})
    key = (control.channel, control.name)
    return next(
        (c.value for c in device_controls(plain) if (c.channel, c.name) == key), control.value
    )


def _distance(control: Control, session: Session) -> ControlValue:
    """The distance that the gear itself has, unless this one is near it."""
    at_first = _at_first(control, session)
    now, usual = float(control.value or 0.0), float(at_first or 0.0)
    is_near = usual > 0.0 and usual / _NEAR <= now <= usual * _NEAR
    return control.value if is_near else at_first


def is_solved(control: Control, state: LineState) -> bool:
    """Whether a control is a gain that the solver sets; that of a pedal is part of the sound.

    Behind a mixer the recorder's stands at its least: the mixer does the work.
    """
    if control.name != "gain_db" or _is_behind_a_mixer(control, state):
        return False
    return (control.owner, control.channel) in gains_set(state)


def _is_behind_a_mixer(control: Control, state: LineState) -> bool:
    recorder = state.route.recorder
    return recorder is not None and recorder.owner == control.owner and state.mixer() is not None


def controls_on(state: LineState) -> Iterator[tuple[str, Control]]:
    """Everything that can be set on a line, each with the name of its owner, from the source on."""
    seen: set[tuple[str, str, str]] = set()
    source = state.route.source_or_none
    rows = [] if source is None else [(source.name, c) for c in source_controls(source)]
    for step in state.route.steps:
        rows += [(step.name, c) for c in (*step.controls.values(), *step.shared)]
    for name, control in rows:
        key = (control.owner, control.channel, control.name)
        if key not in seen:
            seen.add(key)
            yield name, control


def setting(
    name: str,
    control: Control,
    usual: ControlValue,
    said: str,
    test: str = words.TEST_SETTING,
) -> Candidate:
    """A control that is not where it usually is; `said` and `test` are what is told of it."""
    now_text, usual_text = control_text(control, control.value), control_text(control, usual)

    def at(value: ControlValue) -> Change:
        return Change(owner=control.owner, channel=control.channel, name=control.name, value=value)

    def put(session: Session, is_usual: bool) -> Session:
        return apply_changes(session, (at(usual if is_usual else control.value),))

    return Candidate(
        owner=control.owner,
        channel=control.channel,
        control=control.name,
        value=control.value,
        usual=usual,
        says=fill(said, where=name, control=control.said, now=now_text, usual=usual_text),
        test=fill(test, control=control.said, where=name, usual=usual_text, now=now_text),
        deed=fill(words.PUT_BACK, control=control.said, where=name, usual=usual_text, now=now_text),
        put=put,
        change=at(usual),
    )


def long_cables(state: LineState) -> Iterator[Candidate]:
    """Cables so long that they may matter."""
    for step in state.route.steps:
        cable = step.link.cable
        if cable is None or cable.length_m <= _LONG_M[cable.balanced]:
            continue
        usual = cable.model_copy(update={"length_m": _SHORT_M[cable.balanced]})
        yield Candidate(
            owner=step.owner,
            link=step.link.id,
            value=cable.length_m,
            usual=usual.length_m,
            says=fill(
                words.LONG_CABLE,
                where=step.name,
                length_m=cable.length_m,
                usual_m=usual.length_m,
            ),
            test=fill(words.TEST_CABLE, where=step.name),
            put=_cable_put(step.link.id, cable, usual),
        )


def _cable_put(
    link_id: str, now: CableFigures, usual: CableFigures
) -> Callable[[Session, bool], Session]:
    def put(session: Session, is_usual: bool) -> Session:
        cable = usual if is_usual else now
        links = tuple(
            link.model_copy(update={"cable": cable}) if link.id == link_id else link
            for link in session.setup.links
        )
        return with_setup(session, links=links)

    return put
