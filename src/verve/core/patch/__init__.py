"""What is connected to what: what can be wrong with it, and every stage in words."""

from verve.core.patch._findings import feedback, findings
from verve.core.patch._texts import StageText, cable_text, stage_texts
from verve.core.patch._tracks import Track, tracks_of

__all__ = [
    "StageText",
    "Track",
    "cable_text",
    "feedback",
    "findings",
    "stage_texts",
    "tracks_of",
]
