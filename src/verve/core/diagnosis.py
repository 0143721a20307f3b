"""No signal? What in this very session could be the cause, most likely first, and the quickest test."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from verve.core.assess import Assessment, LineAssessment
from verve.core.findings import Remedy
from verve.core.network import devices_in_need
from verve.core.session import Change, RouteStep

_CERTAIN, _LIKELY, _POSSIBLE, _RARE = 3, 2, 1, 0
_QUIET_DBFS = -40.0
"""A hardest peak below this looks like nothing on most meters (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """Something that could keep a line silent or wrong: why here, the test, and the edit that mends it.

    `weight` orders them: 3 the session itself says so, 2 common with this gear, 1 possible, 0 rare.
    """

    title: str
    why: str
    test: str
    weight: int
    remedy: Remedy | None = None


def _from_session(item: LineAssessment) -> Iterator[Cause]:
    """What the patch and the settings already show to be wrong."""
    for finding in item.findings:
        if finding.severity == "stop" or finding.rule in {
            "wrong_mode",
            "pickup_loaded",
            "volume_down",
            "gain_runs_out",
            "below_window",
        }:
            yield Cause(
                title=finding.title,
                why=finding.cost,
                test=finding.advice,
                weight=_CERTAIN if finding.severity == "stop" else _LIKELY,
                remedy=finding.remedy,
            )
    peak = item.state.peak_dbfs
    gain = item.state.level_control()
    if peak is not None and peak < _QUIET_DBFS and gain is not None and item.is_alive:
        yield Cause(
            title="The gain is down",
            why=f"Even the hardest playing arrives at only {peak:.0f} dBFS".replace("-", "−"),
            test="Turn it up while somebody plays, and watch the live level in Check.",
            weight=_CERTAIN,
        )


def _power(item: LineAssessment) -> Iterator[Cause]:
    for hop in devices_in_need(item.route):
        if item.is_alive:
            yield Cause(
                title=f"{hop.name} does not get its power after all",
                why="The session says phantom power is on; the switch on the box may not be.",
                test="Look at the lamp of the phantom switch; after switching it on wait ten seconds.",
                weight=_LIKELY,
            )
    for hop in item.route.hops:
        battery = hop.controls.get("battery")
        if battery is not None and battery.value:
            yield Cause(
                title=f"The battery of {hop.name} is empty",
                why="It runs on its battery.",
                test="Put in a fresh one, or switch phantom power on instead.",
                weight=_LIKELY,
            )


def _source(item: LineAssessment) -> Iterator[Cause]:
    source = item.route.source
    figures = source.figures
    volume = source.settings.volume_position
    if volume is not None and volume < 0.05:
        change = Change(owner=source.id, channel="out", name="volume_position", value=1.0)
        yield Cause(
            title=f"The volume of {source.name} is down",
            why="It is set to nothing.",
            test="Turn it fully up.",
            weight=_CERTAIN,
            remedy=Remedy(label="Turn it up", changes=(change,)),
        )
    elif figures.direct_modes[:1] == ("line",):
        yield Cause(
            title=f"{source.name} is switched off, or its volume is down",
            why="It makes its sound itself.",
            test="Plug headphones into it: what they hear must come out of its sockets too.",
            weight=_LIKELY,
        )
    elif not figures.is_acoustic:
        yield Cause(
            title=f"The volume of {source.name} is down",
            why="The knob on an instrument is turned down between songs, and forgotten.",
            test="Turn it fully up.",
            weight=_LIKELY,
        )


def _hop(hop: RouteStep, item: LineAssessment) -> Iterator[Cause]:
    figures = hop.figures
    if hop.capsule is not None and not figures.records:
        side = {"side": "its side", "end": "its end"}[hop.capsule.addressed_from]
        yield Cause(
            title=f"{hop.name} is switched off or turned away",
            why=f"Some have a switch, and this one is spoken into from {side}.",
            test=f"Scratch the grille at {side} lightly: it must be the loudest place.",
            weight=_POSSIBLE,
        )
    elif figures.mixes:
        out = (hop.out_port or "main").replace("main.", "main ")
        yield Cause(
            title=f"{hop.name}: muted, its fader or main fader down, or the wrong output",
            why=f"The line leaves it at {out}.",
            test="Look at its own meter: if it moves, the fault is behind it; if not, before it.",
            weight=_LIKELY,
        )
    elif figures.use in {"inline_preamp", "preamp"} and not item.is_alive:
        return
    if hop.cable is not None:
        metres = f"{hop.cable.length_m:g} m"
        yield Cause(
            title=f"The cable into {hop.name} is broken or in the wrong socket",
            why=f"A cable of {metres} goes into its {hop.in_port.removeprefix('in.')} socket.",
            test="Swap it with one from a line that works; follow it with the hand from end to end.",
            weight=_POSSIBLE,
        )


def _recorder(item: LineAssessment, assessment: Assessment) -> Iterator[Cause]:
    recorder = item.route.recorder
    if recorder is None:
        return
    name, number = recorder.name, recorder.in_port.removeprefix("in.")
    others = [
        other.line.name
        for other in assessment.lines
        if other.route.recorder is not None and other.line.id != item.line.id
    ]
    yield Cause(
        title="The track listens to another input",
        why=f"This line arrives at input {number} of {name}.",
        test=f"Set the track to input {number}, mono; tap the source and see which track moves.",
        weight=_LIKELY if len(others) > 1 else _POSSIBLE,
    )
    yield Cause(
        title="The track is not armed",
        why="A track that is not armed shows and records nothing in most recorders.",
        test="Arm this track, and only the tracks of this pass.",
        weight=_LIKELY,
    )
    interfaces = [d.name for d in assessment.session.setup.devices if d.figures.records]
    yield Cause(
        title="The recorder listens to another device",
        why=f"It must be {name}"
        + (f"; {len(interfaces)} are in this session." if len(interfaces) > 1 else "."),
        test=f"Choose {name} as the recorder’s input and output device, then look again.",
        weight=_LIKELY if len(interfaces) > 1 or not others else _POSSIBLE,
    )


def causes_of(assessment: Assessment, line_id: str) -> tuple[Cause, ...]:
    """Causes of no or a wrong signal on a line, most likely first; empty for an unknown line."""
    item = assessment.line(line_id)
    if item is None:
        return ()
    found = [*_from_session(item), *_power(item)]
    if item.route.has_source:
        found += _source(item)
    found += _recorder(item, assessment)
    for hop in item.route.hops:
        found += _hop(hop, item)
    if item.route.recorder is not None:
        found.append(
            Cause(
                title="You hear nothing, but it is there",
                why="The headphones are down, on another device, or the monitor mix lacks this line.",
                test="Look at the level in Check, not at the ears: if it moves, it is recorded.",
                weight=_RARE,
            )
        )
    return tuple(sorted(found, key=lambda cause: -cause.weight))


WEIGHT_WORDS = {
    _CERTAIN: "the session says so",
    _LIKELY: "likely",
    _POSSIBLE: "possible",
    _RARE: "now and then",
}
"""How likely a cause is, as a person is told."""


def delivered_text(item: LineAssessment, peak_dbfs: float | None) -> str:
    """What the simulated interface delivers on a line, as a verdict."""
    if not item.route.is_complete:
        return "Nothing arrives: the line ends before the recorder."
    if peak_dbfs is None or peak_dbfs < -90.0:
        return "The simulated interface delivers nothing on this line."
    peak = f"{peak_dbfs:.0f}".replace("-", "−")
    if peak_dbfs < _QUIET_DBFS:
        return f"The simulated interface delivers only {peak} dBFS: next to nothing."
    return f"The simulated interface delivers {peak} dBFS: this patch works; look behind it."
