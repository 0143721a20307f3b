"""Sound: players, rendering of all lines together, writing and measuring recordings."""

from verve.core.sound._content import content_of, found_again, silence_at_head_s
from verve.core.sound._convolve import ConvolverBank
from verve.core.sound._foreign import SUFFIXES as FOREIGN_SUFFIXES
from verve.core.sound._measure import measure_file, read_sound
from verve.core.sound._playback import Playback, PlayRequest
from verve.core.sound._players import LONGEST_CYCLE_S, perform
from verve.core.sound._render import PlayerKey, Renderer, seed_of
from verve.core.sound._wav import (
    PART_SUFFIX,
    WavWriter,
    file_stem,
    mend_wav,
    part_of_wav,
)

__all__ = [
    "FOREIGN_SUFFIXES",
    "LONGEST_CYCLE_S",
    "PART_SUFFIX",
    "ConvolverBank",
    "PlayRequest",
    "Playback",
    "PlayerKey",
    "Renderer",
    "WavWriter",
    "content_of",
    "file_stem",
    "found_again",
    "measure_file",
    "mend_wav",
    "part_of_wav",
    "perform",
    "read_sound",
    "seed_of",
    "silence_at_head_s",
]
