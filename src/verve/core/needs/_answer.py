"""Everything about one pass of the brief: its connections, the needs, the ways out, the computer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from verve.core.connections import NoSuggestion, Suggestion, suggest_connections
from verve.core.needs import _words as words
from verve.core.needs._computer import Check, checks_of
from verve.core.needs._needs import Need, computer_plugs, needs_of, spare_devices
from verve.core.needs._outs import Option, options_of
from verve.core.session import Brief, Session
from verve.core.words import fill


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """Everything about one pass: its way or why there is none, needs, ways out, the computer."""

    pass_id: str
    suggestion: Suggestion | NoSuggestion
    needs: tuple[Need, ...]
    spare: str
    outs: tuple[Option, ...]
    checks: tuple[Check, ...]
    later: tuple[tuple[str, int, int, int], ...]


def answer(
    session: Session,
    pass_id: str,
    report: Callable[[float], None],
    is_cancelled: Callable[[], bool],
) -> Answered | None:
    """Work out a pass; None for one that is gone.

    raises: CancelledError if it is no longer wanted
    """
    item = next((one for one in session.brief.passes if one.id == pass_id), None)
    if item is None:
        return None
    suggestion = suggest_connections(session, item, progress=report, is_cancelled=is_cancelled)
    parts = session.brief.parts_of(item)
    needs: tuple[Need, ...] = ()
    outs: tuple[Option, ...] = ()
    spare = ""
    figures, drawn, count = None, 0.0, 0
    if isinstance(suggestion, Suggestion):
        needs = needs_of(session, parts, suggestion)
        outs = options_of(session, item, suggestion, is_cancelled=is_cancelled)
        spare = ", ".join(
            f"{n} × {name}" if n > 1 else name
            for name, n in spare_devices(session, suggestion).items()
        )
        drawn = sum(choice.rated.connection.current_ma for choice in suggestion.choices)
        count = len(suggestion.choices)
        if suggestion.choices:
            figures = suggestion.choices[0].rated.connection.recorder.figures
    plugged = [name for name, _ in computer_plugs(parts, figures)]
    checks = checks_of(count, session.setup.audio, session.computer, figures, drawn, plugged)
    return Answered(
        pass_id=pass_id,
        suggestion=suggestion,
        needs=needs,
        spare=spare,
        outs=outs,
        checks=checks,
        later=_compare(session, needs, is_cancelled),
    )


def _compare(
    session: Session, now: tuple[Need, ...], is_cancelled: Callable[[], bool]
) -> tuple[tuple[str, int, int, int], ...]:
    """Needs of now beside those of what is wanted later, all its parts at once: label, now, later, missing."""
    later: Brief | None = session.later
    if later is None or not later.passes:
        return ()
    changed = session.model_copy(update={"brief": later})
    item = max(later.passes, key=lambda one: len(one.parts))
    suggestion = suggest_connections(changed, item, is_cancelled=is_cancelled)
    if not isinstance(suggestion, Suggestion):
        return (
            (
                fill(words.LATER_NO_WAY, signals=", ".join(suggestion.signals), why=suggestion.why),
                0,
                0,
                0,
            ),
        )
    then = {n.label: n for n in needs_of(changed, later.parts_of(item), suggestion)}
    here = {n.label: n for n in now}
    return tuple(
        (
            label,
            here[label].needed if label in here else 0,
            then[label].needed if label in then else 0,
            then[label].missing if label in then else 0,
        )
        for label in dict.fromkeys([*here, *then])
    )
