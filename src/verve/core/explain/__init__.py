"""How numbers come about, told for people: the corridor's spans, the walk of the level, the noise."""

from verve.core.explain._spans import Edge, Span, spans_of
from verve.core.explain._walk import noise_walk, walk

__all__ = ["Edge", "Span", "noise_walk", "spans_of", "walk"]
