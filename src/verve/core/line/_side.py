"""What a ladder may have besides the stages of gear: where it is driven from, and what hangs beside it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from verve.core.stages import Stage


@dataclass(frozen=True, slots=True, kw_only=True)
class Driver:
    """One volt behind an output's impedance: where an active output or a bus drives what follows.

    Its noise is counted where it arises, before it.
    """

    stage: Literal["driver"] = "driver"
    output_impedance_ohm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Branch:
    """A side branch across the line: its stages from there on, and the branches at their end."""

    stage: Literal["branch"] = "branch"
    stages: tuple[Stage, ...]
    branches: tuple[Branch, ...] = ()
