"""A loudspeaker and an open microphone: how far they are from howling."""

from __future__ import annotations

import math


def loop_gain_db(
    loudspeaker_at_microphone_db: float | None,
    microphone_level_db: float,
    open_microphones: int = 1,
) -> float | None:
    """How much louder sound comes back from the loudspeaker than it went in; None where nothing arrives.

    `microphone_level_db` is the sound at the microphone that makes the loudspeaker give what arrives.

    source: Davis & Patronis, Sound System Engineering: each doubling of open microphones costs 3 dB
    """
    if loudspeaker_at_microphone_db is None:
        return None
    more_db = 10.0 * math.log10(open_microphones)
    return loudspeaker_at_microphone_db - microphone_level_db + more_db


def margin_db(loop_db: float | None) -> float | None:
    """What may be added before it howls, by mean levels; None where nothing comes back."""
    return None if loop_db is None else -loop_db


def is_safe(margin: float | None, safety_db: float = 6.0) -> bool:
    """Whether the margin is kept; nothing that comes back is safe."""
    return margin is None or margin >= safety_db
