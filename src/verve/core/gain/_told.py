"""What was found for a line, with how it is said: what changes, what it gives, how near each ceiling is."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from verve.core.gain._dial import dial_words
from verve.core.gain._grid import ceilings, shared_from
from verve.core.gain._solve import Solution, moved
from verve.core.gain._targets import MARGIN_DB, Window
from verve.core.kind import Control, control_text
from verve.core.network import LineState
from verve.core.session import Change

_TIGHT_DB = MARGIN_DB + 0.5
TOLERANCE_DB = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """A ceiling on the way with the room that is left to it at the hardest playing."""

    stage: str
    index: int
    headroom_db: float
    before_gain: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Optimum:
    """The best settings of one line: what changes, and what it gives.

    unit: dBFS for peak and noise (A-weighted); `peak_before` and `noise_before` are those of now.
    `together` are the lines that were set with it, since they have a knob in common or are a pair;
    `held_by` the one of them that keeps the common knob where it is. Nothing else can be further above
    the noise than by `within_db`: 0 where every position was compared. `share_db` is how far below the aim
    it goes for the sake of the other lines of its bus. `has_more`: a gain that may be set is not at its end.
    `first_share` is the part of the noise that its first stage has, the room's where it begins in the air.
    `own_db` is how far its own source is below all that its microphone hears.
    """

    line: str
    changes: tuple[Change, ...]
    words: tuple[str, ...]
    peak_dbfs: float
    noise_dbfs_a: float
    peak_before_dbfs: float | None
    noise_before_dbfs_a: float | None
    target: Window
    limits: tuple[Limit, ...]
    together: tuple[str, ...] = ()
    held_by: str | None = None
    within_db: float = 0.0
    share_db: float = 0.0
    has_more: bool = False
    first_share: float = 0.0
    own_db: float = 0.0

    @property
    def snr_db(self) -> float:
        """How far its own source's straight sound is above the noise."""
        return self.peak_dbfs + self.own_db - self.noise_dbfs_a

    @property
    def with_others_dbfs(self) -> float:
        """Its peak with its share for the other lines of its bus."""
        return self.peak_dbfs + self.share_db

    @property
    def is_above(self) -> bool:
        """Whether it arrives above the window of its aim."""
        return self.with_others_dbfs > self.target.highest_dbfs + TOLERANCE_DB

    @property
    def is_below(self) -> bool:
        """Whether it arrives below the window of its aim."""
        return self.with_others_dbfs < self.target.lowest_dbfs - TOLERANCE_DB

    @property
    def reaches_target(self) -> bool:
        """Whether it arrives within the window of its aim."""
        return not self.is_above and not self.is_below

    @property
    def binds(self) -> Limit | None:
        """The tightest ceiling, if it leaves no more than the margin."""
        tight = [limit for limit in self.limits if limit.headroom_db < _TIGHT_DB]
        return min(tight, key=lambda limit: limit.headroom_db, default=None)


def told_of(
    state: LineState,
    best: Solution,
    target: Window,
    share_db: float,
    together: Mapping[str, str],
) -> Optimum:
    """What a solution is for its line; `together` are the names of those that are set with it, by line."""
    places: list[tuple[Control, float]] = []
    base = best.base
    for step in state.route.steps:
        control = step.controls.get("pad_db")
        if control is None:
            continue
        value = next(
            float(c.value or 0.0)
            for h in base.state.route.steps
            if (c := h.controls.get("pad_db")) is not None
            and (c.owner, c.channel) == (control.owner, control.channel)
        )
        if value != float(control.value or 0.0):
            places.append((control, value))
    places += [(turn.control, round(place, 6)) for turn, place in moved(base.turns, best.places)]
    before = state.levels
    assert before is not None
    peak = best.peak_dbfs
    return Optimum(
        line=state.line.id,
        changes=tuple(
            Change(owner=c.owner, channel=c.channel, name=c.name, value=value)
            for c, value in places
        ),
        words=_said(places) + _said_with(list(together.values()) if places else []),
        peak_dbfs=peak,
        noise_dbfs_a=best.noise_dbfs_a,
        peak_before_dbfs=before.peak_dbfs,
        noise_before_dbfs_a=before.noise_dbfs_a,
        target=target,
        limits=_limits(best, share_db),
        together=tuple(together),
        within_db=best.within_db,
        share_db=share_db,
        has_more=any(
            best.places[t.key] < float(t.positions.max()) - 1e-9
            for t in base.turns
            if not t.is_fader
        ),
        first_share=_first_share(best),
        own_db=base.state.own_db,
    )


