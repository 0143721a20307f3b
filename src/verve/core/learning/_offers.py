"""Sixty seconds of practice, offered once where they are needed: before the first phantom power, scream, double."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.assess import Assessment
from verve.core.findings import Step
from verve.core.learning._progress import Progress
from verve.core.network import devices_in_need

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


def offer_at(assessment: Assessment, step: Step, progress: Progress) -> Offer | None:
    """What is offered when somebody comes to a step; None for nothing, or where it was offered before."""
    return next(
        (one for one in offers_of(assessment, step) if one.key not in progress.offered), None
    )


def offers_of(assessment: Assessment, step: Step) -> tuple[Offer, ...]:
    """What could be offered at a step, whether it was before or not."""
    makers = {"power": _phantom, "stage": _scream, "takes": _double}
    return tuple(makers[step](assessment)) if step in makers else ()


def _phantom(assessment: Assessment) -> Iterator[Offer]:
    for item in assessment.lines:
        if (
            item.route.is_complete
            and not item.is_alive
            and any(True for _ in devices_in_need(item.route))
        ):
            yield Offer(
                key="phantom",
                step="power",
                says="Phantom power comes next. 60 seconds to go through its order once, where nothing can break?",
                page="order",
                line=item.line.id,
            )
            return


def _scream(assessment: Assessment) -> Iterator[Offer]:
    for settings in assessment.session.named_settings:
        playing, item = settings.playing, assessment.line(settings.line)
        if item is None:
            continue
        is_named = "scream" in settings.name.casefold()
        over_db = 0.0 if playing is None else playing.hardest_db - item.playing.hardest_db
        if is_named or over_db >= _SCREAM_OVER_DB:
            yield Offer(
                key="scream",
                step="stage",
                says="A scream comes next. 60 seconds to set a gain by hand for somebody who gets louder?",
                page="hand",
                line=settings.line,
            )
            return


def _double(assessment: Assessment) -> Iterator[Offer]:
    session = assessment.session
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
            return
