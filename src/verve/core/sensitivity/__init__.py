"""What a change gives: another setting, another piece of gear, another input, something that is bought."""

from verve.core.sensitivity._given import (
    Given,
    InputOption,
    given,
    input_options,
    replaced,
    replacement_facts,
    replacement_verdict,
)
from verve.core.sensitivity._influences import Influence, influences
from verve.core.sensitivity._purchases import Purchase, Worth, by_money, worth_of

__all__ = [
    "Given",
    "Influence",
    "InputOption",
    "Purchase",
    "Worth",
    "by_money",
    "given",
    "influences",
    "input_options",
    "replaced",
    "replacement_facts",
    "replacement_verdict",
    "worth_of",
]
