"""Advice tried on sessions as people leave them: it ends, harms nothing, breaks nothing, and goes nowhere twice."""

from __future__ import annotations

from prove.report import Tally
from prove.sessions import session_of
from verve.core.assess import Assessment, assess
from verve.core.findings import Finding
from verve.core.pressing import MOST_PRESSES
from verve.core.session import Session, Setup
from verve.core.trial import HARMS, disorder, is_hiding


def _key(finding: Finding) -> tuple[str, str | None]:
    return finding.rule, finding.line


def _new_stops(before: Assessment, after: Assessment) -> list[str]:
    """Stops that were not there, on lines that could be judged before."""
    known = {_key(f) for f in before.findings}
    hidden = {f.line for f in before.findings if is_hiding(f)}
    return [
        f.rule for f in after.stops if _key(f) not in known and not {f.line, *f.also_lines} & hidden
    ]


def press(session: Session) -> tuple[list[str], str, Session]:
    """Press the next thing until it ends: the rules pressed, what was wrong with it, and the last session."""
    seen: list[Setup] = [session.setup]
    rules: list[str] = []
    now = assess(session)
    for _ in range(MOST_PRESSES):
        thing = now.next
        if thing.action != "apply" or thing.remedy is None or thing.finding is None:
            return rules, "", session
        session = thing.remedy.apply(session)
        after = assess(session)
        rules.append(thing.finding.rule)
        harms, were = ({_key(f) for f in a.findings if f.rule in HARMS} for a in (after, now))
        if harms - were:
            return rules, f"harm: {sorted(harms - were)}", session
        stops = _new_stops(now, after)
        if stops:
            return rules, f"new stop: {', '.join(stops)}", session
        if not disorder(after.findings) < disorder(now.findings):
            return rules, "disorder did not fall", session
        if session.setup in seen:
            return rules, "circle", session
        seen.append(session.setup)
        now = after
    return rules, "no end", session


def pressed(count: int, first: int) -> Tally:
    """The next thing, pressed to the end, in so many sessions."""
    tally = Tally("the next thing, pressed to the end")
    for number in range(first, first + count):
        rules, wrong, last = press(session_of(number))
        if wrong:
            tally.fault(f"session {number}: {wrong} after {', '.join(rules[-3:])}")
            continue
        thing = assess(last).next
        tally.note("by hand" if thing.finding is not None else "nothing left")
        tally.outcomes["presses"] += len(rules)
    return tally


def offered(count: int, first: int) -> Tally:
    """Every remedy that is offered anywhere, not only the next one, does what it says and breaks nothing."""
    tally = Tally("every remedy that is offered")
    for number in range(first, first + count):
        session = session_of(number)
        before = assess(session)
        for finding in before.findings:
            remedy = finding.remedy
            if remedy is None:
                continue
            after = assess(remedy.apply(session))
            stops = _new_stops(before, after)
            if stops or not disorder(after.findings) < disorder(before.findings):
                tally.fault(f"session {number}, {finding.rule}: {stops or 'no better'}")
            else:
                tally.note("kept")
    return tally
