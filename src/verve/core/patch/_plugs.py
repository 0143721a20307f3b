"""What fits into what: plugs of outputs and sockets, levels, and what a mismatch would do."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.session import (
    ActiveDiFigures,
    DeviceFigures,
    InterfaceFigures,
    MicrophoneFigures,
    MixerFigures,
    Mode,
    PassiveDiFigures,
    PedalFigures,
    Plug,
    PreampFigures,
    SourceFigures,
    SplitterFigures,
    inputs_of,
    outputs_of,
)

PLUG_WORDS = {"xlr": "XLR", "jack_6": "6.3 mm jack", "jack_3": "3.5 mm jack", "phono": "phono"}


def output_plug(figures: DeviceFigures | SourceFigures) -> Plug | None:
    """What comes out of a device or source; None where it is sound, or goes to the computer."""
    if isinstance(
        figures,
        MicrophoneFigures | PreampFigures | PassiveDiFigures | ActiveDiFigures | SplitterFigures,
    ):
        return "xlr"
    if isinstance(figures, MixerFigures | PedalFigures):
        return "jack_6"
    if isinstance(figures, InterfaceFigures) or figures.kind == "acoustic":
        return None
    return figures.plug


def input_plug(figures: DeviceFigures, mode: Mode | None = None) -> Plug | None:
    """What goes into a device, for an interface in a mode; None where sound does."""
    if isinstance(figures, MicrophoneFigures):
        return None
    if isinstance(figures, PreampFigures | SplitterFigures):
        return "xlr"
    if isinstance(figures, InterfaceFigures):
        return "xlr" if mode == "microphone" else "jack_6"
    return "jack_6"


@dataclass(frozen=True, slots=True, kw_only=True)
class Port:
    """One socket of a box: what fits, whether it is balanced, which levels it is for, which way it goes."""

    name: str
    is_input: bool
    plugs: tuple[Plug, ...]
    is_balanced: bool
    levels: tuple[str, ...]

    def words(self) -> str:
        """The socket as one reads it off the box: "XLR or 6.3 mm jack; microphone, line level"."""
        fits = " or ".join(PLUG_WORDS[plug] for plug in self.plugs) or "sound"
        kind = "balanced" if self.is_balanced else "unbalanced"
        return f"{fits}, {kind}; {', '.join(self.levels)} level"


_OUTPUT_LEVELS = {
    "microphone": "microphone",
    "passive_di": "microphone",
    "active_di": "microphone",
    "splitter": "microphone",
    "pedal": "instrument",
    "mixer": "line",
}


def _input_levels(figures: DeviceFigures, port: str) -> tuple[str, ...]:
    if isinstance(figures, InterfaceFigures):
        return tuple(figures.input_at(port).modes)
    if isinstance(figures, MixerFigures):
        return ("line",)
    return ("microphone",) if isinstance(figures, PreampFigures) else ("instrument", "line")


def ports_of(figures: DeviceFigures) -> tuple[Port, ...]:
    """Every socket of a box, inputs first; sound and the computer have none."""
    found = []
    for name in inputs_of(figures):
        levels = _input_levels(figures, name)
        if isinstance(figures, InterfaceFigures):
            fitting = {input_plug(figures, mode): None for mode in levels}  # type: ignore[arg-type]
            plugs = tuple(plug for plug in fitting if plug is not None)
        else:
            plug = input_plug(figures)
            plugs = () if plug is None else (plug,)
        if plugs:
            balanced = any(level in {"microphone", "line"} for level in levels)
            found.append(
                Port(name=name, is_input=True, plugs=plugs, is_balanced=balanced, levels=levels)
            )
    for name in outputs_of(figures):
        plug = output_plug(figures)
        assert plug is not None
        level = _OUTPUT_LEVELS.get(figures.kind, "microphone")
        if isinstance(figures, PreampFigures) and figures.gain_min_db < figures.gain_max_db:
            level = "line"
        found.append(
            Port(
                name=name,
                is_input=False,
                plugs=(plug,),
                is_balanced=not isinstance(figures, PedalFigures),
                levels=(level,),
            )
        )
    return tuple(found)
