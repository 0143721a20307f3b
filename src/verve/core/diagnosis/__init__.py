"""No signal? What in this very session could be the cause, most likely first, and the quickest test."""

from verve.core.diagnosis._causes import WEIGHT_WORDS, Cause, causes_of, delivered_text

__all__ = ["WEIGHT_WORDS", "Cause", "causes_of", "delivered_text"]
