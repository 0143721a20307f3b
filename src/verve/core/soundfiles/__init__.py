"""Sound files: measured, read, played, written, known again; nothing here knows a session."""

from verve.core.soundfiles._content import content_of, found_again, silence_at_head_s
from verve.core.soundfiles._growing import GrowingFile
from verve.core.soundfiles._measure import measure_file, read_sound, read_span
from verve.core.soundfiles._playback import Playback, PlayRequest
from verve.core.soundfiles._wav import (
    PART_SUFFIX,
    Said,
    WavWriter,
    file_stem,
    frames_said,
    mend_wav,
    part_of_wav,
    recorded_at_of,
)

__all__ = [
    "PART_SUFFIX",
    "GrowingFile",
    "PlayRequest",
    "Playback",
    "Said",
    "WavWriter",
    "content_of",
    "file_stem",
    "found_again",
    "frames_said",
    "measure_file",
    "mend_wav",
    "part_of_wav",
    "read_sound",
    "read_span",
    "recorded_at_of",
    "silence_at_head_s",
]
