"""What claps tell of a room, in words: the last one, and how it stands to the first."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from verve.core.place import _words as words
from verve.core.units import SPEED_OF_SOUND_M_PER_S, FloatArray
from verve.core.words import Fact, fill, listed, number

if TYPE_CHECKING:
    from verve.core.measure import Clap

LEAST_S, MOST_S = 0.05, 12.0


def clap_in(channels: FloatArray, rate_hz: int) -> Clap:
    """The clap of a recording, in its loudest channel.

    shape: channels (n_channels, n_frames)
    raises: InputError for one that holds none
    """
    # Imported here: what measures takes longer to load than all else of a first look.
    from verve.core.measure import clap_of

    loudest = int(np.argmax(np.abs(channels).max(axis=1)))
    return clap_of(channels[loudest], rate_hz)


def clap_facts(claps: Sequence[Clap]) -> tuple[Fact, ...]:
    """What the last clap tells; nothing without one."""
    if not claps:
        return ()
    last = claps[-1]
    found = []
    if last.is_clipped:
        found.append(_fact("", words.CLAP_CLIPPED))
    middle = last.middle_s
    found.append(
        _fact("", words.CLAP_NONE if middle is None else fill(words.CLAP_MIDDLE, rt60_s=middle))
    )
    read = [one for one in last.decays if one.rt60_s is not None]
    if read:
        bands = [fill(words.CLAP_BAND, hz=one.hz, rt60_s=one.rt60_s or 0.0) for one in read]
        found.append(_fact("", listed(bands)))
    unread = [f"{number(one.hz, 0)} Hz" for one in last.decays if one.rt60_s is None]
    if unread:
        found.append(_fact("", fill(words.CLAP_UNREAD, bands=listed(unread))))
    if last.flutter_ms is not None:
        metres = last.flutter_ms / 1000.0 * SPEED_OF_SOUND_M_PER_S / 2.0
        found.append(_fact("", fill(words.CLAP_FLUTTER, flutter_ms=last.flutter_ms, metres=metres)))
    first = claps[0].middle_s
    if len(claps) > 1 and first and middle:
        found.append(
            _fact("", fill(words.CLAP_CHANGE, percent=100.0 * middle / first, first_s=first))
        )
    return tuple(found)


def clap_text(claps: Sequence[Clap]) -> str:
    """The same as sentences."""
    return " ".join(f"{one.text}." for one in clap_facts(claps))


def usable_s(claps: Sequence[Clap]) -> float | None:
    """The reverberation time that the room can be given from the last clap; None where there is none to use."""
    middle = claps[-1].middle_s if claps else None
    return round(middle, 2) if middle is not None and LEAST_S <= middle <= MOST_S else None


def _fact(label: str, text: str) -> Fact:
    return Fact(label=label, text=text, origin="measured")
