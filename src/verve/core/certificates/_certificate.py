"""Why the settings that were found are the best there are: what binds, whose noise remains, the ways out."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from verve.core.certificates import _words as words
from verve.core.certificates._improvements import Improvement, improvements_of
from verve.core.certificates._reasons import (
    locked_sentence,
    noise_sentence,
    raised_sentence,
    why_not_louder,
    why_not_quieter,
    within_sentence,
)
from verve.core.engine import Engine
from verve.core.gain import Optimum, all_changes, optimum
from verve.core.network import LineState, is_alive, line_states
from verve.core.session import Session, apply_changes


@dataclass(frozen=True, kw_only=True, eq=False)
class Certificate:
    """What can be said of the settings of one line; `kept` and `within` are empty where nothing is to say.

    `after` is the session with everything set, and `state` the line in it.
    """

    line: str
    name: str
    best: Optimum
    why_not_louder: str
    why_not_quieter: str
    noise: str
    raised: str
    kept: str
    within: str
    after: Session
    state: LineState
    engine: Engine

    @property
    def is_alive(self) -> bool:
        """Whether the line gets the phantom power it needs."""
        return is_alive(self.state.route)

    @cached_property
    def improvements(self) -> tuple[Improvement, ...]:
        """What else would help, the most first: worked out when it is asked for, since every way is computed."""
        return improvements_of(self.after, self.state, self.best, self.engine)

    def reasons(self) -> tuple[str, ...]:
        """Why these settings are the best, in the order it is read."""
        said = (
            "" if self.is_alive else words.SILENT,
            self.why_not_louder,
            self.why_not_quieter,
            self.kept,
            self.within,
            self.noise,
            self.raised,
        )
        return tuple(words for words in said if words)

    def improvement_words(self) -> tuple[str, ...]:
        """What else would help, in words."""
        return tuple(way.sentence(is_reached=self.best.reaches_target) for way in self.improvements)

    def sentences(self) -> tuple[str, ...]:
        """All of it: the reasons, then what else would help."""
        return self.reasons() + self.improvement_words()


def certificates(session: Session, engine: Engine | None = None) -> tuple[Certificate, ...]:
    """The best settings of every line with what can be said of them."""
    engine = engine or Engine()
    best = optimum(session, engine=engine)
    after = apply_changes(session, all_changes(best))
    states = {state.line.id: state for state in line_states(after.setup, engine)}
    names = {key: state.line.name for key, state in states.items()}
    found = []
    for one in best:
        state = states.get(one.line)
        if state is None or state.levels is None:
            continue
        pair = [s for s in states.values() if s.line.pair and s.line.pair == state.line.pair]
        found.append(
            Certificate(
                line=one.line,
                name=state.line.name,
                best=one,
                why_not_louder=why_not_louder(one, names, state),
                why_not_quieter=why_not_quieter(state),
                noise=noise_sentence(state),
                raised=raised_sentence(one),
                kept=locked_sentence(state, pair),
                within=within_sentence(one),
                after=after,
                state=state,
                engine=engine,
            )
        )
    return tuple(found)
