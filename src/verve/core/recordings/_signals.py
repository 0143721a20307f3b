"""Which signal a channel of a file holds: told by the file's name, by the input, or by its level and noise."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.optimize import linear_sum_assignment

from verve.core.assess import Assessment, LineAssessment
from verve.core.session import ChannelFigures, Session, SoundRole
from verve.core.units import FloatArray

Why = Literal["told", "name", "input", "level", "silent", "unknown"]
_BACKING = frozenset(
    {"backing", "playback", "instrumental", "accompaniment", "click", "guide", "karaoke", "track"}
)
_BACKING_ALONE = _BACKING - {"track"}
_LEAST_OF_NAME = 0.5
"""So much of a signal's name must be in the file's."""
_UNIT_PEAK_DB, _UNIT_NOISE_DB = 6.0, 6.0
_FITS = 2.0
"""How many such units away from prediction, peak and noise together, a channel may be and still be taken for it."""
_MUST_BE_BETTER = 0.7
"""A guess by level needs the second best to be farther off by so many units."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """A file as far as guessing needs it; of one whose `signal` is known the first channel holds that."""

    stem: str
    channels: tuple[ChannelFigures, ...]
    signal: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Guess:
    """What a channel is taken for, and why; no signal where nothing tells."""

    signal: str | None
    why: Why


def guess_role(stem: str, guesses: Sequence[Guess]) -> SoundRole:
    """A backing track says so in its name; what holds a signal is a take; the rest is a measurement."""
    words = set(_words(stem))
    if words & _BACKING_ALONE and not any(guess.why in {"told", "name"} for guess in guesses):
        return "backing"
    return "take" if any(guess.signal is not None for guess in guesses) else "measurement"


def guess_signals(files: Sequence[Heard], assessment: Assessment) -> tuple[tuple[Guess, ...], ...]:
    """For each file that is brought in together, a guess for each of its channels; no signal twice.

    First by names, then a file of many channels by the inputs of the signals, then by level and noise.
    """
    items = [item for item in assessment.lines if item.route.is_complete]
    found: dict[tuple[int, int], Guess] = {}
    for number, heard in enumerate(files):
        if heard.signal is not None:
            found[number, 0] = Guess(signal=heard.signal, why="told")
        for channel, figures in enumerate(heard.channels):
            if figures.peak_dbfs is None and (number, channel) not in found:
                found[number, channel] = Guess(signal=None, why="silent")
    _by_name(files, items, found)
    _by_input(files, items, found)
    _by_level(files, items, found)
    none = Guess(signal=None, why="unknown")
    return tuple(
        tuple(found.get((number, channel), none) for channel in range(len(heard.channels)))
        for number, heard in enumerate(files)
    )


_Found = dict[tuple[int, int], Guess]


def _words(name: str) -> list[str]:
    plain = unicodedata.normalize("NFKD", name.casefold())
    plain = "".join(c for c in plain if not unicodedata.combining(c))
    return [word for word in re.split(r"[\W_]+", plain) if word]


def _likeness(stem: str, name: str) -> float:
    """How much of a name is in that of a file; words that only number takes count for little."""
    wanted, there = _words(name), set(_words(stem))
    if not wanted:
        return 0.0
    letters = sum(len(word) for word in wanted)
    share = sum(len(word) for word in wanted if word in there) / letters
    # The longer name, all of which is there, is meant: "Harp pickup" rather than "Harp".
    return share + 0.001 * letters if share >= _LEAST_OF_NAME else 0.0


def names_signal(session: Session, stem: str) -> str | None:
    """The signal that a file is named after; None where no name is in it, or two are as much."""
    told = sorted(
        ((_likeness(stem, line.name), line.id) for line in session.setup.lines), reverse=True
    )
    if not told or not told[0][0] or (len(told) > 1 and told[1][0] == told[0][0]):
        return None
    return told[0][1]


def _named(found: _Found) -> set[int]:
    """The files of which a channel is taken for a signal already."""
    return {number for (number, _), guess in found.items() if guess.signal is not None}


def _taken(found: _Found) -> set[str]:
    return {guess.signal for guess in found.values() if guess.signal is not None}


def _by_name(files: Sequence[Heard], items: Sequence[LineAssessment], found: _Found) -> None:
    order = sorted(
        (
            (-_likeness(heard.stem, item.line.name), number, place)
            for number, heard in enumerate(files)
            for place, item in enumerate(items)
            if _likeness(heard.stem, item.line.name)
        )
    )
    for _, number, place in order:
        item = items[place]
        channels = range(len(files[number].channels))
        open_channels = [c for c in channels if (number, c) not in found]
        if number in _named(found) or item.line.id in _taken(found) or not open_channels:
            continue
        sides = [i for i in items if i.line.pair is not None and i.line.pair == item.line.pair]
        if len(open_channels) > 1 and len(sides) == len(open_channels) == 2:
            for channel, side in zip(open_channels, sides, strict=True):
                found[number, channel] = Guess(signal=side.line.id, why="name")
        elif len(channels) <= 2:
            # Of two channels with one name the louder one holds it.
            best = max(open_channels, key=lambda c: files[number].channels[c].peak_dbfs or -200.0)
            found[number, best] = Guess(signal=item.line.id, why="name")
        else:
            continue


def _by_input(files: Sequence[Heard], items: Sequence[LineAssessment], found: _Found) -> None:
    """A file of several channels that nothing names was recorded input by input, if the levels do not deny it."""
    for number, heard in enumerate(files):
        if len(heard.channels) < 2 or any(
            (number, c) in found and found[number, c].signal for c in range(len(heard.channels))
        ):
            continue
        guesses = {
            channel: item
            for item in items
            if (channel := _input_of(item)) is not None
            and channel < len(heard.channels)
            and item.line.id not in _taken(found)
        }
        if len(set(guesses)) < 2:
            continue
        costs = [_cost(heard.channels[channel], item) for channel, item in guesses.items()]
        known = [cost for cost in costs if cost is not None]
        if known and float(np.median(known)) <= _FITS:
            for channel, item in guesses.items():
                if (number, channel) not in found:
                    found[number, channel] = Guess(signal=item.line.id, why="input")


def _input_of(item: LineAssessment) -> int | None:
    recorder = item.route.recorder
    if recorder is None:
        return None
    ports = recorder.figures.input_ports()
    return ports.index(recorder.in_port)


def _by_level(files: Sequence[Heard], items: Sequence[LineAssessment], found: _Found) -> None:
    named = _named(found)
    channels = [
        (number, channel)
        for number, heard in enumerate(files)
        for channel in range(len(heard.channels))
        if (number, channel) not in found
        and number not in named
        # Words that say what it is instead.
        and not set(_words(heard.stem)) & _BACKING
    ]
    left = [item for item in items if item.line.id not in _taken(found)]
    if not channels or not left:
        return
    costs = np.full((len(channels), len(left)), 1e6)
    for row, (number, channel) in enumerate(channels):
        for column, item in enumerate(left):
            cost = _cost(files[number].channels[channel], item)
            if cost is not None:
                costs[row, column] = cost
    for row, column in zip(*linear_sum_assignment(costs), strict=True):
        if costs[row, column] <= _FITS and _is_clear(costs, int(row), int(column)):
            found[channels[row]] = Guess(signal=left[column].line.id, why="level")


def _is_clear(costs: FloatArray, row: int, column: int) -> bool:
    others = np.delete(costs[row], column)
    return not len(others) or float(others.min()) >= costs[row, column] + _MUST_BE_BETTER


def _cost(figures: ChannelFigures, item: LineAssessment) -> float | None:
    """How far a channel is from what a signal was computed to be; None where nothing can be compared."""
    peak_dbfs = item.predicted_peak_dbfs("hardest")
    if figures.peak_dbfs is None or peak_dbfs is None:
        return None
    cost = abs(figures.peak_dbfs - peak_dbfs) / _UNIT_PEAK_DB
    if figures.noise_dbfs_a is not None and item.noise_dbfs_a is not None:
        cost += abs(figures.noise_dbfs_a - item.noise_dbfs_a) / _UNIT_NOISE_DB
    return cost
