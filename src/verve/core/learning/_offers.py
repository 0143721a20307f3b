"""Sixty seconds of practice, offered once where they are needed: before the first phantom power, scream, double."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.findings import Step
from verve.core.learning._progress import Progress
from verve.core.network import devices_in_need, is_alive, line_states
from verve.core.session import Session

_SCREAM_OVER_DB: Final = 12.0
"""So much louder than somebody's usual loudest a named setting is a scream."""
Page = Literal["order", "hand", "ear"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """What is offered: its key, at which step, in which words, and what opens."""

    key: str
    step: Step
    says: str
    page: Page
    line: str = ""
    drill: str = ""


def offer_at(session: Session, step: Step, progress: Progress) -> Offer | None:
    """What is offered when somebody comes to a step; None for nothing, or where it was offered before."""
    found = (one for one in _offers(session) if one.step == step)
    return next((one for one in found if one.key not in progress.offered), None)


def _offers(session: Session) -> Iterator[Offer]:
    for state in line_states(session.setup):
        needs = any(True for _ in devices_in_need(state.route))
        if state.route.is_complete and needs and not is_alive(state.route):
            yield Offer(
                key="phantom",
                step="power",
                says="Phantom power comes next. 60 seconds to go through its order once, where nothing can break?",
                page="order",
                line=state.line.id,
            )
            break
    lines = {line.id for line in session.setup.lines}
    for settings in session.named_settings:
        playing = settings.playing
        if playing is None or settings.line not in lines:
            continue
        usual = next(s for s in line_states(session.setup) if s.line.id == settings.line).playing
        is_named = "scream" in settings.name.casefold()
        if is_named or playing.hardest_db - usual.hardest_db >= _SCREAM_OVER_DB:
            yield Offer(
                key="scream",
                step="stage",
                says="A scream comes next. 60 seconds to set a gain by hand for somebody who gets louder?",
                page="hand",
                line=settings.line,
            )
            break
    takes = {take.layer for take in session.takes}
    for item in session.brief.passes:
        if item.id not in takes and any(p.doubles for p in session.brief.parts_of(item)):
            yield Offer(
                key="double",
                step="takes",
                says="A double comes next. 60 seconds to hear how far off the beat one may be?",
                page="ear",
                drill="double",
            )
            break
