"""What would change a line's level and noise, and by how much: by computing the changed session."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.kind import Control, ControlValue, control_text
from verve.core.network import LineState, is_alive, line_states
from verve.core.session import Change, Session, controls_of, set_control

_STEP_DB = 6.0
_TURNED_DEG = 45.0
_LEAST_DB = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Influence:
    """One thing that could be set otherwise, and what it would do at the recorder.

    `level_db` is the change of the hardest peak, `noise_db` that of the A-weighted noise,
    `own_db` how much more of that peak is the source's own, `snr_db` the change of what is between its own
    and the noise. Positive is more.
    """

    words: str
    change: Change
    level_db: float
    noise_db: float
    own_db: float = 0.0

    @property
    def size_db(self) -> float:
        """By how much it changes the level of all, or of its own source, whichever is more."""
        return max(abs(self.level_db), abs(self.level_db + self.own_db))

    @property
    def snr_db(self) -> float:
        """How much further the playing would stand above the noise."""
        return self.level_db + self.own_db - self.noise_db


def _others(control: Control) -> Iterator[ControlValue]:
    """Values worth trying instead of the present one."""
    now = control.value
    if control.kind == "switch":
        # Without its power a line would not be quieter but dead.
        if control.name not in {"phantom", "battery"}:
            yield not now
    elif control.kind == "choice":
        yield from (choice for choice in control.choices if choice != now)
    elif control.name == "distance_m":
        yield control.clamped(float(now or 0.0) * 2.0)
        yield control.clamped(float(now or 0.0) / 2.0)
    elif control.name == "angle_deg":
        yield control.clamped(float(now or 0.0) + _TURNED_DEG)
    elif control.name in {"volume_position", "tone_position"}:
        yield 0.5 if float(now or 0.0) > 0.9 else 1.0
    elif control.unit == "dB":
        yield control.clamped(float(now or 0.0) + _STEP_DB)
        yield control.clamped(float(now or 0.0) - _STEP_DB)


def _controls(session: Session, state: LineState) -> Iterator[tuple[str, Control]]:
    for control in controls_of(session.setup, state.route.source.id):
        yield state.route.source.name, control
    for step in state.route.steps:
        for control in step.controls.values():
            yield step.name, control
        for control in step.shared:
            yield step.name, control


def _state(session: Session, line_id: str, engine: Engine) -> LineState | None:
    # All lines, since those in one mixer hear each other's noise; all but one are remembered.
    states = line_states(session.setup, engine)
    return next((state for state in states if state.line.id == line_id), None)


def influences(
    session: Session, line_id: str, engine: Engine | None = None
) -> tuple[Influence, ...]:
    """Everything on a line that could be set otherwise, what changes its level most first.

    Empty for a line that is dead or cannot be computed. Each is computed through the whole line, so
    that what a switch does to impedances counts too.
    """
    engine = engine or Engine()
    before = _state(session, line_id, engine)
    if before is None or before.peak_dbfs is None or not is_alive(before.route):
        return ()
    assert before.levels is not None
    noise_before = before.levels.noise_dbfs_a
    found = []
    for name, control in _controls(session, before):
        for value in _others(control):
            if value == control.value:
                continue
            change = Change(
                owner=control.owner, channel=control.channel, name=control.name, value=value
            )
            try:
                after = _state(set_control(session, change), line_id, engine)
            except EditError:
                continue
            if after is None or after.levels is None or after.peak_dbfs is None:
                continue
            noise_after = after.levels.noise_dbfs_a
            if noise_before is None or noise_after is None:
                continue
            influence = Influence(
                words=f"{name}: {control.said} {control_text(control, value)}",
                change=change,
                level_db=after.peak_dbfs - before.peak_dbfs,
                noise_db=noise_after - noise_before,
                own_db=after.own_db - before.own_db,
            )
            if max(influence.size_db, abs(influence.noise_db)) >= _LEAST_DB:
                found.append(influence)
    return tuple(sorted(found, key=lambda i: (-i.size_db, -abs(i.noise_db))))