def _first_share(best: Solution) -> float:
    """Part of the noise that comes from the first stage.

    source: derivation, all gains are behind it and move it as they move the peak
    """
    state = best.base.state
    assert state.levels is not None
    assert state.reading is not None
    powers = state.reading.powers.end_noise_a_v2
    now, peak, whole = state.levels.noise_dbfs_a, state.levels.peak_dbfs, sum(powers)
    if now is None or peak is None or not whole or not powers[0]:
        return 0.0
    moved_db = best.peak_dbfs - peak
    first = now + 10.0 * math.log10(powers[0] / whole) + moved_db
    return float(min(1.0, 10.0 ** ((first - best.noise_dbfs_a) / 10.0)))


def _limits(best: Solution, share_db: float) -> tuple[Limit, ...]:
    state = best.base.state
    assert state.staged is not None
    meets = shared_from(state)
    gains = [t for t in best.base.turns if not t.is_fader]
    found = []
    for index, before_gain, now in ceilings(state):
        passed = [t for t in best.base.turns if (t.at < index if before_gain else t.at <= index)]
        part = state.staged.parts[index]
        name = state.route.source.name
        if part.step_index is not None:
            step = state.route.steps[part.step_index]
            name = step.figures.stage_name(step, part.role, step.name)
        room = now - sum(best.places[t.key] - t.now for t in passed)
        found.append(
            Limit(
                stage=name,
                index=index,
                headroom_db=room - (share_db if index >= meets else 0.0),
                before_gain=not any(t.at < index for t in gains),
            )
        )
    return tuple(sorted(found, key=lambda limit: limit.headroom_db))


def held_by(one: Optimum, told: Mapping[str, Optimum]) -> str | None:
    """The line that keeps a common knob down, where this one stays below its aim."""
    below = one.target.target_dbfs - one.peak_dbfs
    if one.reaches_target or below <= 0.0 or one.binds is not None:
        return None
    others = [told[key] for key in one.together if key in told]
    near = [
        other
        for other in others
        if other.binds is not None or other.target.target_dbfs - other.peak_dbfs < below
    ]
    nearest = min(near, key=lambda o: o.target.target_dbfs - o.peak_dbfs, default=None)
    return None if nearest is None else nearest.line


def from_the_start(
    last: Optimum,
    first: Optimum,
    state: LineState,
    turned: Mapping[tuple[str, str, str], Change],
    names: Mapping[str, str],
) -> Optimum:
    """What was found in the last round, told from where everything stood before the first."""
    own = [
        (control, turned[key])
        for step in state.route.steps
        for control in (*step.controls.values(), *step.shared)
        if (key := (control.owner, control.channel, control.name)) in turned
        and turned[key].value != control.value
    ]
    own.sort(key=lambda row: row[0].name != "pad_db")
    changed = {(c.owner, c.channel, c.name): (c, change) for c, change in own}
    return replace(
        last,
        changes=tuple(change for _, change in changed.values()),
        words=_said([(c, float(change.value or 0.0)) for c, change in changed.values()])
        + _said_with([names[line_id] for line_id in last.together] if changed else []),
        peak_before_dbfs=first.peak_before_dbfs,
        noise_before_dbfs_a=first.noise_before_dbfs_a,
    )


def _said(places: Sequence[tuple[Control, float]]) -> tuple[str, ...]:
    """Each control with where it goes, as a person turns it."""
    return tuple(
        f"pad {control_text(c, value)}"
        if c.name == "pad_db"
        else f"{c.said} {control_text(c, value)}"
        + (f", {dial_words(c, value)}" if c.is_dial else "")
        for c, value in places
    )


def _said_with(names: Sequence[str]) -> tuple[str, ...]:
    return (f"with {', '.join(names)}",) if names else ()
