"""Level targets: where the hardest playing should arrive at the recorder, and why one would want that."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from verve.core.kind import PlayingRange
from verve.core.network import LineState
from verve.core.session import LevelTarget, Setup

_HIGHEST_AIM_DBFS = -3.0
_CONTENT_DBFS = -10.0
"""Who sets by the average is content with a hardest peak of this, whatever the average makes of it."""
MARGIN_DB = 3.0
"""Headroom kept at every stage before the gain: the hardest playing is never quite the hardest."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TargetText:
    """A level target in words: its name, whom it suits, what it risks."""

    name: str
    suits: str
    risks: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """Where the hardest peak of a line belongs, in dBFS: at the aim, between lowest and highest."""

    lowest_dbfs: float
    target_dbfs: float
    highest_dbfs: float


TARGETS: Mapping[LevelTarget, TargetText] = {
    "ceiling": TargetText(
        name="Highest peak below −6",
        suits="Whoever plays with feeling: room for the phrase that comes out harder than planned.",
        risks="Almost nothing with 24 bits; with 16 bits quiet passages come near the noise.",
    ),
    "average": TargetText(
        name="Average around −18",
        suits="Many tracks to be mixed later, where each should arrive alike.",
        risks="Says little about peaks: a percussive player may still come close to the top.",
    ),
    "peaks": TargetText(
        name="Peaks at −12",
        suits="Improvised or unrehearsed playing, or nobody to watch the level.",
        risks="In a noisy chain the take is raised afterwards, and the noise with it.",
    ),
    "hot": TargetText(
        name="Hot, −6 to −3",
        suits="Live streams and calls, where nothing can be raised later.",
        risks="One harder phrase clips, and that cannot be undone.",
    ),
    "meter": TargetText(
        name="The mixer’s own meter, just touching 0",
        suits="For whoever watches a mixer instead of the recording software: its loudest moments between −6 and 0.",
        risks="What stands behind the mixer may clip unseen; without a mixer it is as below −6.",
    ),
    "own": TargetText(
        name="Custom",
        suits="Whoever has found their level and wants it every time.",
        risks="Verve only tells what it costs.",
    ),
}


def window(
    level_target: LevelTarget,
    playing: PlayingRange,
    crest_db: float,
    *,
    own_target_dbfs: float = -8.0,
    meter_zero_dbfs: float | None = None,
) -> Window:
    """The window of a level target for one player's range.

    `meter_zero_dbfs` is what arrives at the recorder when the mixer's own meter shows 0; None without one.

    unit: dBFS of the hardest peak; `crest_db` is typical peak over typical RMS
    source: the targets as practised (docs/level-targets.md); average: aim = −18 + crest + spread
    """
    if level_target == "average":
        spread_db = playing.hardest_db - playing.typical_db
        at_average = -18.0 + crest_db + spread_db
        return Window(
            lowest_dbfs=min(at_average - 4.0, _CONTENT_DBFS),
            target_dbfs=min(at_average, _HIGHEST_AIM_DBFS),
            highest_dbfs=min(at_average + 3.0, -1.0),
        )
    if level_target == "own":
        highest = min(own_target_dbfs + 2.0, -0.5)
        return Window(
            lowest_dbfs=own_target_dbfs - 4.0, target_dbfs=own_target_dbfs, highest_dbfs=highest
        )
    if level_target == "meter" and meter_zero_dbfs is not None:
        # Never above what the recorder bears, whatever the mixer's meter says.
        highest = min(meter_zero_dbfs, -1.0)
        return Window(lowest_dbfs=highest - 6.0, target_dbfs=highest - 1.0, highest_dbfs=highest)
    if level_target == "peaks":
        return Window(lowest_dbfs=-16.0, target_dbfs=-12.0, highest_dbfs=-10.0)
    if level_target == "hot":
        return Window(lowest_dbfs=-6.0, target_dbfs=-4.5, highest_dbfs=-3.0)
    return Window(lowest_dbfs=-12.0, target_dbfs=-8.0, highest_dbfs=-6.0)


def meter_zero_dbfs(state: LineState) -> float | None:
    """What arrives at the recorder when the meter of the line's mixer shows 0; None without a mixer."""
    if state.levels is None or state.peak_dbfs is None:
        return None
    for step in state.route.steps:
        at, zero_dbu = state.index_of(step.owner, "bus"), step.figures.meter_zero_at(step.out_port)
        if zero_dbu is not None and at is not None:
            peak = state.levels.open_peak_dbu[at]
            return None if peak is None else state.peak_dbfs - (peak - zero_dbu)
    return None


def _window_of(state: LineState, target: LevelTarget, own_target_dbfs: float) -> Window:
    def make() -> Window:
        return window(
            target,
            state.playing,
            state.crest_db,
            own_target_dbfs=own_target_dbfs,
            meter_zero_dbfs=meter_zero_dbfs(state),
        )

    return state.once(("window", target, own_target_dbfs), make)


def windows_of(states: Sequence[LineState], setup: Setup) -> dict[str, Window]:
    """The window of every line by its own target or the session's, by line."""
    return {
        s.line.id: _window_of(s, s.line.level_target or setup.level_target, setup.own_target_dbfs)
        for s in states
    }
