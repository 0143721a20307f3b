"""An exercise: everything turned away, a test, a song that is played harder, and the score against the optimum."""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final, Literal

from verve.core.engine import Engine
from verve.core.gain import all_changes, dial_hours, gains_set, optimum
from verve.core.hand import _words as words
from verve.core.kind import Control, ControlValue, control_text
from verve.core.network import LineState, is_alive, line_states
from verve.core.session import (
    Change,
    Session,
    apply_changes,
    set_playing,
    source_controls,
)
from verve.core.words import fill

_HARDER_DB: Final = (2.0, 9.0)
"""How much harder a song is played than its test; typical."""
_CLOSE_DB, _WORSE_DB, _FAR_DB = 3.0, 4.0, 8.0
_SET_BY_HAND: Final = {"gain_db", "pad_db", "distance_m"}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Exercise:
    """A copy of a session with some signals turned away; `right` is as it was, `over_db` is by source."""

    session: Session
    right: Session
    lines: tuple[str, ...]
    over_db: Mapping[str, float]
    tests: int = 0
    engine: Engine = field(default_factory=Engine, repr=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Knob:
    """Something to set, with where it stands as a person says it: an hour, centimetres, in or out."""

    control: Control
    device: str
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Tested:
    """What a test shows of a signal: the highest its meter reaches, None for nothing, and whether it went over."""

    line: str
    name: str
    peak_dbfs: float | None
    is_over: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """How one signal came out in the song, against the optimum.

    unit: dBFS, dB; `worse_db` is how much less signal-to-noise ratio than the optimum, negative for more
    """

    line: str
    name: str
    peak_dbfs: float | None
    headroom_db: float | None
    snr_db: float | None
    best_peak_dbfs: float | None
    best_snr_db: float | None
    worse_db: float
    is_lost: bool
    says: str
    harder: str

    @property
    def is_low(self) -> bool:
        """Whether it arrives far below where it would with the best gains."""
        if self.peak_dbfs is None or self.best_peak_dbfs is None:
            return False
        return self.peak_dbfs < self.best_peak_dbfs - _FAR_DB


@dataclass(frozen=True, slots=True, kw_only=True)
class Score:
    """All of them: what was kept and lost."""

    results: tuple[Result, ...]
    says: str

    @property
    def lost(self) -> int:
        """How many takes are lost."""
        return sum(one.is_lost for one in self.results)

    @property
    def is_right(self) -> bool:
        """Whether nothing is lost, nor more than need be given away to the noise."""
        return not self.lost and all(
            one.worse_db <= _WORSE_DB and not one.is_low for one in self.results
        )

    @property
    def grade(self) -> Literal[1, 2, 3, 4]:
        """How well it was set: 1 where a take is lost, 3 where everything is right."""
        return 1 if self.lost else 3 if self.is_right else 2


def settable_lines(session: Session, engine: Engine | None = None) -> tuple[tuple[str, str], ...]:
    """Signals with something to set, by id and name: those that arrive."""
    return tuple(
        (state.line.id, state.line.name)
        for state in line_states(session.setup, engine)
        if state.route.is_complete
        and state.route.has_source
        and state.peak_dbfs is not None
        and is_alive(state.route)
        and _knobs(state)
    )


def exercise_of(session: Session, lines: Sequence[str], seed: int) -> Exercise:
    """Turn the knobs of some signals away, at random but the same for the same seed."""
    engine = Engine()
    rng = random.Random(f"by hand {seed}")
    changes: dict[tuple[str, str, str], Change] = {}
    for state in line_states(session.setup, engine):
        if state.line.id not in lines:
            continue
        for _, control in _knobs(state):
            key = (control.owner, control.channel, control.name)
            if key not in changes:
                changes[key] = Change(
                    owner=control.owner, channel=control.channel, name=control.name,
                    value=_turned_away(control, rng),
                )  # fmt: skip
    sources = {
        state.route.source.id
        for state in line_states(session.setup, engine)
        if state.line.id in lines and state.route.has_source
    }
    return Exercise(
        session=apply_changes(session, tuple(changes.values())),
        right=session,
        lines=tuple(lines),
        over_db={one: round(rng.uniform(*_HARDER_DB), 1) for one in sorted(sources)},
        engine=engine,
    )


def _turned_away(control: Control, rng: random.Random) -> ControlValue:
    if control.name == "gain_db":
        return control.minimum
    if control.name == "pad_db":
        return rng.choice(control.choices)
    now = float(control.value or 0.0)
    return control.clamped(round(now * rng.choice((0.5, 1.0, 2.0)), 3))


def _knobs(state: LineState) -> list[tuple[str, Control]]:
    """What is set by hand on a signal: its distance, its pads, and the gains that set its level."""
    route = state.route
    solved = gains_set(state)
    rows = [(route.source.name, c) for c in source_controls(route.source)]
    rows += [(step.name, c) for step in route.steps for c in step.controls.values()]
    found: dict[tuple[str, str, str], tuple[str, Control]] = {}
    for name, control in rows:
        if control.name not in _SET_BY_HAND:
            continue
        if control.name == "gain_db" and (control.owner, control.channel) not in solved:
            continue
        found.setdefault((control.owner, control.channel, control.name), (name, control))
    return list(found.values())


def knobs_of(exercise: Exercise, line_id: str) -> tuple[Knob, ...]:
    """What can be set on a signal now, each as a person says it."""
    state = _state(exercise.session, line_id, exercise.engine)
    return tuple(
        Knob(control=control, device=name, says=_says(control)) for name, control in _knobs(state)
    )


def _says(control: Control) -> str:
    if control.is_dial and control.name == "gain_db":
        return dial_hours(control, float(control.value or 0.0))
    return control_text(control, control.value)


def turned(exercise: Exercise, change: Change) -> Exercise:
    """Something is set otherwise.

    raises: EditError for a value that it cannot have
    """
    return replace(exercise, session=apply_changes(exercise.session, (change,)))


def _state(session: Session, line_id: str, engine: Engine) -> LineState:
    return next(s for s in line_states(session.setup, engine) if s.line.id == line_id)


def shown_in_test(exercise: Exercise) -> tuple[Exercise, tuple[Tested, ...]]:
    """Play the test: what each meter reaches. The exercise counts how often one has."""
    found = []
    for line in exercise.lines:
        state = _state(exercise.session, line, exercise.engine)
        peak = state.peak_dbfs if is_alive(state.route) else None
        found.append(
            Tested(
                line=line,
                name=state.line.name,
                peak_dbfs=None if peak is None else min(0.0, float(round(peak))),
                is_over=peak is not None and peak >= 0.0,
            )
        )
    return replace(exercise, tests=exercise.tests + 1), tuple(found)


def _song(session: Session, over_db: Mapping[str, float]) -> Session:
    """The same with everybody as hard as they play when it counts."""
    for source in session.setup.sources:
        if source.id in over_db:
            old = source.figures.playing()
            hardest = old.model_copy(update={"hardest_db": old.hardest_db + over_db[source.id]})
            session = set_playing(session, source.id, hardest, words.SAID)
    return session


def played(exercise: Exercise) -> Score:
    """Play the song: what each signal has become, against the best that knew how hard it would be."""
    song = _song(exercise.session, exercise.over_db)
    wanted = _song(exercise.right, exercise.over_db)
    best = apply_changes(
        wanted, all_changes(optimum(wanted, exercise.lines, engine=exercise.engine))
    )
    results = tuple(_result(exercise, song, best, line) for line in exercise.lines)
    lost = sum(one.is_lost for one in results)
    says = fill(words.SOME_LOST, lost=lost, count=str(len(results))) if lost else words.ALL_KEPT
    return Score(results=results, says=says)


def _result(exercise: Exercise, song: Session, best: Session, line: str) -> Result:
    now, right = (_state(one, line, exercise.engine) for one in (song, best))
    source = now.route.source
    harder = fill(words.HARDER, player=source.name, over_db=exercise.over_db[source.id])
    snr, best_snr = (None if s.levels is None else s.levels.snr_db for s in (now, right))
    worse = (best_snr or 0.0) - (snr or 0.0)
    headroom, where = _headroom(now)
    is_silent = now.peak_dbfs is None or not is_alive(now.route)
    below = (right.peak_dbfs or 0.0) - (now.peak_dbfs or 0.0)
    is_lost = is_silent or (headroom is not None and headroom < 0.0)
    return Result(
        line=line,
        name=now.line.name,
        peak_dbfs=now.peak_dbfs,
        headroom_db=headroom,
        snr_db=snr,
        best_peak_dbfs=right.peak_dbfs,
        best_snr_db=best_snr,
        worse_db=worse,
        is_lost=is_lost,
        says=words.SILENT if is_silent else _verdict(headroom or 0.0, worse, below, where),
        harder=harder,
    )


def _headroom(state: LineState) -> tuple[float | None, str]:
    """The least headroom of any stage, and which stage that is; what is meant to distort does not count."""
    levels, staged = state.levels, state.staged
    if levels is None or staged is None:
        return None, ""
    meant = set(state.driven_db)
    rows = [
        (headroom, number)
        for number, headroom in enumerate(levels.headroom_db)
        if headroom is not None and number not in meant
    ]
    if not rows:
        return None, ""
    headroom, number = min(rows)
    at = staged.parts[number].step_index
    return headroom, state.route.source.name if at is None else state.route.steps[at].name


def _verdict(headroom_db: float, worse_db: float, below_db: float, where: str) -> str:
    if headroom_db < 0.0:
        return fill(words.LOST, over_db=-headroom_db, where=where)
    if worse_db > _WORSE_DB:
        return fill(words.LOW, worse_db=worse_db)
    if below_db > _FAR_DB:
        return fill(words.FAR_BELOW, below_db=below_db, worse_db=max(0.0, worse_db))
    if headroom_db < _CLOSE_DB:
        return fill(words.CLOSE, headroom_db=headroom_db)
    if worse_db < -1.0:
        return fill(words.BETTER, better_db=-worse_db)
    return fill(words.RIGHT, headroom_db=headroom_db, worse_db=max(0.0, worse_db))
