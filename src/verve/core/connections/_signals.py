"""From parts to the signals that need a way in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import assert_never

from verve.core.kind import SourceFigures
from verve.core.session import Part

CLOSE_M, USUAL_M = 0.12, 0.3
"""Where a microphone usually stands: before a voice, and before an instrument (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal:
    """One signal of a part: in the air or out of a plug. `partner` names its other side, if it has one."""

    id: str
    name: str
    part: Part
    figures: SourceFigures
    is_air: bool
    distance_m: float
    partner: str | None = None
    side: str = ""


def distance_of(part: Part) -> float:
    """Where the microphone stands: as briefed, else as usual for voices and for instruments."""
    if part.distance_m is not None:
        return part.distance_m
    is_voice = part.sound is not None and part.sound.player == "voice"
    return CLOSE_M if is_voice else USUAL_M


def signals_of(parts: Sequence[Part]) -> tuple[Signal, ...]:
    """All signals of parts, in their order."""
    found: list[Signal] = []
    for part in parts:
        sides: list[tuple[str, SourceFigures | None]]
        match part.capture:
            case "pair":
                sides = [("left", part.sound), ("right", part.sound)]
            case "stereo":
                sides = [("left", part.plug), ("right", part.plug)]
            case "both":
                sides = [("microphone", part.sound), ("plug", part.plug)]
            case "microphone":
                sides = [("", part.sound)]
            case "plug":
                sides = [("", part.plug)]
            case "computer":
                sides = []
            case other:
                assert_never(other)
        ids = [f"{part.id}.{side}" if side else part.id for side, _ in sides]
        are_partners = part.capture in {"pair", "stereo"}
        for index, (side, figures) in enumerate(sides):
            assert figures is not None
            found.append(
                Signal(
                    id=ids[index],
                    name=f"{part.name} {side}".strip(),
                    part=part,
                    figures=figures,
                    is_air=figures.is_acoustic,
                    distance_m=distance_of(part),
                    partner=ids[1 - index] if are_partners else None,
                    side=side,
                )
            )
    return tuple(found)
