"""A line in words, stage by stage: what it is, where it goes, what can be set on it."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.kind import CableFigures, Control
from verve.core.network import LineState
from verve.core.patch import _words as words
from verve.core.session import RouteStep, Setup, controls_of
from verve.core.words import fill


@dataclass(frozen=True, slots=True, kw_only=True)
class StageText:
    """One stage for a person: a source, a cable or a device."""

    owner: str
    role: str
    name: str
    says: str
    is_cable: bool = False
    controls: tuple[Control, ...] = ()


def cable_text(cable: CableFigures) -> str:
    """A cable's kind and length."""
    said = words.BALANCED_CABLE if cable.balanced else words.UNBALANCED_CABLE
    return fill(said, length_m=cable.length_m)


def _device_text(step: RouteStep) -> StageText:
    return StageText(
        owner=step.owner,
        role=step.in_port,
        name=step.place,
        says=step.figures.says(step),
        controls=(*step.controls.values(), *step.shared),
    )


def stage_texts(state: LineState, setup: Setup) -> tuple[StageText, ...]:
    """The stages of a line from source to recorder, cables between them."""
    source = state.route.source_or_none
    if source is None:
        return _steps(state)
    performer = next((p.name for p in setup.performers if p.id == source.performer), "")
    says = source.figures.says()
    first = [
        StageText(
            owner=source.id,
            role="source",
            name=source.name,
            says=f"{performer}: {says}" if performer and performer != source.name else says,
            controls=controls_of(setup, source.id),
        )
    ]
    return (*first, *_steps(state))


def _steps(state: LineState) -> tuple[StageText, ...]:
    """Cables and devices of a line."""
    found: list[StageText] = []
    for step in state.route.steps:
        if step.cable is not None:
            found.append(
                StageText(
                    owner=step.link.id,
                    role="cable",
                    name=cable_text(step.cable),
                    says=fill(
                        words.CABLE_CAPACITANCE,
                        capacitance_pf=step.cable.capacitance_f_per_m * step.cable.length_m * 1e12,
                    ),
                    is_cable=True,
                )
            )
        found.append(_device_text(step))
    return tuple(found)
