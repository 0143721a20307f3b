"""The corridor of a line as numbers: one span a stage, with walls, band and floor."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from verve.core.chain import LineState, Part
from verve.core.line import Amplifier, Converter, LineLevels, Microphone
from verve.core.session import Control, InterfaceFigures, MicrophoneFigures, MixerFigures


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


_GROUPS: dict[str, str] = {"pad": "box", "fader": "main", "bus": "main", "input": "input"}
_OF_THE_CAPSULE = {"distance_m", "angle_deg", "presence", "foam"}
_PRINCIPLES = {"moving_coil": "moving coil", "ribbon": "ribbon", "condenser": "condenser"}


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
    if part.hop is None:
        return (state.route.source.figures.player,)
    hop = state.route.hops[part.hop]
    figures = hop.device.figures
    if part.role == "microphone" and hop.capsule is not None:
        distance = hop.controls["distance_m"].value
        return (_PRINCIPLES[hop.capsule.principle], f"at {float(distance or 0) * 100:.0f} cm")
    if figures.kind == "passive_di":
        return (f"transformer {figures.turns_ratio:g} : 1",)
    if figures.kind == "splitter":
        return (f"{hop.out_port} output",)
    if figures.kind == "active_di":
        return ("active box",)
    if isinstance(part.stage, Converter):
        return (f"{part.stage.bit_depth} bit", f"full scale {part.stage.full_scale_dbu:+g} dBu")
    if isinstance(figures, InterfaceFigures):
        mode = hop.controls.get("mode")
        return (str(mode.value) if mode else next(iter(_modes(figures, hop.in_port))),)
    return ()


def _modes(figures: InterfaceFigures, port: str) -> tuple[str, ...]:
    return tuple(figures.input_at(port).modes)


def _title(state: LineState, part: Part) -> str:
    if part.hop is None:
        return state.route.source.name
    hop = state.route.hops[part.hop]
    if part.role == "converter":
        return "Recorder"
    if part.role == "input":
        return f"Input {hop.in_port[3:]}"
    if isinstance(hop.device.figures, MixerFigures):
        return "Mixer main" if part.role in {"fader", "bus"} else f"Mixer {hop.in_port[3:]}"
    return hop.device.name


def _controls(state: LineState, part: Part) -> Mapping[str, Control]:
    if part.hop is None or part.role in {"converter", "fader", "bus"}:
        return {}
    hop = state.route.hops[part.hop]
    if hop.capsule is None or isinstance(hop.device.figures, MicrophoneFigures):
        return hop.controls
    # A microphone that is its own recorder: where it stands is the capsule's, the rest its input's.
    at_capsule = part.role == "microphone"
    return {n: c for n, c in hop.controls.items() if (n in _OF_THE_CAPSULE) == at_capsule}


def _marks(state: LineState, part: Part) -> tuple[LevelMark, ...]:
    if part.hop is None:
        return ()
    figures = state.route.hops[part.hop].device.figures
    if isinstance(figures, InterfaceFigures) and isinstance(part.stage, Converter):
        full = part.stage.full_scale_dbu
        return (
            LevelMark(label="clip lamp", level_dbu=full + figures.clip_lamp_dbfs),
            LevelMark(label="signal lamp", level_dbu=full + figures.signal_lamp_dbfs),
        )
    if isinstance(figures, MixerFigures) and part.role == "bus":
        return (LevelMark(label="its meter at 0", level_dbu=figures.meter_zero_dbu),)
    return ()


@lru_cache(maxsize=1024)
def spans_of(state: LineState) -> tuple[Span, ...]:
    """The corridor of a line; empty for one that cannot be computed."""
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
                port="source" if part.hop is None else state.route.hops[part.hop].in_port,
            )
        )
    return tuple(found)
