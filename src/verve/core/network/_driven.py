"""Stages that are meant to be driven into distortion: what leaves them is no louder than they can be."""

from __future__ import annotations

from dataclasses import dataclass, replace

from verve.core.kind import PlayingRange
from verve.core.line import LineLevels, tightest
from verve.core.network._staging import StagedLine

_LEAST_CREST_DB = 3.0
"""A wave that is cut hard keeps about so much between peak and RMS: a sine has it, a square wave less (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Driven:
    """A line whose driven stages hold its peaks: its levels, and by how much each stage holds them.

    unit: dB; `by_stage` by the index of the stage
    """

    levels: LineLevels
    by_stage: dict[int, float]
    whole_db: float = 0.0

    def playing(self, played: PlayingRange) -> PlayingRange:
        """What is left of the range of a player: whatever is louder than the stage bears comes out alike."""
        if not self.whole_db:
            return played
        highest = played.hardest_db - self.whole_db
        return PlayingRange(
            softest_db=min(played.softest_db, highest),
            typical_db=min(played.typical_db, highest),
            hardest_db=highest,
        )

    def crest_db(self, crest_db: float) -> float:
        """Peak over RMS of what leaves the last of them."""
        return max(min(crest_db, _LEAST_CREST_DB), crest_db - self.whole_db)


def _less(level: float | None, by_db: float) -> float | None:
    return None if level is None else level - by_db


def driven(levels: LineLevels, staged: StagedLine) -> Driven:
    """Levels of a line behind what is driven on it; the noise stays, a stage in overdrive amplifies it all the same.

    source: derivation, a stage that clips at its ceiling gives its ceiling; what follows moves with it, dB for dB
    """
    steps = staged.route.steps
    at = [
        index
        for index, part in enumerate(staged.parts)
        if part.step_index is not None and (step := steps[part.step_index]).figures.is_driven(step)
    ]
    if not at:
        return Driven(levels=levels, by_stage={})
    held, by_stage = 0.0, dict[int, float]()
    held_at: list[float] = []
    rooms: list[float | None] = []
    for index, room in enumerate(levels.headroom_db):
        if index in at and room is not None and room + held < 0.0:
            by_stage[index] = -(room + held)
            held = -room
        held_at.append(held)
        # What is driven on purpose has no ceiling that anybody keeps away from.
        rooms.append(None if room is None or index in at else room + held)
    changed = replace(
        levels,
        peak_dbu=tuple(_less(p, h) for p, h in zip(levels.peak_dbu, held_at, strict=True)),
        open_peak_dbu=tuple(
            _less(p, h) for p, h in zip(levels.open_peak_dbu, held_at, strict=True)
        ),
        headroom_db=tuple(rooms),
        first_to_clip=tightest(rooms),
        peak_dbfs=_less(levels.peak_dbfs, held),
        snr_db=_less(levels.snr_db, held),
    )
    return Driven(levels=changed, by_stage=by_stage, whole_db=held)
