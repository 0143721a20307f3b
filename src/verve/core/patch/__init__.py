"""What is connected to what: what can be wrong with it, what fits, and every stage in words."""

from verve.core.patch._findings import findings
from verve.core.patch._plugs import PLUG_WORDS, Port, input_plug, output_plug, ports_of
from verve.core.patch._texts import StageText, stage_texts

__all__ = [
    "PLUG_WORDS",
    "Port",
    "StageText",
    "findings",
    "input_plug",
    "output_plug",
    "ports_of",
    "stage_texts",
]
