"""What would change a level most, as rows with their reason."""

from __future__ import annotations

from collections.abc import Sequence

from verve.core.sensitivity import Influence
from verve.core.words import Fact, level_text

_MOST = 5


def influence_facts(influences: Sequence[Influence]) -> tuple[Fact, ...]:
    """The greatest few, each with what it would do to the noise as well."""
    return tuple(
        Fact(
            label=influence.words,
            text=level_text(influence.level_db, "dB"),
            origin="computed",
            how=f"the session computed with it: noise {level_text(influence.noise_db, 'dB')}, "
            f"signal to noise {level_text(influence.snr_db, 'dB')}",
        )
        for influence in influences[:_MOST]
    )
