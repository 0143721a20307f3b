"""No signal? What in this very session could be the cause, most likely first, and the quickest test."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from verve.core import causes
from verve.core.assess import Assessment, LineAssessment, assess
from verve.core.diagnosis import _words as words
from verve.core.findings import Remedy
from verve.core.network import devices_in_need
from verve.core.session import Change, RouteStep
from verve.core.trial import disorder
from verve.core.words import fill

_CERTAIN, _LIKELY, _POSSIBLE, _RARE = 3, 2, 1, 0
_MOST_SLIPS = 3
_LEAST_SLIP_DB = 3.0
_QUIET_DBFS = -40.0
"""A hardest peak below this looks like nothing on most meters (typical)."""


AT_SOURCE, IN_SOFTWARE = -1, 1000
"""Places of causes before the first step of a path, and behind its last."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """Something that could keep a line silent or wrong: why here, the test, and the edit that mends it.

    `weight` orders them: 3 the session itself says so, 2 common with this gear, 1 possible, 0 rare. `key` is what
    kind of cause it is, and `place` how far along the path it is: what tells it apart from others.
    """

    key: str
    place: int
    title: str
    why: str
    test: str
    weight: int
    remedy: Remedy | None = None


def _step_of(item: LineAssessment, owner: str) -> int:
    """Which step of a path something is; what is on none of them is the source."""
    owners = [step.owner for step in item.route.steps]
    return owners.index(owner) if owner in owners else AT_SOURCE


def _place_of(item: LineAssessment, rule: str) -> int:
    """Where a finding is: at the source where it is about that, else at the interface."""
    return AT_SOURCE if rule == "volume_down" else len(item.route.steps) - 1


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
                key=finding.rule,
                place=_place_of(item, finding.rule),
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
            key="gain",
            place=_step_of(item, gain.owner),
            title=words.GAIN_DOWN,
            why=fill(words.GAIN_DOWN_WHY, peak_dbfs=peak),
            test=words.GAIN_DOWN_TEST,
            weight=_CERTAIN,
        )


def _slips(
    assessment: Assessment, item: LineAssessment, mended: Collection[Change]
) -> Iterator[Cause]:
    """What stands off its usual position and makes the difference, worked out by putting it back.

    What a finding mends already is left to it.
    """
    session, line_id = assessment.session, item.line.id
    found = causes.causes_of(session, line_id, assessment.engine)
    if not found.deviations:
        return
    before = disorder(assessment.findings)
    for number, slip in enumerate(found.causes[:_MOST_SLIPS]):
        if slip.explains_db < _LEAST_SLIP_DB or slip.change in mended:
            continue
        remedy = None
        if slip.change is not None and number == 0:
            put_back = Remedy(label=words.PUT_IT_BACK, changes=(slip.change,))
            after = assess(put_back.apply(session), assessment.engine)
            # Offered only if it lowers the disorder, in which harms and lost takes come first.
            remedy = put_back if disorder(after.findings) < before else None
        yield Cause(
            key=f"setting {slip.control}",
            place=_step_of(item, slip.owner),
            title=slip.sentence,
            why=fill(words.EXPLAINS, explains_db=slip.explains_db, of_db=found.off_db),
            test=slip.test,
            weight=_CERTAIN,
            remedy=remedy,
        )


def _power(item: LineAssessment) -> Iterator[Cause]:
    for step in devices_in_need(item.route):
        if item.is_alive:
            yield Cause(
                key="power",
                place=_step_of(item, step.owner),
                title=fill(words.NO_POWER, device=step.name),
                why=words.NO_POWER_WHY,
                test=words.NO_POWER_TEST,
                weight=_LIKELY,
            )
    for step in item.route.steps:
        battery = step.controls.get("battery")
        if battery is not None and battery.value:
            yield Cause(
                key="battery",
                place=_step_of(item, step.owner),
                title=fill(words.BATTERY_EMPTY, device=step.name),
                why=words.BATTERY_EMPTY_WHY,
                test=words.BATTERY_EMPTY_TEST,
                weight=_LIKELY,
            )


def _source(item: LineAssessment) -> Iterator[Cause]:
    source = item.route.source
    figures = source.figures
    volume = source.settings.volume_position
    if volume is not None and volume < 0.05:
        change = Change(owner=source.id, channel="out", name="volume_position", value=1.0)
        yield Cause(
            key="volume",
            place=AT_SOURCE,
            title=fill(words.VOLUME_DOWN, source=source.name),
            why=words.VOLUME_OFF_WHY,
            test=words.VOLUME_DOWN_TEST,
            weight=_CERTAIN,
            remedy=Remedy(label=words.TURN_UP, changes=(change,)),
        )
    elif figures.direct_modes[:1] == ("line",):
        yield Cause(
            key="off",
            place=AT_SOURCE,
            title=fill(words.SWITCHED_OFF, source=source.name),
            why=words.SWITCHED_OFF_WHY,
            test=words.SWITCHED_OFF_TEST,
            weight=_LIKELY,
        )
    elif not figures.is_acoustic:
        yield Cause(
            key="volume",
            place=AT_SOURCE,
            title=fill(words.VOLUME_DOWN, source=source.name),
            why=words.VOLUME_DOWN_WHY,
            test=words.VOLUME_DOWN_TEST,
            weight=_LIKELY,
        )


def _step_causes(step: RouteStep, item: LineAssessment) -> Iterator[Cause]:
    figures, place = step.figures, _step_of(item, step.owner)
    if step.capsule is not None and not figures.records:
        side = {"side": words.ITS_SIDE, "end": words.ITS_END}[step.capsule.addressed_from]
        yield Cause(
            key="turned",
            place=place,
            title=fill(words.TURNED_AWAY, device=step.name),
            why=fill(words.TURNED_AWAY_WHY, side=side),
            test=fill(words.TURNED_AWAY_TEST, side=side),
            weight=_POSSIBLE,
        )
    elif figures.mixes:
        out = (step.out_port or "main").replace("main.", "main ")
        yield Cause(
            key="mixer",
            place=place,
            title=fill(words.MIXER, device=step.name),
            why=fill(words.MIXER_WHY, out=out),
            test=words.MIXER_TEST,
            weight=_LIKELY,
        )
    elif figures.use in {"inline_preamp", "preamp"} and not item.is_alive:
        return
    if step.cable is not None:
        yield Cause(
            key="cable",
            place=place,
            title=fill(words.CABLE, device=step.name),
            why=fill(
                words.CABLE_WHY,
                length_m=step.cable.length_m,
                socket=step.in_port.removeprefix("in."),
            ),
            test=words.CABLE_TEST,
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
        key="track",
        place=IN_SOFTWARE,
        title=words.TRACK_INPUT,
        why=fill(words.TRACK_INPUT_WHY, number=number, recorder=name),
        test=fill(words.TRACK_INPUT_TEST, number=number),
        weight=_LIKELY if len(others) > 1 else _POSSIBLE,
    )
    yield Cause(
        key="armed",
        place=IN_SOFTWARE,
        title=words.NOT_ARMED,
        why=words.NOT_ARMED_WHY,
        test=words.NOT_ARMED_TEST,
        weight=_LIKELY,
    )
    interfaces = [d.name for d in assessment.session.setup.devices if d.figures.records]
    yield Cause(
        key="device",
        place=IN_SOFTWARE,
        title=words.OTHER_DEVICE,
        why=fill(
            words.OTHER_DEVICE_WHY_OF_MORE if len(interfaces) > 1 else words.OTHER_DEVICE_WHY,
            recorder=name,
            count=len(interfaces),
        ),
        test=fill(words.OTHER_DEVICE_TEST, recorder=name),
        weight=_LIKELY if len(interfaces) > 1 or not others else _POSSIBLE,
    )


def causes_of(assessment: Assessment, line_id: str) -> tuple[Cause, ...]:
    """Causes of no or a wrong signal on a line, most likely first; empty for an unknown line."""
    item = assessment.line(line_id)
    if item is None:
        return ()
    said = list(_from_session(item))
    mended = {change for cause in said if cause.remedy for change in cause.remedy.changes}
    found = [*_slips(assessment, item, mended), *said, *_power(item)]
    if item.route.has_source:
        found += _source(item)
    found += _recorder(item, assessment)
    for step in item.route.steps:
        found += _step_causes(step, item)
    if item.route.recorder is not None:
        found.append(
            Cause(
                key="heard",
                place=IN_SOFTWARE,
                title=words.NOT_HEARD,
                why=words.NOT_HEARD_WHY,
                test=words.NOT_HEARD_TEST,
                weight=_RARE,
            )
        )
    return tuple(sorted(found, key=lambda cause: -cause.weight))


WEIGHT_WORDS = {
    _CERTAIN: words.SAID_BY_SESSION,
    _LIKELY: words.LIKELY,
    _POSSIBLE: words.POSSIBLE,
    _RARE: words.NOW_AND_THEN,
}
"""How likely a cause is, as a person is told."""


def delivered_text(item: LineAssessment, peak_dbfs: float | None) -> str:
    """What the simulated interface delivers on a line, as a verdict."""
    if not item.route.is_complete:
        return words.LINE_ENDS
    if peak_dbfs is None or peak_dbfs < -90.0:
        return words.DELIVERS_NOTHING
    if peak_dbfs < _QUIET_DBFS:
        return fill(words.DELIVERS_LITTLE, peak_dbfs=peak_dbfs)
    return fill(words.DELIVERS, peak_dbfs=peak_dbfs)
