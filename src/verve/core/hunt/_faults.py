"""Every mistake of the deck that can be made on one signal of a session.

Controls, cables and inputs are those of the diagnosis, with its priors; what no setting tells comes beside them.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final, Protocol

from verve.core.causes import PRIOR, Slip, controls_on, slips_of
from verve.core.engine import Engine
from verve.core.hunt import _words as words
from verve.core.hunt._kinds import AT_A_CONTROL, Kind
from verve.core.hunt._oddity import NOTHING_ODD, Oddity
from verve.core.hunt._others import OTHERS
from verve.core.kind import Control, ControlValue, control_text
from verve.core.monitor import option
from verve.core.network import LineState
from verve.core.power import hum_risks
from verve.core.session import Change, Session, cue_of
from verve.core.words import Place, fill, level_text

_MOST_OTHERS: Final = 3
"""Of other signals so many are taken for what a track may record instead: the nearest in the list."""
_DISTANT, _NEAR = 3.0, 0.6
_TOO_SMALL: Final = 16
"""A buffer of so few frames most computers do not bear; typical."""


class _Made(Protocol):
    """What makes a fault of a kind, with what is filled in."""

    def __call__(self, key: str, **more: Place) -> Fault: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One mistake on one signal: how a control stands in truth, or what is odd beside all settings.

    `kind` is its key in the deck, `key` tells it apart from all others of this signal; `where` is what it is at.
    """

    key: str
    kind: str
    where: str
    title: str
    costs: str
    mend: str
    mend_s: float
    prior: float
    changes: tuple[Change, ...] = ()
    odd: Oddity = NOTHING_ODD
    seen: tuple[tuple[str, str, str], ...] = ()
    ends_with: tuple[str, ...] = ()


def faults_of(session: Session, state: LineState, engine: Engine) -> tuple[Fault, ...]:
    """What may be wrong on a signal of a session that is set up right."""
    slips = tuple(slips_of(session, state, engine))
    return (*_at_controls(state, slips), *_elsewhere(session, state, slips))


def _at_controls(state: LineState, slips: tuple[Slip, ...]) -> Iterator[Fault]:
    controls = _controls(state)
    for slip in slips:
        change = slip.change
        if change is None:
            continue
        control = controls[(change.owner, change.channel, change.name)]
        key = _kind_of(control, change.value)
        if key is None:
            continue
        kind = AT_A_CONTROL[key]
        name = _name_of(state, change.owner)
        said = control_text(control, change.value)
        yield replace(
            _made(kind, {"where": name}),
            key=f"{key} {change.owner} {change.channel} {said}",
            where=name,
            prior=PRIOR[slip.weight],
            changes=(change,),
        )


def _kind_of(control: Control, value: ControlValue) -> str | None:
    """Which mistake it is when a control stands there; None for what nobody does by mistake."""
    now = control.value
    match control.name:
        case "phantom":
            return "phantom_off" if value is False else None
        case "pad_db":
            return "pad_in" if float(value or 0.0) > float(now or 0.0) else "pad_out"
        case "gain_db":
            apart = float(value or 0.0) - float(now or 0.0)
            if apart <= -20.0 or (apart <= -6.0 and value == control.minimum):
                return "gain_down"
            return "gain_from_talking" if apart >= 10.0 else None
        case "volume_position" | "tone_position":
            lowest = isinstance(value, float) and value < 0.2
            return {"v": "volume_down", "t": "tone_down"}[control.name[0]] if lowest else None
        case "fader_db":
            return "fader_down" if isinstance(value, float) and value <= -20.0 else None
        case "battery":
            return "battery_out" if value is False else None
        case "angle_deg":
            return {180.0: "wrong_side", 90.0: "turned_away"}.get(float(value or 0.0))
        case "distance_m":
            times = float(value or 0.0) / max(float(now or 0.0), 1e-3)
            return "too_far" if times > _DISTANT else "too_close" if times < _NEAR else None
        case "pan":
            return "pan_middle" if float(now or 0.0) else None
        case "mode":
            return "wrong_mode"
        case "high_pass":
            return "low_cut" if value is True else None
        case "foam" | "presence":
            return control.name
    return None


def _controls(state: LineState) -> dict[tuple[str, str, str], Control]:
    return {(c.owner, c.channel, c.name): c for _, c in controls_on(state)}


def _name_of(state: LineState, owner: str) -> str:
    names = {step.owner: step.name for step in state.route.steps}
    source = state.route.source_or_none
    return names.get(owner) or ("" if source is None else source.name)


