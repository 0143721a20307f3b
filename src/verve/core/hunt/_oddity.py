"""What is otherwise than any setting of a session can say: what it does to level, noise, monitoring and file."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Final, Literal

NOBODY: Final = "nobody"
ROOM: Final = "room"
"""What a track reads instead of its own input: an empty one, or the computer's own microphone."""
Ears = Literal["both", "left", "none"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Oddity:
    """Numbers of what is wrong; as it is made, nothing is.

    `gain_db` is what it does to the level; `ceiling_db` is how far below its hardest peak it clips; `hum_over_db` and
    `rumble_over_db` are above the noise that is there; `spill_db` is how far below its hardest peak what loudspeakers
    or headphones play is on the track. `reads` is the signal that the track records instead of its own. `speed` is
    how fast it plays back, `louder_db` how much louder the song is than the test was.
    """

    gain_db: float = 0.0
    is_cut: bool = False
    ceiling_db: float | None = None
    hum_hz: float = 0.0
    hum_over_db: float = 0.0
    rumble_over_db: float = 0.0
    crackles_per_s: float = 0.0
    spill_db: float | None = None
    pops: bool = False
    is_inverted: bool = False
    reads: str = ""
    is_unarmed: bool = False
    armed_too: bool = False
    ears: Ears = "both"
    is_left_only: bool = False
    echo_ms: float = 0.0
    late_ms: float = 0.0
    speed: float = 1.0
    is_printed: bool = False
    louder_db: float = 0.0


NOTHING_ODD: Final = Oddity()


def together(first: Oddity, second: Oddity) -> Oddity:
    """Both at once: levels add, and of all else what is said of either; the second where both say something."""
    found: dict[str, object] = {}
    for field in fields(Oddity):
        one, two = getattr(first, field.name), getattr(second, field.name)
        if field.name in {"gain_db", "louder_db"}:
            found[field.name] = one + two
        else:
            found[field.name] = one if two == field.default else two
    return Oddity(**found)  # type: ignore[arg-type]
