"""Two sound files at one loudness: the louder one comes down, so that nothing is cut off."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.session import Sound
from verve.core.units import db_to_ratio, power_to_db


@dataclass(frozen=True, slots=True, kw_only=True)
class LoudnessOf:
    """How loud a file is, and by which measure."""

    level_db: float
    is_lufs: bool


def loudness_of(sound: Sound, channel: int | None = None) -> LoudnessOf | None:
    """The loudness of a mono or stereo file (BS.1770); of one channel, or of many, their RMS level as power mean.

    None for silence.
    """
    if channel is None or sound.channels == 1:
        if sound.figures.integrated_lufs is not None:
            return LoudnessOf(level_db=sound.figures.integrated_lufs, is_lufs=True)
        levels = [one.rms_dbfs for one in sound.figures.channels[:2]]
    else:
        levels = [sound.figures.channels[min(channel, sound.channels - 1)].rms_dbfs]
    return _of_rms(levels)


def matched_gain_db(
    sound: Sound, other: Sound, *, channel: int | None = None, other_channel: int | None = None
) -> float | None:
    """By how much `sound` is turned down to be no louder than `other`; 0 for the quieter of the two.

    Both are taken by the same measure: loudness where both have one, else RMS. None where one is silent.
    """
    mine, others = loudness_of(sound, channel), loudness_of(other, other_channel)
    if mine is None or others is None:
        return None
    if mine.is_lufs != others.is_lufs:
        mine, others = _rms(sound, channel), _rms(other, other_channel)
        if mine is None or others is None:
            return None
    return min(0.0, others.level_db - mine.level_db)


def playback_gain_db(
    sound: Sound, level_db: float, other: Sound | None, channel: int | None = None
) -> float:
    """How much louder or softer than it is a file is played at a playback level: as loud as `other` where there is
    one, else a backing track with its own gain and anything else as it is."""
    if other is None:
        return level_db + (sound.gain_db if sound.role == "backing" else 0.0)
    return level_db + (matched_gain_db(sound, other, channel=channel) or 0.0)


def raised_gain_db(sound: Sound, target_dbfs: float, channel: int | None = None) -> float:
    """By how much a take is raised or lowered to have its peak at its target: its noise is heard as it will be.

    0 for silence.
    """
    chosen = sound.figures.channels if channel is None else (sound.figures.channels[channel],)
    peaks = [one.peak_dbfs for one in chosen if one.peak_dbfs is not None]
    return target_dbfs - max(peaks) if peaks else 0.0


def _rms(sound: Sound, channel: int | None) -> LoudnessOf | None:
    channels = sound.figures.channels
    chosen = channels[:2] if channel is None else (channels[min(channel, sound.channels - 1)],)
    return _of_rms([one.rms_dbfs for one in chosen])


def _of_rms(levels: Sequence[float | None]) -> LoudnessOf | None:
    """The power mean, not that of decibels."""
    known = [db_to_ratio(level) ** 2 for level in levels if level is not None]
    mean_db = power_to_db(sum(known) / len(known)) if known else None
    return None if mean_db is None else LoudnessOf(level_db=mean_db, is_lufs=False)