def _made(kind: Kind, places: dict[str, Place]) -> Fault:
    return Fault(
        key=kind.key,
        kind=kind.key,
        where=str(places.get("where", "")),
        title=fill(kind.title, places),
        costs=fill(kind.costs, places),
        mend=kind.mend,
        mend_s=kind.seconds,
        prior=kind.prior,
        odd=replace(kind.odd, reads=fill(kind.odd.reads, places)),
        seen=tuple(
            (fill(place, places), row, fill(said, places)) for place, row, said in kind.seen
        ),
        ends_with=tuple(fill(test, places) for test in kind.ends_with),
    )


def _elsewhere(session: Session, state: LineState, slips: tuple[Slip, ...]) -> Iterator[Fault]:
    """What no control of the session tells."""
    route = state.route
    recorder, source = route.recorder, route.source
    assert recorder is not None
    places: dict[str, Place] = {
        "name": state.line.name, "recorder": recorder.owner,
        "test_peak": level_text((state.peak_dbfs or 0.0) - 12.0, "dBFS", 0),
    }  # fmt: skip

    def made(key: str, **more: Place) -> Fault:
        found = _made(OTHERS[key], {**places, **more})
        apart = next((str(more[n]) for n in ("link", "other_id", "owner") if n in more), "")
        return replace(found, key=f"{key} {apart}".strip())

    yield from _of_slips(session, slips, made)
    yield from _of_cables(state, made)
    for key in ("not_armed", "stereo_track", "printed", "other_input_device", "wrong_rate"):
        yield made(key)
    if len(session.setup.lines) > 1 or session.takes:
        yield made("old_armed")
    yield from _of_ears(session, state, made)
    yield made("soft_test")
    figures = source.figures
    for step in route.steps:
        battery = step.controls.get("battery")
        if battery is not None and battery.value:
            yield made("battery_dying", where=step.name, owner=step.owner)
    if source.name in hum_risks(session.setup):
        yield made("ground_loop")
    if not figures.is_acoustic:
        yield made("charger")
    if figures.hears_fields():
        yield made("screen")
    if figures.is_acoustic:
        yield made("fan")
        yield made("window")
        yield made("speakers_up")
        if figures.player == "voice":
            yield made("no_shield", owner=route.steps[0].owner)


def _of_slips(session: Session, slips: tuple[Slip, ...], made: _Made) -> Iterator[Fault]:
    """Cables and inputs, as the diagnosis knows them."""
    names = {line.id: line.name for line in session.setup.lines}
    steps = {device.id: device.name for device in session.setup.devices}
    others = [slip for slip in slips if slip.kind == "other_input"]
    for slip in slips:
        one, prior = slip.candidate, PRIOR[slip.weight]
        where = steps.get(one.owner, "")
        if slip.kind == "cable":
            yield replace(made("cable_dead", where=where, link=one.link), prior=prior)
            yield made("cable_out", where=where, link=one.link)
        elif slip.kind == "half_cable":
            yield replace(made("cable_half", where=where, link=one.link), prior=prior)
        elif slip.kind == "no_input":
            yield replace(made("track_empty_input"), prior=prior)
        elif slip.kind == "other_input" and others.index(slip) < _MOST_OTHERS:
            more: dict[str, Place] = {
                "other": names[slip.other],
                "other_id": slip.other,
                "other_input": fill(words.INPUT_OF, input=str(one.value)),
            }
            yield replace(made("track_other_input", **more), prior=prior / len(others))
            yield made("plugs_swapped", **more)


def _of_cables(state: LineState, made: _Made) -> Iterator[Fault]:
    if state.line.pair is None:
        return
    for step in state.route.steps:
        if step.cable is not None and step.cable.balanced:
            yield made("polarity", where=step.name, link=step.link.id)


def _of_ears(session: Session, state: LineState, made: _Made) -> Iterator[Fault]:
    """What somebody hears who wears headphones; which of it can go wrong hangs on how they are heard."""
    source = state.route.source
    cue = cue_of(session.setup, source.performer or source.id)
    if cue.worn == "nothing" or not cue.ways:
        return
    if cue.worn != "loudspeaker":
        for key in ("one_ear", "phones_half", "phones_down"):
            yield made(key)
    audio, mixing = session.setup.audio, session.setup.monitoring.mixing_frames
    if audio.buffer_frames > _TOO_SMALL:
        yield made("small_buffer")
    if "direct" in cue.ways:
        yield made("monitoring_off")
        if "software" not in cue.ways:
            yield made("double")
    if "software" in cue.ways:
        yield made("other_output")
        if "direct" not in cue.ways and mixing > audio.buffer_frames:
            rate_hz = float(audio.sample_rate_hz)
            late, now = (option(session, n, rate_hz) for n in (mixing, audio.buffer_frames))
            found = made("mixing_buffer", mixing=str(mixing))
            later_ms = late.round_trip_ms - now.round_trip_ms
            yield replace(found, odd=replace(found.odd, late_ms=later_ms))
    if source.figures.is_acoustic and cue.worn == "open_headphones":
        yield made("phones_loud")
