"""How numbers come about, told for people: the corridor's spans, the walk of the level, the noise."""

from verve.core.explain._figures import cable_facts, device_facts, junction_facts, source_facts
from verve.core.explain._pictures import (
    ROUNDING,
    NoisePart,
    Response,
    noise_parts,
    origin_of_noise,
    response_facts,
    response_of,
)
from verve.core.explain._spans import Edge, Span, spans_of
from verve.core.explain._walk import noise_walk, walk

__all__ = [
    "ROUNDING",
    "Edge",
    "NoisePart",
    "Response",
    "Span",
    "cable_facts",
    "device_facts",
    "junction_facts",
    "noise_parts",
    "noise_walk",
    "origin_of_noise",
    "response_facts",
    "response_of",
    "source_facts",
    "spans_of",
    "walk",
]
