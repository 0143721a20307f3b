"""Noise before and after: what takes have measured in a microphone while these or those things were running."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.place import _words as words
from verve.core.place._pickups import line_of
from verve.core.session import SILENT, Session, Take
from verve.core.words import clock_list, fill

_LATEST = 6
_SAME_DB = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredNoise:
    """The noise of one take in a microphone, as it would be with the gain of the latest one."""

    take: str
    noise_dbfs_a: float
    running: tuple[str, ...]


def measured_noises(session: Session, microphone: str) -> tuple[MeasuredNoise, ...]:
    """Of the latest takes of a microphone's signal, the oldest first.

    A gain that was turned meanwhile is taken out by what it did to the predicted peak, where both takes were played
    in the same way; others are left out.
    """
    line = line_of(session, microphone)
    if line is None:
        return ()
    found: list[tuple[MeasuredNoise, float]] = []
    latest: Take | None = None
    for take in reversed(session.takes[-_LATEST:]):
        track = next((one for one in take.tracks if one.line == line), None)
        setup = take.setup
        if track is None or setup is None:
            continue
        noise, peak = track.noise_dbfs_a.measured, track.peak_dbfs.predicted
        if noise is None or peak is None or (latest is not None and take.play != latest.play):
            continue
        latest = latest or take
        running = tuple(
            one.name for one in setup.placement.things if one.is_on and one.kind not in SILENT
        )
        found.append((MeasuredNoise(take=take.name, noise_dbfs_a=noise, running=running), peak))
    if not found:
        return ()
    now = found[0][1]
    return tuple(
        MeasuredNoise(
            take=one.take, noise_dbfs_a=one.noise_dbfs_a + now - peak, running=one.running
        )
        for one, peak in reversed(found)
    )


def noise_text(session: Session, microphone: str) -> str:
    """The same as lines to read, each against the one before it; empty without a measured take."""
    lines = []
    before: MeasuredNoise | None = None
    for one in measured_noises(session, microphone):
        running = (
            fill(words.RUNS, things=clock_list(list(one.running), 3, words.THINGS))
            if one.running
            else words.NOTHING_RUNS
        )
        text = fill(words.NOISE_OF, take=one.take, noise_dbfs_a=one.noise_dbfs_a, running=running)
        if before is not None:
            by_db = one.noise_dbfs_a - before.noise_dbfs_a
            said = (
                words.NOISE_SAME
                if abs(by_db) < _SAME_DB
                else (words.NOISE_RISES if by_db > 0.0 else words.NOISE_FALLS)
            )
            text += "; " + fill(said, by_db=abs(by_db), take=before.take)
        lines.append(text)
        before = one
    return "\n".join(lines)
