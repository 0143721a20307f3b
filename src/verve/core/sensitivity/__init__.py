"""What a change gives: another setting, another piece of gear, another input, something that is bought."""

from verve.core.sensitivity._given import (
    Given,
    Option,
    exchange_facts,
    exchange_verdict,
    exchanged,
    given,
    socket_options,
)
from verve.core.sensitivity._influences import Influence, influences
from verve.core.sensitivity._purchases import Worth, by_money, worth_of

__all__ = [
    "Given",
    "Influence",
    "Option",
    "Worth",
    "by_money",
    "exchange_facts",
    "exchange_verdict",
    "exchanged",
    "given",
    "influences",
    "socket_options",
    "worth_of",
]
