"""Patching: what may be connected to what, what is wrong with it, and how it is told."""

from verve.core.patch._findings import findings
from verve.core.patch._texts import StageText, cable_text, stage_texts

__all__ = ["StageText", "cable_text", "findings", "stage_texts"]
