"""How late one may hear oneself, by what one plays: bands of practice, not one number. All are rules of thumb."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.acoustics import SumOfPaths
from verve.core.kind import Player
from verve.core.monitor._ledger import sources_of
from verve.core.session import Cue, Setup

Feel = Literal["at once", "noticed", "disturbing"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """Up to `unnoticed_ms` nobody minds, from `disturbing_ms` on nearly everybody; rules of thumb."""

    unnoticed_ms: float
    disturbing_ms: float

    def feel(self, delay_ms: float) -> Feel:
        """How such a delay is taken."""
        if delay_ms <= self.unnoticed_ms:
            return "at once"
        return "noticed" if delay_ms < self.disturbing_ms else "disturbing"


BANDS: Final[Mapping[Player, Band]] = {
    "voice": Band(unnoticed_ms=3.0, disturbing_ms=8.0),
    "bowed": Band(unnoticed_ms=5.0, disturbing_ms=10.0),
    "struck": Band(unnoticed_ms=5.0, disturbing_ms=10.0),
    "plucked": Band(unnoticed_ms=6.0, disturbing_ms=12.0),
    "keys": Band(unnoticed_ms=10.0, disturbing_ms=20.0),
}
"""A singer in headphones is most critical: their own voice is in the head at once. Rules of thumb."""
_STRICTEST: tuple[Player, ...] = ("voice", "bowed", "struck", "plucked", "keys")


def player_of(setup: Setup, who: str) -> Player:
    """The most critical of what somebody plays."""
    mine = {one.figures.player for one in sources_of(setup, who)}
    return next((one for one in _STRICTEST if one in mine), "plucked")


def band_of(setup: Setup, who: str) -> Band:
    """How late somebody may hear themselves."""
    return BANDS[player_of(setup, who)]


def is_in_the_head(setup: Setup, cue: Cue) -> bool:
    """Whether their own sound reaches the ear without any delay: a voice, through the skull."""
    return player_of(setup, cue.who) == "voice"


def against_own_voice(delay_ms: float) -> SumOfPaths:
    """What comes of one's own voice in the head and the same so much later, both as loud."""
    return SumOfPaths(delay_ms=delay_ms, level_difference_db=0.0)
