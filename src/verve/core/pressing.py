"""The next thing, pressed: once, or until nothing is left that a press can do."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from verve.core.assess import Assessment, assess
from verve.core.engine import Engine
from verve.core.findings import Finding, Remedy
from verve.core.session import Session
from verve.core.trial import HARMS

MOST_PRESSES = 60
Reason = Literal["nothing left", "by hand", "circle", "limit"]
"""How pressing ended: all is well, a person must do something, it went round (it must not), or too many."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Press:
    """One press: what was found, what was done about it, and how many stops and harms there were then."""

    finding: Finding
    remedy: Remedy
    sentence: str
    stops_before: int
    stops_after: int
    harms_after: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Pressed:
    """All presses, the session after them, why there are no more, and what is said then."""

    presses: tuple[Press, ...]
    session: Session
    reason: Reason
    sentence: str


def _harms(assessment: Assessment) -> int:
    return sum(finding.rule in HARMS for finding in assessment.findings)


def pressed(session: Session, most: int = MOST_PRESSES) -> Pressed:
    """Press the next thing at most so often; an engine of its own remembers from press to press."""
    engine = Engine()
    presses: list[Press] = []
    setups = [session.setup]
    now = assess(session, engine)
    while (thing := now.next).action == "apply" and len(presses) < most:
        assert thing.remedy is not None
        assert thing.finding is not None
        session = thing.remedy.apply(session)
        after = assess(session, engine)
        presses.append(
            Press(
                finding=thing.finding,
                remedy=thing.remedy,
                sentence=thing.sentence,
                stops_before=len(now.stops),
                stops_after=len(after.stops),
                harms_after=_harms(after),
            )
        )
        now = after
        if session.setup in setups:
            return _ended(presses, session, "circle", now)
        setups.append(session.setup)
    if now.next.action == "apply":
        return _ended(presses, session, "limit", now)
    reason: Reason = "nothing left" if now.next.finding is None else "by hand"
    return _ended(presses, session, reason, now)


def _ended(presses: list[Press], session: Session, reason: Reason, now: Assessment) -> Pressed:
    return Pressed(
        presses=tuple(presses), session=session, reason=reason, sentence=now.next.sentence
    )


def _edits(remedy: Remedy | None) -> list[dict[str, object]]:
    if remedy is None:
        return []
    edits: list[dict[str, object]] = [
        {"owner": c.owner, "channel": c.channel, "control": c.name, "value": c.value}
        for c in remedy.changes
    ]
    return edits if remedy.audio is None else [*edits, {"audio": remedy.audio.model_dump()}]


def next_row(assessment: Assessment) -> dict[str, object]:
    """The next thing as data; `edits` is what its button would do, empty where a person must."""
    thing = assessment.next
    finding = thing.finding
    return {
        "rule": None if finding is None else finding.rule,
        "severity": None if finding is None else finding.severity,
        "line": thing.line,
        "step": thing.step,
        "sentence": thing.sentence,
        "why": thing.why,
        "edits": _edits(thing.remedy),
    }


def press_rows(found: Pressed) -> Iterator[dict[str, object]]:
    """Every press as data, the end last."""
    for press in found.presses:
        yield {
            "rule": press.finding.rule,
            "severity": press.finding.severity,
            "line": press.finding.line,
            "sentence": press.sentence,
            "edits": _edits(press.remedy),
            "stops_before": press.stops_before,
            "stops_after": press.stops_after,
            "harms_after": press.harms_after,
        }
    yield {"done": True, "reason": found.reason, "sentence": found.sentence}
