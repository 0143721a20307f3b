"""No signal? Questions that can be answered from the stool, each chosen to halve what is left.

Every cause says what one would see if it were so. After each answer the causes are weighed anew, and the next
question is the one whose answer tells most; of those that tell as much the one that costs least to answer.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from verve.core.assess import Assessment
from verve.core.causes import PRIOR
from verve.core.diagnosis import _words as words
from verve.core.diagnosis._causes import AT_SOURCE, IN_SOFTWARE, Cause, causes_of
from verve.core.words import fill

_WRONG: Final = 0.04
"""How often somebody answers otherwise than it is."""
_TELLS_BITS = 0.05
"""A question that tells less is not asked."""
FOUND: Final = 0.8
"""So likely a cause is taken for found."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """Something to look at or to try: its key, the sentence, and what it costs in seconds."""

    key: str
    text: str
    seconds: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Search:
    """The causes with how likely each is now, the likeliest first, and what to ask next."""

    ranked: tuple[tuple[Cause, float], ...]
    question: Question | None

    @property
    def is_found(self) -> bool:
        """Whether one is so likely that nothing has to be asked any more."""
        return bool(self.ranked) and self.ranked[0][1] >= FOUND


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked:
    question: Question
    says: Callable[[Cause], float]
    """How likely the answer is yes, if a cause is the one."""


def search(
    assessment: Assessment, line_id: str, answers: Mapping[str, bool | None] | None = None
) -> Search:
    """Where the search for a lost signal is, after some answers by the key of their question; None for nobody knows.

    An unknown line has no causes.
    """
    answers = answers or {}
    causes = causes_of(assessment, line_id)
    asked = _questions(assessment, line_id, causes)
    weights = [PRIOR[cause.weight] for cause in causes]
    for one in asked:
        answer = answers.get(one.question.key)
        if answer is not None:
            weights = [
                weight * (one.says(cause) if answer else 1.0 - one.says(cause))
                for weight, cause in zip(weights, causes, strict=True)
            ]
    total = sum(weights) or 1.0
    shares = [weight / total for weight in weights]
    ranked = sorted(zip(causes, shares, strict=True), key=lambda row: -row[1])
    left = [one for one in asked if one.question.key not in answers]
    return Search(ranked=tuple(ranked), question=_next(left, causes, shares, is_first=not answers))


def _next(
    left: Sequence[_Asked], causes: Sequence[Cause], shares: Sequence[float], *, is_first: bool
) -> Question | None:
    """The first is what one sees from the stool; then that which tells most for what it costs."""
    if is_first and left and left[0].question.key == "lamp":
        return left[0].question
    told = [(_tells_bits(one, causes, shares), one.question) for one in left]
    told = [row for row in told if row[0] >= _TELLS_BITS]
    if not told:
        return None
    return max(told, key=lambda row: row[0] / (1.0 + row[1].seconds / 60.0))[1]


def _tells_bits(one: _Asked, causes: Sequence[Cause], shares: Sequence[float]) -> float:
    """How much an answer tells on average.

    source: derivation, mutual information of answer and cause
    """
    yes = sum(share * one.says(cause) for cause, share in zip(causes, shares, strict=True))
    return _bits(yes) - sum(
        share * _bits(one.says(cause)) for cause, share in zip(causes, shares, strict=True)
    )


def _bits(share: float) -> float:
    return -sum(p * math.log2(p) for p in (share, 1.0 - share) if p > 0.0)


def _sure(is_so: bool) -> float:
    return 1.0 - _WRONG if is_so else _WRONG


def _questions(assessment: Assessment, line_id: str, causes: Sequence[Cause]) -> tuple[_Asked, ...]:
    item = assessment.line(line_id)
    if item is None or not causes:
        return ()
    keys = {cause.key for cause in causes}
    steps = item.route.steps
    has_others = len(assessment.lines) > 1
    found: list[_Asked] = []

    def ask(key: str, text: str, seconds: float, says: Callable[[Cause], float]) -> None:
        found.append(_Asked(question=Question(key=key, text=text, seconds=seconds), says=says))

    name = item.route.source.name if item.route.has_source else item.line.name
    recorder = item.route.recorder
    if recorder is not None:
        ask(
            "lamp",
            fill(words.LAMP, source=name, recorder=recorder.name),
            3.0,
            lambda c: _sure(c.place == IN_SOFTWARE),
        )
        ask("track", words.TRACK_MOVES, 5.0, lambda c: _sure(c.key == "heard"))
        if has_others:
            ask("others", words.OTHERS_MOVE, 8.0, lambda c: _sure(c.key != "device"))
            ask("another", words.ANOTHER_MOVES, 8.0, lambda c: _sure(c.key == "track"))
        ask("arm", words.ARMED_LOOK, 5.0, lambda c: _sure(c.key != "armed"))
    if keys & {"power", "phantom_missing"}:
        ask(
            "power lamp",
            words.POWER_LAMP,
            4.0,
            lambda c: _sure(c.key not in {"power", "phantom_missing"}),
        )
    if "battery" in keys:
        ask("battery", words.BATTERY_LOOK, 40.0, lambda c: _sure(c.key != "battery"))
    if keys & {"gain", "setting gain_db", "below_window"}:
        ask(
            "gain",
            words.GAIN_LOOK,
            4.0,
            lambda c: _sure(c.key not in {"gain", "setting gain_db", "below_window"}),
        )
    if keys & {"volume", "setting volume_position", "volume_down"}:
        ask(
            "volume", fill(words.VOLUME_LOOK, source=name), 4.0,
            lambda c: _sure(c.key not in {"volume", "setting volume_position", "volume_down"}),
        )  # fmt: skip
    if "off" in keys:
        ask("own", fill(words.OWN_OUTPUT, source=name), 20.0, lambda c: _sure(c.place != AT_SOURCE))
    mixer = next((n for n, step in enumerate(steps) if step.figures.mixes), None)
    if mixer is not None:
        ask(
            "mixer", fill(words.MIXER_METER, mixer=steps[mixer].name), 3.0,
            lambda c: _sure(_is_behind_meter(c, mixer)),
        )  # fmt: skip
    if "turned" in keys:
        ask(
            "scratch", words.SCRATCH, 6.0,
            # What is broken behind the microphone keeps a scratch away as well.
            lambda c: _sure(c.key == "turned" or c.place == AT_SOURCE),
        )  # fmt: skip
    cables = sorted({c.place for c in causes if c.key == "cable"})
    for place in cables:
        step = steps[place]
        ask(
            f"cable {place}", fill(words.SWAP_CABLE, device=step.name), 30.0,
            _is_cable_at(place),
        )  # fmt: skip
    settings = [c for c in causes if c.key.startswith("setting ") and c.weight == 3]
    for cause in settings[:2]:
        ask(
            f"put {cause.key} {cause.place}", fill(words.PUT_BACK_TRY, cause=cause.title), 10.0,
            _is_like(cause),
        )  # fmt: skip
    return tuple(found)


def _is_cable_at(place: int) -> Callable[[Cause], float]:
    return lambda cause: _sure(cause.key == "cable" and cause.place == place)


def _is_like(one: Cause) -> Callable[[Cause], float]:
    return lambda cause: _sure((cause.key, cause.place) == (one.key, one.place))


def _is_behind_meter(cause: Cause, mixer: int) -> bool:
    """Whether a mixer's own meter moves all the same; a fader that is down may lie on either side of it."""
    return cause.place > mixer
