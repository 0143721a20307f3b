"""The corridor of a line as numbers: one span a stage, with walls, band and floor."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.kind import Control
from verve.core.line import LineLevels
from verve.core.network import LineState, Part
from verve.core.stages import Amplifier, Converter, Microphone
from verve.core.words import number


@dataclass(frozen=True, slots=True, kw_only=True)
class Edge:
    """One side of a span: hardest peak, ceiling and floor; None where there is none.

    unit: dBu; the floor is A-weighted noise
    """

    hardest_dbu: float | None
    ceiling_dbu: float | None
    floor_dbu: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelMark:
    """A level at a stage at which something shows: a lamp lights, a meter stands at 0.

    unit: dBu
    """

    label: str
    level_dbu: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """What one stage does to the band, from its input side to its output side."""

    owner: str
    role: str
    title: str
    notes: tuple[str, ...]
    left: Edge
    right: Edge
    headroom_db: float | None
    noise_share: float
    gain: Control | None = None
    pad: Control | None = None
    phantom: Control | None = None
    distance: Control | None = None
    full_scale_dbu: float | None = None
    port: str = ""
    marks: tuple[LevelMark, ...] = ()

    @property
    def controls(self) -> tuple[Control, ...]:
        """What can be taken hold of here."""
        found = (self.gain, self.pad, self.phantom, self.distance)
        return tuple(control for control in found if control is not None)


_GROUPS: dict[str, str] = {"pad": "box", "direct": "channel", "fader": "main", "bus": "main"}


def _grouped(state: LineState) -> list[list[int]]:
    """Stages by span: a sound goes with its microphone, a cable with none, a fader with its bus."""
    assert state.staged is not None
    groups: list[list[int]] = []
    keys: list[tuple[str, str]] = []
    for index, part in enumerate(state.staged.parts):
        if part.role == "cable":
            continue
        if part.role == "microphone":
            groups[-1].append(index)
            continue
        key = (part.owner, _GROUPS.get(part.role, part.role))
        if keys and keys[-1] == key:
            groups[-1].append(index)
        else:
            groups.append([index])
            keys.append(key)
    return groups


def _ceiling_in(part: Part) -> float | None:
    return part.stage.max_input_dbu if isinstance(part.stage, Amplifier) else None


def _ceiling_out(part: Part, index: int, levels: LineLevels) -> float | None:
    stage = part.stage
    loaded, opened = levels.peak_dbu[index], levels.open_peak_dbu[index]
    if isinstance(stage, Amplifier) and stage.max_output_dbu is not None:
        load_db = 0.0 if loaded is None or opened is None else opened - loaded
        return stage.max_output_dbu - load_db
    if isinstance(stage, Microphone):
        headroom = levels.headroom_db[index]
        return None if headroom is None or loaded is None else loaded + headroom
    return None


def _notes(state: LineState, part: Part) -> tuple[str, ...]:
    if part.step_index is None:
        return (state.route.source.figures.player,)
    step = state.route.steps[part.step_index]
    if isinstance(part.stage, Converter):
        full = number(part.stage.full_scale_dbu, sign=True)
        return (f"{part.stage.bit_depth} bit", f"full scale {full} dBu")
    return step.figures.notes(step, part.role)


def _title(state: LineState, part: Part) -> str:
    if part.step_index is None:
        return state.route.source.name
    step = state.route.steps[part.step_index]
    return step.figures.span_title(step, part.role, step.name)


def _controls(state: LineState, part: Part) -> Mapping[str, Control]:
    if part.step_index is None:
        return {}
    step = state.route.steps[part.step_index]
    return step.figures.controls_at(part.role, step.controls)


def _marks(state: LineState, part: Part) -> tuple[LevelMark, ...]:
    if part.step_index is None:
        return ()
    marks = state.route.steps[part.step_index].figures.marks(part.role, part.stage)
    return tuple(LevelMark(label=label, level_dbu=level) for label, level in marks)


def spans_of(state: LineState) -> tuple[Span, ...]:
    """The corridor of a line; empty for one that cannot be computed."""
    return state.once("spans", lambda: _spans(state))


def _spans(state: LineState) -> tuple[Span, ...]:
    if state.staged is None or state.levels is None:
        return ()
    parts, levels = state.staged.parts, state.levels
    found: list[Span] = []
    for group in _grouped(state):
        first, last = group[0], group[-1]
        begins = first == 0
        part = parts[last]
        enters = last if begins else first - 1
        left = Edge(
            hardest_dbu=levels.peak_dbu[enters],
            ceiling_dbu=None if begins else _ceiling_in(parts[first]),
            floor_dbu=levels.noise_dba[enters],
        )
        right = Edge(
            hardest_dbu=levels.peak_dbu[last],
            ceiling_dbu=_ceiling_out(part, last, levels),
            floor_dbu=levels.noise_dba[last],
        )
        full_scale = part.stage.full_scale_dbu if isinstance(part.stage, Converter) else None
        if begins:
            left = right
        elif full_scale is not None:
            floor = levels.noise_dbfs_a
            floor_dbu = None if floor is None else floor + full_scale
            right = Edge(
                hardest_dbu=levels.peak_dbu[last], ceiling_dbu=full_scale, floor_dbu=floor_dbu
            )
            left = right
        rooms = [levels.headroom_db[i] for i in group]
        known = [room for room in rooms if room is not None]
        controls = _controls(state, part)
        found.append(
            Span(
                owner=part.owner,
                role=part.role,
                title=_title(state, part),
                notes=_notes(state, part),
                left=left,
                right=right,
                headroom_db=min(known) if known else None,
                noise_share=sum(levels.noise_shares[i] for i in group),
                gain=controls.get("gain_db"),
                pad=controls.get("pad_db"),
                phantom=controls.get("phantom"),
                distance=controls.get("distance_m"),
                full_scale_dbu=full_scale,
                marks=_marks(state, part),
                port="source"
                if part.step_index is None
                else state.route.steps[part.step_index].in_port,
            )
        )
    return tuple(found)
