"""The one judge of gains: whatever the solver would set is right, and what it says is the difference to that."""

from __future__ import annotations

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
from verve.core.words import capital, db_text, number

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
        aim = setup.own_aim_dbfs if setup.school == "own" else None
        return (*self._groups.get(line_id, ()), setup.room, setup.audio, setup.school, aim)

    def _ask(self, line_id: str) -> tuple[Optimum, ...]:
        """The best settings of a group of lines, remembered as long as nothing of the group changes."""
        self.depends(line_id)
        assert self._groups is not None
        group = self._groups.get(line_id, ())
        setup = self._session.setup
        table: Remembered[tuple[Optimum, ...]] = self._engine.table("best gains", 256)
        return table.get(
            (*group, setup.room, setup.audio, f"{setup.school} {setup.own_aim_dbfs}"),
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
        changes = self.changes(state.line.id)
        if not changes:
            held = locked_words(state)
            return Proposal(
                advice=f"{held}: let go of it, and it can be set." if held else otherwise
            )
        words = change_words(state, changes)
        best = self.best(state.line.id)
        advice = capital(words or "set it together with its lines") + "."
        if best is not None and not best.reaches_aim:
            advice = f"{advice} That alone does not do: {otherwise[:1].lower()}{otherwise[1:]}"
        label = _label(state, changes)
        return Proposal(advice=advice, remedy=Remedy(label=label, changes=changes))


def locked_words(state: LineState) -> str:
    """The level control of a line that its user has locked, in words; empty if there is none."""
    control = state.level_control()
    if control is None or not control.is_kept:
        return ""
    return f"You keep the {control.said} at {control_text(control, control.value)}"


def _own(state: LineState, change: Change) -> tuple[RouteStep, Control] | None:
    for step in state.route.hops:
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
        return "Turn it up"
    if moved and all(by < 0.0 for by in moved):
        return "Turn it down"
    return "Set the gains"


def change_words(state: LineState, changes: tuple[Change, ...]) -> str:
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
            if value == 0.0:
                said.append(f"take the pad of {step.name} out")
            else:
                said.append(f"switch the {number(value)} dB pad of {step.name} in")
        elif abs(by_db) >= _LEAST_DB:
            said.append(_turn(step, control, by_db, value))
    return ", and ".join(said)


def _turn(step: RouteStep, control: Control, by_db: float, value: float) -> str:
    if change_is_fader := control.name == "fader_db":
        name = f"the {control.said}"
    elif step.figures.records:
        name = "the preamp"
    elif step.figures.mixes:
        name = "the trim"
    else:
        name = f"the gain of {step.name}"
    way = "down" if by_db < 0.0 else "up"
    amount = db_text(round(abs(by_db), 1))
    words = f"turn {name} {way} {amount}"
    if control.is_dial and not change_is_fader:
        return f"{words}, to about {dial_words(control, value)}"
    return words
