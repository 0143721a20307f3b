"""Nothing, one ear, late, twice: causes of what is heard wrong; what explains most first, then what is quick."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from verve.core.monitor import _words as words
from verve.core.monitor._ledger import ledger_of
from verve.core.monitor._whatif import recommended
from verve.core.session import Session, cue_of, set_audio
from verve.core.words import fill

Trouble = Literal["nothing", "one_ear", "late", "twice"]
TROUBLE_NAMES = words.TROUBLES
_LEAST_SHARE = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class EarCause:
    """One cause, how much of it that explains (None for what nobody can see from here), and the quickest test."""

    what: str
    test: str
    share: float | None = None

    @property
    def text(self) -> str:
        """In a sentence."""
        if self.share is None:
            return fill(words.TROUBLE_UNSEEN, what=self.what, test=self.test)
        if self.share >= 0.995:
            return fill(words.TROUBLE_SETTING, what=self.what, test=self.test)
        return fill(words.TROUBLE_PART, what=self.what, test=self.test, share=self.share)


def ear_causes(session: Session, who: str, trouble: Trouble) -> tuple[EarCause, ...]:
    """Causes for what somebody says is wrong.

    What is set is put back alone, and what that mends counts; what cannot be seen from here comes after it, in the
    order of how quick its test is.
    """
    seen = {
        "nothing": _nothing, "one_ear": _one_ear, "late": _late, "twice": _twice,
    }[trouble](session, who)  # fmt: skip
    unseen = {
        "nothing": words.NOTHING_UNSEEN, "one_ear": words.ONE_EAR_UNSEEN, "late": (),
        "twice": words.TWICE_UNSEEN,
    }[trouble]  # fmt: skip
    ranked = sorted(seen, key=lambda one: -(one.share or 0.0))
    return (*ranked, *(EarCause(what=what, test=test) for what, test in unseen))


def _nothing(session: Session, who: str) -> list[EarCause]:
    cue = cue_of(session.setup, who)
    found = []
    if cue.worn == "nothing":
        found.append(EarCause(what=words.IS_NOT_WORN[0], test=words.IS_NOT_WORN[1], share=1.0))
    if not cue.ways:
        found.append(EarCause(what=words.IS_NO_WAY[0], test=words.IS_NO_WAY[1], share=1.0))
    return found


def _one_ear(session: Session, who: str) -> list[EarCause]:
    if cue_of(session.setup, who).is_mono:
        return []
    return [EarCause(what=words.IS_STEREO[0], test=words.IS_STEREO[1], share=1.0)]


def _late(session: Session, who: str) -> list[EarCause]:
    """Every part of the slowest way by what taking it away would leave."""
    cue = cue_of(session.setup, who)
    if not cue.ways:
        return []
    slowest = max(cue.ways, key=lambda way: ledger_of(session, cue, way).total_ms)
    now = ledger_of(session, cue, slowest).total_ms
    frames = recommended(session)[0]
    audio = session.setup.audio.model_copy(update={"buffer_frames": frames})
    small = set_audio(session, audio)
    without: tuple[tuple[tuple[str, str], float, dict[str, float]], ...] = (
        (words.LATE_BUFFER, ledger_of(small, cue, slowest).total_ms, {"frames": frames}),
        (
            words.LATE_EFFECTS,
            ledger_of(session, cue.model_copy(update={"effect_frames": 0}), slowest).total_ms,
            {},
        ),
        (
            words.LATE_AIR,
            ledger_of(
                session, cue.model_copy(update={"worn": "closed_headphones"}), slowest
            ).total_ms,
            {},
        ),
        (
            words.LATE_FIXED,
            now
            - sum(d.ms for d in ledger_of(session, cue, slowest).delays if d.name == words.FIXED),
            {},
        ),
    )
    found = []
    for (what, test), left, places in without:
        share = (now - left) / now if now else 0.0
        if share >= _LEAST_SHARE:
            found.append(EarCause(what=what, test=fill(test, places), share=share))
    return found


def _twice(session: Session, who: str) -> list[EarCause]:
    if len(cue_of(session.setup, who).ways) < 2:
        return []
    return [EarCause(what=words.TWICE_WAYS[0], test=words.TWICE_WAYS[1], share=1.0)]


def day_words(key: str, **places: str | float) -> str:
    """What is said of a fault of the computer."""
    return fill(words.DAY[key], places)


DAY_RIGHT, DAY_BY_HAND = words.DAY_RIGHT, words.DAY_BY_HAND
