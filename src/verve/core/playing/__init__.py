"""How something was played: against the beat, on its notes, a double beside its first."""

from verve.core.playing._doubles import (
    MOST_PLACES,
    TOLERANCES_MS,
    Tolerance,
    WorthHearing,
    worth_hearing,
)
from verve.core.playing._intonation import (
    HeldNote,
    PhrasePitch,
    held_notes,
    overall_cents,
    pitch_by_phrase,
)
from verve.core.playing._look import (
    Playing,
    compare_double,
    look,
    place_text,
    plays_single_notes,
    section_samples,
)
from verve.core.playing._timing import (
    PAUSE_S,
    PhraseTiming,
    against_grid,
    against_notes,
    overall_ms,
    phrases_of,
    played_against,
    timing_of,
)

__all__ = [
    "MOST_PLACES",
    "PAUSE_S",
    "TOLERANCES_MS",
    "HeldNote",
    "PhrasePitch",
    "PhraseTiming",
    "Playing",
    "Tolerance",
    "WorthHearing",
    "against_grid",
    "against_notes",
    "compare_double",
    "held_notes",
    "look",
    "overall_cents",
    "overall_ms",
    "phrases_of",
    "pitch_by_phrase",
    "place_text",
    "played_against",
    "plays_single_notes",
    "section_samples",
    "timing_of",
    "worth_hearing",
]
