"""Two or more recordings of one phrase, as loud as each other, heard in turn, blind if wanted, with a tally."""

from __future__ import annotations

import math
import random
import string
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

import numpy as np
import soxr

from verve.core.check import words
from verve.core.errors import InputError
from verve.core.measure import Meter
from verve.core.session import MOST_COMPARED, Session, Take
from verve.core.soundfiles import read_sound
from verve.core.takes import differences
from verve.core.units import FloatArray
from verve.core.words import fill

LONGEST_S: Final = 20.0
"""So much of a phrase is compared: longer nobody remembers how the other one was."""
_LEAST_S = 0.5
_FADE_S = 0.01
_MOST_DIFFERENCES = 3
_SOUNDS_DB = 30.0
"""A phrase begins where it comes so near to its loudest."""
_BEFORE_S = 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A recording that may be compared: its name, its file and channel, and in what it differs from the first."""

    name: str
    path: Path
    channel: int = 0
    differs: str = ""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Matched:
    """A candidate's phrase as it is heard: by how much it was turned down, and its loudness then.

    shape: samples (n_frames,); `lufs` is None where it is too short to tell, and was matched by its RMS level
    """

    candidate: Candidate
    samples: FloatArray
    rate_hz: int
    gain_db: float
    lufs: float | None


def candidates_of(session: Session, line_id: str) -> tuple[Candidate, ...]:
    """What there is of a signal: its takes, then sound files that hold it, then the other sound files."""
    found: list[Candidate] = []
    first: Take | None = None
    for take in session.takes:
        for track in take.tracks:
            if track.line != line_id:
                continue
            differs = ""
            if first is not None and first.setup is not None and take.setup is not None:
                told = [one.words for one in differences(first.setup, take.setup)]
                more = (
                    f" (+{len(told) - _MOST_DIFFERENCES})" if len(told) > _MOST_DIFFERENCES else ""
                )
                differs = "; ".join(told[:_MOST_DIFFERENCES]) + more
            first = first or take
            found.append(
                Candidate(
                    name=take.name,
                    path=Path(track.file),
                    channel=track.channel,
                    differs=differs,
                )
            )
    mine = [s for s in session.sounds if line_id in s.signals]
    others = [s for s in session.sounds if line_id not in s.signals and s.role != "backing"]
    for sound in (*mine, *others):
        channel = sound.signals.index(line_id) if sound in mine else 0
        found.append(
            Candidate(
                name=sound.name, path=Path(sound.file), channel=channel, differs=sound.notes[:200]
            )
        )
    known: set[tuple[Path, int]] = set()
    return tuple(
        one
        for one in found
        if (one.path, one.channel) not in known and not known.add((one.path, one.channel))  # type: ignore[func-returns-value]
    )


def _phrase(candidate: Candidate, rate_hz: int, seconds: float) -> FloatArray:
    """From where it begins to sound, so long, faded in and out.

    raises: FileError if the file cannot be read; InputError if there is nothing to hear
    """
    samples, its_rate_hz = read_sound(candidate.path)
    if candidate.channel >= len(samples):
        raise InputError("channel", f"must be one of {len(samples)}", candidate.channel + 1)
    sound = np.asarray(samples[candidate.channel], dtype=np.float64)
    peak = float(np.abs(sound).max(initial=0.0))
    if peak == 0.0:
        raise InputError(candidate.name, "must hold some sound")
    loud = np.flatnonzero(np.abs(sound) >= peak * 10.0 ** (-_SOUNDS_DB / 20.0))
    begin = max(0, int(loud[0]) - round(_BEFORE_S * its_rate_hz))
    part = sound[begin : begin + round(seconds * its_rate_hz)]
    if its_rate_hz != rate_hz:
        part = np.asarray(soxr.resample(part, its_rate_hz, rate_hz))
    return part


def matched(
    candidates: Sequence[Candidate], rate_hz: int, seconds: float = LONGEST_S
) -> tuple[Matched, ...]:
    """The phrases of all, equally long, the louder ones turned down until all are equally loud.

    raises: FileError if one cannot be read; InputError for fewer than two, too many, or one that is silent or short
    """
    if not 2 <= len(candidates) <= MOST_COMPARED:
        raise InputError("recordings", f"must be 2 to {MOST_COMPARED}", len(candidates))
    phrases = [_phrase(one, rate_hz, min(seconds, LONGEST_S)) for one in candidates]
    frames = min(len(one) for one in phrases)
    if frames < _LEAST_S * rate_hz:
        raise InputError("recordings", f"must each sound for {_LEAST_S:g} s at least")
    fade = np.minimum(1.0, np.arange(frames) / (_FADE_S * rate_hz))
    phrases = [one[:frames] * fade * fade[::-1] for one in phrases]
    levels = [_loudness(one, rate_hz) for one in phrases]
    has_lufs = all(lufs is not None for lufs, _ in levels)
    own = [lufs if has_lufs and lufs is not None else rms for lufs, rms in levels]
    softest = min(own)
    found = []
    for candidate, phrase, level, (lufs, _) in zip(candidates, phrases, own, levels, strict=True):
        gain_db = softest - level
        found.append(
            Matched(
                candidate=candidate,
                samples=phrase * 10.0 ** (gain_db / 20.0),
                rate_hz=rate_hz,
                gain_db=gain_db,
                lufs=lufs + gain_db if has_lufs and lufs is not None else None,
            )
        )
    return tuple(found)


def _loudness(samples: FloatArray, rate_hz: int) -> tuple[float | None, float]:
    """Its loudness (ITU-R BS.1770) and its RMS level."""
    meter = Meter(channels=1, rate_hz=rate_hz, bit_depth=None)
    found = meter.result(meter.fold(meter.start(), samples[None, :]))
    rms = found.channels[0].rms_dbfs
    lufs = None if found.programme is None else found.programme.integrated_lufs
    return lufs, -200.0 if rms is None else rms


# ── blind ─────────────────────────────────────────────────────────────────────────────────────


@dataclass(frozen=True, slots=True, kw_only=True)
class Ballot:
    """A blind comparison: which candidate each letter is in this round, and how often each was preferred."""

    order: tuple[int, ...]
    votes: tuple[int, ...]
    seed: int
    round: int = 1

    @staticmethod
    def of(count: int, seed: int) -> Ballot:
        """The first round."""
        return Ballot(order=_shuffled(count, seed, 1), votes=(0,) * count, seed=seed)

    @property
    def letters(self) -> str:
        """The letters of this round."""
        return string.ascii_uppercase[: len(self.order)]

    def vote(self, letter: str) -> Ballot:
        """This one is preferred: counted, and the next round has another order.

        raises: InputError for a letter that is none of them
        """
        if len(letter) != 1 or letter not in self.letters:
            raise InputError("letter", f"must be one of {', '.join(self.letters)}", letter)
        chosen = self.order[self.letters.index(letter)]
        votes = tuple(v + (n == chosen) for n, v in enumerate(self.votes))
        number = self.round + 1
        order = _shuffled(len(self.order), self.seed, number)
        return replace(self, order=order, votes=votes, round=number)

    @property
    def leader(self) -> int | None:
        """The candidate that was preferred most often; None for nobody, or where two are equal."""
        most = max(self.votes)
        first = [n for n, v in enumerate(self.votes) if v == most]
        return first[0] if most and len(first) == 1 else None

    def by_chance(self) -> float | None:
        """How likely somebody who only guesses prefers any one of them as often; None before the first vote.

        source: binomial distribution, at most once for each candidate
        """
        count, most = sum(self.votes), max(self.votes)
        if not count:
            return None
        share = 1.0 / len(self.votes)
        tail = sum(
            math.comb(count, k) * share**k * (1.0 - share) ** (count - k)
            for k in range(most, count + 1)
        )
        return min(1.0, len(self.votes) * tail)


def _shuffled(count: int, seed: int, number: int) -> tuple[int, ...]:
    order = list(range(count))
    random.Random(f"{seed} {number}").shuffle(order)
    return tuple(order)


def tally_text(ballot: Ballot, names: Sequence[str]) -> str:
    """How often each was preferred, and what that is worth."""
    chance = ballot.by_chance()
    if chance is None:
        return words.NO_VOTE
    told = "; ".join(f"{name}: {votes}" for name, votes in zip(names, ballot.votes, strict=True))
    worth = words.HEARD if chance < 0.05 else words.MAY_BE_CHANCE
    return fill(words.TALLY, told=told, chance=chance) + " " + worth
