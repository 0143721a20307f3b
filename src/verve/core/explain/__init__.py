"""How numbers come about, told for people: the corridor's spans, the walk of the level, the noise."""

from verve.core.explain._pictures import NoisePart, Response, noise_parts, response_of
from verve.core.explain._spans import Edge, Span, spans_of
from verve.core.explain._walk import noise_walk, walk

__all__ = [
    "Edge",
    "NoisePart",
    "Response",
    "Span",
    "noise_parts",
    "noise_walk",
    "response_of",
    "spans_of",
    "walk",
]
