"""Look before you leap: a remedy is tried on the session before it is offered.

It must do what its rule promises, harm nothing, leave nothing as grave that was not there, and lower the
disorder of the session. Disorder is a tuple of whole numbers that are not negative, compared in order: so it
can fall only so many times, and pressing remedies never goes round.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from verve.core import _trial_words as words
from verve.core.errors import EditError
from verve.core.findings import RULES, SEVERITIES, Finding, Later, Proposal, Remedy
from verve.core.session import Change, Session
from verve.core.words import fill

HARMS = frozenset({"phantom_harms", "loudspeaker_level", "valve_without_load", "feedback"})
"""Rules whose findings say that gear or ears can be harmed."""
HIDES = frozenset({"pickup_loaded", "wrong_mode"})
"""Beside all stops but a missing phantom power: a line with such a finding has no level to judge yet."""
_STEP_DB = 0.5
_HIDDEN_STEPS = 400
"""A line whose level nobody can judge counts as further off than any that can be."""

Findings = Sequence[Finding]
Disorder = tuple[int, int, int, int, int]
Look = Callable[[Session], Findings]
"""What is found in a session, nothing of it tried yet."""
Gains = Callable[[Session, str], tuple[Change, ...]]
"""What the solver would set otherwise for a line of a session."""


def is_hiding(finding: Finding) -> bool:
    """Whether the level of its line cannot be judged because of it."""
    if finding.severity == "stop":
        return finding.rule != "phantom_missing"
    return finding.rule in HIDES


def _lines(finding: Finding) -> set[str]:
    return {finding.line or "", *finding.also_lines}


def _key(finding: Finding) -> tuple[str, frozenset[str]]:
    """What makes it the same finding: the rule and whom it concerns, whichever side of a pair it names."""
    return finding.rule, frozenset(_lines(finding))


def disorder(findings: Findings) -> Disorder:
    """How much is wrong: harms, takes that would be lost, lines that are off, how far, things left undone."""
    off = [f for f in findings if f.severity != "know"]
    hidden = {f.line for f in findings if is_hiding(f)}
    far = sum(round(abs(f.size_db) / _STEP_DB) for f in off if f.line not in hidden)
    return (
        sum(f.rule in HARMS for f in findings),
        sum(f.severity == "stop" for f in findings),
        len({line for f in off for line in _lines(f)}),
        far + _HIDDEN_STEPS * len(hidden),
        sum(f.severity == "know" and RULES[f.rule].promise is not None for f in findings),
    )


def _gravity(finding: Finding) -> int:
    return SEVERITIES.index(finding.severity)


def objection(finding: Finding, before: Findings, after: Findings) -> Finding | None:
    """What speaks against a remedy of a finding: what it leads to, or the finding itself where it is not mended.

    None where nothing does.
    """
    known = {_key(f) for f in before}
    harmed = next((f for f in after if f.rule in HARMS and _key(f) not in known), None)
    if harmed is not None:
        return harmed
    left = next((f for f in after if _key(f) == _key(finding)), None)
    if left is not None:
        is_less = left.size_db < finding.size_db - 1e-6 or _gravity(left) > _gravity(finding)
        if RULES[finding.rule].promise == "gone" or not is_less:
            return finding
    hidden = {f.line for f in before if is_hiding(f)}
    for new in after:
        if (
            _key(new) not in known
            and _gravity(new) <= _gravity(finding)
            # What a broken line hid was there before, only not to be seen.
            and not (_lines(new) & hidden)
        ):
            return new
    return None if disorder(after) < disorder(before) else finding


def tried(
    finding: Finding, session: Session, before: Findings, look: Look, gains: Gains
) -> Finding:
    """A finding whose remedy is offered only if it passes; what does not is said as a deed, and why.

    It is tried when somebody first asks for advice or remedy.
    """
    if finding.edits is None and finding.audio is None and finding.later is None:
        return finding

    def propose() -> Proposal:
        return _proposal(finding, session, before, look, gains)

    return finding.with_later(Later(propose))


def _proposal(
    finding: Finding, session: Session, before: Findings, look: Look, gains: Gains
) -> Proposal:
    advice, remedy, by_hand = finding.advice, finding.remedy, finding.by_hand
    if remedy is None:
        return Proposal(advice=advice)
    try:
        changed = remedy.apply(session)
    except EditError:
        return Proposal(advice=by_hand or fill(words.NOT_ENOUGH, advice=advice))
    against = objection(finding, before, look(changed))
    if against is None:
        return Proposal(advice=advice, remedy=remedy)
    if against.rule not in HARMS:
        whole = _with_gains(finding, remedy, changed, gains)
        if whole is not None:
            then = objection(finding, before, look(whole.apply(session)))
            if then is None:
                return Proposal(advice=fill(words.WITH_GAINS, advice=advice), remedy=whole)
    if by_hand:
        return Proposal(advice=by_hand)
    if against is finding:
        return Proposal(advice=fill(words.NOT_ENOUGH, advice=advice))
    return Proposal(advice=fill(words.LEADS_TO, advice=advice, finding=against.title))


def _with_gains(finding: Finding, remedy: Remedy, changed: Session, gains: Gains) -> Remedy | None:
    """The same remedy with the gains of its lines set as well; None where they stay as they are."""
    more: dict[tuple[str, str, str], Change] = {}
    for line in sorted(_lines(finding) - {""}):
        for change in gains(changed, line):
            more[(change.owner, change.channel, change.name)] = change
    if not more:
        return None
    return replace(remedy, changes=(*remedy.changes, *more.values()))
