"""No signal? What in this very session could be the cause, most likely first, and the quickest way to find it."""

from verve.core.diagnosis._causes import WEIGHT_WORDS, Cause, causes_of, delivered_text
from verve.core.diagnosis._questions import FOUND, Question, Search, search

__all__ = [
    "FOUND",
    "WEIGHT_WORDS",
    "Cause",
    "Question",
    "Search",
    "causes_of",
    "delivered_text",
    "search",
]
