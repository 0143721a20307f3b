"""The one judge of gains: whatever the solver would set is right, and what it says is the difference to that."""

from __future__ import annotations

from verve.core.causes import slip_of
from verve.core.engine import Engine, Remembered
from verve.core.findings import Later, Proposal, Remedy
from verve.core.gain import (
    Optimum,
    all_changes,
    dial_words,
    is_solvable,
    optimum,
    together_with,
)
from verve.core.kind import Control, control_text
from verve.core.network import LineState, Network, network_of
from verve.core.session import Change, RouteStep, Session
from verve.core.stage import _words as words
from verve.core.words import fill

_LEAST_DB = 0.05


class GainJudge:
    """What the solver says of the lines of one session, each asked once."""

    def __init__(self, session: Session, engine: Engine, network: Network | None = None) -> None:
        self._session, self._engine = session, engine
        self._network = network or network_of(session.setup, engine)
        self._groups: dict[str, tuple[LineState, ...]] | None = None
        self._found: dict[str, tuple[Optimum, ...]] = {}

    def of(self, line_id: str) -> tuple[Optimum, ...]:
        """The best settings of a line and of those that are set together with it; empty for none."""
        if line_id not in self._found:
            self._found[line_id] = self._ask(line_id)
        return self._found[line_id]

    def depends(self, line_id: str) -> tuple[object, ...]:
        """What its answer for a line depends on: as long as these are the very same, so is the answer."""
        if self._groups is None:
            solvable = [s for s in self._network.lines if is_solvable(s)]
            self._groups = together_with(solvable, self._engine)
        setup = self._session.setup
        aim = setup.own_target_dbfs if setup.level_target == "own" else None
        return (*self._groups.get(line_id, ()), setup.room, setup.audio, setup.level_target, aim)

    def _ask(self, line_id: str) -> tuple[Optimum, ...]:
        """The best settings of a group of lines, remembered as long as nothing of the group changes."""
        self.depends(line_id)
        assert self._groups is not None
        group = self._groups.get(line_id, ())
        setup = self._session.setup
        table: Remembered[tuple[Optimum, ...]] = self._engine.table("best gains", 256)
        return table.get(
            (*group, setup.room, setup.audio, f"{setup.level_target} {setup.own_target_dbfs}"),
            lambda: optimum(
                self._session,
                tuple(state.line.id for state in group),
                engine=self._engine,
                network=self._network,
            ),
        )

    def best(self, line_id: str) -> Optimum | None:
        """The best settings of one line."""
        return next((one for one in self.of(line_id) if one.line == line_id), None)

    def changes(self, line_id: str) -> tuple[Change, ...]:
        """Everything it would set otherwise, for a line and those that are set together with it."""
        return all_changes(self.of(line_id))

    def later(self, state: LineState, otherwise: str) -> Later:
        """What to do about a line's level: what the solver would set, else what a person must do."""
        return Later(lambda: self._proposal(state, otherwise))

    def _proposal(self, state: LineState, otherwise: str) -> Proposal:
        slip = slip_of(self._session, state, self._engine)
        if slip is not None and slip.change is not None:
            return Proposal(
                advice=slip.deed,
                remedy=Remedy(label=words.PUT_IT_BACK, changes=(slip.change,)),
            )
        changes = self.changes(state.line.id)
        if not changes:
            locked = locked_control(state)
            if locked is None:
                return Proposal(advice=otherwise)
            value = control_text(locked, locked.value)
            return Proposal(advice=fill(words.LOCKED, control=locked.said, value=value))
        best = self.best(state.line.id)
        is_enough = best is None or best.reaches_target
        advice = fill(
            words.SET if is_enough else words.SET_IN_PART,
            deeds=deeds_of(state, changes) or words.WITH_ITS_LINES,
            otherwise=otherwise,
        )
        label = _label(state, changes)
        return Proposal(
            advice=advice, remedy=Remedy(label=label, changes=changes), by_hand=otherwise
        )


def locked_control(state: LineState) -> Control | None:
    """The level control of a line, if its user has locked it."""
    control = state.level_control()
    return control if control is not None and control.is_locked else None


def _own(state: LineState, change: Change) -> tuple[RouteStep, Control] | None:
    for step in state.route.steps:
        for control in (*step.controls.values(), *step.shared):
            key = (control.owner, control.channel, control.name)
            if key == (change.owner, change.channel, change.name):
                return step, control
    return None


def _moved_db(control: Control, change: Change) -> float:
    return float(change.value or 0.0) - float(control.value or 0.0)


def _label(state: LineState, changes: tuple[Change, ...]) -> str:
    """What the button says: which way the gains of this line go, where they all go one way."""
    moved = [
        _moved_db(found[1], change) * (-1.0 if change.name == "pad_db" else 1.0)
        for change in changes
        if (found := _own(state, change)) is not None
    ]
    if moved and all(by > 0.0 for by in moved):
        return words.TURN_UP
    if moved and all(by < 0.0 for by in moved):
        return words.TURN_DOWN
    return words.SET_GAINS


def deeds_of(state: LineState, changes: tuple[Change, ...]) -> str:
    """What is to be done on a line, control by control: "turn the preamp down 4 dB, to about 2 o’clock"."""
    said = []
    for change in changes:
        found = _own(state, change)
        if found is None:
            continue
        step, control = found
        by_db = _moved_db(control, change)
        value = float(change.value or 0.0)
        if change.name == "pad_db":
            said.append(
                fill(words.PAD_IN if value else words.PAD_OUT, device=step.name, pad_db=value)
            )
        elif abs(by_db) >= _LEAST_DB:
            said.append(_turn(step, control, by_db, value))
    return ", and ".join(said)


def _turn(step: RouteStep, control: Control, by_db: float, value: float) -> str:
    if is_fader := control.name == "fader_db":
        knob = words.KNOBS["fader"]
    elif step.figures.records:
        knob = words.KNOBS["preamp"]
    elif step.figures.mixes:
        knob = words.KNOBS["trim"]
    else:
        knob = words.KNOBS["gain"]
    has_hour = control.is_dial and not is_fader
    return fill(
        words.TURN_DIAL if has_hour else words.TURN,
        knob=fill(knob, control=control.said, device=step.name),
        way=words.DOWN if by_db < 0.0 else words.UP,
        by_db=round(abs(by_db), 1),
        hour=dial_words(control, value) if has_hour else "",
    )
