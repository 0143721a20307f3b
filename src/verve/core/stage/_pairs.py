"""Two sides of one stereo picture: they arrive at one level, or it is said what makes the difference."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import zip_longest

from verve.core.findings import Finding
from verve.core.gain import Window
from verve.core.kind import Control, control_text
from verve.core.network import LineState
from verve.core.session import source_controls
from verve.core.stage import _words as words
from verve.core.stage._judge import GainJudge, locked_control
from verve.core.words import Fact, fill, level_text

_EQUAL_DB = 0.6
_PLACED = frozenset({"distance_m", "angle_deg"})
"""Where a microphone stands: that may differ on purpose."""
_GAINS = frozenset({"gain_db"})
"""What the solver sets: told by it, not as a difference."""


_MOST_TOLD = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """What is not alike on both sides: the name of a control, or empty for other gear; in words."""

    control: str
    words: str


def _controls(state: LineState) -> list[dict[str, Control]]:
    """What can be set on a line, place by place from the source on."""
    source = state.route.source_or_none
    own = {} if source is None else {c.name: c for c in source_controls(source)}
    return [own] + [
        {c.name: c for c in (*step.controls.values(), *step.shared)} for step in state.route.steps
    ]


def differences(first: LineState, second: LineState) -> Iterator[Difference]:
    """Everything beside the gain that is set or built otherwise on one side than on the other."""
    for one, other in zip_longest(first.route.steps, second.route.steps):
        if one is None or other is None or one.figures.entry != other.figures.entry:
            yield Difference(
                control="",
                words=fill(
                    words.OTHER_GEAR,
                    one=words.NOTHING if one is None else one.name,
                    first=first.line.name,
                    other=words.NOTHING if other is None else other.name,
                    second=second.line.name,
                ),
            )
            # What follows stands elsewhere on the other side: nothing of it can be compared.
            return
    for mine, others in zip(_controls(first), _controls(second), strict=True):
        for name, control in mine.items():
            partner = others.get(name)
            if name in _GAINS or partner is None or partner.value == control.value:
                continue
            yield Difference(
                control=name,
                words=fill(
                    words.OTHERWISE_SET,
                    control=control.said,
                    one=control_text(control, control.value),
                    first=first.line.name,
                    other=control_text(partner, partner.value),
                    second=second.line.name,
                ),
            )


def pair_findings(
    states: Sequence[LineState], windows: Mapping[str, Window], judge: GainJudge
) -> list[Finding]:
    """Both sides of a stereo pair arrive at one level; where they do not, the solver says whether by gain."""
    pairs: dict[str, list[LineState]] = {}
    for state in states:
        if state.line.pair is not None and state.peak_dbfs is not None:
            pairs.setdefault(state.line.pair, []).append(state)
    found = []
    for sides in pairs.values():
        if len(sides) != 2:
            continue
        first, second = sides
        # What else their microphones hear is no matter of theirs.
        apart = (first.own_peak_dbfs or 0.0) - (second.own_peak_dbfs or 0.0)
        expected = first.playing.hardest_db - second.playing.hardest_db
        if first.playing.hardest_db != second.playing.hardest_db:
            # Two outputs of one instrument that are not played alike are meant so.
            apart -= expected
        if abs(apart) <= _EQUAL_DB:
            continue
        further = max(
            sides, key=lambda s: abs((s.peak_dbfs or 0.0) - windows[s.line.id].target_dbfs)
        )
        found.append(_unequal(sides, further, apart, judge))
    return found


def _unequal(
    sides: Sequence[LineState], other: LineState, apart_db: float, judge: GainJudge
) -> Finding:
    first, second = sides
    partner = first if other is second else second
    unlike = tuple(differences(first, second))
    is_placed = bool(unlike) and all(one.control in _PLACED for one in unlike)
    what = "; ".join(one.words for one in unlike[:_MOST_TOLD])
    locked = [state for state in sides if locked_control(state) is not None]
    if len(locked) == 2:
        otherwise = words.BOTH_LOCKED
    else:
        otherwise = fill(words.SIDES_DIFFER, what=what) if unlike else words.GAINS_ALIKE
    return Finding(
        rule="pair_unequal",
        severity="know" if is_placed else "mend",
        line=other.line.id,
        also_lines=(partner.line.id,),
        words=words.PAIR_PLACED if is_placed else words.PAIR_UNEQUAL,
        places={
            "first": first.line.name,
            "second": second.line.name,
            "apart_db": abs(apart_db),
            "what": what,
        },
        later=None if is_placed else judge.later(other, otherwise),
        size_db=abs(apart_db),
        facts=tuple(
            Fact(
                label=state.line.name,
                text=level_text(state.own_peak_dbfs or 0.0, "dBFS"),
                origin="computed",
                how=words.PEAK_AT_RECORDER_HOW,
            )
            for state in sides
        ),
    )
